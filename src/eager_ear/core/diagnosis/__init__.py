"""From readings to a call: faults, findings, posterior, next check."""

from eager_ear.core.diagnosis.call import ACCESS_WORDS, Call, Suspect, leading_run, make_call, percent
from eager_ear.core.diagnosis.from_tables import knowledge_of
from eager_ear.core.diagnosis.knowledge import Knowledge

__all__ = ["ACCESS_WORDS", "Call", "Knowledge", "Suspect", "leading_run", "knowledge_of", "make_call", "percent"]
