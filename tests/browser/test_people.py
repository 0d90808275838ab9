"""The door in the browser: by a code, by a password, out again; and who may see whom."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from eager_ear.store import Database
from eager_ear.use_cases.shop.people import first_owner_code
from tests.conftest import fresh_database
from tests.support import RunningServer


@pytest.fixture
def shop(mariadb_url: str) -> Iterator[RunningServer]:
    running = RunningServer(fresh_database(mariadb_url), people=True)
    yield running
    running.stop()


@pytest.fixture
def door(browser: Browser, shop: RunningServer) -> Iterator[Page]:
    context = browser.new_context(base_url=shop.url, viewport={"width": 390, "height": 844}, has_touch=True)
    yield context.new_page()
    context.close()


def test_the_owner_comes_in_by_the_code_invites_and_goes(door: Page, shop: RunningServer, browser: Browser) -> None:
    database = Database(shop.database_url)
    code = first_owner_code(database)
    database.close()
    assert code is not None
    door.goto("/")
    expect(door.get_by_role("heading", name="Who is it?")).to_be_visible()
    door.get_by_role("button", name="I have a code").tap()
    door.get_by_label("Code").fill(code.lower())
    door.get_by_label("Name").fill("Ida Lock")
    door.get_by_label("Password").fill("short")
    door.get_by_role("button", name="Come in").tap()
    expect(door.get_by_role("alert")).to_contain_text("at least 10")
    door.get_by_label("Password").fill("herons at noon")
    asked: list[str] = []
    door.on("response", lambda answer: asked.append(answer.url))
    for _ in range(50):  # an answer of this second is not asked for again
        door.evaluate("document.dispatchEvent(new Event('visibilitychange', {bubbles: true}))")
        door.wait_for_timeout(200)  # as when one comes back from looking the code up
        if f"{shop.url}/api/me" in asked:
            break
    assert f"{shop.url}/api/me" in asked
    door.get_by_role("button", name="Come in").tap()
    expect(door.get_by_role("heading", name="The board")).to_be_visible()

    door.goto("/people")
    expect(door.get_by_role("heading", name="Ida Lock, owner")).to_be_visible()
    door.get_by_role("radio", name="Trainee").last.tap()
    door.get_by_role("button", name="Make a code").tap()
    handed = door.get_by_role("status").locator("strong").inner_text()

    expect(door.get_by_role("img", name="The same as a picture")).to_be_visible()

    # As the picture leads: the code stands there already, and nowhere in the address.
    other = browser.new_context(base_url=shop.url).new_page()
    other.goto(f"/people#code={handed}")
    expect(other.get_by_label("Code")).to_have_value(handed)
    expect(other).to_have_url(f"{shop.url}/people")
    other.get_by_label("Name").fill("Ora Reed")
    other.get_by_label("Password").fill("reeds in the wind")
    other.get_by_role("button", name="Come in").click()
    expect(other.get_by_role("heading", name="Ora Reed, trainee")).to_be_visible()
    expect(other.get_by_role("navigation", name="Main").get_by_role("link", name="Ora Reed")).to_be_visible()
    expect(other.get_by_role("region", name="Everybody")).to_have_count(0)
    other.context.close()

    door.reload()
    expect(door.get_by_role("region", name="Everybody")).to_contain_text("Ora Reed")
    door.get_by_role("button", name="Sign out", exact=True).tap()
    expect(door.get_by_role("heading", name="Who is it?")).to_be_visible()
    door.get_by_label("Name").fill("Ida Lock")
    door.get_by_label("Password").fill("herons at dawn")
    door.get_by_role("button", name="Sign in").tap()
    expect(door.get_by_role("alert")).to_contain_text("do not belong together")
    door.get_by_label("Password").fill("herons at noon")
    door.get_by_role("button", name="Sign in").tap()
    expect(door.get_by_role("heading", name="The board")).to_be_visible()
