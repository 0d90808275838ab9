"""CSV tables of acceleration, tacho pulses and current to and from their signals."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np

from eager_ear.casefile.errors import UnreadableFile
from eager_ear.core.errors import BadSignal
from eager_ear.core.signals.types import AccelerationSignal, CurrentSignal, TachoSignal
from eager_ear.core.units import STANDARD_GRAVITY_M_S2, FloatArray

MOST_ROWS = 5_000_000


def read_acceleration(path: Path, *, name: str) -> AccelerationSignal:
    """`t_s` and any of `ax_m_s2`, `ay_m_s2`, `az_m_s2` or the same in `_g`.

    Raises
    ------
    UnreadableFile
        No such columns, a text in a number column, unsorted times, too few rows.
    """
    columns = _columns(path, name)
    t_s = _column(columns, "t_s", name)
    axes = np.full((3, t_s.size), np.nan)
    for row, axis in enumerate("xyz"):
        if f"a{axis}_m_s2" in columns:
            axes[row] = columns[f"a{axis}_m_s2"]
        elif f"a{axis}_g" in columns:
            axes[row] = columns[f"a{axis}_g"] * STANDARD_GRAVITY_M_S2
    if np.isnan(axes).all():
        raise UnreadableFile(file=name, reason="has none of the columns ax_m_s2, ay_m_s2, az_m_s2 (or ax_g …).")
    try:
        return AccelerationSignal(t_s=t_s, axes_m_s2=axes)
    except BadSignal as exc:
        raise UnreadableFile(file=name, reason=exc.reason) from exc


def read_tacho(path: Path, *, name: str) -> TachoSignal:
    """Column `pulse_s`. Raises UnreadableFile."""
    try:
        return TachoSignal(pulse_s=_column(_columns(path, name), "pulse_s", name))
    except BadSignal as exc:
        raise UnreadableFile(file=name, reason=exc.reason) from exc


def read_current(path: Path, *, name: str) -> CurrentSignal:
    """Columns `t_s` and `current_a`. Raises UnreadableFile."""
    columns = _columns(path, name)
    try:
        return CurrentSignal(t_s=_column(columns, "t_s", name), current_a=_column(columns, "current_a", name))
    except BadSignal as exc:
        raise UnreadableFile(file=name, reason=exc.reason) from exc


def write_acceleration(path: Path, signal: AccelerationSignal) -> None:
    """Write the recorded axes in m/s²."""
    names = [f"a{'xyz'[i]}_m_s2" for i in signal.present]
    table = np.column_stack([signal.t_s, *(signal.axes_m_s2[i] for i in signal.present)])
    np.savetxt(path, table, delimiter=",", header=",".join(["t_s", *names]), comments="", fmt="%.6g")


def write_tacho(path: Path, signal: TachoSignal) -> None:
    """Write the moments of the pulses."""
    np.savetxt(path, signal.pulse_s, header="pulse_s", comments="", fmt="%.9g")


def write_current(path: Path, signal: CurrentSignal) -> None:
    """Write times and RMS current."""
    table = np.column_stack([signal.t_s, signal.current_a])
    np.savetxt(path, table, delimiter=",", header="t_s,current_a", comments="", fmt="%.9g")


def _column(columns: dict[str, FloatArray], key: str, name: str) -> FloatArray:
    if key not in columns:
        raise UnreadableFile(file=name, reason=f"has no column {key}.")
    return columns[key]


def _columns(path: Path, name: str) -> dict[str, FloatArray]:
    """All columns by header name; every cell must be a finite number."""
    if path.stat().st_size == 0:
        raise UnreadableFile(file=name, reason="is empty.")
    try:
        with path.open(encoding="utf-8-sig", newline="") as file:
            reader = csv.reader(file)
            header = [cell.strip() for cell in next(reader)]
            rows: list[list[float]] = []
            for row in reader:
                if row:
                    rows.append(_numbers(row, header, name, reader.line_num))
                if len(rows) > MOST_ROWS:
                    raise UnreadableFile(file=name, reason=f"has more than {MOST_ROWS} rows.")
    except (UnicodeDecodeError, csv.Error, StopIteration) as exc:
        raise UnreadableFile(file=name, reason="is not a CSV table.") from exc
    if not rows:
        raise UnreadableFile(file=name, reason="has a header but no rows.")
    table = np.asarray(rows)
    return {key: table[:, i] for i, key in enumerate(header)}


def _numbers(row: list[str], header: list[str], name: str, line: int) -> list[float]:
    if len(row) != len(header):
        raise UnreadableFile(file=name, reason=f"line {line} has {len(row)} cells, the header has {len(header)}.")
    out: list[float] = []
    for key, cell in zip(header, row, strict=True):
        try:
            value = float(cell)
        except ValueError as exc:
            raise UnreadableFile(
                file=name, reason=f"line {line}, column {key}: “{cell[:40]}” is not a number."
            ) from exc
        if not np.isfinite(value):
            raise UnreadableFile(file=name, reason=f"line {line}, column {key}: {cell} is not a finite number.")
        out.append(value)
    return out
