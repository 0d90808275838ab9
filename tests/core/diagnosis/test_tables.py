"""Knowledge that does not fit together is refused when it is read, with a sentence that names what is wrong."""

from __future__ import annotations

import copy
import tomllib
from collections.abc import Callable
from typing import Any

import pytest

from eager_ear.core.case import HandCheck
from eager_ear.core.diagnosis import Knowledge, knowledge_of
from eager_ear.core.diagnosis.evidence import hand_readings
from tests.support import ROOT

FOLDER = ROOT / "src" / "eager_ear" / "knowledge"
Tables = dict[str, Any]

NEW_CHECK = """
[check.door_sag]
name = "Lift the open door"
widget = "millimetres"
place = "lid"
act = "lift"
access = "lid"
minutes = 1
layouts = "all"
how = "Door open, lift its free end: how far does it move in its hinge?"
findings = ["door_sag"]
values.sag_mm = { kind = "number", label = "Movement", unit = "mm", high = 60 }

[finding.door_sag]
name = "Door moves in its hinge"
reads = { value = "sag_mm", words = "door moves", error = 0.5 }
unit = "mm"
levels = ["firm", "loose"]
limits = [3.0]
spread = 0.5
calm = [0.9, 0.1]
given = { lid_switch = [0.6, 0.4] }
reason = "A door that hangs reaches its lock askew."
"""


@pytest.fixture(scope="module")
def shipped() -> Tables:
    return {path.stem: tomllib.loads(path.read_text()) for path in FOLDER.glob("*.toml")}


def read(tables: Tables, knowledge: Knowledge) -> Knowledge:
    return knowledge_of(tables, repair=knowledge.repair, version="tried")


def changed(shipped: Tables, change: Callable[[Tables], None]) -> Tables:
    tables = copy.deepcopy(shipped)
    change(tables["checks"])
    return tables


def test_a_new_check_is_a_few_lines(shipped: Tables, knowledge: Knowledge) -> None:
    tables = copy.deepcopy(shipped)
    for table, rows in tomllib.loads(NEW_CHECK).items():
        tables["checks"][table] |= rows
    grown = read(tables, knowledge)
    made = (HandCheck(check="door_sag", values={"sag_mm": 5.0}),)
    [reading] = hand_readings(made, findings=grown.findings, layout="front_belt")
    assert (reading.level, reading.value, reading.text) == ("loose", 5.0, "door moves 5 mm")
    assert hand_readings((HandCheck(check="door_sag", values={}),), findings=grown.findings) == []


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        (lambda t: t["check"]["rock"].update(widget="pad"), "check rock has an unknown widget pad; known are"),
        (lambda t: t["check"]["rock"].update(findings=["rocks"]), "check rock answers unknown findings"),
        (lambda t: t["finding"]["weight_loose"].pop("reads"), "does not tell what of the check counterweight it reads"),
        (lambda t: t["finding"]["weight_loose"]["reads"].update(value="firm"), "reads firm, which is no value"),
        (lambda t: t["finding"]["weight_loose"]["reads"].pop("bad"), "wants bad, good of the flag loose"),
        (lambda t: t["finding"]["lip_play"]["reads"].pop("error"), "wants error, words of the number play_mm"),
        (lambda t: t["finding"]["belt_state"].update(levels=["good", "off"]), "has other levels than the choices"),
        (
            lambda t: t["finding"]["rock_gap"].update(reads={"value": "gap_mm", "words": "gap", "error": 0.1}),
            "is computed from the numbers gap_mm",
        ),
    ],
)
def test_what_does_not_fit_is_refused_by_name(
    change: Callable[[Tables], None], sentence: str, shipped: Tables, knowledge: Knowledge
) -> None:
    with pytest.raises(ValueError, match=sentence):
        read(changed(shipped, change), knowledge)
