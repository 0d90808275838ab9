"""Processes that end with the one that started them."""

from __future__ import annotations

import ctypes
import os
import signal

SET_DEATH_SIGNAL = 1


class Orphaned(Exception):
    """Whoever started this process is gone already."""


def end_with(parent_pid: int, *, by: signal.Signals = signal.SIGTERM) -> None:
    """Have the kernel end this process when its parent does (Linux, prctl PR_SET_PDEATHSIG).

    Parameters
    ----------
    parent_pid : as the parent knows itself; handed over, since a parent that is gone by now cannot be asked

    Raises
    ------
    Orphaned
        It is gone already.
    """
    ctypes.CDLL(None).prctl(SET_DEATH_SIGNAL, int(by))
    if os.getppid() != parent_pid:
        raise Orphaned
