"""A pressure plate's trace as CSV: ``time_s,lead_percent,toe_percent``, more columns allowed."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np

from kneel.disk import shown
from kneel.documents.rows_csv import read_rows
from kneel.model import PointsError
from kneel.motion.plate import Plate

COLUMNS = ("time_s", "lead_percent", "toe_percent")


def read_plate(path: Path) -> Plate:
    """Read a trace. Raises :class:`PointsError` with one sentence."""
    name = shown(path.name)
    rows = read_rows(path, "a plate's trace")
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
