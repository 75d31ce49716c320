"""Rows of a small CSV file by the names of its columns, or one sentence why not."""

from __future__ import annotations

import csv
from pathlib import Path

from kneel.disk import TooLargeError, read_bounded, shown
from kneel.model import PointsError

LARGEST_BYTES = 16 << 20


def read_rows(path: Path, what: str) -> list[dict[str, str]]:
    """Rows of a file that ``what`` names in words; all cells as text, empty where one is missing.

    Raises :class:`PointsError` with one sentence.
    """
    name = shown(path.name)
    try:
        text = read_bounded(path, LARGEST_BYTES).decode("utf-8-sig")
    except FileNotFoundError as error:
        raise PointsError(f"There is no file {shown(path)}.") from error
    except TooLargeError as error:
        raise PointsError(f"{name} is larger than {what} can be.") from error
    except UnicodeDecodeError as error:
        raise PointsError(f"{name} is not {what} in UTF-8 text.") from error
    except (OSError, ValueError) as error:
        raise PointsError(f"{name} may not be read.") from error
    try:
        rows = list(csv.DictReader(text.splitlines(), strict=True))
    except csv.Error as error:
        raise PointsError(f"{name} is not a well-formed CSV file: {error}.") from error
    return [
        {
            key.strip(): (cell or "").strip()
            for key, cell in row.items()
            if isinstance(key, str) and not isinstance(cell, list)
        }
        for row in rows
    ]
