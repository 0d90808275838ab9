"""From readings to a call: faults, findings, posterior, next check."""

from eager_ear.core.diagnosis.call import ACCESS_WORDS, Call, Suspect, leading_run, make_call
from eager_ear.core.diagnosis.evidence import ENERGISED
from eager_ear.core.diagnosis.from_tables import knowledge_of
from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.diagnosis.next_check import BETWEEN_CHECKS_MIN

__all__ = [
    "ACCESS_WORDS",
    "BETWEEN_CHECKS_MIN",
    "Call",
    "ENERGISED",
    "Knowledge",
    "Suspect",
    "knowledge_of",
    "leading_run",
    "make_call",
]
