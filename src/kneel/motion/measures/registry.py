"""The registry of measures: what each is called, looks at, and means.

A new measure is a pure function of places with the :func:`measure` decorator,
or of other measures' series with :func:`once`; nothing else need change.
Where its error comes from is no business of the function, see :mod:`kneel.motion.uncertain`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.model import View
from kneel.motion.measurable import Geometry
from kneel.motion.measures.carried import Carried

FloatArray = NDArray[np.float64]

ACROSS: Final = (View.FACE_ON, View.REAR)
ALONG: Final = (View.DOWN_THE_LINE,)
ANY: Final = (*ACROSS, *ALONG)


class Unit(StrEnum):
    """``LENGTH`` is told in the scale's unit, cm or stance widths."""

    LENGTH = "length"
    ANGLE = "deg"
    RATIO = "ratio"
    PERCENT = "%"
    SECONDS = "s"
    MILLISECONDS = "ms"


class Domain(StrEnum):
    """Where a measure has a value."""

    FRAMES = "every frame"
    SETUP = "the set-up"
    ONCE = "once a swing"


class Shape(StrEnum):
    """How a measure is drawn on the picture."""

    PLUMB = "plumb"
    SEGMENT = "segment"
    ANGLE = "angle"
    GAP = "gap"
    NONE = "none"


@dataclass(frozen=True)
class Figure:
    """What shows a measure on the picture.

    A plumb stands where the middle of ``points`` was at address; a segment runs through them; an
    angle lies between the first two and the last two of three or four; a gap runs from the first to the last.
    """

    shape: Shape
    points: tuple[str, ...] = ()


NOWHERE: Final = Figure(Shape.NONE)


@dataclass(frozen=True)
class Way:
    """How a measure is told in some views: its points now and at address, and the function of them.

    ``turns`` are pairs whose sign of turn the function is told; ``own`` is what its definition leaves
    open, in its unit; ``bends`` that it bends or picks, so that its error comes from draws. ``carried`` is
    the part of the body that has to move for it to be another, None where one view cannot tell that.
    ``cosines`` are what it is the angle of, where it is of any: past 1 only an error takes one.
    """

    views: frozenset[View]
    needs: tuple[str, ...]
    then: tuple[str, ...]
    compute: Geometry
    turns: tuple[str, ...] = ()
    own: float = 0.0
    bends: bool = False
    carried: Carried | None = None
    cosines: tuple[Geometry, ...] = ()

    @property
    def points(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys((*self.needs, *self.then)))


Series = Mapping[str, FloatArray]
Moments = Mapping[str, FloatArray]
Whole = Callable[[Series, FloatArray, Moments], FloatArray]
"""From series (B, T) by measure, times (T,) s and checkpoints (B,) s to values (B,); NaN for none."""


@dataclass(frozen=True)
class Course:
    """How a measure of a whole swing is told: from which series, and between which checkpoints.

    ``none`` says why there may be none, ``own`` is what its definition leaves open; ``fine`` that it
    needs every frame between its checkpoints, as what the club does; ``most`` the error beyond which
    nothing is told; ``marked`` that what the body model sees wavers too much for it.
    """

    views: frozenset[View]
    series: tuple[str, ...]
    at: tuple[str, ...]
    compute: Whole
    none: str = ""
    own: float = 0.0
    fine: bool = False
    most: float = float("inf")
    marked: bool = False


@dataclass(frozen=True)
class Measure:
    """An entry of the registry. ``positive`` says in words what + means, ``hint`` in two or three.

    ``lanes`` maps views to where it stands among the lanes shown at first; ``check`` names what it is
    checked against outside the project; ``estimate`` is a word on what it is not.
    ``recorded`` is what of a plate's trace it is, where no picture shows it; ``at`` are the only checkpoints
    at which it means something, none where it does everywhere.
    """

    key: str
    title: str
    short: str
    unit: Unit
    domain: Domain
    positive: str
    hint: str
    says: str
    figure: Figure
    looks: tuple[Way, ...] = ()
    course: Course | None = None
    lanes: Mapping[View, int] | None = None
    check: str = ""
    estimate: str = ""
    recorded: str = ""
    at: tuple[str, ...] = ()

    @property
    def views(self) -> frozenset[View]:
        if self.recorded:
            return frozenset(View)
        if self.course is not None:
            return self.course.views
        return frozenset().union(*(look.views for look in self.looks))

    @property
    def turned(self) -> bool:
        """Whether it is a turn, which has its sign from the phase."""
        return any(look.turns for look in self.looks)

    def ways(self, view: View) -> list[Way]:
        """How it can be told in a view, the best way first."""
        return [look for look in self.looks if view in look.views]


REGISTRY: Final[dict[str, Measure]] = {}

Adorned = Callable[[Geometry], Geometry]


def measure(
    key: str,
    title: str,
    unit: Unit,
    *,
    views: Sequence[View],
    needs: Sequence[str],
    positive: str,
    then: Sequence[str] = (),
    short: str = "",
    hint: str = "",
    figure: Figure = NOWHERE,
    domain: Domain = Domain.FRAMES,
    turns: Sequence[str] = (),
    own: float = 0.0,
    bends: bool = False,
    lanes: Mapping[View, int] | None = None,
    check: str = "",
    estimate: str = "",
    says: str = "",
    at: Sequence[str] = (),
    carried: Carried | None = None,
    cosines: Sequence[Geometry] = (),
) -> Adorned:
    """Register a function of places under ``key``; see :class:`Way` and :class:`Measure`.

    >>> @measure("knees_apart", "Knees apart", Unit.LENGTH, views=ACROSS, needs=["lead_knee", "trail_knee"],
    ...          positive="wide")
    ... def knees_apart(body):
    ...     '''From knee to knee.'''
    ...     return body["lead_knee"][..., 0] - body["trail_knee"][..., 0]
    >>> entry = REGISTRY.pop("knees_apart")
    >>> entry.says, entry.domain.value, sorted(view.value for view in entry.views)
    ('From knee to knee.', 'every frame', ['face-on', 'rear'])
    """

    def enter(compute: Geometry) -> Geometry:
        told = tuple(needs), tuple(then), compute, tuple(turns), own, bends, carried, tuple(cosines)
        look = Way(frozenset(views), *told)
        known = REGISTRY.get(key)
        if known is not None:
            REGISTRY[key] = replace(known, looks=(*known.looks, look))
            return compute
        REGISTRY[key] = Measure(
            key,
            title,
            short or title,
            unit,
            domain,
            positive,
            hint or positive,
            says or _first_paragraph(compute),
            figure,
            (look,),
            lanes=lanes,
            check=check,
            estimate=estimate,
            at=tuple(at),
        )
        return compute

    return enter


def otherwise(key: str, *, views: Sequence[View], needs: Sequence[str], **more: object) -> Adorned:
    """Another way to tell a measure that is registered already.

    >>> def told(body):
    ...     '''How it is told.'''
    >>> _ = measure("an_angle", "An angle", Unit.ANGLE, views=ACROSS, needs=["head"], positive="+")(told)
    >>> _ = otherwise("an_angle", views=ALONG, needs=["grip"])(told)
    >>> [way.needs for way in REGISTRY.pop("an_angle").ways(View.DOWN_THE_LINE)]
    [('grip',)]
    """
    known = REGISTRY[key]
    return measure(
        key,
        known.title,
        known.unit,
        views=views,
        needs=needs,
        positive=known.positive,
        **more,  # type: ignore[arg-type]
    )


def once(
    key: str,
    title: str,
    unit: Unit,
    *,
    views: Sequence[View],
    at: Sequence[str],
    positive: str,
    series: Sequence[str] = (),
    none: str = "",
    own: float = 0.0,
    fine: bool = False,
    most: float = float("inf"),
    marked: bool = False,
    check: str = "",
    estimate: str = "",
) -> Callable[[Whole], Whole]:
    """Register a quantity of the whole swing; ``none`` says why there may be none.

    >>> @once("a_time", "A time", Unit.SECONDS, views=ANY, at=["top", "impact"], positive="long")
    ... def a_time(series, times, at):
    ...     '''From the top to impact.'''
    ...     return at["impact"] - at["top"]
    >>> REGISTRY.pop("a_time").course.at
    ('top', 'impact')
    """

    def enter(compute: Whole) -> Whole:
        if key in REGISTRY:
            raise ValueError(f"measure {key} is registered twice")
        course = Course(frozenset(views), tuple(series), tuple(at), compute, none, own, fine, most, marked)
        REGISTRY[key] = Measure(
            key,
            title,
            title,
            unit,
            Domain.ONCE,
            positive,
            positive,
            _first_paragraph(compute),
            NOWHERE,
            course=course,
            check=check,
            estimate=estimate,
        )
        return compute

    return enter


def recorded(key: str, title: str, what: str, *, positive: str, says: str, check: str = "") -> None:
    """Register a quantity that a pressure plate tells, in %; ``what`` names it in the plate's trace.

    >>> recorded("on_lead_toes", "On the lead toes", "lead toe", positive="toes", says="How much is there.")
    >>> REGISTRY.pop("on_lead_toes").recorded
    'lead toe'
    """
    REGISTRY[key] = Measure(
        key,
        title,
        title,
        Unit.PERCENT,
        Domain.FRAMES,
        positive,
        positive,
        says,
        NOWHERE,
        check=check,
        recorded=what,
    )


def lanes_of(view: View) -> list[str]:
    """The measures shown at first under a picture of that view, in order.

    >>> from kneel.motion.measures import REGISTRY
    >>> [REGISTRY[key].title for key in lanes_of(View.FACE_ON)][:2]
    ['Pelvis shift', 'Trail hip past its plumb']
    """
    ranked = [(m.lanes[view], m.key) for m in REGISTRY.values() if m.lanes and view in m.lanes]
    return [key for _, key in sorted(ranked)]


def _first_paragraph(compute: Callable[..., object]) -> str:
    words = (compute.__doc__ or "").strip().split("\n\n")[0]
    return " ".join(words.split())
