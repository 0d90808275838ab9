"""A washer made by other physics, to see whether what holds for our simulator holds elsewhere.

The cabinet is a rigid body on four feet that can lift, with five degrees of freedom; the group hangs in it by supports
of its own direction, damped mostly by dry friction; an unbalance is a mass off its axis, a cracked arm lets the whole
drum run off its axis; sound is made of resonant noise, motor harmonics, carriers and struck plates; the room is sparse
echoes before a tail. What strikes rings from a dull thud to a click and scatters from blow to blow, a foot that lifts
slaps the floor when it comes down, a motor may drown a tick, something may rub for a while once a turn, a collapsed
bearing may roar without a line, and the sensor may lie on a soft foot. Nothing is learnt from it and no limit is set by
it: it only judges.
"""

from __future__ import annotations

from eager_ear.core.simulate import Physics
from eager_ear.verify.other_physics.room import heard
from eager_ear.verify.other_physics.shaking import shake
from eager_ear.verify.other_physics.sound import sound

OTHER_PHYSICS = Physics(shake=shake, sound=sound, heard=heard)

__all__ = ["OTHER_PHYSICS"]
