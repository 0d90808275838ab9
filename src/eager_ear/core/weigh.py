"""Story, hands and what the recordings show, weighed into a call. No signal is looked at."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from eager_ear.core.case import Case
from eager_ear.core.cost import Shop
from eager_ear.core.diagnosis.call import Call, leading_run, make_call
from eager_ear.core.diagnosis.evidence import Reading, Shown
from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.errors import NotMeasurable
from eager_ear.core.other_tests import OtherTest, other_tests
from eager_ear.core.signals.mechanics import CORNER_OF_POSITION, BounceDecay, CornerComparison, compare_corners
from eager_ear.core.signals.recordings import Warning
from eager_ear.core.signals.sound import LEAST_ABOVE_ROOM_DB, above_room_db


@dataclass(frozen=True, kw_only=True)
class Weighed:
    """What was concluded, and of what.

    lead : the spin whose figures stand for the case; spins : all of them; bounces : what recorded pushes showed
    corners : the corners compared, when the spin was recorded at several
    others : what recordings beside the spins show
    """

    case: Case
    call: Call
    spins: tuple[Shown, ...]
    lead: Shown | None
    warnings: tuple[Warning, ...]
    bounces: tuple[BounceDecay, ...]
    corners: CornerComparison | None
    others: tuple[OtherTest, ...] = ()


def weigh(
    case: Case,
    *,
    shown: Sequence[Shown],
    knowledge: Knowledge,
    set_aside: Collection[str] = (),
    shop: Shop | None = None,
    assumed: Sequence[Reading] = (),
) -> Weighed:
    """Make the call.

    Parameters
    ----------
    case : its recordings are not looked at, only what they were found to show
    set_aside : codes of findings that the technician does not believe
    shop : in whose money a wrong teardown is counted; the usual one where none is told
    assumed : readings that were not made, to see what would follow
    """
    warnings = [w for s in shown if s.test != "spin" for w in s.warnings]
    spins = tuple(s for s in shown if s.test == "spin")
    bounces = tuple(b for s in shown for b in s.bounces)
    lead = leading_run(spins)
    if lead is not None and lead.bands is not None:
        warnings += _too_near_the_room(lead, shown)
    corners = _corners(spins, warnings)
    call = make_call(
        case,
        shown=shown,
        bounces=bounces,
        corners=corners,
        knowledge=knowledge,
        set_aside=set_aside,
        shop=shop,
        assumed=assumed,
    )
    if any(r.finding.code == "steady_hum" for r in call.readings):
        warnings.append(
            Warning(
                code="hum_all_through",
                message="The hum is there from beginning to end and may be the room's: begin the recording before the "
                "machine is switched on, or record the room with the machine off.",
            )
        )
    warnings += [w for s in spins for w in s.warnings]
    if lead is not None and lead.load not in (None, "empty"):
        warnings.append(
            Warning(code="loaded", message="The drum was not empty: a load shakes a sound machine as well.")
        )
    return Weighed(
        case=case,
        call=call,
        spins=spins,
        lead=lead,
        warnings=tuple(warnings) + call.warnings,
        bounces=bounces,
        corners=corners,
        others=other_tests([s for s in shown if s.test != "spin"], lead=lead, findings=knowledge.findings),
    )


def _corners(spins: Sequence[Shown], warnings: list[Warning]) -> CornerComparison | None:
    """The corners compared; why not, when at least two were meant to be."""
    try:
        return compare_corners(spins)
    except NotMeasurable as reason:
        if len({s.position for s in spins if s.position in CORNER_OF_POSITION}) >= 2:
            warnings.append(Warning(code="not_measured", message=f"The corners: {reason.reason}"))
        return None


def _too_near_the_room(lead: Shown, shown: Sequence[Shown]) -> list[Warning]:
    """Warn where the spin hardly rises above the recorded room in the bands that matter."""
    out: list[Warning] = []
    for room in (room for s in shown for room in s.rooms):
        if lead.bands is None:
            continue
        low = above_room_db(lead.bands, room.bands) < LEAST_ABOVE_ROOM_DB
        if low.mean() > 0.5:
            out.append(
                Warning(
                    code="room_too_loud",
                    recording=room.recording,
                    message=f"In {low.sum()} of {low.size} third-octave bands the spin is less than "
                    f"{LEAST_ABOVE_ROOM_DB:.0f} dB above the room: go nearer to the machine.",
                )
            )
    return out
