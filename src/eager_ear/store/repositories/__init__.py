"""Repositories: small and concrete, they flush and never commit."""

from eager_ear.store.repositories.attachments import Attachments
from eager_ear.store.repositories.calls import Calls
from eager_ear.store.repositories.entries import Entries
from eager_ear.store.repositories.files import CHUNK_BYTES, Files
from eager_ear.store.repositories.jobs import Jobs
from eager_ear.store.repositories.machines import Machines
from eager_ear.store.repositories.measurements import Measurements, Need
from eager_ear.store.repositories.outcomes import Outcomes
from eager_ear.store.repositories.people import People
from eager_ear.store.repositories.sheets import Sheets
from eager_ear.store.repositories.shop import Shops
from eager_ear.store.repositories.used_parts import UsedParts

__all__ = [
    "Attachments",
    "CHUNK_BYTES",
    "Calls",
    "Entries",
    "Files",
    "Jobs",
    "Machines",
    "Measurements",
    "Need",
    "Outcomes",
    "People",
    "Sheets",
    "Shops",
    "UsedParts",
]
