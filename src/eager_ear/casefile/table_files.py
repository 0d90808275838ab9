"""Tables of acceleration, tacho pulses and current, as loggers on phones write them, to and from their signals."""

from __future__ import annotations

import tempfile
import zipfile
import zlib
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path, PurePosixPath

import numpy as np

from eager_ear.casefile.errors import UnclearTable, UnreadableFile
from eager_ear.casefile.log_columns import Column, MotionColumns, find_axes, find_one, find_time
from eager_ear.casefile.log_rows import Shape, find_shape, read_rows, unclear
from eager_ear.core.errors import BadSignal
from eager_ear.core.signals.types import AccelerationSignal, CurrentSignal, TachoSignal
from eager_ear.core.units import STANDARD_GRAVITY_M_S2, FloatArray

# Rates that a phone's sensor may have; a time without a unit has the one that gives such a rate.
PLAUSIBLE_HZ = (20.0, 30_000.0)
USUAL_HZ = 100.0
# A resting sensor shows gravity: this near to one, its unit is g, this near to 9.8, it is m/s².
GRAVITY_WITHIN = 0.25
MERGED_SHARE = 1.0 / 3.0
LARGEST_MEMBER_BYTES = 400_000_000
FEWEST_ROWS = 16


@dataclass(frozen=True, kw_only=True)
class TableInspected:
    """What a table can be used as, and what is odd about it."""

    kinds: tuple[str, ...]
    duration_s: float
    rate_hz: float | None
    warnings: tuple[str, ...]


def read_acceleration(path: Path, *, name: str) -> AccelerationSignal:
    """Time and axes of a log. Raises UnreadableFile, UnclearTable."""
    return _motion(path, name)[0]


def read_tacho(path: Path, *, name: str) -> TachoSignal:
    """Column `pulse_s`. Raises UnreadableFile."""
    with _table(path, name) as table:
        shape = find_shape(table, name=name)
        column = find_one(shape.header, "pulse", "pulses")
        if column is None:
            raise UnreadableFile(file=name, reason="has no column pulse_s.")
        rows = read_rows(table, name=name, wanted=[column.place], shape=shape)
    try:
        return TachoSignal(pulse_s=rows.table[:, 0] * (column.factor or 1.0))
    except BadSignal as exc:
        raise UnreadableFile(file=name, reason=exc.reason) from exc


def read_current(path: Path, *, name: str) -> CurrentSignal:
    """A time and `current_a`. Raises UnreadableFile."""
    with _table(path, name) as table:
        shape = find_shape(table, name=name)
        time = find_time(shape.header)
        current = find_one(shape.header, "currenta", "current", "ampere", "amperes", "amps")
        if time is None or current is None:
            missing = "t_s" if time is None else "current_a"
            raise UnreadableFile(file=name, reason=f"has no column {missing}.")
        rows = read_rows(table, name=name, wanted=[time.place, current.place], shape=shape)
    t_s = rows.table[:, 0] * (time.factor or 1.0)
    order = np.argsort(t_s, kind="stable")
    t_s, first = np.unique(t_s[order], return_index=True)
    try:
        return CurrentSignal(t_s=t_s - (t_s[0] if t_s[0] > 1e6 else 0.0), current_a=rows.table[order, 1][first])
    except BadSignal as exc:
        raise UnreadableFile(file=name, reason=exc.reason) from exc


def inspect_table(path: Path, *, name: str) -> TableInspected:
    """What a table holds. Raises FileProblem."""
    with _table(path, name) as table:
        header = find_shape(table, name=name).header
    if find_one(header, "pulse", "pulses") is not None:
        tacho = read_tacho(path, name=name)
        return TableInspected(kinds=("tacho",), duration_s=tacho.duration_s, rate_hz=None, warnings=())
    if find_one(header, "currenta", "current", "ampere", "amperes", "amps") is not None and not any(find_axes(header)):
        current = read_current(path, name=name)
        return TableInspected(kinds=("current",), duration_s=current.duration_s, rate_hz=None, warnings=())
    signal, warnings = _motion(path, name)
    return TableInspected(
        kinds=("acceleration",), duration_s=signal.duration_s, rate_hz=signal.sample_rate_hz, warnings=warnings
    )


def _motion(path: Path, name: str) -> tuple[AccelerationSignal, tuple[str, ...]]:
    """Acceleration and what had to be mended."""
    with _table(path, name) as table:
        shape = find_shape(table, name=name)
        columns = _motion_columns(table, shape, name)
        axes = [c for c in columns.axes if c is not None]
        rows = read_rows(table, name=name, wanted=[columns.time.place, *(c.place for c in axes)], shape=shape)
        said: list[str] = []
        if rows.table.shape[0] < FEWEST_ROWS:
            raise UnreadableFile(file=name, reason=f"has fewer than {FEWEST_ROWS} rows: that is no recording.")
        if rows.left_out:
            said.append(f"{rows.left_out} rows could not be read and were left out.")
        if rows.cut_short:
            said.append("The last line breaks off.")
        factor = _time_factor(columns.time, rows.table[:, 0], table, shape, name)
        unit = _axis_factor(axes, rows.table[:, 1:], table, shape, name)
    t_s, values = _mended(_from_zero(rows.table[:, 0], factor), rows.table[:, 1:] * unit, said)
    full = np.full((3, t_s.size), np.nan)
    filled = 0
    for row, column in enumerate(columns.axes):
        if column is not None:
            full[row] = values[:, filled]
            filled += 1
    try:
        return AccelerationSignal(t_s=t_s, axes_m_s2=full), tuple(said)
    except BadSignal as exc:
        raise UnreadableFile(file=name, reason=exc.reason) from exc


def _motion_columns(table: Path, shape: Shape, name: str) -> MotionColumns:
    time, axes = find_time(shape.header), find_axes(shape.header)
    if not any(axes):
        raise unclear(table, shape, name, "Which columns are the acceleration? Name them ax_m_s2, ay_m_s2, az_m_s2.")
    if time is None:
        raise unclear(table, shape, name, "Which column is the time? Name it t_s.")
    return MotionColumns(time=time, axes=axes)


def _time_factor(column: Column, stamps: FloatArray, table: Path, shape: Shape, name: str) -> float:
    """Seconds in one step of the time's unit: as its name says, or the one that gives a rate a sensor may have."""
    if column.factor is not None:
        return column.factor
    steps = np.diff(np.unique(stamps))
    usual = float(np.median(steps)) if steps.size else 0.0
    if usual <= 0:
        raise UnreadableFile(file=name, reason="the times do not go on.")
    low, high = PLAUSIBLE_HZ
    fitting = [f for f in (1.0, 1e-3, 1e-6, 1e-9) if low <= 1.0 / (usual * f) <= high]
    if not fitting:
        raise unclear(table, shape, name, "In which unit is the time? Name its column t_s, t_ms, t_us or t_ns.")
    return min(fitting, key=lambda f: abs(np.log(1.0 / (usual * f) / USUAL_HZ)))


def _from_zero(stamps: FloatArray, factor: float) -> FloatArray:
    """Seconds from a log's first stamp where it counts from an epoch; as they are where it counts from its start."""
    seconds = stamps * factor
    return seconds - seconds.min() if abs(seconds[0]) > 86400.0 else seconds


def _axis_factor(axes: Sequence[Column], values: FloatArray, table: Path, shape: Shape, name: str) -> float:
    """The unit in m/s²: as the names say, or as gravity shows where it was recorded."""
    factors = {c.factor for c in axes if c.factor is not None}
    if len(factors) == 1:
        return next(iter(factors))
    if len(factors) > 1:
        raise UnreadableFile(file=name, reason="its axes are in different units.")
    size = float(np.linalg.norm(np.median(values, axis=0)))
    for factor in (1.0, STANDARD_GRAVITY_M_S2):
        if abs(size * factor / STANDARD_GRAVITY_M_S2 - 1.0) < GRAVITY_WITHIN:
            return factor
    raise unclear(
        table, shape, name, "Is the acceleration in m/s² or in g? Name its columns ax_m_s2 or ax_g, and so for y and z."
    )


def _mended(t_s: FloatArray, values: FloatArray, said: list[str]) -> tuple[FloatArray, FloatArray]:
    """Times in order and each once: rows of one time are averaged, or spread where the clock rarely ticks."""
    steps = np.diff(t_s)
    backwards = int((steps < 0).sum())
    if backwards:
        order = np.argsort(t_s, kind="stable")
        t_s, values = t_s[order], values[order]
        said.append(f"{backwards} rows stood out of order and were sorted by their times.")
    distinct, first, counts = np.unique(t_s, return_index=True, return_counts=True)
    merged = t_s.size - distinct.size
    if merged == 0:
        return t_s, values
    if merged > MERGED_SHARE * t_s.size and distinct.size > 2:
        said.append("The clock stands still between its ticks: the rows in between were spread evenly.")
        places = np.concatenate([first, [t_s.size]])
        last = distinct[-1] + float(np.median(np.diff(distinct)))
        spread = np.interp(np.arange(t_s.size), places, np.concatenate([distinct, [last]]))
        return spread, values
    said.append(f"{merged} rows with a time that was there already were merged with it.")
    sums = np.add.reduceat(values, first, axis=0)
    return distinct, sums / counts[:, None]


@contextmanager
def _table(path: Path, name: str) -> Iterator[Path]:
    """The table itself: the file, or the member of a zip that looks most like acceleration."""
    with path.open("rb") as file:
        is_zip = file.read(4) == b"PK\x03\x04"
    if not is_zip:
        yield path
        return
    with tempfile.TemporaryDirectory(prefix="eager-ear-log-") as scratch:
        out = Path(scratch) / "log.csv"
        try:
            with zipfile.ZipFile(path) as zipped:
                member = _best_member(zipped, name)
                with zipped.open(member) as source, out.open("wb") as sink:
                    left = LARGEST_MEMBER_BYTES
                    while block := source.read(1 << 20):
                        left -= len(block)
                        if left < 0:
                            raise UnreadableFile(file=name, reason="holds a table larger than 400 MB.")
                        sink.write(block)
        except (
            zipfile.BadZipFile,
            zlib.error,
            EOFError,
            NotImplementedError,
            RuntimeError,
            OSError,
            ValueError,
        ) as exc:
            raise UnreadableFile(file=name, reason="is a zip file that cannot be read.") from exc
        try:
            yield out
        except UnclearTable as asked:
            raise replace(asked, in_archive=True) from asked


def _best_member(zipped: zipfile.ZipFile, name: str) -> zipfile.ZipInfo:
    tables = [m for m in zipped.infolist()[:500] if m.filename.lower().endswith((".csv", ".txt", ".tsv"))]

    def rank(member: zipfile.ZipInfo) -> tuple[bool, bool, bool]:
        stem = PurePosixPath(member.filename).stem.lower()
        return ("acc" not in stem, "lin" in stem or "user" in stem, "uncal" in stem)

    moving = [m for m in sorted(tables, key=rank) if "acc" in m.filename.lower()] or tables
    if not moving:
        raise UnreadableFile(file=name, reason="is a zip file without a table.")
    return moving[0]


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
