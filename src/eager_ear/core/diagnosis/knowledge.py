"""The knowledge files as checked, typed values: faults, symptoms, findings, checks."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from eager_ear.core.machine import LAYOUT_CODES
from eager_ear.core.repair import Repair
from eager_ear.core.units import FloatArray

# When something is told: the machine's programme in its order, and what is there whatever it does.
PHASES = ("hand_turn", "fill", "wash", "drain", "spin_start", "ramp", "full_speed", "coast_down", "always")
Teardown = Literal["none", "panel", "tub"]
# What a check's values are entered with.
Widget = Literal[
    "clock_gaps",
    "corners",
    "feel",
    "four_feet",
    "heard_states",
    "levels",
    "meter",
    "millimetres",
    "minutes",
    "pluck",
    "states",
    "swings",
    "yes_no",
]
# What hands do in it.
Act = Literal[
    "along",
    "fill",
    "height",
    "lift",
    "listen",
    "look",
    "measure",
    "pluck",
    "press",
    "push_down",
    "rock",
    "smell",
    "try",
    "turn",
    "twist",
    "wait",
]


@dataclass(frozen=True, kw_only=True)
class First:
    """Checks that come before a teardown whatever the odds, unless one of `unless` was made, and why."""

    checks: tuple[str, ...]
    unless: tuple[str, ...]
    layouts: tuple[str, ...]
    why: str


@dataclass(frozen=True, kw_only=True)
class Chain:
    """One fault that brings another about. chance : that a machine with the cause has the effect as well"""

    cause: str
    effect: str
    chance: float
    why: str


@dataclass(frozen=True, kw_only=True)
class Fault:
    code: str
    name: str
    short: str
    layouts: tuple[str, ...]
    weight: float
    teardown: Teardown
    first: First | None


@dataclass(frozen=True, kw_only=True)
class Symptom:
    """What may be told. phases : when it is told, as a customer would say it.

    example : how far gone its likeliest fault is where it sounds like this, 0 to 1; None for what is no noise
    """

    code: str
    name: str
    phases: tuple[str, ...]
    example: float | None
    leak: float
    given: Mapping[str, float]


@dataclass(frozen=True, kw_only=True)
class Reads:
    """How a value of a hand check answers a finding by itself.

    words : said before what was picked or measured; error : standard error of what was measured, in the finding's unit
    good, bad : said of what was seen; bad_when : the answer that stands for the second level
    """

    check: str
    value: str
    words: str = ""
    error: float = 0.0
    good: str = ""
    bad: str = ""
    bad_when: bool = True


@dataclass(frozen=True, kw_only=True)
class Finding:
    """One question that evidence answers with a level.

    calm : chance of each level without a fault that touches it; given : what each fault alone would show
    limits : borders between neighbouring levels, rising or falling with the level; limits_on : of some layouts, where
        their build moves them
    correlation : of readings within its group, given what is wrong
    says : what each level means to whoever has just measured, empty where its name says it
    layouts : machines that it is asked of
    ordered : faults combine by the larger effect when the levels are ordered, by the mean of their columns when not
    shown : how often a spin test that is recorded tells it at all
    reads : the value of a hand check that answers it without computing
    """

    code: str
    name: str
    unit: str
    levels: tuple[str, ...]
    limits: tuple[float, ...]
    log_scale: bool
    spread: float
    group: str
    correlation: float
    calm: FloatArray
    given: Mapping[str, FloatArray]
    reason: str
    ordered: bool = True
    says: tuple[str, ...] = ()
    layouts: tuple[str, ...] = LAYOUT_CODES
    limits_on: Mapping[str, tuple[float, ...]] = field(default_factory=dict)
    shown: float = 0.0
    reads: Reads | None = None

    def limits_for(self, layout: str | None) -> tuple[float, ...]:
        """Borders between the levels on a machine of that layout; the usual ones where it is not known."""
        return self.limits_on.get(layout or "", self.limits)


@dataclass(frozen=True, kw_only=True)
class ValueSpec:
    """One value of a hand check: its kind, unit and what is allowed. usual : what is met, broken machines included."""

    name: str
    kind: Literal["number", "numbers", "choice", "choices", "flag", "ohms"]
    label: str
    unit: str = ""
    choices: tuple[str, ...] = ()
    low: float = 0.0
    high: float = 1e6
    count: tuple[int, int] = (1, 1)
    usual: tuple[float, float] | None = None


@dataclass(frozen=True, kw_only=True)
class Check:
    """One hand check: what it needs, how long it takes, how it is done, what it answers.

    places : where hands go, by where the machine loads; act : what they do there
    """

    code: str
    name: str
    access: str
    minutes: float
    layouts: tuple[str, ...]
    how: str
    widget: Widget
    places: Mapping[str, str]
    act: Act
    values: tuple[ValueSpec, ...]
    findings: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Condition:
    """What a part may be found to be; `check` with its `values` is the hand check that would say the same.

    renews : parts that go on the order then, where the layout has them
    """

    code: str
    name: str
    check: str | None
    values: Mapping[str, Any]
    means: str
    renews: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class FigureWords:
    """What a figure of the result is called, how it is made and by whose method.

    rests_on : kinds of recordings; good_to : how far to trust it where no error stands beside it
    findings : that read it
    """

    code: str
    name: str
    rests_on: tuple[str, ...]
    how: str
    source: str
    good_to: str
    findings: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Look:
    """A part that is looked at while the machine is open."""

    part: str
    name: str
    conditions: Mapping[str, Condition]


@dataclass(frozen=True, kw_only=True)
class Stages:
    """How far a worn bearing may have gone.

    faults : that have stages; often : how often each stage is met; told : chance that a symptom is told at each
    shows : by finding and stage, chance of each level
    measured : borders between the levels of quantities that tell nothing but the stage
    """

    faults: tuple[str, ...]
    often: Mapping[str, float]
    shows: Mapping[str, Mapping[str, FloatArray]]
    measured: Mapping[str, tuple[float, ...]]
    told: Mapping[str, Mapping[str, float]]


@dataclass(frozen=True, kw_only=True, eq=False)
class Knowledge:
    """All of it, loaded once: equal only to itself, so that what is derived from it can be kept by it.

    odds : by layout, where other weights of the faults hold than the faults' own
    """

    faults: Mapping[str, Fault]
    symptoms: Mapping[str, Symptom]
    findings: Mapping[str, Finding]
    checks: Mapping[str, Check]
    looks: Mapping[str, Look]
    figures: Mapping[str, FigureWords]
    chains: tuple[Chain, ...]
    repair: Repair
    stages: Stages
    silence_weight: float
    version: str
    odds: Mapping[str, Mapping[str, float]] = field(default_factory=dict)

    def odds_of(self, layout: str) -> Mapping[str, float]:
        """How often each fault of that layout is what a visit is for: those counted there, or the built-in ones."""
        return self.odds.get(layout) or {f.code: f.weight for f in self.faults_of(layout)}

    def faults_of(self, layout: str) -> tuple[Fault, ...]:
        """Faults that this layout can have, "none" first."""
        return tuple(f for f in self.faults.values() if layout in f.layouts)
