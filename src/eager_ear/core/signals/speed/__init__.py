"""The drum's speed against time: found without a tacho (`search`), made exact (`refine`), cut into phases."""

from eager_ear.core.signals.speed.find import FAST_RATE_HZ, SLOWED_RATE_HZ, SpeedSources, find_speed
from eager_ear.core.signals.speed.refine.clock_lag import ClockLag
from eager_ear.core.signals.speed.search.comb import SWEPT_FRAME_S, StillComb, SweptComb
from eager_ear.core.signals.speed.search.drum_or_motor import LEAST_MOTION_SCORE
from eager_ear.core.signals.speed.search.grid import GRID_HZ
from eager_ear.core.signals.speed.search.plausible_spans import FASTEST_TUMBLE_HZ, MAX_FALL_HZ_S, MAX_RISE_HZ_S
from eager_ear.core.signals.speed.search.scores import unfolded_to_hz
from eager_ear.core.signals.speed.search.track_search import (
    LOW_LINES_WEIGHT,
    MODULATION_WEIGHT,
    SOUND_BESIDE_VIBRATION,
    UNKNOWN_SCORE,
)
from eager_ear.core.signals.speed.search.validity_gates import MOVED_RATIO
from eager_ear.core.signals.speed.search.viterbi import TOP_SHARE, Trellis
from eager_ear.core.signals.speed.spin_phases import (
    DISTRIBUTE_BELOW_HZ,
    NEAR_TOP,
    TUMBLE_BELOW_HZ,
    Phases,
    cut_phases,
)

__all__ = [
    "ClockLag",
    "DISTRIBUTE_BELOW_HZ",
    "FASTEST_TUMBLE_HZ",
    "FAST_RATE_HZ",
    "GRID_HZ",
    "LEAST_MOTION_SCORE",
    "LOW_LINES_WEIGHT",
    "MAX_FALL_HZ_S",
    "MAX_RISE_HZ_S",
    "MOVED_RATIO",
    "NEAR_TOP",
    "Phases",
    "SLOWED_RATE_HZ",
    "SOUND_BESIDE_VIBRATION",
    "MODULATION_WEIGHT",
    "SWEPT_FRAME_S",
    "SpeedSources",
    "StillComb",
    "SweptComb",
    "TOP_SHARE",
    "TUMBLE_BELOW_HZ",
    "UNKNOWN_SCORE",
    "Trellis",
    "cut_phases",
    "find_speed",
    "unfolded_to_hz",
]
