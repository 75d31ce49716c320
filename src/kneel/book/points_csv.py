"""Points files: ``frame,time_s,point,x_px,y_px,sigma_px``, one row per point and frame."""

from __future__ import annotations

import csv
import math
from collections.abc import Iterable
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
    rows = _rows(Path(path))
    times: dict[int, float] = {}
    for frame, time, *_ in rows:
        if abs(times.setdefault(frame, time) - time) > 1e-6:
            raise PointsError(f"{shown(Path(path).name)}: frame {frame} has two different times.")
    frames = np.array(sorted(times), dtype=np.int64)
    times_s = np.array([times[f] for f in frames.tolist()])
    if len(frames) < 1:
        raise PointsError(f"{shown(Path(path).name)} holds no frame; a swing needs many, a held pose one.")
    if (np.diff(times_s) <= 0).any():
        at = int(frames[1:][np.diff(times_s) <= 0][0])
        raise PointsError(f"{shown(Path(path).name)}: time does not grow at frame {at}.")
    place = {frame: k for k, frame in enumerate(frames.tolist())}
    if len(frames) > 1:
        _demand_times(shown(Path(path).name), frames, times_s)
    xy: dict[str, FloatArray] = {}
    sigma: dict[str, FloatArray] = {}
    for frame, _, point, x, y, error in rows:
        if point not in xy:
            xy[point] = np.full((len(frames), 2), np.nan)
            sigma[point] = np.full(len(frames), np.nan)
        k = place[frame]
        if not math.isnan(xy[point][k, 0]):
            raise PointsError(f"{shown(Path(path).name)}: {point} stands twice on frame {frame}.")
        xy[point][k] = x, y
        sigma[point][k] = error
    return PointRows(frames, times_s, xy, sigma)


def read_marks(path: str | Path) -> list[Mark]:
    """Read marks by hand from a points file; times are not looked at.

    Raises :class:`PointsError` as :func:`read_points` does.
    """
    return [
        Mark(point, frame, x, y, MARK_SIGMA_PX if math.isnan(error) else error)
        for frame, _, point, x, y, error in _rows(Path(path), need_time=False)
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


def _rows(path: Path, *, need_time: bool = True) -> list[_Row]:
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
        return [_row(path.name, number, row, need_time) for number, row in enumerate(reader, 2)]
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


def _demand_times(name: str, frames: NDArray[np.int64], times_s: FloatArray) -> None:
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
