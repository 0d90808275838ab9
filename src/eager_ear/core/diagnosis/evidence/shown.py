"""What recordings made at one time show, apart from what it means: measured once, weighed as often as wished.

A `Shown` holds numbers with their errors, never likelihoods: those come from the knowledge of the day, so that a
change of knowledge weighs again without measuring. As plain data it is what is stored.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np

from eager_ear.core.diagnosis.evidence.readings import Reading, read_number
from eager_ear.core.diagnosis.knowledge import Finding
from eager_ear.core.signals.drive import Hum
from eager_ear.core.signals.mechanics import BounceDecay
from eager_ear.core.signals.recordings import Warning
from eager_ear.core.signals.sound import BandLevels

SHOWN_FORMAT = 1


@dataclass(frozen=True, kw_only=True)
class Observation:
    """One finding's number: value and standard error in the finding's unit, and what was found in words."""

    finding: str
    value: float
    sigma: float
    text: str

    def reading(self, findings: Mapping[str, Finding]) -> Reading | None:
        """As evidence by the present knowledge; None when that asks for this finding no more."""
        if self.finding not in findings:
            return None
        return read_number(findings[self.finding], self.value, sigma=self.sigma, text=self.text, source="sound")


@dataclass(frozen=True, kw_only=True)
class Room:
    """Levels of a room recorded with the machine off; hum_db : at twice the mains, by that frequency [Hz]."""

    recording: str
    bands: BandLevels
    hum_db: Mapping[float, float] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class Shown:
    """What one run of recordings shows.

    test, key, load, position : of the run
    turning : a turning drum was found; heard : sound was there to listen to
    observations : by finding; `absent` : reasons by quantity; figures : by the result format's names
    race_ratio_db : how far the surest line of a bearing race stands above the floor
    level_scatter : of the sound at full speed, 0 for an even noise and 1 for hammering
    corner_levels_db : once-per-turn level by range of speed, where the sensor lay on a corner
    steady_hum : hum at twice the mains that is on all through and may be the room's
    curves : what the pictures are drawn from
    """

    test: str
    key: str
    load: str | None = None
    position: str | None = None
    duration_s: float = 0.0
    turning: bool = False
    heard: bool = False
    observations: tuple[Observation, ...] = ()
    absent: Mapping[str, str] = field(default_factory=dict)
    race_ratio_db: float | None = None
    level_scatter: float | None = None
    figures: Mapping[str, Any] = field(default_factory=dict)
    warnings: tuple[Warning, ...] = ()
    bounces: tuple[BounceDecay, ...] = ()
    bands: BandLevels | None = None
    rooms: tuple[Room, ...] = ()
    corner_levels_db: Mapping[int, float] | None = None
    steady_hum: Hum | None = None
    curves: Mapping[str, Any] = field(default_factory=dict)

    def readings(self, findings: Mapping[str, Finding]) -> list[Reading]:
        """Everything observed, as evidence by the present knowledge."""
        read = [observation.reading(findings) for observation in self.observations]
        return [reading for reading in read if reading is not None]


def observations_of(readings: Sequence[Reading]) -> tuple[Observation, ...]:
    """Readings of measured numbers without what the knowledge made of them."""
    return tuple(
        Observation(finding=r.finding.code, value=float(r.value), sigma=float(r.sigma or 0.0), text=r.text)
        for r in readings
        if r.value is not None
    )


def shown_to_json(shown: Shown) -> dict[str, Any]:
    """Plain data, without the curves, which are kept beside it."""
    return {
        "format": SHOWN_FORMAT,
        "test": shown.test,
        "key": shown.key,
        "load": shown.load,
        "position": shown.position,
        "duration_s": shown.duration_s,
        "turning": shown.turning,
        "heard": shown.heard,
        "observations": [asdict(o) for o in shown.observations],
        "absent": dict(shown.absent),
        "race_ratio_db": shown.race_ratio_db,
        "level_scatter": shown.level_scatter,
        "figures": dict(shown.figures),
        "warnings": [asdict(w) for w in shown.warnings],
        "bounces": [asdict(b) for b in shown.bounces],
        "bands": _bands_to_json(shown.bands),
        "rooms": [
            {
                "recording": r.recording,
                "bands": _bands_to_json(r.bands),
                "hum_db": {f"{hz:g}": db for hz, db in r.hum_db.items()},
            }
            for r in shown.rooms
        ],
        "steady_hum": None if shown.steady_hum is None else asdict(shown.steady_hum),
        "corner_levels_db": None
        if shown.corner_levels_db is None
        else {str(k): v for k, v in shown.corner_levels_db.items()},
    }


def shown_from_json(data: Mapping[str, Any], *, curves: Mapping[str, Any] | None = None) -> Shown:
    """What `shown_to_json` wrote."""
    levels, steady = data["corner_levels_db"], data.get("steady_hum")
    return Shown(
        test=data["test"],
        key=data["key"],
        load=data["load"],
        position=data["position"],
        duration_s=data["duration_s"],
        turning=data["turning"],
        heard=data["heard"],
        observations=tuple(Observation(**o) for o in data["observations"]),
        absent=data["absent"],
        race_ratio_db=data["race_ratio_db"],
        level_scatter=data.get("level_scatter"),
        figures=data["figures"],
        warnings=tuple(Warning(**w) for w in data["warnings"]),
        bounces=tuple(BounceDecay(**b) for b in data["bounces"]),
        bands=_bands_from_json(data["bands"]),
        rooms=tuple(
            Room(
                recording=r["recording"],
                bands=bands,
                hum_db={float(hz): db for hz, db in r.get("hum_db", {}).items()},
            )
            for r in data["rooms"]
            if (bands := _bands_from_json(r["bands"])) is not None
        ),
        corner_levels_db=None if levels is None else {int(k): v for k, v in levels.items()},
        steady_hum=None if steady is None else Hum(**steady),
        curves=curves or {},
    )


def _bands_to_json(bands: BandLevels | None) -> dict[str, Any] | None:
    if bands is None:
        return None
    return {
        "centre_hz": [float(v) for v in bands.centre_hz],
        "level_db": [float(v) for v in bands.level_db],
        "total_db": bands.total_db,
        "a_weighted_db": bands.a_weighted_db,
        "calibrated": bands.calibrated,
    }


def _bands_from_json(data: Mapping[str, Any] | None) -> BandLevels | None:
    if data is None:
        return None
    return BandLevels(
        centre_hz=np.array(data["centre_hz"], dtype=float),
        level_db=np.array(data["level_db"], dtype=float),
        total_db=data["total_db"],
        a_weighted_db=data["a_weighted_db"],
        calibrated=data["calibrated"],
    )
