"""Two clips taken for one swing: whether they are, on what clock, and what they tell together."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kneel.model import Stature, TypedValue, UsageError, View
from kneel.motion.body import LEG, NOMINAL_STATURE_CM
from kneel.motion.checkpoints import Checkpoint
from kneel.motion.failure import Failed
from kneel.motion.measures.in_space import TOLD_BY_TWO
from kneel.motion.quantity import Single
from kneel.motion.scale import Scale
from kneel.motion.space.body import Body
from kneel.motion.space.clock import Clock, find_clock
from kneel.motion.space.find import find_body
from kneel.motion.space.moments import at_set, one_set
from kneel.motion.space.quantities import QUANTITIES, InSpace, told
from kneel.motion.study import Study

FloatArray = NDArray[np.float64]

STRIKE_S = 0.006
"""Either camera hears a strike to about so much: sound takes 3 ms a metre (common practice, no source)."""

HEARD_SIGMAS = 4.0
"""Strikes that lie farther from the clock of the hands than this are of two swings, or no strikes."""

USUAL_SLOWINGS = (2.0, 4.0, 8.0, 10.0, 0.5, 0.25, 0.125)
TOGETHER_CM = 3.0
"""Hands that go together are seen alike to better than this."""

APART_SIGMAS, APART_S = 4.0, 0.04
"""A checkpoint of both that lies farther apart than both of these on one clock tells of two swings."""

MISFIT = 1.0
"""The mean square of all residuals, over their spreads, of one body is 0.1 to 0.4 (simulated clips); of one
view taken twice 1.5 and more."""

COMPARED = ("half_back", "top", "half_down", "impact", "follow")

SOURCE = "two cameras"


@dataclass(frozen=True)
class Linked:
    """One swing by two cameras: the clock of the second by that of the first, the body, and its numbers."""

    clock: Clock
    body: Body
    numbers: Mapping[tuple[str, str], InSpace]
    across_at: Mapping[str, Checkpoint]
    """The one set of checkpoints, in the clip of the camera across the line."""

    along_at: Mapping[str, Checkpoint]
    """The same in the clip of the camera along it, as far as that shows them."""

    turned: bool = False
    """Whether the first camera is the one that looks along the target line."""

    moving: Body | None = None
    """The body between the checkpoints too, for the eye: at them it is :attr:`body`."""

    def placed(self, first_s: float) -> dict[str, FloatArray]:
        """Where every joint is at a time of the first clip, (3,) cm by name."""
        return (self.moving or self.body).placed(self.body_s(first_s))

    def seen_from_second(self) -> Linked:
        """The same with the second camera taken for the first."""
        return replace(self, clock=self.clock.turned(), turned=not self.turned)

    def body_s(self, first_s: float) -> float:
        """A time of the first clip on the clock that the body goes by, that of the camera across the line."""
        return first_s + self.clock.offset_s if self.turned else first_s


def link(first: Study, second: Study, *, between: int = 0, agreed: bool = False) -> Linked:
    """Two clips as one swing, ``second``'s clock by that of ``first``; with ``between`` the body is told for
    the eye at so many moments between the checkpoints besides. What somebody has ``agreed`` to be one swing
    is not taken apart by marks and pins that fit badly: marks widen the errors.

    Raises :class:`UsageError` with the reason where they are of one view, or not of one swing.

    >>> from kneel.motion.space.example import example_pair
    >>> linked = link(*example_pair(), agreed=True)
    >>> round(linked.numbers["pelvis_shift_3d", "top"].value)
    -5
    """
    views = [study.setup.view for study in (first, second)]
    if (views[0] is View.DOWN_THE_LINE) == (views[1] is View.DOWN_THE_LINE):
        raise UsageError(
            f"The clips are {views[0].value} and {views[1].value}: a swing in space needs one along the "
            "target line, and one from the front or behind."
        )
    if first.setup.hand is not second.setup.hand:
        raise UsageError("One clip is of a right-handed golfer and the other of a left-handed: two people.")
    turned = views[0] is View.DOWN_THE_LINE
    across, along = (second, first) if turned else (first, second)
    clock = find_clock(across, along)
    if isinstance(clock, Clock):
        clock = _with_strikes(clock, across, along)
    against = clock.reason if isinstance(clock, Failed) else ""
    if not against and not agreed:
        assert isinstance(clock, Clock)
        against = _two_swings(clock, across, along)
    if against or isinstance(clock, Failed):
        slower = slowed(across, along)
        if slower is not None:
            raise UsageError(
                "The two go together only if time in the clip along the line is "
                f"taken {slower:g} times as fast: say its true rate, and link them again."
            )
        raise UsageError(f"{against} Link two clips of one swing.")
    linked = _told(across, along, clock, turned=turned, between=between)
    if isinstance(linked, Failed):
        raise UsageError(f"{linked.reason} Mark them, and link the clips again.")
    if linked.body.misfit > MISFIT and not agreed:
        raise UsageError(
            "The two clips do not show one body from two sides. Say each one's view, and link two clips "
            "of one swing."
        )
    return linked


def followed(linked: Linked, first: Study, second: Study) -> Linked | None:
    """What a mark under the hand makes of a swing that was linked, at the checkpoints alone, and of the turns
    alone: all else and the clock stay until the hand rests. Both clips are told at the one set already. None
    where that cannot be told.

    >>> from kneel.motion.space.example import example_pair
    >>> pair = example_pair()
    >>> linked = link(*pair, agreed=True)
    >>> first, second = (told_by_two(study, linked) for study in pair)
    >>> followed(linked, first, second).numbers.keys() == linked.numbers.keys()
    True
    """
    across, along = (second, first) if linked.turned else (first, second)
    clock = linked.clock.turned() if linked.turned else linked.clock
    body = _body(across, along, clock, linked.body)
    if isinstance(body, Failed):
        return None
    fresh = _numbers(body, linked.across_at, TOLD_BY_TWO)
    return replace(linked, body=body, numbers={**linked.numbers, **fresh}, moving=None)


def _told(across: Study, along: Study, clock: Clock, *, turned: bool, between: int = 0) -> Linked | Failed:
    across_at, along_at = one_set(across, along, clock)
    across, along = (at_set(s, points) for s, points in ((across, across_at), (along, along_at)))
    body = _body(across, along, clock)
    if isinstance(body, Failed):
        return body
    shown = clock.turned() if turned else clock
    linked = Linked(shown, body, _numbers(body, across_at), across_at, along_at, turned)
    if not between:
        return linked
    smooth = find_body(across, along, clock, stature_of(across, along), between=between)
    return linked if isinstance(smooth, Failed) else replace(linked, moving=_through(smooth, body))


def _body(across: Study, along: Study, clock: Clock, near: Body | None = None) -> Body | Failed:
    body = find_body(across, along, clock, stature_of(across, along), near=near)
    if isinstance(body, Failed) or body.misfit <= MISFIT:
        return body
    # What agrees badly is as much less sure (Birge 1932).
    return replace(body, covariance=body.covariance * body.misfit)


def _numbers(
    body: Body, points: Mapping[str, Checkpoint], keys: Collection[str] = tuple(QUANTITIES)
) -> dict[tuple[str, str], InSpace]:
    return told(body, {name: point.sigma_s for name, point in points.items()}, keys)


def _through(smooth: Body, body: Body) -> Body:
    """A body between the checkpoints as well, taken through where it is at them."""
    at = [smooth.moments.index(name) for name in body.moments]
    off = (body.xyz - smooth.xyz[at]).reshape(len(at), -1)
    moved = [np.interp(smooth.times_s, body.times_s, column) for column in off.T]
    return replace(smooth, xyz=smooth.xyz + np.stack(moved, axis=1).reshape(smooth.xyz.shape))


def _with_strikes(clock: Clock, across: Study, along: Study) -> Clock:
    heard = [study.setup.strikes for study in (across, along)]
    if any(len(strikes) != 1 for strikes in heard):
        return clock
    (one,), (other,) = heard
    apart = other.time_s - one.time_s - clock.offset_s
    if abs(apart) > HEARD_SIGMAS * np.hypot(clock.sigma_s, 2**0.5 * STRIKE_S):
        return clock
    return clock.with_strikes(one.time_s, other.time_s, STRIKE_S)


def slowed(across: Study, along: Study) -> float | None:
    """By how many times less time passed in the second clip than its times tell, where hands and checkpoints
    go together so; None where they do by no usual slowing.

    >>> from kneel.motion.space.example import example_pair
    >>> slowed(*example_pair()) is None
    True
    """
    found = []
    for slower in USUAL_SLOWINGS:
        clock = find_clock(across, along, slower=slower)
        if isinstance(clock, Clock) and not _two_swings(clock, across, along, slower):
            found.append((clock.left_cm, slower))
    left, best = min(found, default=(np.inf, 1.0))
    return best if left < TOGETHER_CM else None


def _two_swings(clock: Clock, across: Study, along: Study, slower: float = 1.0) -> str:
    """Why the two are of two swings: checkpoints of both lie together on one clock, as far as both are known;
    empty where they do.
    """
    apart = []
    for name in COMPARED:
        one, other = across.checkpoints.get(name), along.checkpoints.get(name)
        if one is None or other is None:
            continue
        by = abs(other.time_s / slower - one.time_s - clock.offset_s)
        sigma = float(np.hypot(np.hypot(one.sigma_s, other.sigma_s / slower), clock.sigma_s))
        apart.append((by > max(APART_SIGMAS * sigma, APART_S), by, name))
    lying = [(by, name) for is_apart, by, name in apart if is_apart]
    # One moment alone may be found wrongly in one of them.
    if len(lying) < min(2, len(apart)) or not lying:
        return ""
    by, name = max(lying)
    where = name.replace("_", " ")
    return f"On one clock the {where} of the two clips lies {by:.2f} s apart: they show two swings."


def stature_of(across: Study, along: Study) -> float:
    """How tall the golfer is, cm: as told, else by the legs at address, else as people are.

    >>> from kneel.motion.example import example
    >>> stature_of(example(), example())
    175.0
    """
    for study in (across, along):
        for source in (study.setup.scale, *study.setup.also_scaled):
            if isinstance(source, Stature):
                return source.stature_cm
    for study in (across, along):
        start, scale = study.checkpoints.get("address"), study.scale
        if start is None or not isinstance(scale, Scale):
            continue
        legs = [
            float(np.linalg.norm(hip.xy[start.shown] - foot.xy[start.shown]))
            for side in ("lead", "trail")
            if (hip := study.track(f"{side}_hip")) is not None
            and (foot := study.track(f"{side}_ankle")) is not None
        ]
        if legs and scale.unit != "stance":
            return float(np.mean(legs)) * scale.per_px * scale.cm_per_unit / LEG
    return NOMINAL_STATURE_CM


def told_by_two(study: Study, linked: Linked) -> Study:
    """A swing as one of its cameras shows it, at the one set of checkpoints; its turns are those that both
    tell, but what somebody typed in stands.

    >>> from kneel.motion.space.example import example_pair
    >>> pair = example_pair()
    >>> linked = link(*pair, agreed=True)
    >>> told = told_by_two(pair[0], linked).at("pelvis_turn", "top")
    >>> told.value == linked.numbers["pelvis_turn_3d", "top"].value
    True
    """
    if study.setup.view is View.DOWN_THE_LINE:
        return at_set(study, linked.along_at)
    return retold(at_set(study, linked.across_at), linked)


def retold(study: Study, linked: Linked) -> Study:
    """A swing that goes by the one set of checkpoints already, with what both tell more surely than one.

    >>> from kneel.motion.space.example import example_pair
    >>> pair = example_pair()
    >>> linked = link(*pair, agreed=True)
    >>> study = told_by_two(pair[0], linked)
    >>> retold(study, linked).setup.typed == study.setup.typed
    True
    """
    if study.setup.view is View.DOWN_THE_LINE:
        return study
    said = tuple(one for one in study.setup.typed if one.source != SOURCE)
    known = {(one.measure, one.checkpoint) for one in said}
    alone = study.with_typed(said)
    fresh = []
    for (key, moment), one in linked.numbers.items():
        measure = TOLD_BY_TWO.get(key, "")
        if not measure or moment == "address" or (measure, moment) in known:
            continue
        single = alone.at(measure, moment)
        # Where one camera alone tells it more surely, it does.
        if not isinstance(single, Single) or one.sigma < single.sigma:
            fresh.append(TypedValue(measure, one.value, one.sigma, moment, SOURCE))
    return study.with_typed((*said, *fresh))
