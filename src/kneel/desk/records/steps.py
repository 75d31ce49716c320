"""Steps of the records of a Book: what was done, in the order in which it was, and how it is taken back.

A step belongs to its Book and stays there whatever else is looked at. It is taken off the list once undoing
it has succeeded, and not before.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

from kneel.desk.records.held import Held


@dataclass(frozen=True)
class RecordChange:
    """A record went from ``before`` to ``after``."""

    label: str
    held: Held[Any]
    before: Any
    after: Any
    at: float = field(default_factory=time.monotonic, compare=False)
    """When, on the machine's own clock."""

    @property
    def whose(self) -> str:
        return self.held.student

    @property
    def name(self) -> str:
        return self.held.name


@dataclass(frozen=True)
class Acted:
    """Something was written that no single record holds: a student or a lesson was hidden."""

    label: str
    whose: str
    name: str
    back: Callable[[Any], None]
    again: Callable[[Any], None]
    at: float = field(default_factory=time.monotonic, compare=False)


Step = RecordChange | Acted


class Steps:
    """What was done in one Book, and what was taken back."""

    def __init__(self) -> None:
        self.done: list[Step] = []
        self.undone: list[Step] = []

    def push(self, step: Step) -> None:
        """Something was done."""
        self.done.append(step)
        self.undone.clear()

    def labels(self, whose: str) -> tuple[str | None, str | None]:
        """What would be undone and what done again; whose it is, where that is not who is on show."""
        found = []
        for steps in (self.done, self.undone):
            step = steps[-1] if steps else None
            label = step.label if step is not None else None
            if step is not None and step.whose and step.whose != whose and step.name:
                label = f"{label} ({step.name})"
            found.append(label)
        return found[0], found[1]

    def when(self) -> tuple[float | None, float | None]:
        """When what would be undone was done, and what would be done again was taken back."""
        here, there = (steps[-1].at if steps else None for steps in (self.done, self.undone))
        return here, there

    def rebind(self, held: Held[Any], other: Held[Any]) -> None:
        """Two copies of one record are one from now on: its steps are steps of the other."""
        for steps in (self.done, self.undone):
            steps[:] = [
                replace(one, held=other) if isinstance(one, RecordChange) and one.held is held else one
                for one in steps
            ]

    def refuse(self, held: Held[Any], field: str) -> None:
        """The last change of a field was refused: it is no step."""
        for one in reversed(self.done):
            mine = isinstance(one, RecordChange) and one.held is held
            if mine and getattr(one.before, field) != getattr(one.after, field):
                self.done.remove(one)
                return

    def forget(self, held: Held[Any]) -> None:
        """A record is no more: what was done to it cannot be undone."""
        for steps in (self.done, self.undone):
            steps[:] = [one for one in steps if not (isinstance(one, RecordChange) and one.held is held)]
