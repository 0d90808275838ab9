"""What the shop knows, as data: each entry with its reason.

The files are read here, once, and handed to the core, which checks them (`core/diagnosis/knowledge.py`).
"""

from __future__ import annotations

import hashlib
import tomllib
from functools import cache
from importlib import resources

from eager_ear.core.diagnosis.knowledge import Knowledge, knowledge_of

EDITION = "2026.11"
FILES = ("faults.toml", "symptoms.toml", "checks.toml", "sound_findings.toml")


@cache
def load_knowledge() -> Knowledge:
    """All knowledge files. A code that is misspelt in any of them is a ValueError here, not a wrong call later."""
    texts = {name: resources.files(__name__).joinpath(name).read_bytes() for name in FILES}
    digest = hashlib.sha256(b"".join(texts.values())).hexdigest()
    tables = {name.removesuffix(".toml"): tomllib.loads(text.decode()) for name, text in texts.items()}
    # With a checksum, so that a changed number is another version.
    return knowledge_of(tables, version=f"{EDITION}+{digest[:8]}")
