"""Bearings by their envelope, springs and dampers by their resonance, drag by the coast-down, stops, corners."""

from eager_ear.core.signals.mechanics.coast_down import CoastDownFit, fit_coast_down
from eager_ear.core.signals.mechanics.corners import (
    CORNER_OF_POSITION,
    CornerComparison,
    compare_corners,
    levels_by_speed,
)
from eager_ear.core.signals.mechanics.envelope_spectrum import EnvelopeSpectrum, envelope_spectra
from eager_ear.core.signals.mechanics.free_decay import BounceDecay, measure_bounce
from eager_ear.core.signals.mechanics.race_lines import RaceLine, find_race_lines
from eager_ear.core.signals.mechanics.resonance.carried_speed import with_carried
from eager_ear.core.signals.mechanics.resonance.run_up_fit import SuspensionFit, fit_run_up
from eager_ear.core.signals.mechanics.stop_hits import PASSAGE, StopHits, count_stop_hits, passage_of

__all__ = [
    "BounceDecay",
    "CORNER_OF_POSITION",
    "CornerComparison",
    "CoastDownFit",
    "EnvelopeSpectrum",
    "PASSAGE",
    "RaceLine",
    "StopHits",
    "SuspensionFit",
    "compare_corners",
    "count_stop_hits",
    "envelope_spectra",
    "find_race_lines",
    "fit_coast_down",
    "fit_run_up",
    "levels_by_speed",
    "measure_bounce",
    "passage_of",
    "with_carried",
]
