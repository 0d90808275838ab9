"""Every page at two widths against WCAG 2.2 AA, by axe-core."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import httpx
from playwright.sync_api import Browser, expect

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
WIDTHS = [(1280, 800), (390, 844)]
# One check of each kind of entry.
CHECKS = tuple(
    f"hands/{code}" for code in ("drum_gap_round", "rock", "bounce", "hand_turn", "lid_switch_ohms", "smell")
)
# A strip that stands at a step with hazards, screws and looks.
OFF = ("baseline_saved", "standstill", "drained", "make_safe", "taps_shut", "pulled_out", "tray_ready")
IN_JOB = ("story", "hands", "spin", "call", "cost", "strip", "proof", "proof/service-mode", "history", *CHECKS)
PAGES = ("", "new", "machines", "machine", "shop", "record", "people", "faults/front_belt/spider", *IN_JOB, "nowhere")


def test_no_page_violates_the_guidelines(
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
    found: list[str] = []
    # Injected before the page's own policy of what may run.
    context = browser.new_context(base_url=server.url, locale="en-GB", bypass_csp=True)
    page = context.new_page()
    for name in PAGES:
        in_job = name in IN_JOB
        path = f"/jobs/{job}/{name}" if in_job else f"/machines/{machine}" if name == "machine" else f"/{name}"
        page.goto(path)
        expect(page.get_by_role("main")).to_be_visible()
        expect(page.locator(".drum-turns")).to_have_count(0, timeout=20_000)
        page.add_script_tag(path=str(AXE))
        for width, height in WIDTHS:
            page.set_viewport_size({"width": width, "height": height})
            said = page.evaluate(RUN_AXE, RULES)
            found += [f"{path} at {width}: {violation}" for violation in said]
    context.close()
    assert found == [], "\n".join(found)
