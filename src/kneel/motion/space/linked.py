"""Two clips taken for one swing: whether they are, on what clock, and what they tell together."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from kneel.model import Stature, TypedValue, UsageError, View
from kneel.motion.body import LEG, NOMINAL_STATURE_CM
from kneel.motion.failure import Failed
from kneel.motion.measures.in_space import TOLD_BY_TWO
from kneel.motion.scale import Scale
from kneel.motion.space.body import Body, find_body
from kneel.motion.space.clock import Clock, find_clock
from kneel.motion.space.quantities import InSpace, told
from kneel.motion.study import Study

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
    turned: bool = False
    """Whether the first camera is the one that looks along the target line."""

    def body_s(self, first_s: float) -> float:
        """A time of the first clip on the clock that the body goes by, that of the camera across the line."""
        return first_s + self.clock.offset_s if self.turned else first_s


def link(first: Study, second: Study, *, between: int = 0) -> Linked:
    """Two clips as one swing, ``second``'s clock by that of ``first``; the body at so many moments
    ``between`` the checkpoints besides.

    Raises :class:`UsageError` with the reason where they are of one view, or not of one swing.
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
    against = clock.reason if isinstance(clock, Failed) else _two_swings(clock, across, along)
    if against or isinstance(clock, Failed):
        slower = slowed(across, along)
        if slower is not None:
            raise UsageError(
                "The two go together only if time in the clip along the line is "
                f"taken {slower:g} times as fast: say its true rate, and link them again."
            )
        raise UsageError(f"{against} Link two clips of one swing.")
    body = find_body(across, along, clock, stature_of(across, along), between=between)
    if isinstance(body, Failed):
        raise UsageError(f"{body.reason} Mark them, and link the clips again.")
    if body.misfit > MISFIT:
        raise UsageError(
            "The two clips do not show one body from two sides. Say each one's view, and link two clips "
            "of one swing."
        )
    numbers = told(body, {name: point.sigma_s for name, point in across.checkpoints.items()})
    shown = Clock(-clock.offset_s, clock.sigma_s, clock.left_cm) if turned else clock
    return Linked(shown, body, numbers, turned)


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
    for name in COMPARED:
        one, other = across.checkpoints.get(name), along.checkpoints.get(name)
        if one is None or other is None:
            continue
        apart = other.time_s / slower - one.time_s - clock.offset_s
        sigma = float(np.hypot(np.hypot(one.sigma_s, other.sigma_s / slower), clock.sigma_s))
        if abs(apart) > max(APART_SIGMAS * sigma, APART_S):
            return (
                f"On one clock the {name.replace('_', ' ')} of the two clips lies {abs(apart):.2f} s apart: "
                "they show two swings."
            )
    return ""


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
    """A swing whose turns are those that two cameras tell; what somebody typed in stands."""
    if study.setup.view is View.DOWN_THE_LINE:
        return study
    known = {(one.measure, one.checkpoint) for one in study.setup.typed}
    fresh = tuple(
        TypedValue(TOLD_BY_TWO[key], one.value, one.sigma, moment, SOURCE)
        for (key, moment), one in linked.numbers.items()
        if key in TOLD_BY_TWO and moment != "address" and (TOLD_BY_TWO[key], moment) not in known
    )
    setup = replace(study.setup, typed=(*study.setup.typed, *fresh))
    return replace(study, setup=setup, _paths={}, _ways={}, _known={})
