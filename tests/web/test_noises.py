"""Examples of noises: what is heard on which layout, and that what differs is what is wrong."""

from __future__ import annotations

import io

import httpx
import numpy as np
import pytest
import soundfile

from eager_ear.core.diagnosis import Knowledge
from eager_ear.core.machine import LAYOUTS
from eager_ear.core.units import FloatArray
from eager_ear.use_cases.visits.noises import example_fault, heard_phases


def heard(api: httpx.Client, layout: str, symptom: str, phase: str) -> tuple[FloatArray, int]:
    answer = api.get(f"/api/noises/{layout}/{symptom}/{phase}")
    assert answer.status_code == 200, answer.text
    samples, rate = soundfile.read(io.BytesIO(answer.content))
    return samples, int(rate)


def test_every_layout_has_noises_to_point_at(knowledge: Knowledge) -> None:
    for layout in LAYOUTS:
        found = {s.code for s in knowledge.symptoms.values() if example_fault(s, layout=layout, knowledge=knowledge)}
        assert {"growl_in_spin", "thump_in_spin", "scrape_or_tick"} <= found
    assert example_fault(knowledge.symptoms["clothes_wet"], layout="top_coupler", knowledge=knowledge) is None


def test_the_phases_of_one_machine_are_heard_and_a_growl_is_no_whine(api: httpx.Client) -> None:
    growls = {phase: heard(api, "front_belt", "growl_in_spin", phase) for phase in heard_phases("front_belt")}
    for samples, rate in growls.values():
        assert samples.size == pytest.approx(4.0 * rate, rel=0.01)
        assert 0.1 < np.abs(samples).max() <= 0.72
    full, rate = growls["full_speed"]
    whine, _ = heard(api, "front_belt", "whine_in_spin", "full_speed")
    spectra = [np.abs(np.fft.rfft(s * np.hanning(s.size))) for s in (full, whine)]
    assert not np.allclose(spectra[0] / spectra[0].sum(), spectra[1] / spectra[1].sum(), rtol=0.1)


@pytest.mark.parametrize(
    "path",
    [
        "top_coupler/growl_in_spin/drain",
        "front_belt/growl_in_spin/fill",
        "front_belt/clothes_wet/ramp",
        "front_belt/roars/ramp",
        "none/squeal/ramp",
    ],
)
def test_what_has_no_sound_is_told(api: httpx.Client, path: str) -> None:
    answer = api.get(f"/api/noises/{path}")
    assert (answer.status_code, answer.json()["code"]) == (422, "unknown_code")


def test_a_fault_is_heard_at_each_stage_and_told_apart(api: httpx.Client) -> None:
    page = api.get("/api/faults/front_belt/drum_bearing").json()
    assert page["sounds"] is True
    assert page["place"]
    assert page["mended"][0]["least_min"] < page["mended"][0]["most_min"]
    assert any(sign["finding"] == "race_lines" for sign in page["signs"])
    heard = api.get("/api/faults/front_belt/drum_bearing/heard/far_gone/full_speed")
    assert (heard.status_code, heard.headers["content-type"]) == (200, "audio/wav")
    apart = api.get("/api/faults/front_belt/spider/apart/drum_bearing").json()["separators"]
    assert apart[0]["one"] != apart[0]["other"]
    for path in (
        "front_belt/clutch",
        "boat/spider",
        "front_belt/spider/apart/clutch",
        "front_belt/spider/heard/ancient/full_speed",
        "front_belt/spider/heard/begun/fill",
        "front_belt/lid_switch/heard/begun/full_speed",
    ):
        assert api.get(f"/api/faults/{path}").status_code == 422, path
