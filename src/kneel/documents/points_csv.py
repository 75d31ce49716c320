"""Points files: ``frame,time_s,point,x_px,y_px,sigma_px``, one row per point and frame."""

from __future__ import annotations

import csv
import math
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from kneel.disk import TooLargeError, read_bounded, shown, write_text
from kneel.model import POINTS, Mark, PointRows, PointsError
from kneel.model.take import LARGEST_PX, MARK_SIGMA_PX, SMALLEST_ERROR_PX
from kneel.model.take import MOST_FRAMES as LARGEST_FRAME

FloatArray = NDArray[np.float64]

COLUMNS = ("frame", "time_s", "point", "x_px", "y_px", "sigma_px")
REQUIRED = COLUMNS[:5]
LARGEST_BYTES = 64 * 1024 * 1024
LONGEST_CELL = 40
LARGEST_TIME_S = 1e7
MOST_FRAMES = 100_000
LONGEST_S = 600.0
"""A points file holds one swing; what lasts longer is a mistake in its times."""

QUICKEST_RATE, SLOWEST_RATE = 20_000.0, 1.0

_Row = tuple[int, float, str, float, float, float]


def read_points(path: str | Path) -> PointRows:
    """Read a points file.

    Raises :class:`PointsError` with one sentence where it cannot be used: a
    column missing, a cell that is no number, an unknown point, one point
    twice on a frame, or times that do not grow with the frames.
    """
    name = shown(Path(path).name)
    table = _table(Path(path))
    if not len(table):
        raise PointsError(f"{name} holds no frame; a swing needs many, a held pose one.")
    frames, place = np.unique(table.frame, return_inverse=True)
    times_s = np.full(len(frames), np.nan)
    times_s[place[::-1]] = table.time_s[::-1]
    differs = np.abs(table.time_s - times_s[place]) > 1e-6
    if differs.any():
        raise PointsError(f"{name}: frame {table.frame[differs][0]} has two different times.")
    if (np.diff(times_s) <= 0).any():
        at = int(frames[1:][np.diff(times_s) <= 0][0])
        raise PointsError(f"{name}: time does not grow at frame {at}.")
    if len(frames) > 1:
        demand_times(name, frames, times_s)
    xy: dict[str, FloatArray] = {}
    sigma: dict[str, FloatArray] = {}
    number = {point: k for k, point in enumerate(dict.fromkeys(table.point))}
    numbers = np.array([number[point] for point in table.point])
    for point, k in number.items():
        mine = np.flatnonzero(numbers == k)
        at_frames = place[mine]
        twice = np.flatnonzero(np.bincount(at_frames) > 1)
        if twice.size:
            raise PointsError(f"{name}: {point} stands twice on frame {frames[twice[0]]}.")
        xy[point], sigma[point] = np.full((len(frames), 2), np.nan), np.full(len(frames), np.nan)
        xy[point][at_frames] = np.stack([table.x[mine], table.y[mine]], axis=1)
        sigma[point][at_frames] = table.sigma[mine]
    return PointRows(frames, times_s, xy, sigma)


def read_marks(path: str | Path) -> list[Mark]:
    """Read marks by hand from a points file; times are not looked at.

    Raises :class:`PointsError` as :func:`read_points` does.
    """
    table = _table(Path(path), need_time=False)
    columns = (table.frame, table.x, table.y, table.sigma)
    cells = zip(table.point, *(column.tolist() for column in columns), strict=True)
    return [
        Mark(point, frame, x, y, MARK_SIGMA_PX if math.isnan(error) else error)
        for point, frame, x, y, error in cells
    ]


def write_points(
    path: str | Path, rows: Iterable[tuple[int, float, str, float, float, float | None]]
) -> None:
    """Write rows of frame, time, point, x, y and sigma (or None) as a points file."""
    lines = [",".join(COLUMNS)]
    for frame, time, point, x, y, error in rows:
        tail = "" if error is None else f"{error:.3f}"
        lines.append(f"{frame},{time:.6f},{point},{x:.3f},{y:.3f},{tail}")
    write_text(Path(path), "\n".join(lines) + "\n")


@dataclass(frozen=True)
class _Table:
    """The rows of a file, column by column."""

    frame: NDArray[np.int64]
    time_s: FloatArray
    point: list[str]
    x: FloatArray
    y: FloatArray
    sigma: FloatArray

    def __len__(self) -> int:
        return len(self.point)

    @staticmethod
    def of(rows: list[_Row]) -> _Table:
        frame, time, point, x, y, sigma = zip(*rows, strict=True) if rows else ((),) * 6
        return _Table(
            np.array(frame, dtype=np.int64),
            np.array(time, dtype=np.float64),
            list(point),
            *(np.array(column, dtype=np.float64) for column in (x, y, sigma)),
        )


def _at_once(rows: list[list[str]], header: list[str], need_time: bool) -> _Table | None:
    """All rows read together, far quicker; None where anything is amiss, which each row then tells."""
    if not rows or any(len(row) != len(header) for row in rows):
        return None
    columns = dict(zip(header, zip(*rows, strict=True), strict=True))
    point = [cell.strip() for cell in columns["point"]]
    try:
        frame, x, y = (_numbers(columns[name]) for name in ("frame", "x_px", "y_px"))
        time = _numbers(columns["time_s"]) if need_time else np.zeros(len(rows))
        stated = [cell.strip() for cell in columns.get("sigma_px", [""] * len(rows))]
        sigma = _numbers(cell or "nan" for cell in stated)
    except ValueError:
        return None
    known = np.array([bool(cell) for cell in stated])
    sound = (
        set(point) <= set(POINTS)
        and bool(np.isfinite([frame, time, x, y]).all())
        and 0 <= frame.min() <= frame.max() <= LARGEST_FRAME
        and bool((frame == np.floor(frame)).all())
        and np.abs(time).max() <= LARGEST_TIME_S
        and max(np.abs(x).max(), np.abs(y).max()) <= LARGEST_PX
        and bool(((sigma[known] >= SMALLEST_ERROR_PX) & (sigma[known] <= LARGEST_PX)).all())
    )
    return _Table(frame.astype(np.int64), time, point, x, y, sigma) if sound else None


def _numbers(cells: Iterable[str]) -> FloatArray:
    return np.fromiter(map(float, cells), dtype=np.float64)


def _table(path: Path, *, need_time: bool = True) -> _Table:
    try:
        text = read_bounded(path, LARGEST_BYTES).decode("utf-8-sig")
    except FileNotFoundError as error:
        raise PointsError(f"There is no file {shown(path)}.") from error
    except TooLargeError as error:
        raise PointsError(
            f"{shown(path.name)} is larger than a points file can be ({LARGEST_BYTES >> 20} MB)."
        ) from error
    except UnicodeDecodeError as error:
        raise PointsError(f"{shown(path.name)} is not a points file in UTF-8 text.") from error
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or "it is no name of a file"
        raise PointsError(f"{shown(path.name)} may not be read ({why}).") from error
    if not text.strip():
        raise PointsError(f"{shown(path.name)} is empty.")
    try:
        reader = csv.DictReader(text.splitlines(), strict=True)
        header = [name.strip() for name in reader.fieldnames or ()]
        reader.fieldnames = header
        for name in REQUIRED if need_time else ("frame", "point", "x_px", "y_px"):
            if name not in header:
                raise PointsError(
                    f"{shown(path.name)} has no column {name}; a points file has {', '.join(COLUMNS)}."
                )
        lines = text.splitlines()[reader.line_num :]
        # Without quotes there is nothing to a row but its commas.
        cells = list(reader.reader) if '"' in text else [line.split(",") for line in lines if line]
        table = _at_once(cells, header, need_time)
        if table is not None:
            return table
        slowly = csv.DictReader(text.splitlines(), header, strict=True)
        next(slowly)
        return _Table.of([_row(path.name, number, row, need_time) for number, row in enumerate(slowly, 2)])
    except csv.Error as error:
        raise PointsError(f"{shown(path.name)} is not a well-formed CSV file: {error}.") from error


def _row(file: str, line: int, row: dict[str, str], need_time: bool) -> _Row:
    where = f"{shown(file)}, line {line}"
    point = (row["point"] or "").strip()
    if point not in POINTS:
        raise PointsError(f"{where}: there is no point “{_cell(point)}”; known are {', '.join(POINTS)}.")
    frame = _number(where, row, "frame")
    if not 0 <= frame <= LARGEST_FRAME or frame != int(frame):
        raise PointsError(
            f"{where}: frame must be a whole number from 0 to {LARGEST_FRAME}, not {_cell(row['frame'])}."
        )
    time = _number(where, row, "time_s") if need_time else 0.0
    if abs(time) > LARGEST_TIME_S:
        raise PointsError(f"{where}: time_s is {time:g} s, which is no time within a clip.")
    x, y = _number(where, row, "x_px"), _number(where, row, "y_px")
    if max(abs(x), abs(y)) > LARGEST_PX:
        raise PointsError(f"{where}: {x:g}, {y:g} lies outside any picture.")
    error = math.nan
    if (row.get("sigma_px") or "").strip():
        error = _number(where, row, "sigma_px")
        if not SMALLEST_ERROR_PX <= error <= LARGEST_PX:
            raise PointsError(
                f"{where}: sigma_px must be {SMALLEST_ERROR_PX:g} to {LARGEST_PX:g}, "
                f"not {_cell(row['sigma_px'])}."
            )
    return int(frame), time, point, x, y, error


def demand_times(name: str, frames: NDArray[np.int64], times_s: FloatArray) -> None:
    """Raise ``PointsError`` where times are none that a camera films one swing at."""
    if len(frames) > MOST_FRAMES:
        raise PointsError(f"{name} holds {len(frames)} frames; one swing has at most {MOST_FRAMES}.")
    lasts, rate = float(times_s[-1] - times_s[0]), 1 / float(np.median(np.diff(times_s)))
    if lasts > LONGEST_S:
        raise PointsError(
            f"{name} lasts {lasts:.6g} s by its times, and a swing at most {LONGEST_S:g}; "
            "check column time_s."
        )
    if not SLOWEST_RATE <= rate <= QUICKEST_RATE:
        raise PointsError(
            f"{name} has {rate:.4g} frames a second by its times, which no camera films; check column time_s."
        )


def _cell(text: str) -> str:
    """A cell as it can be shown in a sentence."""
    return shown(text if len(text) <= LONGEST_CELL else text[:LONGEST_CELL] + "…")


def _number(where: str, row: dict[str, str], column: str) -> float:
    text = (row[column] or "").strip()
    try:
        value = float(text)
    except ValueError as error:
        found = f"“{_cell(text)}”" if text else "empty"
        raise PointsError(f"{where}: {column} must be a number, not {found}.") from error
    if not math.isfinite(value):
        raise PointsError(f"{where}: {column} must be a finite number, not {_cell(text)}.")
    return value
