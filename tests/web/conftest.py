"""A client of the real server."""

from __future__ import annotations

from collections.abc import Iterator

import httpx
import pytest

from tests.support import RunningServer


@pytest.fixture
def api(server: RunningServer) -> Iterator[httpx.Client]:
    with httpx.Client(base_url=server.url, timeout=60) as client:
        yield client
