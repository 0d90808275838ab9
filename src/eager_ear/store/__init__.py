"""MariaDB through SQLAlchemy: rows to core types and back."""

from eager_ear.store.database import Database, migrate
from eager_ear.store.errors import NotFound, StoreError
from eager_ear.store.records import AnalysisRecord, AnalysisState, AnalysisSummary, JobRecord, RecordingRecord
from eager_ear.store.unit_of_work import UnitOfWork, in_unit

__all__ = [
    "AnalysisRecord",
    "AnalysisState",
    "AnalysisSummary",
    "Database",
    "JobRecord",
    "NotFound",
    "RecordingRecord",
    "StoreError",
    "UnitOfWork",
    "in_unit",
    "migrate",
]
