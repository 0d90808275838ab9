"""One job is one diary: entries that are never changed, and the pure functions that fold them."""

from eager_ear.core.visit.admission import (
    CLOCK_TOLERANCE,
    Draft,
    NotNow,
    SaidOtherwise,
    read_draft,
    require_admissible,
)
from eager_ear.core.visit.any_time import AnyTime
from eager_ear.core.visit.call import CallStation
from eager_ear.core.visit.cost import Cost
from eager_ear.core.visit.entry import Entry, in_force
from eager_ear.core.visit.hands import Hands
from eager_ear.core.visit.proof import Proof, Proved
from eager_ear.core.visit.said import Disagreement, Kind
from eager_ear.core.visit.spin import RecordingNoted, Spin, facts_of_body
from eager_ear.core.visit.story import Story, facts_of, machine_of
from eager_ear.core.visit.strip import Strip
from eager_ear.core.visit.visit import STATIONS, Visit, fold_machine, fold_visit, kinds_of
from eager_ear.core.visit.waiting import WAITS, WaitsFor, part_due, waits_for, words_of

__all__ = [
    "AnyTime",
    "CLOCK_TOLERANCE",
    "CallStation",
    "Cost",
    "Disagreement",
    "Draft",
    "Entry",
    "Hands",
    "Kind",
    "NotNow",
    "Proof",
    "Proved",
    "RecordingNoted",
    "STATIONS",
    "WAITS",
    "WaitsFor",
    "part_due",
    "waits_for",
    "words_of",
    "SaidOtherwise",
    "Spin",
    "Story",
    "Strip",
    "Visit",
    "facts_of",
    "facts_of_body",
    "fold_machine",
    "fold_visit",
    "in_force",
    "kinds_of",
    "machine_of",
    "read_draft",
    "require_admissible",
]
