"""Routes, one noun a file."""

from eager_ear.web.routes.cases import router as cases
from eager_ear.web.routes.catalogue import router as catalogue
from eager_ear.web.routes.comparison import router as comparison
from eager_ear.web.routes.jobs import router as jobs
from eager_ear.web.routes.listening import router as listening
from eager_ear.web.routes.live import router as live
from eager_ear.web.routes.recordings import router as recordings

__all__ = ["cases", "catalogue", "comparison", "jobs", "listening", "live", "recordings"]
