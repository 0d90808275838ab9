"""From readings to a call: faults, findings, posterior, next check."""

from eager_ear.core.diagnosis.call import ACCESS_WORDS, Call, Suspect, leading_run, make_call, percent
from eager_ear.core.diagnosis.knowledge import Knowledge, load_knowledge

__all__ = ["ACCESS_WORDS", "Call", "Knowledge", "Suspect", "leading_run", "load_knowledge", "make_call", "percent"]
