"""What a motor that is energised and stands is heard by, out of all recordings of a case: one reading of its hum.

A hum that begins or ends within a recording is the machine's. One that is on all through may be the room's own, of
lamps, chargers or a fridge: the room recorded with the machine off tells.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from eager_ear.core.diagnosis.evidence.readings import Reading, read_number
from eager_ear.core.diagnosis.evidence.shown import Room, Shown
from eager_ear.core.diagnosis.knowledge import Finding

HUMS = ("hum", "steady_hum")
# Tests in which the motor is energised and was to move.
ENERGISED = ("hum", "agitate")
# Phones set their own gain, and a hum is louder by some dB a step to the side (standing waves of the room).
ABOVE_ROOM_DB = 6.0


def one_hum(shown: Sequence[Shown], *, rooms: Sequence[Room], findings: Mapping[str, Finding]) -> list[Reading]:
    """The reading of hum, none or one.

    Parameters
    ----------
    shown : the spin that stands for the case and all recordings of a machine that was energised and was to move
    rooms : recorded with the machine off
    """
    said = [(each, reading) for each in shown for reading in each.readings(findings)]
    switched = max((r for _, r in said if r.finding.code == "hum"), key=lambda r: r.value or 0.0, default=None)
    steady = [(each, r) for each, r in said if r.finding.code == "steady_hum"]
    if not steady or (switched is not None and switched.value):
        return [] if switched is None else [switched]
    clearest, reading = max(steady, key=lambda pair: pair[1].value or 0.0)
    return _beside_room(clearest, reading, rooms=rooms, findings=findings)


def _beside_room(
    shown: Shown, reading: Reading, *, rooms: Sequence[Room], findings: Mapping[str, Finding]
) -> list[Reading]:
    """A steady hum against the room's: where it stands above, as good as one that was switched; else no evidence."""
    hum = shown.steady_hum
    room_db = [room.hum_db[hum.frequency_hz] for room in rooms if hum.frequency_hz in room.hum_db] if hum else []
    if hum is None or not room_db:
        return [reading]
    above_db = hum.level_db - max(room_db)
    if above_db < ABOVE_ROOM_DB:
        return []
    text = (
        f"hum at {hum.frequency_hz:.0f} Hz, twice the mains, for {hum.seconds:.0f} s while nothing turns, "
        f"{above_db:.0f} dB above the room's"
    )
    return [read_number(findings["hum"], hum.seconds, sigma=0.3, text=text, source="sound")]
