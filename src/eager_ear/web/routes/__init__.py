"""Routes, one noun a file."""

from eager_ear.web.routes.attachments import router as attachments
from eager_ear.web.routes.bench import router as bench
from eager_ear.web.routes.cases import router as cases
from eager_ear.web.routes.catalogue import router as catalogue
from eager_ear.web.routes.changes import router as changes
from eager_ear.web.routes.comparison import router as comparison
from eager_ear.web.routes.faults import router as faults
from eager_ear.web.routes.guiding import router as guiding
from eager_ear.web.routes.hearing import router as hearing
from eager_ear.web.routes.jobs import router as jobs
from eager_ear.web.routes.judging import router as judging
from eager_ear.web.routes.listening import router as listening
from eager_ear.web.routes.live import router as live
from eager_ear.web.routes.machines import router as machines
from eager_ear.web.routes.noises import router as noises
from eager_ear.web.routes.papers import router as papers
from eager_ear.web.routes.people import door
from eager_ear.web.routes.people import router as people
from eager_ear.web.routes.record import router as record
from eager_ear.web.routes.repairing import router as repairing
from eager_ear.web.routes.shop import router as shop

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
