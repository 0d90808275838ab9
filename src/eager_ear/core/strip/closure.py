"""Which steps open what a repair needs: the smallest closure of their needs on one machine in one room.

Where a need names alternatives, all of them are tried; the way that tips the machine least often wins, then the one
of fewest minutes. Each step is taken once, so that a second repair on the same machine costs only what it adds.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import ClassVar

from eager_ear.core.errors import InputError
from eager_ear.core.repair import Need, Repair, Setting, Step

# What every step needs that is not itself one of the common ones, written or not.
ALWAYS = ("make_safe", "tray_ready")


@dataclass(eq=False, kw_only=True)
class NoSuchWay(InputError):
    """What is to be opened cannot be reached in this setting."""

    code: ClassVar[str] = "no_such_way"
    step: str
    posture: str

    def sentence(self) -> str:
        if self.posture == "stacked":
            return (
                f"“{self.step}” cannot be reached while a dryer stands on the machine: it comes off first, by two "
                "people, and a gas line is moved by a licensed fitter only."
            )
        return f"“{self.step}” cannot be reached on this machine."


class Ground:
    """The steps of one layout as they hold in one setting."""

    def __init__(self, repair: Repair, setting: Setting) -> None:
        self.setting = setting
        self.steps = {
            step_id: step
            for step_id, step in repair.steps_of(setting.layout).items()
            if step.only_in in (None, setting.posture) and setting.posture not in step.not_in
        }
        self._stands_in = {
            replaced: step.id for step in self.steps.values() if step.only_in for replaced in step.stands_for
        }
        self.tipped = frozenset(p.code for p in repair.postures.values() if p.tipped)

    def choices(self, need: Need) -> tuple[str, ...]:
        """Steps that answer a need here. Raises NoSuchWay where none does."""
        found = dict.fromkeys(self._stands_in.get(step, step) for step in need.steps)
        there = tuple(step for step in found if step in self.steps)
        if not there and not need.optional:
            raise NoSuchWay(step=need.steps[0], posture=self.setting.posture or "")
        return there

    def needs(self, step: Step) -> list[tuple[str, ...]]:
        """What must come before a step, each as its alternatives."""
        out = [self.choices(n) for n in step.needs if not n.optional and self.setting.holds(n.when)]
        return out if step.common else [*out, *((code,) for code in ALWAYS if code != step.id)]

    def wishes(self, step: Step) -> list[str]:
        """What comes before a step only if it is planned anyway."""
        return [s for n in step.needs if n.optional and self.setting.holds(n.when) for s in n.steps if s in self.steps]

    def is_tipping(self, step_id: str) -> bool:
        """Whether that step tips the machine."""
        return self.steps[step_id].posture in self.tipped


def smallest_closure(ground: Ground, goals: Iterable[Need]) -> frozenset[str]:
    """Steps that must be taken, as ids.

    Raises
    ------
    NoSuchWay
        A goal that the setting rules out.
    """
    groups = [ground.choices(goal) for goal in goals if ground.setting.holds(goal.when) and not goal.optional]
    best: tuple[tuple[int, float], frozenset[str]] | None = None
    stack: list[tuple[frozenset[str], tuple[tuple[str, ...], ...]]] = [(frozenset(), tuple(groups))]
    reason: NoSuchWay | None = None
    while stack:
        chosen, pending = stack.pop()
        try:
            closed, open_groups = _expand(ground, chosen, pending)
        except NoSuchWay as exc:
            reason = reason or exc
            continue
        cost = _cost(ground, closed)
        if best is not None and cost >= best[0]:
            continue
        if not open_groups:
            best = (cost, closed)
            continue
        first, *rest = open_groups
        # The first alternative is looked at first: ties go to the order in which the knowledge names them.
        stack.extend((closed | {choice}, ((choice,), *rest)) for choice in reversed(first))
    if best is None:
        raise reason or NoSuchWay(step="", posture=ground.setting.posture or "")
    return best[1]


def _expand(
    ground: Ground, chosen: frozenset[str], pending: Iterable[tuple[str, ...]]
) -> tuple[frozenset[str], list[tuple[str, ...]]]:
    """Everything that follows without a choice, and the choices that are left."""
    closed: set[str] = set()
    todo = list(chosen)
    groups = list(pending)
    while todo or groups:
        while todo:
            step_id = todo.pop()
            if step_id not in closed:
                closed.add(step_id)
                groups += ground.needs(ground.steps[step_id])
        single = [group[0] for group in groups if len(group) == 1]
        groups = [group for group in groups if len(group) > 1 and not closed & set(group)]
        todo = [step_id for step_id in single if step_id not in closed]
        if not todo:
            break
    return frozenset(closed), groups


def _cost(ground: Ground, closed: frozenset[str]) -> tuple[int, float]:
    tips = sum(ground.is_tipping(s) and ground.steps[s].posture != ground.setting.posture for s in closed)
    return tips, sum(minutes_of(ground.steps[s]) for s in closed)


def minutes_of(step: Step) -> float:
    """Minutes of a step, both ways, at all its places."""
    return (step.minutes_off + step.minutes_on) * step.times


def in_order(ground: Ground, closed: frozenset[str]) -> tuple[str, ...]:
    """The steps in an order in which they can be taken: what can be done standing first, then tipped, once.

    Among those that are possible next to each other those go first that are done in the same place as the last, then
    in the order of the knowledge.
    """
    waits = _waiting_for(ground, closed)
    rank = {step_id: k for k, step_id in enumerate(ground.steps)}
    done: list[str] = []
    left = set(closed)
    place = ""
    while left:
        ready = [s for s in left if _is_ready(waits[s], left)]
        if not ready:
            raise NoSuchWay(step=min(left), posture=ground.setting.posture or "")

        def key(step_id: str) -> tuple[bool, bool, bool, int]:
            step = ground.steps[step_id]
            return ground.is_tipping(step_id), not step.common, step.place != place, rank[step_id]  # noqa: B023

        following = min(ready, key=key)
        done.append(following)
        left.discard(following)
        place = ground.steps[following].place
    return tuple(done)


def _waiting_for(ground: Ground, closed: frozenset[str]) -> Mapping[str, list[tuple[str, ...]]]:
    waits: dict[str, list[tuple[str, ...]]] = {}
    for step_id in closed:
        step = ground.steps[step_id]
        groups = [tuple(s for s in group if s in closed) for group in ground.needs(step)]
        waits[step_id] = [*groups, *((wish,) for wish in ground.wishes(step) if wish in closed)]
    for step_id in closed:
        for later in ground.steps[step_id].before:
            if later in closed:
                waits[later].append((step_id,))
    return waits


def _is_ready(groups: list[tuple[str, ...]], left: set[str]) -> bool:
    return all(any(step not in left for step in group) for group in groups)
