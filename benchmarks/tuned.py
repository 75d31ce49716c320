"""``make tuned``: the constants that were found on clips, and what moving each of them by 30 % does.

Detections are kept from ``make accuracy`` (what the network saw, what was
followed): each constant is moved and all numbers are told anew from them, no
picture is looked at. Printed are the factor of the stated error of hips, knees
and ankles, drawn and filmed, without and with three marks, and the error of
the pelvis' shift at the top.
"""

from __future__ import annotations

import importlib
import sys
import tomllib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks import judging as j
from benchmarks.accuracy import MARKS, Found, measured, options

TABLE = Path(__file__).with_name("tuned.toml")
BY = 0.30
LEGS = ("hip", "knee", "ankle")


@dataclass(frozen=True)
class Constant:
    """Where it stands, how it was found, on what; ``pictures`` if only a look at pictures asks for it."""

    package: str
    module: str
    name: str
    how: str
    on: str
    pictures: bool

    @property
    def value(self) -> Any:
        """What it is now; of a curve its values. Raises ``KeyError`` or ``AttributeError``."""
        found = _entry(importlib.import_module(self.module), self.name.split("."))
        return found[1] if _is_curve(found) else found

    @contextmanager
    def moved(self, times: float) -> Iterator[None]:
        """The constant so many times as large, for a while."""
        module = importlib.import_module(self.module)
        head, *rest = self.name.split(".")
        before = getattr(module, head)
        setattr(module, head, _scaled(before, rest, times))
        try:
            yield
        finally:
            setattr(module, head, before)


def constants() -> list[Constant]:
    """The whole table."""
    raw = tomllib.loads(TABLE.read_text(encoding="utf-8"))
    return [
        Constant(package, part["module"], name, how, part["on"], part.get("pictures", False))
        for package, parts in raw.items()
        for part in parts.values()
        for name, how in part["names"].items()
    ]


def main(arguments: list[str]) -> int:
    """Print the table of docs/constants.md."""
    asked = options("tuned", arguments)

    def now() -> list[float]:
        return figures(measured(asked.folder, asked.seed, asked.count, quiet=True, every=False))

    usual = now()
    rows = [["as they are", "", "", _told(usual)]]
    for one in constants():
        change = "acts on pictures"
        if not one.pictures:
            parts = []
            for times in (1 - BY, 1 + BY):
                with one.moved(times):
                    parts.append(_told(now()))
            change = "; ".join(parts)
        rows.append(
            [
                f"`{one.module.removeprefix('kneel.')}` {one.name} = {_shown(one.value)}",
                one.how,
                one.on,
                change,
            ]
        )
        print(rows[-1][0], change, file=sys.stderr, flush=True)
    print(
        j.table(
            [
                "constant",
                "found by",
                "on",
                "drawn no mark, three; film no mark, three; shift (− 30 %; + 30 %)",
            ],
            rows,
        )
    )
    return 0


def figures(found: Found) -> list[float]:
    """Pooled factor of the legs' joints, drawn and filmed, by marks, and RMS of the shift at the top, cm."""
    out = []
    for pool in (found.drawn, found.filmed):
        for label in MARKS:
            many = [
                one for key, points in pool.items() if key[1] == label for one in points if one.joint in LEGS
            ]
            out.append(j.factor(many) if many else float("nan"))
    top = np.array([off for off, _ in found.shifts[MARKS[0], "top"]])
    return [*out, float(np.sqrt((top**2).mean())) if top.size else float("nan")]


def _told(values: list[float]) -> str:
    return " ".join(f"{value:.2f}" for value in values[:-1]) + f", {values[-1]:.2f} cm"


def _shown(value: Any) -> str:
    return ", ".join(f"{v:g}" for v in value) if isinstance(value, tuple) else f"{value:g}"


def _is_curve(value: Any) -> bool:
    return isinstance(value, tuple) and len(value) == 2 and all(isinstance(part, tuple) for part in value)


def _entry(holder: Any, names: list[str]) -> Any:
    for name in names:
        if isinstance(holder, dict):
            holder = holder[name]
        elif isinstance(holder, tuple):
            holder = holder[int(name)]
        else:
            holder = getattr(holder, name)
    return holder


def _scaled(value: Any, rest: list[str], times: float) -> Any:
    if rest:
        name, *more = rest
        if isinstance(value, dict):
            return value | {name: _scaled(value[name], more, times)}
        place = int(name)
        return (*value[:place], _scaled(value[place], more, times), *value[place + 1 :])
    if _is_curve(value):
        # A curve of how many times: what it has above 1 is moved.
        return value[0], tuple(max(1.0, 1 + (v - 1) * times) for v in value[1])
    return tuple(times * v for v in value) if isinstance(value, tuple) else value * times


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
