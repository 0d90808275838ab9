"""Repositories: small and concrete; they flush, the unit of work commits."""

from eager_ear.store.repositories.analyses import Analyses
from eager_ear.store.repositories.jobs import Jobs
from eager_ear.store.repositories.recordings import Recordings

__all__ = ["Analyses", "Jobs", "Recordings"]
