"""Two swings side by side: in step, and what differs between them by more than their errors."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from kneel.compare.difference import Difference, two_sides
from kneel.compare.errors import Side
from kneel.compare.family import AskedNumber, Compared, compare_all
from kneel.compare.step import InStep, in_step
from kneel.judge.kinds import ONCE
from kneel.model import UsageError
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY, Domain
from kneel.motion.quantity import Single
from kneel.motion.study import Study

OF_A_POSE = ("pose", "paths")
"""Names of causes that go with how the body stands, and so are others at another moment."""


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
        """All differences, as :class:`Compared` has them."""
        return self.compared.rows


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

    >>> from kneel.motion.example import example
    >>> from kneel.judge.numbers import OfSwing
    >>> studies = example(), example(-12.0)
    >>> asked = [AskedNumber("pelvis_shift", "top", 1.0)]
    >>> found = paired(studies, tuple(map(OfSwing, studies)), asked)
    >>> round(found.rows[0].difference, 1), len(found.step.beats)
    (-6.0, 7)
    """
    views = [study.setup.view for study in studies]
    if views[0] is not views[1]:
        raise UsageError(
            f"One is seen {views[0].value} and the other {views[1].value}: "
            "only swings of one view are compared."
        )
    step = in_step(*studies)
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


@dataclass(frozen=True)
class AtMoment:
    """A swing that tells every measure at one moment of it, whichever is asked for."""

    numbers: Side
    moment: str

    @property
    def source(self) -> tuple[str, float]:
        return self.numbers.source

    def tell(self, measure: str, at: str) -> Single | Failed:  # noqa: ARG002
        """A measure at the moment; what goes with the pose there is a cause of its own."""
        told = self.numbers.tell(measure, self.moment)
        if isinstance(told, Failed):
            return told
        own = {(*k, self.moment) if k[0] in OF_A_POSE else k: v for k, v in told.causes.items()}
        return replace(told, _given=own)


def moments(study: Study, numbers: Side, first: str, second: str) -> Compared:
    """Two moments of one swing, by checkpoints: every measure that both tell, and what lies between.

    Scale, camera, clothes and build are one and the same, and go out of the difference.
    Raises :class:`UsageError` where one of the two is not found.

    >>> from kneel.motion.example import example
    >>> from kneel.judge.numbers import OfSwing
    >>> found = moments(example(), OfSwing(example()), "address", "top")
    >>> next(round(one.difference, 1) for one in found.rows if one.measure == "pelvis_shift")
    -6.1
    """
    for name in (first, second):
        if name not in study.checkpoints:
            raise UsageError(f"The {name.replace('_', ' ')} is not found in this swing.")
    asked = [AskedNumber(k, ONCE, 0.0) for k, entry in REGISTRY.items() if entry.domain is Domain.FRAMES]
    sides = two_sides((AtMoment(numbers, first),), (AtMoment(numbers, second),), lessons=False, stood=True)
    return compare_all(*sides, asked)
