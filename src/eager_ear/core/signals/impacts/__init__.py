"""Single impacts and trains of them: which come back every turn, how many a turn, what one of them sounds like."""

from eager_ear.core.signals.impacts.find import ImpactFinding, find_impacts, require_no_impacts
from eager_ear.core.signals.impacts.hand_turns import HandTurns, hand_turns
from eager_ear.core.signals.impacts.mean_impact import MeanImpact, mean_impact

__all__ = [
    "HandTurns",
    "ImpactFinding",
    "MeanImpact",
    "find_impacts",
    "hand_turns",
    "mean_impact",
    "require_no_impacts",
]
