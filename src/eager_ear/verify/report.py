"""The scores as a page: every figure beside its goal, met or missed."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from eager_ear.core.units import FloatArray
from eager_ear.verify.reliability import reliability_table
from eager_ear.verify.score import WARNING_OF, CaseScore

INTRODUCTION = """# How well it measures

Made by `./ear verify`; not written by hand. Every figure is from simulated machines whose truth is known, drawn from
seeds that were not looked at while the measurements were made. The draws are meant to be worse than house calls: any
layout, none, one or two faults, rooms with a second machine or talk, phones with automatic gain, clipping, 8 to 48 kHz
sound, 25 to 400 Hz acceleration, gaps, sliding, one sensor only, parts of the test missing, plate and pulleys unknown
in a third of the cases. A simulator shows that the arithmetic holds, not that washers behave like it; therefore every
figure stands beside the same by a washer of other physics (`verify/other_physics/`), by which no limit was set.

- Seeds used while developing: {development}. Seeds of this report: {reported}.
- Mixed draws: {mixed}. Bearing draws: {bearing} at each stage and as many sound machines. Stage draws: {stages}. So
  many by each physics.
"""

METHOD = """
## What the figures mean
- **Speed**: all moments at which the drum turns above 60 rpm and the track was declared known; the Cramér-Rao bound for
  a steady tone is quoted in `speed/refine/rate_readings.py` and tested there. A test is *lost* when less than half of
  those moments is known, *wrong* when the median error is above 5 % or a standing drum was said to turn; wrong counts
  double. Where sound alone was recorded the truth is laid on the sound's own clock: how well somebody noted when the
  recording began is no error of speed, and where a second clock exists it has a figure of its own, the lag.
- **Critical speed, damping**: against the nearer of the two natural frequencies and the damping ratio that acts at the
  largest travel (viscous plus the equivalent of Coulomb friction), where the acceleration has 50 Hz or more. Machines
  damped beyond 0.4 have no peak and are not counted as left out.
- **Impacts**: those at least half as loud as the drum's noise at full spin, in a band that the recording holds.
- **Bearings**: damage exactly 10 dB below the drum's broadband noise, sizes known, decent recordings; found means a
  false-alarm chance below one in a hundred.
- **Stage**: whine, growl or collapsed, each as likely as any other, with no hand on the drum.
- **Other physics**: a cabinet that lifts off its feet, dry friction, blows from a thud to a click that scatter, slaps
  of feet, loud motors, rubbing that comes and goes, collapsed bearings without a line, sensors on soft feet. Its
  liquid rings turn at a rate of their own, which then is what the cabinet shows once per turn.
"""


@dataclass(frozen=True, kw_only=True)
class Scores:
    """What was drawn by one physics.

    bearing : by stage, None for sound machines; stages : bearings worn to any stage
    """

    mixed: Sequence[CaseScore]
    bearing: Mapping[str | None, Sequence[CaseScore]]
    stages: Sequence[CaseScore]

    def figures(self) -> list[Figure]:
        """Every line of the table."""
        return [
            *speed_figures(self.mixed),
            *quantity_figures(self.mixed),
            *bearing_figures(self.mixed, self.bearing),
            *stage_figures(self.stages),
        ]


@dataclass(frozen=True, kw_only=True)
class Figure:
    """One line of the table. `met` is None where there is no goal."""

    name: str
    value: str
    goal: str
    met: bool | None


def write_report(ours: Scores, other: Scores, *, development: str, reported: str) -> str:
    """The whole page as Markdown: our own physics and the other side by side."""
    mixed = ours.mixed
    head = INTRODUCTION.format(
        development=development,
        reported=reported,
        mixed=len(mixed),
        bearing=max((len(v) for v in ours.bearing.values()), default=0),
        stages=len(ours.stages),
    )
    elsewhere = {f.name: f for f in other.figures()}
    table = ["", "| figure | goal | our physics | | other physics | |", "|---|---|---|---|---|---|"]
    for f in ours.figures():
        there = elsewhere.get(f.name, Figure(name=f.name, value="none", goal="", met=None))
        table.append(f"| {f.name} | {f.goal} | {f.value} | {_mark(f.met)} | {there.value} | {_mark(there.met)} |")
    parts = [head, *table, METHOD, _by_sensor(mixed), _warnings(mixed), _calls(mixed), reliability_table(mixed)]
    return "\n".join(parts).rstrip() + "\n"


def speed_figures(mixed: Sequence[CaseScore]) -> list[Figure]:
    """Median, 95th percentile, lost tests."""
    turning = [s for s in mixed if s.speed_known_share is not None]
    errors = _pooled(turning)
    bad = sum(s.speed_lost and not s.speed_wrong for s in mixed) + 2 * sum(s.speed_wrong for s in mixed)
    share = bad / max(len(mixed), 1)
    known = float(np.mean([s.speed_known_share or 0.0 for s in turning])) if turning else 0.0
    return [
        _limit("Speed, median relative error", errors, lambda e: float(np.median(e)), 0.002, "%"),
        _limit("Speed, 95th percentile", errors, lambda e: float(np.percentile(e, 95)), 0.01, "%"),
        Figure(
            name="Tests lost (wrong ones count double)",
            value=f"{100 * share:.1f} % ({sum(s.speed_lost for s in mixed)} lost, "
            f"{sum(s.speed_wrong for s in mixed)} wrong of {len(mixed)})",
            goal="below 3 %",
            met=share < 0.03,
        ),
        Figure(
            name="Share of the turning above 60 rpm that is known",
            value=f"{100 * known:.0f} %" if turning else "none",
            goal="85 %",
            met=bool(turning) and known >= 0.85,
        ),
    ]


def quantity_figures(mixed: Sequence[CaseScore]) -> list[Figure]:
    """Suspension, slip, coast-down, impacts, clocks."""

    def median(values: FloatArray) -> float:
        return float(np.median(values))

    critical, damping, slip, coast, lag = (
        _errors(mixed, q) for q in ("critical", "damping", "slip_pp", "coast", "lag_s")
    )
    impacts = _errors(mixed, "impacts")
    right = float(np.mean(impacts < 0.5)) if impacts.size else 0.0
    found = [
        _limit("Critical speed, median error", critical, median, 0.05, "%"),
        _limit("Damping ratio, median error", damping, median, 0.20, "%"),
        _limit("Belt slip, 90th percentile of the error", slip, lambda e: float(np.percentile(e, 90)), 0.5, "points"),
        _limit("Coast-down time, median error", coast, median, 0.05, "%"),
        Figure(
            name="Impacts per revolution right",
            value=f"{100 * right:.0f} % of {impacts.size}" if impacts.size else "none measured",
            goal="95 %",
            met=bool(impacts.size) and right >= 0.95,
        ),
        _limit("Lag between the clocks, median error", lag, median, None, "s"),
    ]
    for quantity, words in (("critical", "critical speed"), ("slip_pp", "belt slip"), ("coast", "coast-down")):
        missed = sum(quantity in s.missed for s in mixed)
        measured = _errors(mixed, quantity).size
        found.append(
            Figure(name=f"Cases with {words} left out", value=f"{missed}, measured in {measured}", goal="", met=None)
        )
    return found


def bearing_figures(mixed: Sequence[CaseScore], bearing: Mapping[str | None, Sequence[CaseScore]]) -> list[Figure]:
    """Lines found, races right, false alarms."""
    out: list[Figure] = []
    for stage, goal in (("growl", 0.95), ("whine", 0.80)):
        scores = bearing.get(stage, ())
        if scores:
            share = sum(s.line_found for s in scores) / len(scores)
            out.append(
                Figure(
                    name=f"Bearing lines found, {stage}, 10 dB below the drum's noise",
                    value=f"{100 * share:.0f} % of {len(scores)}",
                    goal=f"{100 * goal:.0f} %",
                    met=share >= goal,
                )
            )
    found = [s for stage in ("growl", "whine") for s in bearing.get(stage, ()) if s.line_found]
    if found:
        right = sum(s.race_named == s.race_true for s in found) / len(found)
        out.append(
            Figure(
                name="Right race named, of lines found",
                value=f"{100 * right:.0f} % of {len(found)}",
                goal="80 %",
                met=right >= 0.80,
            )
        )
    healthy = [*bearing.get(None, ()), *(s for s in mixed if s.race_true is None and s.speed_known_share is not None)]
    if healthy:
        share = sum(s.line_found for s in healthy) / len(healthy)
        out.append(
            Figure(
                name="Bearing lines claimed on machines without bearing damage",
                value=f"{100 * share:.1f} % of {len(healthy)}",
                goal="1 %",
                met=share <= 0.01,
            )
        )
    return out


def stage_figures(stages: Sequence[CaseScore]) -> list[Figure]:
    """How often the stage of a worn bearing is named right, by recordings alone."""
    worn = [s for s in stages if s.stage_true is not None]
    if not worn:
        return []
    right = sum(s.stage_named == s.stage_true for s in worn) / len(worn)
    return [
        Figure(
            name="Stage of a worn bearing named right",
            value=f"{100 * right:.0f} % of {len(worn)}",
            goal="75 %",
            met=right >= 0.75,
        )
    ]


def _by_sensor(mixed: Sequence[CaseScore]) -> str:
    lines = ["\n## Speed by what was recorded", "", "| sensors | tests | median | 95th percentile | lost | wrong |"]
    lines.append("|---|---|---|---|---|---|")
    for kind in sorted({s.sensors for s in mixed}):
        scores = [s for s in mixed if s.sensors == kind]
        errors = _pooled(scores)
        middle = (
            f"{100 * np.median(errors):.2f} % | {100 * np.percentile(errors, 95):.2f} %"
            if errors.size
            else "none | none"
        )
        lost, wrong = sum(s.speed_lost for s in scores), sum(s.speed_wrong for s in scores)
        lines.append(f"| {kind} | {len(scores)} | {middle} | {lost} | {wrong} |")
    return "\n".join(lines)


def _warnings(mixed: Sequence[CaseScore]) -> str:
    lines = ["\n## What was noticed", "", "| disturbance, or event | noticed | claimed without it |", "|---|---|---|"]
    for name in (*WARNING_OF, "stop_hits"):
        pairs = [s.warned[name] for s in mixed if name in s.warned]
        present = [warned for there, warned in pairs if there]
        absent = [warned for there, warned in pairs if not there]
        lines.append(
            f"| {name.replace('_', ' ')} | {sum(present)} of {len(present)} | {sum(absent)} of {len(absent)} |"
        )
    return "\n".join(lines)


def _calls(mixed: Sequence[CaseScore]) -> str:
    """How often the fault was named first from the recordings alone: a by-product, reported since it is what counts."""
    lines = ["\n## Named first, from the recordings alone", "", "| fault | named first |", "|---|---|"]
    single = [s for s in mixed if "+" not in s.group]
    for group in sorted({s.group for s in single}):
        scores = [s for s in single if s.group == group]
        lines.append(f"| `{group}` | {sum(s.first_named == group for s in scores)} of {len(scores)} |")
    pairs = [s for s in mixed if "+" in s.group]
    right = sum(s.first_named in s.group.split("+") for s in pairs)
    lines.append(f"| one of two | {right} of {len(pairs)} |")
    return "\n".join(lines)


def _pooled(scores: Sequence[CaseScore]) -> FloatArray:
    parts = [np.abs(np.asarray(s.speed_errors)) for s in scores if s.speed_errors]
    return np.concatenate(parts) if parts else np.zeros(0)


def _errors(mixed: Sequence[CaseScore], quantity: str) -> FloatArray:
    return np.asarray(np.abs([s.errors[quantity] for s in mixed if quantity in s.errors]))


def _limit(
    name: str, errors: FloatArray, statistic: Callable[[FloatArray], float], limit: float | None, unit: str
) -> Figure:
    scale = 100.0 if unit == "%" else 1.0
    goal = "" if limit is None else f"below {scale * limit:g} {unit}"
    if errors.size == 0:
        return Figure(name=name, value="none measured", goal=goal, met=None if limit is None else False)
    value = statistic(errors)
    return Figure(
        name=name,
        value=f"{scale * value:.3g} {unit} ({errors.size})",
        goal=goal,
        met=None if limit is None else value < limit,
    )


def _mark(met: bool | None) -> str:
    return {True: "met", False: "**missed**", None: ""}[met]
