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
from eager_ear.use_cases.noises import HEARD_PHASES, example_fault


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
    growls = {phase: heard(api, "front_belt", "growl_in_spin", phase) for phase in HEARD_PHASES}
    for samples, rate in growls.values():
        assert samples.size == pytest.approx(4.0 * rate, rel=0.01)
        assert 0.1 < np.abs(samples).max() <= 0.72
    full, rate = growls["full_speed"]
    whine, _ = heard(api, "front_belt", "whine_in_spin", "full_speed")
    spectra = [np.abs(np.fft.rfft(s * np.hanning(s.size))) for s in (full, whine)]
    assert not np.allclose(spectra[0] / spectra[0].sum(), spectra[1] / spectra[1].sum(), rtol=0.1)


@pytest.mark.parametrize(
    "path",
    ["front_belt/growl_in_spin/wash", "front_belt/clothes_wet/ramp", "front_belt/roars/ramp", "none/squeal/ramp"],
)
def test_what_has_no_sound_is_told(api: httpx.Client, path: str) -> None:
    answer = api.get(f"/api/noises/{path}")
    assert (answer.status_code, answer.json()["code"]) == (422, "unknown_code")
