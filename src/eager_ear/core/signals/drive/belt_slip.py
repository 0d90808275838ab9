"""Slip of the belt: the motor's speed by its own tones, against the drum's."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from eager_ear.core.errors import NotMeasurable
from eager_ear.core.signals.angle import SpeedTrack
from eager_ear.core.signals.dsp import (
    LowBand,
    Spectrogram,
    noise_floor,
    peak_centre,
    short_time_power,
)
from eager_ear.core.signals.speed import Phases
from eager_ear.core.units import FloatArray

# From as far below none as a ratio may be read wrong, to a belt that hardly grips.
SLIP_RANGE = (-0.012, 0.25)
# Finer than a plateau's spectrum can tell apart.
SLIP_STEP = 0.0005
# Slots, poles and commutator bars of small motors make tones anywhere up to this multiple of its rate.
HIGHEST_MULTIPLE = 48
TONES_COUNTED = 4
TONE_CAP_NATS = 3.0
TONE_THRESHOLD_NATS = 0.5
SHORTEST_PLATEAU_S = 3.0
# The best comb must show two clear tones at least, and beat every slip that differs by more than one percent by one
# tone's worth: a single foreign line fits some multiple at almost any slip.
LEAST_COMB_NATS = 3.0
LEAST_MARGIN_NATS = 1.0
BESIDE = 0.01


@dataclass(frozen=True, kw_only=True)
class SlipMeasurement:
    """Belt slip 1 - w_drum·ratio/w_motor [%], its standard error, and the motor's rate."""

    slip_pct: float
    sigma_pct: float
    motor_hz: float
    score: float


def measure_slip(low: LowBand, *, track: SpeedTrack, phases: Phases, pulley_ratio: float) -> SlipMeasurement:
    """Motor speed on the plateau from its own tones, against the drum's.

    The plateau's mean spectrum is read by a comb over multiples of the motor's rate for every slip in question; the
    best slip must beat every slip further than one percent away. A ratio read off worn pulleys is good to about half a
    percent, which goes into the error.

    Raises
    ------
    NotMeasurable
        No plateau of three seconds, no independent drum speed, or no motor tones.
    """
    if track.source == "audio":
        raise NotMeasurable(quantity="belt slip", reason="the drum's speed itself was taken from the motor's sound.")
    spans = [s for s in phases.spans("plateau") if s[1] - s[0] >= SHORTEST_PLATEAU_S]
    if not spans:
        raise NotMeasurable(quantity="belt slip", reason="no steady full speed of three seconds was recorded.")
    begin, end = max(spans, key=lambda s: float(np.nanmedian(track.at(np.linspace(s[0], s[1], 9)))))
    rate = low.rate_hz
    first = max(0, int((begin - low.start_s) * rate))
    part = low.samples[first : max(0, int((end - low.start_s) * rate))]
    spectrum = short_time_power(part, sample_rate_hz=rate, frame_s=0.8, hop_s=0.2)
    drum_hz = track.at(spectrum.t_s + low.start_s + first / rate)
    lines = _plateau_lines(spectrum, drum_hz)
    slips = np.arange(SLIP_RANGE[0], SLIP_RANGE[1], SLIP_STEP)
    middle_hz = float(np.nanmedian(drum_hz))
    score = _motor_comb(lines, bin_hz=spectrum.bin_hz, motor_hz=pulley_ratio * middle_hz / (1.0 - slips))
    best = int(np.argmax(score))
    elsewhere = np.abs(slips - slips[best]) > BESIDE
    margin = float(score[best] - score[elsewhere].max())
    if score[best] < LEAST_COMB_NATS or margin < LEAST_MARGIN_NATS:
        raise NotMeasurable(quantity="belt slip", reason="the motor's tones do not stand out of the noise.")
    near = slice(max(0, best - 6), best + 7)
    slip = float(peak_centre(score[near], slips[near], above=0.6 * score[best]))
    resolution = spectrum.bin_hz / (2.0 * pulley_ratio * middle_hz)
    return SlipMeasurement(
        slip_pct=100.0 * slip,
        sigma_pct=100.0 * float(np.hypot(0.3 * resolution, 0.005)),
        motor_hz=pulley_ratio * middle_hz / (1.0 - slip),
        score=margin,
    )


def _motor_comb(lines: FloatArray, *, bin_hz: float, motor_hz: FloatArray) -> FloatArray:
    """Sum of the strongest tones at whole multiples of each motor rate [shape like motor_hz, nats]."""
    multiples = np.arange(1, HIGHEST_MULTIPLE + 1)
    index = np.rint(multiples[:, None] * motor_hz / bin_hz).astype(int)
    inside = index < lines.size
    tones = np.where(inside, lines[np.where(inside, index, 0)] - TONE_THRESHOLD_NATS, 0.0)
    tones = np.clip(tones, 0.0, TONE_CAP_NATS)
    return np.asarray(np.sort(tones, axis=0)[-TONES_COUNTED:].sum(axis=0))


def _plateau_lines(spectrum: Spectrogram, drum_hz: FloatArray) -> FloatArray:
    """Mean line strength over the plateau's frames, each shifted to the median drum speed [shape=(bins,), nats]."""
    floor = noise_floor(spectrum.power, width=int(100.0 / spectrum.bin_hz))
    lines = np.log1p(spectrum.power / floor) - 0.6
    middle = float(np.nanmedian(drum_hz))
    scaled = [
        np.interp(spectrum.frequency_hz * hz / middle, spectrum.frequency_hz, row)
        for row, hz in zip(lines, drum_hz, strict=True)
        if np.isfinite(hz)
    ]
    return np.asarray(np.mean(scaled, axis=0))
