"""What a step needs before it: a small notation, and what of it holds on one machine in one room.

`a` that step · `a/b` either one · `a?` only where it is planned anyway · `condition:a` only where the condition holds.
A condition is a layout, `alone` (nobody helps), a posture, or a variant of the machine.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from eager_ear.core.machine import LAYOUT_CODES

# Ways in which machines of one layout differ and which decide what comes off. The first of each is taken unless told.
VARIANTS = {
    "exit": ("exit_front", "exit_top", "exit_rear"),
    "panel": ("hidden_clips", "panel_bolted"),
    "seam": ("screwed", "tabs"),
}
_NEED = re.compile(r"(?:(?P<when>[a-z_]+):)?(?P<ids>[a-z_0-9]+(?:/[a-z_0-9]+)*)(?P<optional>\?)?")


@dataclass(frozen=True, kw_only=True)
class Need:
    """One of `steps`; where `optional`, only if it is planned anyway; where `when` is told, only if that holds."""

    steps: tuple[str, ...]
    when: str | None = None
    optional: bool = False


def read_need(text: str) -> Need:
    """One need as it is written.

    Raises
    ------
    ValueError
        It is not written in this notation.

    >>> read_need("alone:front_weight_off").when
    'alone'
    >>> read_need("front_off/back_off").steps
    ('front_off', 'back_off')
    """
    match = _NEED.fullmatch(text)
    if match is None:
        raise ValueError(f"“{text}” is no need of a step")
    return Need(steps=tuple(match["ids"].split("/")), when=match["when"], optional=match["optional"] is not None)


@dataclass(frozen=True, kw_only=True)
class Setting:
    """One machine in one room: what decides between the ways to a part.

    posture : how the machine is to stand, as far as the work allows; "stacked" where a dryer stays on top of it
    variants : codes of `VARIANTS`, at most one of each group
    wanted : steps and proofs that are left out unless somebody wants them
    """

    layout: str
    people: int = 1
    posture: str | None = None
    variants: frozenset[str] = frozenset()
    wanted: frozenset[str] = frozenset()

    def holds(self, condition: str | None) -> bool:
        """Whether a condition holds here. Raises ValueError for one that is not known."""
        if condition is None:
            return True
        if condition in LAYOUT_CODES:
            return condition == self.layout
        if condition == "alone":
            return self.people < 2
        if condition == "stacked":
            return self.posture == "stacked"
        for group in VARIANTS.values():
            if condition in group:
                told = self.variants & set(group)
                return condition in told if told else condition == group[0]
        raise ValueError(f"“{condition}” is no condition")
