"""What was found, as evidence: how likely a reading is at each level of its finding; from sound, hands and story."""

from eager_ear.core.diagnosis.evidence.hand_findings import HAND_READERS, hand_readings, read_check
from eager_ear.core.diagnosis.evidence.hum_readings import ENERGISED, HUMS, one_hum
from eager_ear.core.diagnosis.evidence.readings import Reading, read_level, read_number, supposed
from eager_ear.core.diagnosis.evidence.shown import (
    Observation,
    Room,
    Shown,
    observations_of,
    shown_from_json,
    shown_to_json,
)
from eager_ear.core.diagnosis.evidence.sound_findings import (
    ENERGISED_READERS,
    SOUND_READERS,
    bounce_readings,
    corner_readings,
    readings_by,
    sound_readings,
)
from eager_ear.core.diagnosis.evidence.story_findings import story_readings

__all__ = [
    "ENERGISED",
    "ENERGISED_READERS",
    "HAND_READERS",
    "HUMS",
    "Observation",
    "Reading",
    "Room",
    "SOUND_READERS",
    "Shown",
    "bounce_readings",
    "corner_readings",
    "hand_readings",
    "observations_of",
    "one_hum",
    "read_check",
    "read_level",
    "read_number",
    "readings_by",
    "shown_from_json",
    "shown_to_json",
    "sound_readings",
    "story_readings",
    "supposed",
]
