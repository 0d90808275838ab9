"""Logs as lines of JSON: one event a line, with its moment, its level, and whose request it belongs to.

They go into a file of their own for each process, turned over when it is full; without a folder, warnings go to the
standard error. What somebody typed, looked for or is called stands in none of them.
"""

from __future__ import annotations

import logging
import logging.handlers
import os
import sys
from pathlib import Path
from typing import Any

import structlog

FOLDER = "EAGER_EAR_LOGS"
FILE_BYTES, FILES = 5_000_000, 4
SHARED: list[Any] = [
    structlog.contextvars.merge_contextvars,
    structlog.stdlib.add_logger_name,
    structlog.stdlib.add_log_level,
    structlog.processors.TimeStamper(fmt="iso", utc=True, key="at"),
    structlog.processors.format_exc_info,
]


def set_up(name: str) -> None:
    """Log as that process from now on, whether through structlog or the standard library."""
    folder = os.environ.get(FOLDER, "")
    handler: logging.Handler
    if folder:
        Path(folder).mkdir(parents=True, exist_ok=True)
        handler = logging.handlers.RotatingFileHandler(
            Path(folder) / f"{name}.jsonl", maxBytes=FILE_BYTES, backupCount=FILES, encoding="utf-8"
        )
    else:
        handler = logging.StreamHandler(sys.stderr)
        handler.setLevel(logging.WARNING)
    handler.setFormatter(
        structlog.stdlib.ProcessorFormatter(
            foreign_pre_chain=SHARED,
            processors=[
                structlog.stdlib.ProcessorFormatter.remove_processors_meta,
                structlog.processors.JSONRenderer(ensure_ascii=False),
            ],
        )
    )
    # What a request failed by is logged once, under its number.
    logging.getLogger("uvicorn.error").addFilter(lambda record: "ASGI application" not in record.getMessage())
    root = logging.getLogger()
    root.handlers, root.level = [handler], logging.INFO
    structlog.configure(
        processors=[*SHARED, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
        cache_logger_on_first_use=True,
    )
