"""The range of bytes that a request asks for (RFC 9110, section 14)."""

from __future__ import annotations

import re


class NoSuchRange(Exception):
    """A range that lies outside of what there is."""


def wanted_range(header: str | None, *, size: int) -> tuple[int, int] | None:
    """First and last byte of a single range; None where the whole is wanted, or more ranges than one.

    Raises
    ------
    NoSuchRange
        It begins behind the end, or is empty.

    >>> wanted_range("bytes=100-199", size=1000), wanted_range("bytes=-50", size=1000)
    ((100, 199), (950, 999))
    """
    match = re.fullmatch(r"bytes=(\d{0,18})-(\d{0,18})", (header or "").strip())
    if match is None or match.groups() == ("", ""):
        return None
    start, end = match.groups()
    if not start:
        if int(end) == 0 or size == 0:
            raise NoSuchRange
        return max(0, size - int(end)), size - 1
    first = int(start)
    last = min(int(end), size - 1) if end else size - 1
    if end and int(end) < first:
        return None
    if first >= size:
        raise NoSuchRange
    return first, last
