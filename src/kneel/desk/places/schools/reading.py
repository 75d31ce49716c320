"""Good swings read from their documents, away from the interface."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from kneel.compare.good_swings import GoodSwing
from kneel.desk.operations import Task
from kneel.disk import shown
from kneel.evidence.kept import whole_swing
from kneel.judge.numbers import OfSwing
from kneel.model import UsageError


def read_good_swings(paths: Sequence[Path], measure: str, task: Task) -> list[GoodSwing]:
    """The swings with their numbers as the camera that shows a measure tells them; one given twice is one.

    Raises ``KneelError`` where one cannot be read, or nothing is known of its body.
    """
    found: dict[str, GoodSwing] = {}
    every = list(dict.fromkeys(path.resolve() for path in paths))
    for count, path in enumerate(every):
        task.progress(count, len(every))
        known = whole_swing(path, lambda: task.stopped)
        if known is None:
            raise UsageError(
                f"{shown(path.name)}: nothing is marked in it, and nobody looked for its joints."
            )
        told = known.showing(measure)
        numbers = OfSwing(told.study, told.swing.club)
        found[told.stretch.name] = GoodSwing(told.swing.golfer, str(path.parent), numbers)
    return list(found.values())
