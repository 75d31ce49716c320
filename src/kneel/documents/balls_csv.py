"""What the balls of a set did, as CSV: ``swing,strike,start,curve,carry``; more columns are allowed."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from kneel.disk import shown
from kneel.documents.rows_csv import read_rows
from kneel.judge.flight import CURVES, STARTS, STRIKES
from kneel.model import Ball, PointsError
from kneel.model.swing import FARTHEST_M

COLUMNS = ("swing", "strike", "start", "curve", "carry")
NEEDED = COLUMNS[1:2]
MOST_BALLS = 1000


@dataclass(frozen=True)
class Struck:
    """A ball, and the swing that struck it: its number from 1, or 0 for one that was not filmed."""

    swing: int
    ball: Ball


def read_balls(path: Path, swings: int) -> tuple[Struck, ...]:
    """Read the balls of a lesson of so many swings.

    An empty cell is not noted; ``carry`` is in metres. Raises :class:`PointsError` with one sentence.
    """
    name = shown(path.name)
    rows = read_rows(path, "a list of balls")
    if not rows or not set(NEEDED) <= set(rows[0]):
        raise PointsError(
            f"{name} is no list of balls: it needs the column strike, and may have "
            f"{', '.join(one for one in COLUMNS if one not in NEEDED)}, with a row a ball."
        )
    if len(rows) > MOST_BALLS:
        raise PointsError(f"{name} has more than {MOST_BALLS} balls: give those of one lesson.")
    found = tuple(_struck(name, line, row, swings) for line, row in enumerate(rows, 2))
    numbers = [one.swing for one in found if one.swing]
    twice = next((n for n in numbers if numbers.count(n) > 1), None)
    if twice is not None:
        raise PointsError(f"{name} has two balls of swing {twice}: each swing strikes one.")
    return found


def _struck(name: str, line: int, row: dict[str, str], swings: int) -> Struck:
    def one_of(field: str, kinds: tuple[str, ...]) -> str:
        said = row.get(field, "").lower()
        if said and said not in kinds:
            raise PointsError(
                f"{name}, line {line}: {field} is one of {', '.join(kinds)}, not {shown(said)}."
            )
        return said

    strike = one_of("strike", tuple(STRIKES))
    start, curve = one_of("start", STARTS), one_of("curve", CURVES)
    number = _number(name, line, "swing", row.get("swing", ""))
    if number is not None and (number != int(number) or not 1 <= number <= swings):
        raise PointsError(f"{name}, line {line}: swing is a number from 1 to {swings}, or empty.")
    carry = _number(name, line, "carry", row.get("carry", ""))
    if carry is not None and not 0 <= carry <= FARTHEST_M:
        raise PointsError(f"{name}, line {line}: carry is 0 to {FARTHEST_M:g} metres.")
    return Struck(int(number or 0), Ball(strike=strike, start=start, curve=curve, carry=carry))


def _number(name: str, line: int, field: str, text: str) -> float | None:
    if not text:
        return None
    try:
        return float(text)
    except ValueError:
        raise PointsError(f"{name}, line {line}: {field} must be a number, not {shown(text)}.") from None
