"""What a new station brings: kinds, fold, tag and page, each in a place of its own on every floor."""

from __future__ import annotations

import importlib
import re

import pytest

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.visit import STATIONS, Visit, kinds_of
from eager_ear.web.schemas.visits.jobs import JobOut
from tests.support import ROOT

FRONTEND = ROOT / "frontend" / "src" / "stations"
# Where a job's answer holds what the station folded.
SHOWN_AS = {"story": "told", "hands": "checks", "spin": "recordings", "call": "called"}


@pytest.mark.parametrize("station", STATIONS)
def test_a_station_has_its_kinds_and_its_fold_in_the_core(station: str, knowledge: Knowledge) -> None:
    module = importlib.import_module(f"eager_ear.core.visit.{station}")
    kinds = module.kinds(knowledge)
    assert kinds
    assert {kind.station for kind in kinds} == {station}
    assert callable(module.fold)
    assert station in Visit.__dataclass_fields__


@pytest.mark.parametrize("station", STATIONS)
def test_a_job_shows_what_the_station_folded(station: str) -> None:
    assert SHOWN_AS.get(station, station) in JobOut.model_fields


@pytest.mark.parametrize("station", STATIONS)
def test_a_station_has_its_tag_its_page_and_its_kinds_in_the_interface(station: str, knowledge: Knowledge) -> None:
    text = (FRONTEND / station / "station.ts").read_text()
    assert f'code: "{station}"' in text
    named = set(re.findall(r'"(\w+)"', text[text.index("kinds: [") : text.index("]", text.index("kinds: ["))]))
    assert named == {code for code, kind in kinds_of(knowledge).items() if kind.station == station}
    assert re.search(r"tag: \(", text)
    assert re.search(r"Page: \w+", text)
    assert f"./{station}/station" in (FRONTEND / "stations.ts").read_text()


def test_every_check_is_entered_with_a_widget_that_there_is(knowledge: Knowledge) -> None:
    text = (FRONTEND / "hands" / "widgets.ts").read_text()
    there = set(re.findall(r"^  (\w+): \w+,$", text, re.MULTILINE))
    assert {check.widget for check in knowledge.checks.values()} <= there
