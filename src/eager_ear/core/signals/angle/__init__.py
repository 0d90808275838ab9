"""What is seen against the angle of the drum: the speed track itself, orders, whole turns."""

from eager_ear.core.signals.angle.first_order import OncePerTurn
from eager_ear.core.signals.angle.learnt_orders import OrderFamily, learn_orders
from eager_ear.core.signals.angle.order_amplitudes import (
    ORDER_STEP,
    ORDERS,
    WINDOW_S,
    GrowthFit,
    OrderCurves,
    growth_above,
    order_curves,
    order_map,
)
from eager_ear.core.signals.angle.order_spectrum import TurnLines, turn_lines
from eager_ear.core.signals.angle.synchronous_motion import TurnMotion, turn_motion
from eager_ear.core.signals.angle.track import (
    FRAME_STEP_S,
    LOWEST_HZ,
    STEADY_HZ_S,
    TACHO,
    SpeedTrack,
    known_spans,
    slope_of,
    smooth_known,
    track_from_pulses,
    track_points,
)
from eager_ear.core.signals.angle.whole_turns import CELLS_PER_TURN, TurnStretch, turn_stretches

__all__ = [
    "CELLS_PER_TURN",
    "FRAME_STEP_S",
    "GrowthFit",
    "LOWEST_HZ",
    "TACHO",
    "ORDERS",
    "OncePerTurn",
    "OrderCurves",
    "OrderFamily",
    "STEADY_HZ_S",
    "SpeedTrack",
    "TurnLines",
    "TurnMotion",
    "TurnStretch",
    "ORDER_STEP",
    "WINDOW_S",
    "growth_above",
    "known_spans",
    "learn_orders",
    "order_curves",
    "order_map",
    "slope_of",
    "smooth_known",
    "track_from_pulses",
    "track_points",
    "turn_lines",
    "turn_motion",
    "turn_stretches",
]
