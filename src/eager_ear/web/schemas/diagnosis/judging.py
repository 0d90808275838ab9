"""What is asked of one hand check; the answer is the core's own."""

from __future__ import annotations

from typing import Any

from eager_ear.web.schemas.base import Strict


class JudgeIn(Strict):
    """Values of a check, on a machine of that layout where it is known."""

    check: str
    values: dict[str, Any]
    layout: str | None = None
