"""Single impacts and trains of them: which come back every turn, how many a turn, what one of them sounds like."""

from eager_ear.core.signals.impacts.find import ImpactFinding, find_impacts, require_no_blows
from eager_ear.core.signals.impacts.mean_impact import MeanBlow, mean_blow

__all__ = ["ImpactFinding", "MeanBlow", "find_impacts", "mean_blow", "require_no_blows"]
