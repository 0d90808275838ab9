"""What the shop knows, as data: each entry with its reason.

The files are read here, once, and handed to the core, which checks them (`core/diagnosis/knowledge.py`).
"""

from __future__ import annotations

import hashlib
import tomllib
from collections.abc import Mapping
from functools import cache
from importlib import resources
from typing import Any

import numpy as np

from eager_ear.core.diagnosis.counts import Counts, with_columns, with_shares
from eager_ear.core.diagnosis.from_tables import knowledge_of
from eager_ear.core.diagnosis.knowledge import Knowledge
from eager_ear.core.repair import Repair, repair_of

EDITION = "2026.11"
FILES = (
    "faults.toml",
    "symptoms.toml",
    "checks.toml",
    "looks.toml",
    "sound_findings.toml",
    "stages.toml",
    "heard.toml",
)
WORDS_FILE = "figures.toml"
REPAIR_FILES = ("paths.toml", "parts.toml", "words.toml", "proofs.toml", "guides.toml", "stock.toml")


@cache
def load_knowledge() -> Knowledge:
    """All knowledge files. A code that is misspelt in any of them is a ValueError here, not a wrong call later."""
    texts = {name: resources.files(__name__).joinpath(name).read_bytes() for name in FILES}
    digest = hashlib.sha256(b"".join(texts.values())).hexdigest()
    tables = {name.removesuffix(".toml"): tomllib.loads(text.decode()) for name, text in texts.items()}
    # Words only: another word is no other knowledge.
    words = resources.files(__name__).joinpath(WORDS_FILE).read_text("utf-8")
    tables["figures"] = tomllib.loads(words)
    # With a checksum of what is weighed with, so that a changed number is another version.
    told = knowledge_of(tables, repair=_load_repair(), version=f"{EDITION}+{digest[:8]}")
    learnt = tables["sound_findings"]["learnt"]
    heard = _heard(tables["heard"])
    sharpened = with_columns(told, heard, weight=float(learnt["weight"]), doubt=float(learnt["doubt"]), ties=True)
    return with_shares(sharpened, heard)


def _heard(table: Mapping[str, Any]) -> Counts:
    return Counts(
        levels={
            finding: {fault: np.array(levels, dtype=float) for fault, levels in by_fault.items()}
            for finding, by_fault in table.get("levels", {}).items()
        }
    )


def _load_repair() -> Repair:
    folder = resources.files(__name__).joinpath("repair")
    files = {name.removesuffix(".toml"): folder.joinpath(name) for name in REPAIR_FILES}
    files |= {f"steps/{f.name.removesuffix('.toml')}": f for f in folder.joinpath("steps").iterdir()}
    return repair_of({name: tomllib.loads(file.read_text("utf-8")) for name, file in files.items()})
