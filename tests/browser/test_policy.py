"""The page's own policy: no page asks for anything that it refuses, and it refuses what is written into a page."""

from __future__ import annotations

import httpx
from playwright.sync_api import Browser, expect

from tests.browser.test_accessibility import IN_JOB
from tests.diaries import check, entry, machine
from tests.support import RunningServer
from tests.web.visits import open_job

NOTED = """() => {
  window.refused = [];
  document.addEventListener("securitypolicyviolation", e => window.refused.push(e.violatedDirective));
}"""


def test_no_page_asks_for_what_the_policy_refuses(browser: Browser, server: RunningServer) -> None:
    with httpx.Client(base_url=server.url, timeout=60.0) as api:
        job = open_job(
            api, machine(layout="front_belt"), check("rock", gap_mm=[0, 0, 5, 0]), entry("bridged", {"where": "x"})
        )
        policy = api.get("/").headers["content-security-policy"]
    assert "unsafe" not in policy
    context = browser.new_context(base_url=server.url, locale="en-GB")
    page = context.new_page()
    page.add_init_script(f"({NOTED})()")
    refused: list[str] = []
    for name in ("", "new", "machines", "shop", "record", "people", *(f"jobs/{job}/{station}" for station in IN_JOB)):
        page.goto(f"/{name}")
        expect(page.get_by_role("main")).to_be_visible()
        refused += [f"/{name}: {said}" for said in page.evaluate("window.refused")]
    assert refused == []
    # What somebody manages to write into a page neither runs nor dresses it.
    page.evaluate("""() => {
      const planted = document.createElement("div");
      planted.innerHTML = '<p id="planted" style="position:fixed">x</p><img src="x" onerror="window.ran = true">';
      document.body.append(planted);
    }""")
    page.wait_for_timeout(300)
    assert page.evaluate("window.ran") is None
    assert page.evaluate("getComputedStyle(document.getElementById('planted')).position") == "static"
    assert page.evaluate("window.refused.length") >= 1
    context.close()
