"""Listening while it is recorded: level and speed as they are now, how far the test has come, when to stop it.

What is shown live is a help for recording and nothing more: the call rests on the analysis of the whole recording,
which looks both ways.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from eager_ear.core.errors import BadSignal
from eager_ear.core.live.motion_stream import LATEST_CLOCK_S, MotionStream
from eager_ear.core.live.progress import Progress, SpinProgress
from eager_ear.core.live.sound_stream import SoundStep, SoundStream
from eager_ear.core.live.speed import FRAME_S, LOW_LINES_FRAME_S, Frames, LiveSpeed, SpeedFollower
from eager_ear.core.machine import OVER_SPEED, Machine, find_layout
from eager_ear.core.signals.angle import FRAME_STEP_S
from eager_ear.core.signals.speed import unfolded_to_hz
from eager_ear.core.units import FloatArray

# Motion that is so much behind the sound has stopped coming.
STALE_S = 0.5
# Frames that are so much behind are left out; what they would need is still kept by then.
LATEST_S = 4.0
SHAKE_S = 0.5
# A sensor that shows no drum faster than this without folding others onto it is of no use for the speed.
LEAST_SHOWN_HZ = 10.0


@dataclass(frozen=True, kw_only=True)
class LiveReading:
    """The machine as it is now.

    t_s : moment on the common clock
    level_db : A-weighted level, time weighting F, dB re full scale; None without sound
    speed : None while it is not known
    shake_m_s2 : amplitude of the cabinet's motion over the last half second; None without acceleration
    clipped : whether sound was cut off within the step
    progress : how far the test has come
    """

    t_s: float
    level_db: float | None
    speed: LiveSpeed | None
    shake_m_s2: float | None
    clipped: bool
    progress: Progress


class LiveEar:
    """Takes sound and motion as they come, in blocks of any length, and tells what they show.

    Parameters
    ----------
    audio_rate_hz : of the sound, None when only motion is recorded
    audio_start_s : of its first sample on the common clock

    Raises
    ------
    BadSignal
        A rate that recordings may not have, or a clock that is off by more than a day.
    """

    def __init__(self, *, machine: Machine, audio_rate_hz: float | None, audio_start_s: float) -> None:
        layout = find_layout(machine.layout)
        self._machine, self._drum = machine, layout.drum
        self._plate_hz = (machine.max_spin_rpm or layout.spin_rpm[1]) / 60.0
        self._highest_hz = OVER_SPEED * self._plate_hz
        self._sound = (
            SoundStream(sample_rate_hz=audio_rate_hz, start_s=audio_start_s) if audio_rate_hz is not None else None
        )
        self._motion = MotionStream()
        self._follower: SpeedFollower | None = None
        self._follows_motion = False
        if not abs(audio_start_s) <= LATEST_CLOCK_S:
            raise BadSignal(reason="The sound begins more than a day from the clock's zero.")
        # Frames are counted, so that a late moment and a short step never add up to the same moment.
        self._first_frame_s = audio_start_s + FRAME_S
        self._frames = 0
        self._progress = SpinProgress()
        self._last = LiveReading(
            t_s=audio_start_s,
            level_db=None,
            speed=None,
            shake_m_s2=None,
            clipped=False,
            progress=self._progress.state,
        )

    def push_sound(self, samples: FloatArray) -> list[LiveReading]:
        """Take sound [shape=(n,)]; returns a reading for each step of it. Raises BadSignal."""
        return [] if self._sound is None else [self._after_sound(step) for step in self._sound.push(samples)]

    def push_motion(self, t_s: FloatArray, axes_m_s2: FloatArray) -> list[LiveReading]:
        """Take acceleration, times [shape=(n,), s] and axes [shape=(3, n), m/s²]; returns readings where no sound is.

        Raises BadSignal.
        """
        self._motion.push(t_s, axes_m_s2)
        end_s = self._motion.end_s
        if self._sound is not None or end_s is None:
            return []
        out: list[LiveReading] = []
        if end_s - self._next_frame_s > LATEST_S:
            # The first rows, or the first after a gap.
            self._first_frame_s, self._frames = end_s, 0
        while self._next_frame_s <= end_s:
            self._follow(self._next_frame_s)
            out.append(self._told(replace(self._last, t_s=self._next_frame_s)))
            self._frames += 1
        return out

    @property
    def _next_frame_s(self) -> float:
        return self._first_frame_s + self._frames * FRAME_STEP_S

    def _after_sound(self, step: SoundStep) -> LiveReading:
        motion_s = self._motion.end_s
        moving = motion_s is not None and step.t_s - motion_s < STALE_S
        seen_s = min(step.t_s, motion_s) if moving and motion_s is not None else step.t_s
        while self._next_frame_s <= seen_s:
            self._follow(self._next_frame_s)
            self._frames += 1
        reading = replace(self._last, t_s=step.t_s, level_db=step.level_db, clipped=step.clipped_share > 0.0)
        return self._told(reading if moving else replace(reading, shake_m_s2=None))

    def _told(self, reading: LiveReading) -> LiveReading:
        if self._progress.stands(reading.level_db):
            # What still has lines while all is quiet is not this machine.
            reading = replace(reading, speed=None)
        self._progress.add(t_s=reading.t_s, speed=reading.speed, level_db=reading.level_db)
        self._last = replace(reading, progress=self._progress.state)
        return self._last

    def _follow(self, end_s: float) -> None:
        """One frame more; what it shows is put into the last reading."""
        follower = self._ready()
        rate = self._motion.rate_hz
        motion = self._motion.ending_at(end_s, count=int(FRAME_S * rate)) if rate is not None else None
        shake = None
        if motion is not None and rate is not None:
            recent = motion[:, -int(SHAKE_S * rate) :]
            shake = float(np.sqrt(2.0 * np.square(recent).sum(axis=0).mean()))
        speed = None
        if follower is not None:
            sound = self._sound
            # The slow sound comes later than the level, by what its filters look ahead: less than half a frame.
            low_s = end_s - 0.5 * FRAME_S + 0.5 * LOW_LINES_FRAME_S
            frames = Frames(
                motion=motion if self._follows_motion else None,
                modulation=sound.level_nats.ending_at(end_s, count=follower.modulation_length) if sound else None,
                low=sound.slow.ending_at(low_s, count=follower.low_length) if sound else None,
            )
            speed = follower.step(frames)
        self._last = replace(self._last, speed=speed, shake_m_s2=shake)

    def _ready(self) -> SpeedFollower | None:
        """The follower; begun anew when a sensor joins."""
        rate = self._motion.rate_hz
        shown_hz = unfolded_to_hz(rate, self._plate_hz) if rate is not None else 0.0
        usable = shown_hz >= LEAST_SHOWN_HZ
        if self._follower is not None and usable == self._follows_motion:
            return self._follower
        if self._sound is None and not usable:
            return None
        mains = self._machine.mains_hz
        self._follows_motion = usable
        self._follower = SpeedFollower(
            drum=self._drum,
            # What a slow sensor folds back lies above what it shows, and is left out with it.
            highest_hz=min(self._highest_hz, shown_hz) if usable else self._highest_hz,
            mains_hz=(50, 60) if mains is None else (mains,),
            motion_rate_hz=rate if usable else None,
            level_rate_hz=self._sound.level_rate_hz if self._sound else None,
            slow_rate_hz=self._sound.slow_rate_hz if self._sound else None,
        )
        return self._follower
