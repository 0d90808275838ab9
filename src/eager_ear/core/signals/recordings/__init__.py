"""Which recordings of a run are measured, and what spoils them: quality, talk, a slide, a machine beside this one."""

from eager_ear.core.signals.recordings.disturbances import Disturbance, find_gain_pumping, find_slide, find_talk
from eager_ear.core.signals.recordings.neighbour_in_sound import felt_second_machine, heard_second_machine
from eager_ear.core.signals.recordings.neighbour_in_vibration import SteadyTone, without_steady_tones
from eager_ear.core.signals.recordings.quality_gate import Warning, clipped_share, judge_audio
from eager_ear.core.signals.recordings.selection import Chosen, choose

__all__ = [
    "Chosen",
    "Disturbance",
    "SteadyTone",
    "Warning",
    "choose",
    "clipped_share",
    "felt_second_machine",
    "find_gain_pumping",
    "find_slide",
    "find_talk",
    "heard_second_machine",
    "judge_audio",
    "without_steady_tones",
]
