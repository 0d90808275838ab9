"""Listening while a spin test is recorded."""

from eager_ear.core.live.ear import LiveEar, LiveReading
from eager_ear.core.live.motion_stream import LATEST_CLOCK_S
from eager_ear.core.live.progress import NEEDED_S, PartName, Progress
from eager_ear.core.live.speed import LiveSpeed

__all__ = ["LATEST_CLOCK_S", "NEEDED_S", "LiveEar", "LiveReading", "LiveSpeed", "PartName", "Progress"]
