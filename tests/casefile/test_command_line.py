"""The command line program as another program would use it."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path


def run(*words: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([sys.executable, "-m", "eager_ear.cli", *words], capture_output=True, text=True, check=False)


def test_a_fault_that_the_layout_cannot_have_is_not_simulated(tmp_path: Path) -> None:
    refused = run("simulate", "--layout", "top_coupler", "--fault", "spider", "--seed", "1", str(tmp_path / "case"))
    assert refused.returncode == 2
    assert "does not occur in layout top_coupler" in refused.stderr
    assert not (tmp_path / "case").exists()


def test_simulate_then_diagnose_prints_only_json(tmp_path: Path) -> None:
    made = run("simulate", "--layout", "front_belt", "--fault", "drum_bearing", "--seed", "7", str(tmp_path / "case"))
    assert made.returncode == 0
    assert made.stdout == ""
    truth = json.loads((tmp_path / "case" / "truth.json").read_text())
    assert truth["faults"] == ["drum_bearing"]
    done = run("diagnose", str(tmp_path / "case"), "--json")
    assert done.returncode == 0
    assert json.loads(done.stdout)["suspects"][0]["fault"] == "drum_bearing"


def test_a_case_that_cannot_be_read_exits_with_two_and_one_line(tmp_path: Path) -> None:
    (tmp_path / "case.json").write_text('{"format": "eager-ear-case/1", "machine": {"layout": "nope"}}')
    done = run("diagnose", str(tmp_path), "--json")
    assert (done.returncode, done.stdout) == (2, "")
    assert done.stderr.count("\n") == 1
    assert done.stderr.startswith("case.json: machine.layout")
    assert run("diagnose", str(tmp_path / "none")).returncode == 2
