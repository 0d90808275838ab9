"""The house's rules: who may import whom, no asserts on input, no addresses or paths of one machine."""

from __future__ import annotations

import ast
import re
from pathlib import Path

import pytest

from tests.support import ROOT

SOURCE = ROOT / "src" / "eager_ear"
FILES = sorted(SOURCE.rglob("*.py"))
FORBIDDEN = {
    "core": {"knowledge", "casefile", "store", "use_cases", "web", "host", "playback", "worker", "cli", "ids"},
    "knowledge": {"casefile", "store", "use_cases", "web", "host", "playback", "worker", "cli"},
    "casefile": {"knowledge", "store", "use_cases", "web", "host", "playback", "worker", "cli"},
    "store": {"knowledge", "casefile", "use_cases", "web", "host", "playback", "worker", "cli"},
    "use_cases": {"knowledge", "web", "host", "playback", "worker", "cli"},
    "web": {"host", "worker", "cli"},
}
OUTSIDE_OF_CORE = {
    "fastapi",
    "sqlalchemy",
    "pydantic",
    "soundfile",
    "importlib",
    "io",
    "os",
    "pathlib",
    "shutil",
    "tempfile",
    "tomllib",
    "time",
    "logging",
    "random",
}


def imported(path: Path) -> set[str]:
    names: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            names.add(node.module)
    return names


@pytest.mark.parametrize("part", sorted(FORBIDDEN))
def test_imports_never_go_back(part: str) -> None:
    for path in (SOURCE / part).rglob("*.py"):
        for name in imported(path):
            pieces = name.split(".")
            if pieces[0] == "eager_ear" and len(pieces) > 1:
                assert pieces[1] not in FORBIDDEN[part], f"{path} imports {name}"


def test_the_core_touches_no_file_clock_or_interface() -> None:
    for path in (SOURCE / "core").rglob("*"):
        assert path.is_dir() or path.suffix in (".py", ".pyc"), f"{path}: the core holds no data to be read"
    for path in (SOURCE / "core").rglob("*.py"):
        assert not {n.split(".")[0] for n in imported(path)} & OUTSIDE_OF_CORE, path
        called = [n.func for n in ast.walk(ast.parse(path.read_text())) if isinstance(n, ast.Call)]
        names = {f.id if isinstance(f, ast.Name) else getattr(f, "attr", "") for f in called}
        assert not names & {"open", "read_text", "read_bytes", "loadtxt", "fromfile", "load"}, path


def test_the_core_asks_no_clock() -> None:
    """Moments are handed in; only their arithmetic is the core's."""
    for path in (SOURCE / "core").rglob("*.py"):
        asked = {n.attr for n in ast.walk(ast.parse(path.read_text())) if isinstance(n, ast.Attribute)}
        assert not asked & {"now", "utcnow", "today", "fromtimestamp", "astimezone"}, path


def test_the_analysis_knows_nothing_of_the_simulator() -> None:
    for path in (SOURCE / "core").rglob("*.py"):
        if "simulate" not in path.relative_to(SOURCE).parts:
            assert not any("simulate" in name for name in imported(path)), path


def test_pydantic_lives_in_schemas_only() -> None:
    users = [p for p in FILES if any(n.split(".")[0] == "pydantic" for n in imported(p))]
    assert all(p.parent == SOURCE / "web" / "schemas" for p in users)


def test_input_is_never_checked_with_assert() -> None:
    for path in FILES:
        assert not any(isinstance(node, ast.Assert) for node in ast.walk(ast.parse(path.read_text()))), path


def test_no_lock_file_names_an_address() -> None:
    for name in ("requirements.lock", "requirements-dev.lock", "frontend/package-lock.json"):
        text = (ROOT / name).read_text()
        assert not re.search(r'"resolved"|--index-url|--extra-index|^https?://', text, re.MULTILINE), name


def test_modules_have_a_docstring() -> None:
    for path in FILES:
        assert ast.get_docstring(ast.parse(path.read_text())), path
