"""Listening while a spin test is recorded."""

from eager_ear.core.live.ear import LiveEar, LiveReading
from eager_ear.core.live.progress import NEEDED_S, PartName, Progress
from eager_ear.core.live.speed import LiveSpeed

__all__ = ["NEEDED_S", "LiveEar", "LiveReading", "LiveSpeed", "PartName", "Progress"]
