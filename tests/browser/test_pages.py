"""Every page at three widths: WCAG 2.2 AA by axe-core, nothing off the side, targets for a thumb, its own policy."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import httpx
from playwright.sync_api import Browser, Page, expect

from eager_ear.casefile import write_case_folder
from eager_ear.core.simulate import SimulatedCase
from tests.diaries import check, entry
from tests.support import ROOT, RunningServer
from tests.web.visits import finished, write, zipped_case

AXE = ROOT / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
RUN_AXE = """async rules => {
  const { violations } = await axe.run(document, { runOnly: { type: "tag", values: rules } });
  return violations.map(v => v.id + ": " + v.nodes.slice(0, 3).map(n => n.html.slice(0, 140)).join(" | "));
}"""
# Names of what is wrong with the page as it stands.
OFF_THE_SIDE = """() => {
  const page = document.documentElement;
  return page.scrollWidth > page.clientWidth ? [`${page.scrollWidth} wide`] : [];
}"""
TOO_SMALL = """() => [...document.querySelectorAll("main button, main select, main input:not(.sr-only), header a")]
  .filter(e => e.offsetParent && (e.closest("label") ?? e).getBoundingClientRect().height < 43)
  .map(e => "too small: " + e.outerHTML.slice(0, 90))"""
LAID_OUT = "() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))"
NOTED = """() => {
  window.refused = [];
  document.addEventListener("securitypolicyviolation", e => window.refused.push("refused: " + e.violatedDirective));
}"""
WIDTHS = [(1280, 800), (820, 1180), (390, 844)]
# A page between a desk and a phone is laid out as one of them: its roles and colours are theirs.
GUIDED = (1280, 390)
# One check of each kind of entry.
CHECKS = tuple(
    f"hands/{code}" for code in ("drum_gap_round", "rock", "bounce", "hand_turn", "lid_switch_ohms", "smell")
)
# A strip that stands at a step with hazards, screws and looks.
OFF = ("baseline_saved", "standstill", "drained", "make_safe", "taps_shut", "pulled_out", "tray_ready")
IN_JOB = ("story", "hands", "spin", "call", "cost", "strip", "proof", "proof/service-mode", "history", *CHECKS)
PAGES = ("", "new", "machines", "machine", "shop", "record", "people", "faults/front_belt/spider", *IN_JOB, "nowhere")


def test_every_page_at_every_width(
    browser: Browser, server: RunningServer, tmp_path: Path, simulated: Callable[..., SimulatedCase]
) -> None:
    write_case_folder(tmp_path, simulated("front_belt", "drum_bearing", 7, 0.9).case)
    with httpx.Client(base_url=server.url, timeout=60.0) as api:
        brought = api.post("/api/cases", params={"place": "Boatyard"}, content=zipped_case(tmp_path)).json()
        job = finished(api, brought["id"])["id"]
        write(api, job, check("rock", gap_mm=[0, 0, 5, 0]), entry("bridged", {"where": "door lock"}))
        off = [entry("step", {"step": f"front_belt/{code}", "way": "off", "state": "done"}) for code in OFF]
        write(api, job, *off, entry("counted", {"step": "front_belt/back_off", "group": "plate", "out": 6}))
        other = {**check("rock", gap_mm=[0, 0, 0, 0]), "device": "tablet"}
        machine = write(api, job, other)["job"]["machine_id"]
        assert "unsafe" not in api.get("/").headers["content-security-policy"]
    found: list[str] = []
    context = browser.new_context(base_url=server.url, locale="en-GB")
    page = context.new_page()
    page.add_init_script(f"({NOTED})()")
    for name in PAGES:
        in_job = name in IN_JOB
        path = f"/jobs/{job}/{name}" if in_job else f"/machines/{machine}" if name == "machine" else f"/{name}"
        page.goto(path)
        expect(page.get_by_role("main")).to_be_visible()
        expect(page.locator(".drum-turns")).to_have_count(0, timeout=20_000)
        found += [f"{path}: {said}" for said in page.evaluate("window.refused")]
        page.evaluate(AXE.read_text())
        for width, height in WIDTHS:
            page.set_viewport_size({"width": width, "height": height})
            page.evaluate(LAID_OUT)
            said = [*page.evaluate(OFF_THE_SIDE), *page.evaluate(TOO_SMALL)]
            said += page.evaluate(RUN_AXE, RULES) if width in GUIDED else []
            found += [f"{path} at {width}: {violation}" for violation in said]
    context.close()
    assert found == [], "\n".join(found)


def test_what_is_planted_in_a_page_neither_runs_nor_dresses_it(phone: Page) -> None:
    phone.goto("/new")
    expect(phone.get_by_role("main")).to_be_visible()
    phone.evaluate(NOTED)
    phone.evaluate("""() => {
      const planted = document.createElement("div");
      planted.innerHTML = '<p id="planted" style="position:fixed">x</p><img src="x" onerror="window.ran = true">';
      document.body.append(planted);
    }""")
    phone.wait_for_function("window.refused.length >= 1")
    assert phone.evaluate("window.ran") is None
    assert phone.evaluate("getComputedStyle(document.getElementById('planted')).position") == "static"
