"""Tables of the store."""

from eager_ear.store.tables.analyses import AnalysisRow
from eager_ear.store.tables.base import Base, UtcDateTime
from eager_ear.store.tables.jobs import JobRow, MachineRow
from eager_ear.store.tables.recordings import ChunkRow, RecordingRow

__all__ = ["AnalysisRow", "Base", "ChunkRow", "JobRow", "MachineRow", "RecordingRow", "UtcDateTime"]
