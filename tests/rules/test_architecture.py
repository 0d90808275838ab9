"""The house's rules: who may import whom, no asserts on input, no addresses or paths of one machine."""

from __future__ import annotations

import ast
import functools
import importlib
import re
import subprocess
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


@functools.cache
def tree(path: Path) -> ast.Module:
    return ast.parse(path.read_text())


def imported(path: Path) -> set[str]:
    names: set[str] = set()
    for node in ast.walk(tree(path)):
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
        called = [n.func for n in ast.walk(tree(path)) if isinstance(n, ast.Call)]
        names = {f.id if isinstance(f, ast.Name) else getattr(f, "attr", "") for f in called}
        assert not names & {"open", "read_text", "read_bytes", "loadtxt", "fromfile", "load"}, path


def test_the_core_asks_no_clock() -> None:
    """Moments are handed in; only their arithmetic is the core's."""
    for path in (SOURCE / "core").rglob("*.py"):
        asked = {n.attr for n in ast.walk(tree(path)) if isinstance(n, ast.Attribute)}
        assert not asked & {"now", "utcnow", "today", "fromtimestamp", "astimezone"}, path


def test_the_analysis_knows_nothing_of_the_simulator() -> None:
    for path in (SOURCE / "core").rglob("*.py"):
        if "simulate" not in path.relative_to(SOURCE).parts:
            assert not any("simulate" in name for name in imported(path)), path


WINGS = ("dsp", "angle", "recordings", "speed", "impacts", "mechanics", "drive", "sound")
INNER_WINGS = ("search", "refine", "resonance")


def test_wings_of_the_measuring_core_are_entered_by_their_doors_and_one_way() -> None:
    signals = SOURCE / "core" / "signals"
    assert {p.name for p in signals.iterdir() if (p / "__init__.py").exists()} == set(WINGS)
    for path in FILES:
        own = path.relative_to(signals).parts if path.is_relative_to(signals) else ()
        for name in imported(path):
            wing, *inside = name.removeprefix("eager_ear.core.signals.").split(".")
            if not name.startswith("eager_ear.core.signals.") or wing not in WINGS:
                continue
            if own[:1] != (wing,):
                assert not inside, f"{path} enters {wing} beside its door: {name}"
                assert len(own) < 2 or WINGS.index(wing) < WINGS.index(own[0]), f"{path} imports {name}"
            elif own[1:2] and own[1] in INNER_WINGS and inside[0] in INNER_WINGS:
                assert INNER_WINGS.index(inside[0]) <= INNER_WINGS.index(own[1]), f"{path} imports {name}"


@pytest.mark.parametrize("wing", WINGS)
def test_a_wing_holds_few_files_and_its_door_lists_what_is_used(wing: str) -> None:
    folder = SOURCE / "core" / "signals" / wing
    for part in (folder, *(folder / name for name in INNER_WINGS if (folder / name).is_dir())):
        assert len([p for p in part.glob("*.py") if p.name != "__init__.py"]) <= 9, part
    module = importlib.import_module(f"eager_ear.core.signals.{wing}")
    used = set()
    for path in FILES:
        for node in ast.walk(tree(path)):
            if isinstance(node, ast.ImportFrom) and node.module == f"eager_ear.core.signals.{wing}":
                used |= {alias.name for alias in node.names}
    assert set(module.__all__) == used
    assert all(hasattr(module, name) for name in module.__all__)


def test_numerics_are_loaded_by_whoever_computes() -> None:
    """Parts of scipy take a second to load, and are loaded when first used: `import scipy`, then `scipy.signal`."""
    for path in FILES:
        froms = {node.module for node in ast.walk(tree(path)) if isinstance(node, ast.ImportFrom)}
        assert not any(name.startswith("scipy.") for name in imported(path)), path
        assert "scipy" not in froms, path


def test_pydantic_lives_in_schemas_only() -> None:
    users = [p for p in FILES if any(n.split(".")[0] == "pydantic" for n in imported(p))]
    assert all(p.is_relative_to(SOURCE / "web" / "schemas") for p in users)


def test_input_is_never_checked_with_assert() -> None:
    for path in FILES:
        assert not any(isinstance(node, ast.Assert) for node in ast.walk(tree(path))), path


def test_no_lock_file_names_an_address() -> None:
    for name in ("requirements.lock", "requirements-dev.lock", "frontend/package-lock.json"):
        text = (ROOT / name).read_text()
        assert not re.search(r'"resolved"|--index-url|--extra-index|^https?://', text, re.MULTILINE), name


@pytest.mark.skipif(not (ROOT / ".git").exists(), reason="what is tracked is only known in a checkout")
def test_no_cache_is_kept() -> None:
    """Caches hold paths of the machine that made them: what is ignored is not tracked, and each cache is ignored."""
    listed = subprocess.run(["git", "ls-files"], cwd=ROOT, capture_output=True, text=True, check=True).stdout.split(
        "\n"
    )
    kept = [name for name in listed if re.search(r"cache$|_cache/|\.tsbuildinfo$|\.py[co]$", name)]
    assert kept == []
    ignored = ["git", "ls-files", "--cached", "--ignored", "--exclude-standard"]
    assert subprocess.run(ignored, cwd=ROOT, capture_output=True, text=True, check=True).stdout == ""


def test_modules_have_a_docstring() -> None:
    for path in FILES:
        assert ast.get_docstring(tree(path)), path


def _is_number(value: ast.expr) -> bool:
    return any(isinstance(n, ast.Constant) and isinstance(n.value, int | float) for n in ast.walk(value))


@pytest.mark.parametrize("part", ["core/signals"])
def test_every_number_of_the_measuring_has_its_reason(part: str) -> None:
    bare: list[str] = []
    for path in sorted((SOURCE / part).rglob("*.py")):
        lines = path.read_text().splitlines()
        # Numbers that stand directly below one with a reason share it.
        shared_from = 0
        for node in tree(path).body:
            named = isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name)
            if not (named and node.targets[0].id.isupper() and _is_number(node.value)):
                continue
            told = lines[node.lineno - 2].startswith("#") or any(
                "# " in line for line in lines[node.lineno - 1 : node.end_lineno]
            )
            if not told and node.lineno != shared_from:
                bare.append(f"{path.relative_to(SOURCE)}:{node.lineno} {lines[node.lineno - 1]}")
            shared_from = (node.end_lineno or node.lineno) + 1
    assert bare == []
