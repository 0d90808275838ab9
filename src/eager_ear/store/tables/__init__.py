"""Tables of the store."""

from eager_ear.store.tables.base import Base, UtcDateTime, may_be_id
from eager_ear.store.tables.calls import CallRow, JobMeasurementRow, MeasurementRow
from eager_ear.store.tables.entries import EntryRow
from eager_ear.store.tables.files import AttachmentRow, ChunkRow, FileRow
from eager_ear.store.tables.jobs import JobRow, MachineRow
from eager_ear.store.tables.outcomes import OutcomeRow
from eager_ear.store.tables.people import AuditRow, InvitationRow, PersonRow, SignInRow
from eager_ear.store.tables.sheets import SheetRow
from eager_ear.store.tables.shop import PriceRow, ShopRow, ShownCodeRow, UsedPartRow

__all__ = [
    "AttachmentRow",
    "AuditRow",
    "Base",
    "CallRow",
    "ChunkRow",
    "EntryRow",
    "FileRow",
    "InvitationRow",
    "JobMeasurementRow",
    "JobRow",
    "MachineRow",
    "MeasurementRow",
    "OutcomeRow",
    "PersonRow",
    "PriceRow",
    "SheetRow",
    "ShopRow",
    "ShownCodeRow",
    "SignInRow",
    "UsedPartRow",
    "UtcDateTime",
    "may_be_id",
]
