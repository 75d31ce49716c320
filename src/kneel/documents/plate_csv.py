"""A pressure plate's trace as CSV: ``time_s,lead_percent,toe_percent``, more columns allowed."""

from __future__ import annotations

import csv
import math
from pathlib import Path

import numpy as np

from kneel.disk import TooLargeError, read_bounded, shown
from kneel.model import PointsError
from kneel.motion.plate import Plate

LARGEST_BYTES = 16 << 20
COLUMNS = ("time_s", "lead_percent", "toe_percent")


def read_plate(path: Path) -> Plate:
    """Read a trace. Raises :class:`PointsError` with one sentence."""
    name = shown(path.name)
    try:
        text = read_bounded(path, LARGEST_BYTES).decode("utf-8-sig")
    except FileNotFoundError as error:
        raise PointsError(f"There is no file {shown(path)}.") from error
    except TooLargeError as error:
        raise PointsError(f"{name} is larger than a plate's trace can be.") from error
    except UnicodeDecodeError as error:
        raise PointsError(f"{name} is not a plate's trace in UTF-8 text.") from error
    except (OSError, ValueError) as error:
        raise PointsError(f"{name} may not be read.") from error
    try:
        rows = list(csv.DictReader(text.splitlines(), strict=True))
    except csv.Error as error:
        raise PointsError(f"{name} is not a well-formed CSV file: {error}.") from error
    if len(rows) < 2 or not set(COLUMNS) <= set(rows[0]):
        raise PointsError(
            f"{name} is no plate's trace: it needs the columns {', '.join(COLUMNS)} and two rows."
        )
    table = np.array(
        [[_number(name, line, row[column]) for column in COLUMNS] for line, row in enumerate(rows, 2)]
    )
    if (np.diff(table[:, 0]) <= 0).any():
        raise PointsError(f"{name} is no plate's trace: its times do not rise.")
    if table[:, 1:].min() < -1 or table[:, 1:].max() > 101:
        raise PointsError(f"{name} is no plate's trace: shares are 0 to 100 %.")
    return Plate(table[:, 0], table[:, 1], table[:, 2])


def _number(name: str, line: int, text: str | None) -> float:
    try:
        value = float(text or "")
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise PointsError(f"{name}, line {line}: each cell must be a number.")
    return value
