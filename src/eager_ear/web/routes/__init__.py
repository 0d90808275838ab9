"""Routes, one noun a file."""

from eager_ear.web.routes.diagnosis.catalogue import router as catalogue
from eager_ear.web.routes.diagnosis.comparison import router as comparison
from eager_ear.web.routes.diagnosis.faults import router as faults
from eager_ear.web.routes.diagnosis.judging import router as judging
from eager_ear.web.routes.hearing.hearing import router as hearing
from eager_ear.web.routes.hearing.listening import router as listening
from eager_ear.web.routes.hearing.live import router as live
from eager_ear.web.routes.repairs.bench import router as bench
from eager_ear.web.routes.repairs.guiding import router as guiding
from eager_ear.web.routes.repairs.papers import router as papers
from eager_ear.web.routes.repairs.repairing import router as repairing
from eager_ear.web.routes.shop.machines import router as machines
from eager_ear.web.routes.shop.people import door
from eager_ear.web.routes.shop.people import router as people
from eager_ear.web.routes.shop.record import router as record
from eager_ear.web.routes.shop.shop import router as shop
from eager_ear.web.routes.visits.attachments import router as attachments
from eager_ear.web.routes.visits.cases import router as cases
from eager_ear.web.routes.visits.changes import router as changes
from eager_ear.web.routes.visits.jobs import router as jobs
from eager_ear.web.routes.visits.noises import router as noises

__all__ = [
    "attachments",
    "bench",
    "cases",
    "catalogue",
    "changes",
    "comparison",
    "faults",
    "guiding",
    "hearing",
    "jobs",
    "judging",
    "listening",
    "live",
    "machines",
    "noises",
    "papers",
    "door",
    "people",
    "record",
    "repairing",
    "shop",
]
