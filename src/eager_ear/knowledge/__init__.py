"""What the shop knows, as data: each entry with its reason.

The files are read here, once, and handed to the core, which checks them (`core/diagnosis/knowledge.py`).
"""

from __future__ import annotations

import hashlib
import tomllib
from functools import cache
from importlib import resources

from eager_ear.core.diagnosis.knowledge import Knowledge, knowledge_of
from eager_ear.core.repair import Repair, misfits, repair_of

EDITION = "2026.11"
FILES = ("faults.toml", "symptoms.toml", "checks.toml", "sound_findings.toml")
REPAIR_FILES = ("paths.toml", "parts.toml", "words.toml", "proofs.toml")


@cache
def load_knowledge() -> Knowledge:
    """What is weighed with. A code misspelt in any of its files is a ValueError here, not a wrong call later."""
    texts = {name: resources.files(__name__).joinpath(name).read_bytes() for name in FILES}
    digest = hashlib.sha256(b"".join(texts.values())).hexdigest()
    tables = {name.removesuffix(".toml"): tomllib.loads(text.decode()) for name, text in texts.items()}
    # With a checksum, so that a changed number is another version.
    return knowledge_of(tables, version=f"{EDITION}+{digest[:8]}")


@cache
def load_repair() -> Repair:
    """What is mended with. Whatever does not fit together in its files is a ValueError here, not a stuck plan later."""
    folder = resources.files(__name__).joinpath("repair")
    files = {name.removesuffix(".toml"): folder.joinpath(name) for name in REPAIR_FILES}
    files |= {f"steps/{f.name.removesuffix('.toml')}": f for f in folder.joinpath("steps").iterdir()}
    repair = repair_of({name: tomllib.loads(file.read_text("utf-8")) for name, file in files.items()})
    wrong = misfits(repair, faults={fault.code: fault.layouts for fault in load_knowledge().faults.values()})
    if wrong:
        raise ValueError("; ".join(wrong))
    return repair
