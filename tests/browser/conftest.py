"""Browsers for the tests, and what stood on the screen when one failed: elsewhere that could only be guessed at."""

from __future__ import annotations

import contextlib
from collections.abc import Generator, Iterator

import pytest
from playwright.sync_api import Browser, Error, Page, Playwright, expect, sync_playwright

from tests.support import RunningServer, chromium

WITHIN_MS = 30_000
# Shared machines are slow at times: what is to be seen is waited for as long as what is to be tapped.
expect.set_options(timeout=WITHIN_MS)


@pytest.fixture(scope="package")
def driver() -> Iterator[Playwright]:
    """What drives all browsers. No other loop may run in this thread meanwhile: it ends with this folder."""
    with sync_playwright() as running:
        yield running


@pytest.fixture(scope="package")
def browser(driver: Playwright) -> Iterator[Browser]:
    with chromium(driver) as running:
        yield running


@pytest.fixture
def phone(browser: Browser, server: RunningServer) -> Iterator[Page]:
    """A page on a phone, with a thumb."""
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, base_url=server.url, locale="en-GB"
    )
    page = context.new_page()
    page.set_default_timeout(WITHIN_MS)
    yield page
    context.close()


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: pytest.Item, call: pytest.CallInfo[None]) -> Generator[None, pytest.TestReport]:
    report: pytest.TestReport = yield
    if report.failed and call.when == "call" and isinstance(item, pytest.Function):
        for name, page in item.funcargs.items():
            if isinstance(page, Page):
                with contextlib.suppress(Error):
                    text = page.locator("body").inner_text(timeout=5000)
                    report.sections.append((f"what {name} showed", f"{page.url}\n{text[:3000]}"))
    return report
