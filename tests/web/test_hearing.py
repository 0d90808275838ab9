"""Hand checks that a phone hears or feels: a plucked belt, a pushed tub."""

from __future__ import annotations

import base64
from typing import Any

import httpx
import numpy as np
import pytest

from tests.core.signals.drive.test_belt_pluck import RATE, plucked


def heard(hz: float) -> dict[str, Any]:
    samples = plucked(hz, np.random.default_rng(2)).samples
    return {"rate_hz": RATE, "samples": base64.b64encode((32767 * samples).astype("<i2").tobytes()).decode()}


def felt(damping: float, *, hz: float = 2.5, rate: float = 60.0) -> list[list[float]]:
    """A phone that lies on a tub which is pushed once, with jitter and gravity."""
    rng = np.random.default_rng(4)
    t_s = np.sort(np.arange(0.0, 8.0, 1.0 / rate) + rng.uniform(0, 0.002, int(8 * rate)))
    since = np.maximum(t_s - 1.0, 0.0)
    w = 2 * np.pi * hz
    swings = 4.0 * np.exp(-damping * w * since) * np.cos(w * since) * (since > 0)
    rows = np.stack([t_s, 0.1 * swings, 0.05 * swings, 9.81 + swings], axis=1)
    rows[:, 1:] += 0.01 * rng.standard_normal((t_s.size, 3))
    return [[float(v) for v in row] for row in rows]


def test_a_plucked_belt_is_heard(api: httpx.Client) -> None:
    told = api.post("/api/hear/pluck", json=heard(88.0))
    assert told.status_code == 200, told.text
    assert told.json()["hz"] == pytest.approx(88.0, rel=0.02)
    assert api.post("/api/hear/pluck", json={"rate_hz": 16_000, "samples": "???"}).json()["field"] == "samples"
    silence = {"rate_hz": 16_000, "samples": base64.b64encode(bytes(64_000)).decode()}
    refused = api.post("/api/hear/pluck", json=silence)
    assert (refused.status_code, refused.json()["code"]) == (422, "not_measurable")


@pytest.mark.parametrize("damping", [0.06, 0.12])
def test_a_pushed_tub_is_felt(api: httpx.Client, damping: float) -> None:
    told = api.post("/api/feel/bounce", json={"rows": felt(damping)})
    assert told.status_code == 200, told.text
    decay = told.json()["decay"]
    assert decay["damping_ratio"] == pytest.approx(damping, abs=0.02)
    assert decay["rate_hz"] == pytest.approx(2.5, rel=0.03)
    # Full swings until a twentieth is left, as a hand counts them: ln 20 / (2 pi zeta).
    assert told.json()["swings"] == pytest.approx(np.log(20) / (2 * np.pi * damping), rel=0.25)


def test_a_tub_that_nobody_pushed_is_told(api: httpx.Client) -> None:
    rows = [[k / 60.0, 0.0, 0.0, 9.81] for k in range(480)]
    assert api.post("/api/feel/bounce", json={"rows": rows}).status_code == 422
    assert api.post("/api/feel/bounce", json={"rows": rows[:10]}).status_code == 422
