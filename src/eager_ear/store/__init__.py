"""MariaDB through SQLAlchemy: rows to core types and back."""

from eager_ear.store.database import Database, migrate
from eager_ear.store.errors import Conflict, Damaged, NotFound, StoreError
from eager_ear.store.file_reader import FileReader
from eager_ear.store.records import (
    AttachmentRecord,
    CallRecord,
    CallSummary,
    FileRecord,
    JobRecord,
    JobSummary,
    MachineRecord,
    MeasurementRecord,
    MeasuringState,
    PriceRecord,
)
from eager_ear.store.repositories import CHUNK_BYTES, Need
from eager_ear.store.unit_of_work import UnitOfWork, in_unit

__all__ = [
    "AttachmentRecord",
    "CHUNK_BYTES",
    "CallRecord",
    "CallSummary",
    "Conflict",
    "Damaged",
    "Database",
    "FileReader",
    "FileRecord",
    "JobRecord",
    "JobSummary",
    "MachineRecord",
    "MeasurementRecord",
    "MeasuringState",
    "Need",
    "NotFound",
    "PriceRecord",
    "StoreError",
    "UnitOfWork",
    "in_unit",
    "migrate",
]
