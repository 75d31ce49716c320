"""Two swings side by side: in step, and what differs between them by more than their errors."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kneel.compare.difference import Difference, two_sides
from kneel.compare.errors import Side
from kneel.compare.family import AskedNumber, Compared, compare_all
from kneel.compare.step import InStep
from kneel.model import UsageError
from kneel.motion.failure import Failed
from kneel.motion.study import Study


@dataclass(frozen=True)
class Alike:
    """What two swings have in common: one lesson, one camera that stood, one golfer."""

    lesson: bool = False
    camera: bool = False
    golfer: bool = False


NOTHING_ALIKE = Alike()


@dataclass(frozen=True)
class Pair:
    """Two swings: how they run in step, and their numbers compared."""

    step: InStep
    compared: Compared

    @property
    def asked(self) -> int:
        """Of how many numbers was asked."""
        return len(self.rows)

    @property
    def rows(self) -> tuple[Difference, ...]:
        """All differences, the largest for its error first; what a plan prescribes, before all."""
        first = self.compared.prescribed
        rest = sorted(self.compared.others, key=lambda one: one.p)
        return (first, *rest) if isinstance(first, Difference) else tuple(rest)


def paired(
    studies: tuple[Study, Study],
    sides: tuple[Side, Side],
    asked: Sequence[AskedNumber],
    alike: Alike = NOTHING_ALIKE,
    *,
    prescribed: AskedNumber | None = None,
) -> Pair:
    """Two swings of one view in step and compared; of one swing a side only those two are spoken of.

    Raises :class:`UsageError` where they are of two views or have no checkpoint in common.
    """
    views = [study.setup.view for study in studies]
    if views[0] is not views[1]:
        raise UsageError(
            f"One is seen {views[0].value} and the other {views[1].value}: "
            "only swings of one view are compared."
        )
    step = InStep.of(*(study.checkpoints for study in studies))
    a, b = two_sides(
        sides[:1],
        sides[1:],
        lessons=not alike.lesson,
        stood=alike.camera,
        golfers=not alike.golfer,
    )
    compared = compare_all(a, b, asked, prescribed=prescribed)
    if isinstance(compared.prescribed, Failed):
        raise UsageError(f"{prescribed.measure if prescribed else ''}: {compared.prescribed.reason}")
    return Pair(step, compared)
