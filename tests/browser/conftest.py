"""What stood on the screen when a browser test failed: without it a failure elsewhere can only be guessed at."""

from __future__ import annotations

import contextlib
from collections.abc import Generator

import pytest
from playwright.sync_api import Error, Page


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
