"""Which column of a phone's log is the time and which are the axes, told by names as loggers write them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from eager_ear.core.units import STANDARD_GRAVITY_M_S2

UNITS_OF_TIME = {"s": 1.0, "sec": 1.0, "seconds": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9}
# Names of times, those that count from the log's beginning first.
ELAPSED = ("t", "ts", "times", "secondselapsed", "elapsed", "elapsedtime", "timeelapsed", "sensortime", "relativetime")
STAMPS = ("time", "timestamp", "loggingtime", "epoch", "unixtime", "datetime", "date", "clock", "localtime")
# What shares a table with acceleration and is none.
OTHER_SENSORS = ("gyro", "rot", "mag", "orient", "gravity", "roll", "pitch", "yaw", "quat", "attitude", "baro", "gps")
AXIS = re.compile(r"(accelerometer|acceleration|accel|acc|lin|linear|user|raw|uncalibrated|a|gf)*([xyz])(axis|acc)?")
UNIT = re.compile(r"[(\[](?P<bracketed>[^)\]]*)[)\]]|_(?P<tail>m_?s2|g|ms|us|ns|s)$", re.IGNORECASE)


@dataclass(frozen=True, kw_only=True)
class Column:
    """One column: where it stands, its name, and the factor to seconds or m/s², None where its name does not say."""

    place: int
    name: str
    factor: float | None


@dataclass(frozen=True, kw_only=True)
class MotionColumns:
    """Time and axes of a log; `axes` in the order x, y, z, None where one was not recorded."""

    time: Column
    axes: tuple[Column | None, Column | None, Column | None]


def find_time(header: Sequence[str]) -> Column | None:
    """The column of times: one that counts from the beginning before one of the calendar; None without any."""
    for names in (ELAPSED, STAMPS):
        for wanted in names:
            for place, name in enumerate(header):
                plain, unit = _split(name)
                if plain == wanted:
                    return Column(place=place, name=name, factor=_time_factor(unit))
    return None


def find_axes(header: Sequence[str]) -> tuple[Column | None, Column | None, Column | None]:
    """The columns of acceleration; with gravity before without, since what was taken out was guessed at."""
    found: dict[str, list[tuple[bool, Column]]] = {"x": [], "y": [], "z": []}
    for place, name in enumerate(header):
        plain, unit = _split(name)
        if any(other in plain for other in OTHER_SENSORS):
            continue
        match = AXIS.fullmatch(plain)
        if match is None:
            continue
        factor = STANDARD_GRAVITY_M_S2 if plain.startswith("gf") else _acceleration_factor(unit)
        guessed_at = "lin" in plain or "user" in plain
        found[match.group(2)].append((guessed_at, Column(place=place, name=name, factor=factor)))
    best = [min(f, key=lambda c: (c[0], c[1].place))[1] if f else None for f in found.values()]
    return best[0], best[1], best[2]


def find_one(header: Sequence[str], *names: str) -> Column | None:
    """A column by one of these plain names."""
    for place, name in enumerate(header):
        plain, unit = _split(name)
        if plain in names:
            return Column(place=place, name=name, factor=_time_factor(unit))
    return None


def is_header(cells: Sequence[str]) -> bool:
    """Whether a line names columns: words, at least one of which is known."""
    return find_time(cells) is not None or any(find_axes(cells)) or find_one(cells, "pulse", "pulses") is not None


def _split(name: str) -> tuple[str, str]:
    """A name without its unit, letters and digits only; and the unit as written."""
    match = UNIT.search(name.strip())
    unit = (match.group("bracketed") or match.group("tail") or "") if match else ""
    bare = UNIT.sub("", name.strip()) if match else name
    return re.sub(r"[^a-z0-9]", "", bare.lower()), unit.strip().lower().replace("µ", "u").replace("μ", "u")


def _time_factor(unit: str) -> float | None:
    return UNITS_OF_TIME.get(unit)


def _acceleration_factor(unit: str) -> float | None:
    plain = unit.replace("²", "2").replace("^", "").replace("_", "").replace("/", "").replace(" ", "")
    if plain in ("ms2", "mss", "msec2", "m.s-2", "ms-2"):
        return 1.0
    return STANDARD_GRAVITY_M_S2 if plain in ("g", "gs", "g-force") else None
