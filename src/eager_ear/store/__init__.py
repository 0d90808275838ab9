"""MariaDB through SQLAlchemy: rows to core types and back."""

from eager_ear.store.database import Database, migrate
from eager_ear.store.errors import Conflict, Damaged, NotFound, StoreError
from eager_ear.store.file_reader import FileReader
from eager_ear.store.records import (
    AttachmentRecord,
    AuditRecord,
    CallRecord,
    CallSummary,
    FileRecord,
    JobRecord,
    JobSummary,
    MachineRecord,
    MeasurementRecord,
    MeasuringState,
    PersonRecord,
    PriceRecord,
    SheetRecord,
    ShownCodeRecord,
    SignInRecord,
    UsedPartRecord,
)
from eager_ear.store.repositories import CHUNK_BYTES, Need
from eager_ear.store.unit_of_work import UnitOfWork, in_unit

__all__ = [
    "AttachmentRecord",
    "AuditRecord",
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
    "PersonRecord",
    "PriceRecord",
    "SheetRecord",
    "ShownCodeRecord",
    "SignInRecord",
    "UsedPartRecord",
    "StoreError",
    "UnitOfWork",
    "in_unit",
    "migrate",
]
