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


def test_a_plan_is_printed_as_json_and_as_text() -> None:
    done = run("plan", "--layout", "front_belt", "--path", "bearings_pressed", "--people", "2", "--json")
    assert done.returncode == 0, done.stderr
    plan = json.loads(done.stdout)
    assert next(step["step"] for step in plan["off"]) == "baseline_saved"
    assert set(plan["minutes"]) == {"low", "high"}
    assert {"off", "fit", "on", "proofs", "tools", "van", "gates"} <= set(plan)
    assert all({"step", "minutes", "hazards"} <= set(step) for step in plan["off"])
    text = run("plan", "--layout", "top_coupler", "--path", "clutch_kit", "--path", "seals_column")
    assert text.returncode == 0
    assert "staged_fill" in text.stdout


def test_a_path_that_the_layout_does_not_have_exits_with_two_and_one_line() -> None:
    for words in (
        ("--layout", "top_coupler", "--path", "belt_rigid"),
        ("--layout", "top_coupler", "--path", "prayer"),
        ("--layout", "top_coupler", "--path", "clutch_kit", "--posture", "stacked"),
        ("--layout", "top_coupler", "--path", "clutch_kit", "--posture", "headstand"),
        ("--layout", "top_coupler", "--path", "clutch_kit", "--factor", "0"),
    ):
        done = run("plan", *words)
        assert (done.returncode, done.stdout) == (2, ""), words
        assert done.stderr.count("\n") == 1


def test_a_quote_prints_the_options_of_a_case_with_their_sums(tmp_path: Path) -> None:
    case = {
        "format": "eager-ear-case/1",
        "id": "hostel",
        "machine": {"layout": "top_coupler", "age_years": 5},
        "checks": [{"check": "coupler_look", "values": {"broken": True}}],
        "recordings": [],
    }
    (tmp_path / "case.json").write_text(json.dumps(case))
    done = run("quote", str(tmp_path))
    assert done.returncode == 0, done.stderr
    assert done.stdout.startswith("New coupler: ")
    assert "A new machine" in done.stdout
    offer = json.loads(run("quote", str(tmp_path), "--json").stdout)
    assert offer["proposed"] == "coupler_kit"
    assert run("quote", str(tmp_path / "none")).returncode == 2
