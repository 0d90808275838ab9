"""The plan of a strip: what comes off, what is fitted, how it goes back, and what must be there for it.

Several repairs share one plan: the union of their steps, never the sum. Minutes without trouble are the lower end; the
upper one adds, for each repair, what its range holds above its own steps: the rest is for what sticks.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from eager_ear.core.errors import BadField, UnknownCode
from eager_ear.core.repair import VARIANTS, Fit, Need, Path, Repair, Setting, Step
from eager_ear.core.strip.closure import Ground, NoSuchWay, in_order, smallest_closure
from eager_ear.core.strip.gates import Gate, gates_of

# What sticks takes at least this share of the plain minutes, even where a path's range leaves less.
LEAST_SLACK = 0.2
# Working from the front alone is slower.
COLUMN_FACTOR = 1.3


@dataclass(frozen=True, kw_only=True)
class PlannedStep:
    """A step in its place in the plan, with its minutes there; `step` is None for an act that is no step of its own."""

    step: Step | None
    says: str
    minutes: float
    optional: bool = False


@dataclass(frozen=True, kw_only=True)
class Plan:
    """What a strip takes. minutes : working time from opening to closed, low and high, without travel, waits, proof."""

    layout: str
    paths: tuple[str, ...]
    off: tuple[PlannedStep, ...]
    fit: tuple[PlannedStep, ...]
    on: tuple[PlannedStep, ...]
    proofs: tuple[str, ...]
    minutes: tuple[float, float]
    waits_min: float
    tools: tuple[str, ...]
    parts: tuple[str, ...]
    optional_parts: tuple[str, ...]
    consumables: tuple[str, ...]
    gates: tuple[Gate, ...]
    people: int
    tippings: int


def find_paths(codes: Sequence[str], *, layout: str, repair: Repair) -> tuple[Path, ...]:
    """Paths by their codes.

    Raises
    ------
    UnknownCode, BadField
        No such path, or one that the layout does not have.
    """
    found = []
    for code in dict.fromkeys(codes):
        path = repair.paths.get(code)
        if path is None:
            raise UnknownCode(field="path", value=code[:80], known=tuple(repair.paths))
        if layout not in path.layouts:
            raise BadField(field="path", reason=f"“{code}” is no repair of {layout}.")
        found.append(path)
    return tuple(found)


def read_setting(*, layout: str, people: int, posture: str | None, variants: Iterable[str], repair: Repair) -> Setting:
    """A setting from what was typed or stored.

    Raises
    ------
    UnknownCode
        A posture or a variant that is not known.
    """
    if posture is not None and posture not in repair.postures:
        raise UnknownCode(field="posture", value=posture[:80], known=tuple(repair.postures))
    known = tuple(code for group in VARIANTS.values() for code in group)
    told = frozenset(variants)
    for code in sorted(told - set(known)):
        raise UnknownCode(field="variant", value=code[:80], known=known)
    return Setting(layout=layout, people=people, posture=posture, variants=told)


def make_plan(paths: Sequence[Path], *, setting: Setting, repair: Repair, factor: float = 1.0) -> Plan:
    """One plan for all of `paths`.

    Parameters
    ----------
    factor : how long this person takes, 1 for practised hands

    Raises
    ------
    NoSuchWay
        Something that the setting rules out, such as tipping a machine below a dryer.
    """
    return _planned(tuple(paths), setting, repair, factor)


# The same few repairs are asked for again and again while somebody counts them up or works at them.
@lru_cache(maxsize=2048)
def _planned(paths: tuple[Path, ...], setting: Setting, repair: Repair, factor: float) -> Plan:
    ground = Ground(repair, setting)
    off, fit, on = _parts_of(paths, ground)
    planned = (*off, *fit, *on)
    total = sum(p.minutes for p in planned)
    opened = [p.step for p in off if p.step]
    return Plan(
        layout=setting.layout,
        paths=tuple(p.id for p in paths),
        off=off,
        fit=fit,
        on=on,
        proofs=_proofs(paths, wanted=setting.wanted),
        minutes=(round(total * factor, 1), round((total + _slack(paths, ground)) * factor, 1)),
        waits_min=sum(p.step.waits_min for p in planned if p.step and not p.optional),
        tools=_merged(
            tuple(code for need in p.tools if setting.holds(need.when) for code in need.steps) for p in paths
        ),
        parts=_merged(p.parts for p in paths),
        optional_parts=tuple(
            code for code in _merged(p.optional_parts for p in paths) if code not in _merged(p.parts for p in paths)
        ),
        consumables=_merged(p.consumables for p in paths),
        gates=gates_of(opened, setting=setting),
        people=max([p.people[0] for p in paths] + [1]),
        tippings=sum(step.posture in ground.tipped for step in opened),
    )


def plan_below_a_dryer(paths: Sequence[Path], *, setting: Setting, repair: Repair, factor: float) -> tuple[Plan, bool]:
    """The plan; where a dryer on top rules it out, the plan with two people and the dryer off, and True.

    Raises
    ------
    NoSuchWay
        Something that no setting opens.
    """
    if setting.posture != "stacked":
        return make_plan(paths, setting=setting, repair=repair, factor=factor), False
    try:
        return make_plan(paths, setting=setting, repair=repair, factor=max(factor, COLUMN_FACTOR)), False
    except NoSuchWay:
        free = replace(setting, posture=None, people=max(2, setting.people))
        return make_plan(paths, setting=free, repair=repair, factor=factor), True


def _proofs(paths: Sequence[Path], *, wanted: frozenset[str]) -> tuple[str, ...]:
    """Each test once; what one repair asks for, or the shop always wants, is not optional because of another."""
    asked = _merged(p.proofs for p in paths)
    sure = {code for code in asked if not code.endswith("?")} | wanted
    plain = (code.removesuffix("?") if code.removesuffix("?") in sure else code for code in asked)
    return tuple(dict.fromkeys(plain))


def _merged(lists: Iterable[Sequence[str]]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(code for one in lists for code in one))


def _closed(paths: Sequence[Path], ground: Ground) -> frozenset[str]:
    goals = [goal for path in paths for goal in path.goals]
    asked = ground.setting.posture
    if goals and asked in ground.tipped and asked in ground.steps and any(asked in p.postures for p in paths):
        goals.append(Need(steps=(asked,)))
    return smallest_closure(ground, goals)


def _parts_of(
    paths: Sequence[Path], ground: Ground
) -> tuple[tuple[PlannedStep, ...], tuple[PlannedStep, ...], tuple[PlannedStep, ...]]:
    closed = _closed(paths, ground)
    off = in_order(ground, closed)
    fit = _fit(paths, ground, closed)
    on = _way_back(ground, off, taken={p.step.id for p in fit if p.step}, closing=fit)
    return _off(ground, off), fit, on


def _slack(paths: Sequence[Path], ground: Ground) -> float:
    """What the paths' ranges hold above the plain minutes of their own plans."""
    total = 0.0
    for path in paths:
        alone = sum(p.minutes for part in _parts_of([path], ground) for p in part)
        total += max(LEAST_SLACK * alone, path.minutes[1] - alone)
    return total


def _off(ground: Ground, off: Sequence[str]) -> tuple[PlannedStep, ...]:
    steps = [ground.steps[s] for s in off]
    # What only joins the way back is not opened.
    return tuple(
        PlannedStep(step=step, says=step.do, minutes=step.minutes_off * step.times)
        for step in steps
        if step.minutes_off > 0
    )


def _fit(paths: Sequence[Path], ground: Ground, closed: frozenset[str]) -> tuple[PlannedStep, ...]:
    """What is fitted, each thing once, in the order of the paths and after what it rests on."""
    items: dict[str, PlannedStep] = {}
    for path in paths:
        for item in path.fit:
            planned = _fitted(item, ground, closed)
            if planned is not None:
                items.setdefault(planned.step.id if planned.step else planned.says, planned)
    held = _held_back(ground, closed, fitted=set(items))
    return tuple(_after_their_needs([item for key, item in items.items() if key not in held]))


def _held_back(ground: Ground, closed: frozenset[str], *, fitted: set[str]) -> set[str]:
    """Steps that cannot go back while the machine is open, since another repair opened more behind them."""
    held: set[str] = set()
    joined = {step.closes for step_id, step in ground.steps.items() if step_id in fitted}
    while True:
        waiting = {
            need
            for step_id in closed - joined - (fitted - held)
            if not ground.steps[step_id].nothing_back and not ground.steps[step_id].posture
            for group in ground.needs(ground.steps[step_id])
            for need in group
        }
        more = {s for s in fitted & closed & waiting if not ground.steps[s].fit} - held
        if not more:
            return held
        held |= more


def _fitted(item: Fit, ground: Ground, closed: frozenset[str]) -> PlannedStep | None:
    if item.act:
        return PlannedStep(step=None, says=item.act, minutes=item.minutes)
    for step_id in item.steps:
        step = ground.steps.get(step_id)
        if step is not None and (step.fit or step_id in closed):
            # Screwing the seam together takes what its opening step says.
            closes = ground.steps.get(step.closes) if step.closes and step.minutes_on == 0 else None
            minutes = (closes or step).minutes_on * step.times
            skipped = (item.optional or step.optional) and step_id not in ground.setting.wanted
            return PlannedStep(step=step, says=step.do, minutes=0.0 if skipped else minutes, optional=skipped)
    return None


def _after_their_needs(items: list[PlannedStep]) -> list[PlannedStep]:
    """The same items, each moved behind those that it needs; acts stay behind the item before them."""
    out: list[PlannedStep] = []
    left = list(items)
    while left:
        ids = {p.step.id for p in left if p.step}
        for index, item in enumerate(left):
            waits = {s for need in item.step.needs for s in need.steps} if item.step and item.step.fit else set()
            if not waits & ids - {item.step.id if item.step else ""}:
                out.append(left.pop(index))
                break
        else:
            return out + left
    return out


def _way_back(
    ground: Ground, off: Sequence[str], *, taken: set[str], closing: Sequence[PlannedStep]
) -> tuple[PlannedStep, ...]:
    """What goes back, last opened first; where the layout has its own closing order, that one."""
    closed_by_fit = {p.step.closes for p in closing if p.step and p.step.closes}
    back = [
        step_id
        for step_id in off
        if step_id not in taken and step_id not in closed_by_fit and not ground.steps[step_id].nothing_back
    ]
    back += [s.id for s in ground.steps.values() if s.follows and s.id not in back and any(f in off for f in s.follows)]
    ordered = _closing_order(ground, back)
    return tuple(
        PlannedStep(step=step, says=step.back, minutes=step.minutes_on * step.times)
        for step in (ground.steps[s] for s in ordered)
    )


# Whatever was opened, these close the work, in this order; power is last.
LAST = ("drained", "pulled_out", "taps_shut", "feet_set", "tray_ready", "make_safe")


def _closing_order(ground: Ground, back: Sequence[str]) -> list[str]:
    """Last opened first; where the layout has its own closing order, that one, the rest beside what it sits behind."""
    position = {step_id: k for k, step_id in enumerate(reversed(back))}
    steps = ground.steps
    own_order = any(steps[s].back_rank is not None for s in back)

    def key(step_id: str) -> tuple[float, int]:
        if step_id in LAST:
            return 1000.0 + LAST.index(step_id), 0
        if not own_order:
            return 0.0, position[step_id]
        rank = steps[step_id].back_rank
        if rank is not None:
            return float(rank), position[step_id]
        behind = [steps[s].back_rank for need in steps[step_id].needs for s in need.steps if s in back]
        return min([r - 0.5 for r in behind if r is not None] or [900.0]), position[step_id]

    return sorted(back, key=key)
