"""A seeded generator of what should not be sent: malformed files, case descriptions and entries."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from typing import Any

import numpy as np

from tests.diaries import check, entry, machine, told
from tests.web.visits import small_wav

# Values that stand where something else is meant.
ODD: tuple[Any, ...] = (
    None,
    True,
    -1,
    0,
    1e308,
    -1e300,
    10**400,
    float("nan"),
    float("inf"),
    "",
    " ",
    "x" * 300,
    "x" * 100_000,
    "\ud800",
    "a\0b",
    "e\u0301\u0323\ufb01\u202e",
    [],
    [[[[[[[[[]]]]]]]]],
    {},
    {"a": {"b": {"c": {"d": {"e": {"f": {"g": 1}}}}}}},
    list(range(1000)),
)


def odd_json(rng: np.random.Generator, good: Any) -> Any:
    """Good data with one thing in it turned odd: a value, a key, or the whole."""
    paths: list[tuple[Any, ...]] = [()]

    def walk(value: Any, path: tuple[Any, ...]) -> None:
        items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
        for key, inner in items:
            paths.append((*path, key))
            walk(inner, (*path, key))

    walk(good, ())
    copy = json.loads(json.dumps(good))
    path = paths[int(rng.integers(len(paths)))]
    odd = ODD[int(rng.integers(len(ODD)))]
    if not path:
        return odd
    holder = copy
    for key in path[:-1]:
        holder = holder[key]
    if isinstance(holder, dict) and rng.random() < 0.3:
        holder[f"{path[-1]}{rng.integers(10)}"] = odd
    else:
        holder[path[-1]] = odd
    return copy


GOOD_CASE: dict[str, Any] = {
    "format": "eager-ear-case/1",
    "id": "weir",
    "machine": {
        "layout": "front_belt",
        "mains_hz": 50,
        "max_spin_rpm": 1200,
        "pulley_ratio": 11.5,
        "bearings": {"front": "6206", "rear": "6205"},
        "spider_arms": 3,
        "age_years": 7,
        "stacked": False,
    },
    "complaint": {"symptoms": ["shakes"], "note": "Walks."},
    "checks": [
        {"check": "rock", "values": {"gap_mm": [0, 0, 5, 0]}},
        {"check": "bounce", "values": {"corner": "rear_left", "swings": 4}},
        {"check": "lid_switch_ohms", "values": {"closed_ohm": 0.3, "open_ohm": "open"}},
    ],
    "recordings": [
        {"kind": "audio", "file": "spin.wav", "test": "spin", "run": 1, "position": "top_centre", "start_s": 0.5}
    ],
}
GOOD_ENTRIES: tuple[Callable[[], dict[str, Any]], ...] = (
    lambda: machine(max_spin_rpm=1200, bearings={"front": "6206"}),
    lambda: told("shakes"),
    lambda: check("bounce", corner="rear_left", swings=4),
    lambda: check("drum_gap_round", gaps_mm=[3.0, 4.0, 5.0, 4.0]),
    lambda: entry("note", {"text": "Walks.", "about": "story"}),
    lambda: entry("timer", {"for": "dwell", "minutes": 20}),
    lambda: entry("priced", {"part": "belt", "amount": 1200, "currency": "EUR", "available_on": "2026-05-01"}),
    lambda: entry("proved", {"test": "p_hand", "passed": True, "values": {"gap_mm": [1, 2]}}),
    lambda: entry("decided", {"option": 0, "answer": "yes", "consents": ["workaround"], "signature": "M0 0L1 1"}),
)


def table() -> bytes:
    rows = "".join(f"{k / 100},{np.sin(k):.3f},0.1,9.81\n" for k in range(200))
    return f"t_s,ax_m_s2,ay_m_s2,az_m_s2\n{rows}".encode()


def odd_bytes(rng: np.random.Generator, good: bytes) -> bytes:
    """A file cut, changed, repeated or mixed with another."""
    kind = int(rng.integers(6))
    at = int(rng.integers(1, len(good)))
    if kind == 0:
        return good[:at]
    if kind == 1:
        changed = bytearray(good)
        for place in rng.integers(0, min(len(good), 200), 8):
            changed[place] = int(rng.integers(256))
        return bytes(changed)
    if kind == 2:
        return rng.bytes(int(rng.integers(1, 5000)))
    if kind == 3:
        return good[at:] + good[:at]
    if kind == 4:
        return good.replace(b"1", b"9e99").replace(b"data", b"dat\0")
    return good[: len(good) // 2] + b"\xff\x00\n,," * 50 + good[len(good) // 2 :]


def odd_zip(rng: np.random.Generator) -> bytes:
    """A zipped case of which one member, or the zip itself, is odd."""
    members = {"case.json": json.dumps(GOOD_CASE).encode(), "spin.wav": small_wav()}
    kind = int(rng.integers(5))
    if kind == 0:
        members["case.json"] = json.dumps(odd_json(rng, GOOD_CASE)).encode()
    elif kind == 1:
        members["spin.wav"] = odd_bytes(rng, small_wav())
    elif kind == 2:
        members[["spin.wav/x", ".", "./case.json/a", "a\0b", "x" * 300][int(rng.integers(5))]] = b"x"
    elif kind == 3:
        line = json.dumps(odd_json(rng, GOOD_ENTRIES[int(rng.integers(len(GOOD_ENTRIES)))]()))
        members["diary.jsonl"] = (line + "\n").encode()
    sink = io.BytesIO()
    method = (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA)[int(rng.integers(4))]
    with zipfile.ZipFile(sink, "w", method) as zipped:
        for name, content in members.items():
            zipped.writestr(name, content)
    packed = sink.getvalue()
    return odd_bytes(rng, packed) if kind == 4 else packed
