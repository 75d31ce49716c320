"""What each cause of error shares between two swings: one clip, one lesson, one camera that stood, one
golfer.

The error of a number comes as independent causes, each with how far one deviation of it moves the number
(:mod:`kneel.motion.sample`). A cause of one name is one and the same in all swings that have what it hangs on
in common; :func:`shared_key` names it so. What two means of swings have alike then goes out of their
difference by itself, and what the swings of one side have alike does not shrink with their number.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

from kneel.motion.failure import Failed
from kneel.motion.quantity import Single
from kneel.motion.sample import EACH_CLIP, Key

CAMERA = ("roll", "yaw", "perspective", "height", "deep aside", "nearer aside", "nearer")
"""Causes that hang on where the camera stands."""

CLOTHES = ("lasts",)
"""Causes that are constant through a clip, and alike in all clips of these clothes: the network's lowness
too."""

BUILD = ("deep", "definition")
"""Causes that lie in the golfer's own build."""

POSE_OF_GOLFER = 0.95
"""Of what the network errs by in a pose so much comes again in another lesson, by the golfer's build; the
rest goes with the clothes (drawn golfers seen twice, ``make pairs``)."""


class Side(Protocol):
    """What comparing asks of a swing; ``source`` is what its scale rests on."""

    @property
    def source(self) -> tuple[str, float]: ...
    def tell(self, measure: str, at: str) -> Single | Failed:
        """A measure at a checkpoint, or ``once``, with its causes of error."""
        ...


@dataclass(frozen=True)
class OneNumber:
    """A swing of which only one number is known, and what its scale rests on."""

    at: str
    single: Single
    source: tuple[str, float]

    def tell(self, measure: str, at: str) -> Single | Failed:
        if (measure, at) == (self.single.key, self.at):
            return self.single
        return Failed("Of this swing only another number is known.", "none")


@dataclass(frozen=True)
class Member:
    """A swing of a side: its numbers, the lesson it is of, the camera by a name of its place, and the golfer
    by any name, one and the same where none is given.
    """

    numbers: Side
    lesson: str
    camera: str
    golfer: str = ""


@dataclass(frozen=True)
class SwingNumber:
    """A swing that tells a number."""

    member: Member
    single: Single

    @property
    def seen(self) -> bool:
        """Whether it rests on what the body model sees."""
        return any(cause[0] in ("pose", "lasts") for cause in self.single.causes)

    @property
    def own(self) -> float:
        """The variance that it brings by itself."""
        return sum(moved**2 for key, moved in self._parts if key is None)

    @property
    def shared(self) -> Iterable[tuple[Key, float]]:
        """Every other cause by the name under which it is one with that of other swings."""
        return ((key, moved) for key, moved in self._parts if key is not None)

    @property
    def _parts(self) -> Iterable[tuple[Key | None, float]]:
        for cause, moved in self.single.causes.items():
            if cause[0] == "pose":
                yield (*cause, "golfer", self.member.golfer), moved * POSE_OF_GOLFER**0.5
                yield (*cause, self.member.lesson), moved * (1 - POSE_OF_GOLFER) ** 0.5
            else:
                yield shared_key(cause, self.member, self.single.key), moved


def shared_key(cause: Key, member: Member, measure: str) -> Key | None:
    """The name under which a cause is one and the same in several swings; None where it is the swing's own.

    >>> here, there = Member(None, "4 Aug", "by the net"), Member(None, "1 Sep", "by the net")
    >>> shared_key(("yaw",), here, "pelvis_shift") == shared_key(("yaw",), there, "pelvis_shift")
    True
    >>> shared_key(("place", "lead_hip"), here, "pelvis_shift") is None
    True
    """
    name = cause[0]
    if name in EACH_CLIP or cause == (measure,):
        return None
    if name == "scale":
        return (*cause, *map(str, member.numbers.source), member.golfer)
    if name in CAMERA:
        return (*cause, member.camera)
    if name in CLOTHES:
        return (*cause, member.lesson)
    if name in BUILD:
        return (*cause, member.golfer)
    # Camera, clothes and scale of a quantity of the whole swing, in one.
    return (*cause, member.lesson, member.camera, *map(str, member.numbers.source))


def told_by(side: Sequence[Member], measure: str, at: str) -> list[SwingNumber] | Failed:
    """The swings of a side that tell a measure, in one unit; :class:`Failed` where none does.

    >>> from kneel.motion.example import example
    >>> from kneel.judge.numbers import OfSwing
    >>> side = [Member(OfSwing(example()), "4 Aug", "by the net")]
    >>> [round(one.single.value, 1) for one in told_by(side, "pelvis_shift", "top")]
    [-6.1]
    """
    every = [(member, member.numbers.tell(measure, at)) for member in side]
    told = [SwingNumber(member, single) for member, single in every if isinstance(single, Single)]
    if len({one.single.unit for one in told}) > 1:
        return Failed("The swings of one side are told in different units.", "unit")
    if not told:
        return next((f for _, f in every if isinstance(f, Failed)), Failed("There is no swing.", "none"))
    return told


def shared_moves(told: Sequence[SwingNumber]) -> dict[Key, float]:
    """How far one deviation of each cause that is no swing's own moves the mean of some swings.

    >>> from kneel.motion.example import example
    >>> from kneel.judge.numbers import OfSwing
    >>> side = [Member(OfSwing(example()), "4 Aug", "by the net")]
    >>> ("roll", "by the net") in shared_moves(told_by(side, "pelvis_shift", "top"))
    True
    """
    total: dict[Key, float] = {}
    for one in told:
        for key, moved in one.shared:
            total[key] = total.get(key, 0.0) + moved / len(told)
    return total


def variance_apart(first: Mapping[Key, float], second: Mapping[Key, float]) -> float:
    """Variance of the difference of two means from what their swings share with others of their side.

    >>> round(variance_apart({("scale",): 0.5, ("camera",): 0.2}, {("scale",): 0.5, ("camera",): -0.1}), 6)
    0.09
    """
    keys = first.keys() | second.keys()
    return sum((second.get(key, 0.0) - first.get(key, 0.0)) ** 2 for key in keys)
