"""Points files with cells, rows and columns mutated."""

from __future__ import annotations

import random
from collections.abc import Callable
from functools import cache

import numpy as np

from kneel.model import Hand, View
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import SwingPlan

Table = list[list[str]]

ODD = (
    "",
    " ",
    "-1",
    "0",
    "1e300",
    "-1e300",
    "1e250",
    "1e-9",
    "9223372036854775808",
    "nan",
    "inf",
    "x",
    "1,5",
)
ODD += ("1_000", "٣", "0x10", "\x00", "\n", '"', "a" * 5000, "1e5", "1e6", "-0.0", "5e-324", "true", "１２")
NAMES = ("left_hip", "right_hip", "grip", "ball", "nobody", "LEFT_HIP", "left hip", "")


def rows(rng: random.Random, frames: int = 900, rate: float = 60.0) -> Table:
    """A simulated swing that sways, with noise, filmed at ``rate`` and cut to at most ``frames``."""
    table = [["frame", "time_s", "point", "x_px", "y_px", "sigma_px"]]
    pixels = _pixels(rate)
    for frame in range(min(frames, len(pixels["grip"]))):
        for name, xy in pixels.items():
            x, y = (float(v) + rng.gauss(0, 0.5) for v in xy[frame])
            table.append([str(frame), f"{frame / rate:.6f}", name, f"{x:.2f}", f"{y:.2f}", "1.0"])
    return table


@cache
def _pixels(rate: float) -> dict[str, np.ndarray]:
    golfer = Golfer(stature_cm=176.0, hand=Hand.RIGHT)
    shoot = Shoot(golfer, SwingPlan({"sway": 5.0}), Camera(View.FACE_ON, Hand.RIGHT), rate)
    return {name: xy for name, xy in shoot.truth().pixels.items() if np.isfinite(xy).all()}


def _cell(rng: random.Random, table: Table) -> None:
    row = rng.choice(table)
    row[rng.randrange(len(row))] = rng.choice(ODD)


def _column(rng: random.Random, table: Table) -> None:
    at, value = rng.randrange(len(table[0])), rng.choice(ODD)
    for row in table[1:]:
        if at < len(row):
            row[at] = value


def _names(rng: random.Random, table: Table) -> None:
    old, new = rng.choice(table[1:])[2], rng.choice(NAMES)
    for row in table:
        if row[2] == old:
            row[2] = new


def _drop_column(rng: random.Random, table: Table) -> None:
    at = rng.randrange(len(table[0]))
    for row in table:
        del row[at : at + 1]


def _swap_columns(rng: random.Random, table: Table) -> None:
    a, b = rng.sample(range(6), 2)
    for row in table[rng.choice((0, 1)) :]:
        if max(a, b) < len(row):
            row[a], row[b] = row[b], row[a]


def _repeat(rng: random.Random, table: Table) -> None:
    at = rng.randrange(len(table))
    table[at:at] = [list(row) for row in table[at : at + rng.choice((1, 7, 70))]]


def _drop(rng: random.Random, table: Table) -> None:
    at = rng.randrange(len(table))
    del table[at : at + rng.choice((1, 7, 70, 400))]


def _shuffle(rng: random.Random, table: Table) -> None:
    body = table[1:]
    rng.shuffle(body)
    table[1:] = body


def _later(rng: random.Random, table: Table) -> None:
    by, start = rng.choice((1e6, 3e9, 500.0, -1.0, 1e-12)), rng.randrange(1, len(table))
    for row in table[start:]:
        _add(row, 1, by)


def _frames(rng: random.Random, table: Table) -> None:
    times = rng.choice((1000, 10**6, 2**40, -1, 0))
    for row in table[1:]:
        _scale(row, 0, times)


def _stretch(rng: random.Random, table: Table) -> None:
    times = rng.choice((1e-9, 1e-4, 100.0, 1e5, 0.0))
    for row in table[1:]:
        _scale(row, 1, times)


def _places(rng: random.Random, table: Table) -> None:
    times = rng.choice((0.0, 1e-6, 150.0, -1.0))
    for row in table[1:]:
        _scale(row, 3, times)
        _scale(row, 4, times)


def _without_point(rng: random.Random, table: Table) -> None:
    gone = rng.choice(table[1:])[2]
    table[1:] = [row for row in table[1:] if row[2] != gone]


def _thinned(rng: random.Random, table: Table) -> None:
    every, point = rng.choice((2, 5, 20)), rng.choice(table[1:])[2]
    both = rng.random() < 0.5
    table[1:] = [row for k, row in enumerate(table[1:]) if (not both and row[2] != point) or k % every == 0]


def _errors(rng: random.Random, table: Table) -> None:
    error = rng.choice(("1e-12", "1e-3", "1e4", "99999", ""))
    for row in table[1:]:
        row[5:] = [error]


def _one_still(rng: random.Random, table: Table) -> None:
    point, place = rng.choice(table[1:])[2], rng.choice(table[1:])[3:5]
    for row in table[1:]:
        if row[2] == point:
            row[3:5] = place


def _gap(rng: random.Random, table: Table) -> None:
    by, start = rng.choice((0.5, 5.0, 100.0, 550.0)), rng.randrange(len(table) // 2)
    for row in table[1:]:
        if len(row) > 1 and row[0].isdigit() and int(row[0]) * 8 > start:
            _add(row, 1, by)


def _jump(rng: random.Random, table: Table) -> None:
    point, by, start = rng.choice(table[1:])[2], rng.choice((-300.0, 40.0, 9e4)), rng.randrange(1, len(table))
    for row in table[start:]:
        if len(row) > 3 and row[2] == point:
            _add(row, 3, by)


def _ragged(rng: random.Random, table: Table) -> None:
    row = rng.choice(table)
    row[:] = row[: rng.randrange(len(row))] if rng.random() < 0.5 else row + ["1"] * rng.choice((1, 900))


def _add(row: list[str], at: int, by: float) -> None:
    try:
        row[at] = repr(float(row[at]) + by)
    except (ValueError, IndexError):
        return


def _scale(row: list[str], at: int, times: float) -> None:
    try:
        value = float(row[at]) * times
        row[at] = str(int(value)) if at == 0 else repr(value)
    except (ValueError, IndexError, OverflowError):
        return


MUTATIONS: tuple[Callable[[random.Random, Table], None], ...] = (
    *(_cell, _column, _names, _drop_column, _swap_columns, _repeat, _drop, _shuffle, _later, _frames),
    *(_stretch, _places, _ragged),
)
READABLE = (_without_point, _thinned, _errors, _one_still, _gap, _jump, _places, _shuffle)
"""After these it is still a points file, only an odd swing."""


def mutated(seed: int) -> bytes:
    """One points file."""
    rng = random.Random(seed)
    table = rows(rng, rng.choice((900, 900, 900, 900, 2, 1, 40)), rng.choice((30.0, 60.0, 60.0, 120.0)))
    for _ in range(rng.choice((0, 1, 1, 1, 2, 3))):
        if len(table) > 1:
            rng.choice(MUTATIONS if rng.random() < 0.4 else READABLE)(rng, table)
    raw = "\n".join(",".join(row) for row in table).encode("utf-8", "surrogatepass")
    return rng.choice(
        (raw, raw, raw, raw, b"\xef\xbb\xbf" + raw, raw.replace(b"\n", b"\r\n"), raw[: len(raw) // 3])
    )
