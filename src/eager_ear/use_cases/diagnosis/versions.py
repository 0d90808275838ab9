"""Which code measured: the product's version and a checksum of everything that a measurement depends on."""

from __future__ import annotations

import hashlib
from functools import cache
from pathlib import Path

from eager_ear import __version__

PACKAGE = Path(__file__).resolve().parents[2]
MEASURES = (
    "casefile",
    "core/curves.py",
    "core/diagnosis/evidence/sound_findings.py",
    "core/figures.py",
    "core/machine",
    "core/measure.py",
    "core/signals",
    "core/units.py",
)


@cache
def code_version() -> str:
    """Such as `0.1.0+3fa9c2d1`: it changes when anything that measures does."""
    digest = hashlib.sha256()
    for name in MEASURES:
        path = PACKAGE / name
        files = sorted(p for p in path.rglob("*") if p.suffix == ".py") if path.is_dir() else [path]
        for file in files:
            digest.update(str(file.relative_to(PACKAGE)).encode())
            digest.update(file.read_bytes())
    return f"{__version__}+{digest.hexdigest()[:8]}"
