"""The coarse shape of a swing read off the hands: still, back, reverse, down, rest."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.motion.checkpoints.middle import Middle
from kneel.motion.checkpoints.moment import Moment
from kneel.motion.checkpoints.reversal import REVERSAL_S, reversal, step_of
from kneel.motion.failure import Failed
from kneel.motion.signal import Path, even_path

FloatArray = NDArray[np.float64]

NO_SWING = "No swing shows:"
"""So every reason begins why a film of something else has no checkpoints."""

CALM_S = 0.05
"""Rest is told by speeds over so long: from frame to frame the noise of points looks faster than a
backswing."""

STILL_SHARE = 0.06
"""Hands slower than this share of the backswing's top speed count as still."""

REST_SHARE = 0.03
"""After the strike the body is at rest once the hands are slower than this share of their greatest speed."""

REST_LASTS_S = 0.1
"""It is rest when it lasts as long as this."""

KEEPS_M, KEEPS_S = 0.15, 0.35
"""Hands at rest go no farther within so long (common practice, no source: a finish is held)."""

REST_M, STAYS_S = 0.04, 0.25
"""Hands behind a head seem to tremble, for they are seen badly; staying so near one place so long is rest."""

REST_SIGMA_S = 0.04
"""Coming to rest is gradual; people place it within about this time (common practice, no source)."""

LOW_SHARE = 0.2
"""The hands are past their lowest place once they have come up by this share of how high they ever come."""

COMES_SHARE, HOME_SHARE, FAR_SHARE = 0.4, 0.6, 0.9
"""Going back from the strike the top lies behind once the hands are lower again than :data:`HOME_SHARE` of
the highest they were, and that was at least :data:`COMES_SHARE` of the highest they ever are; about the top
they are higher than :data:`FAR_SHARE`."""

BARELY = 1.2
"""A clip that begins with hands faster than so many times "still" begins after address."""

STRUCK_S, AS_FAST = 0.15, 0.6
"""The hands are fastest so near a strike, and there at least this share of their fastest of all."""

LONGEST_BACKSWING = 8.0
"""No backswing lasts longer than this many times the way from the top to the greatest speed."""


@dataclass(frozen=True)
class Phases:
    """Moments read off the hands. ``address`` is None where the clip starts too late."""

    address: Moment | None
    top: Moment
    fastest: Moment
    finish: Moment
    finished: bool


def find_phases(
    hands: Path,
    error: Middle,
    px_per_m: float,
    pinned: Mapping[str, Moment],
    struck: Sequence[float] = (),
) -> Phases | Failed:
    """Split a swing by the speed of the hands.

    Of several, such as a practice swing before, it is the one in which a ball
    leaves or a strike is heard (``struck``, s), else the fastest.

    ``error`` tells how well the hands are known, ``px_per_m`` is a rough
    pixels-per-metre; ``pinned`` holds what is known of address and top
    already, which guides the rest. Fails where no swing shows: hands that
    never move a body's part, or that never reverse. A time read off a speed
    is as sure as that speed over how fast it changes (GUM 5.1.2).

    >>> from kneel.motion.example import example_hands
    >>> found = find_phases(*example_hands(), {})
    >>> round(found.top.time_s, 1), round(found.fastest.time_s, 1), found.finished
    (0.8, 1.0, True)
    """
    travel = np.ptp(hands.xy, axis=0).max()
    if travel < 0.3 * px_per_m or hands.speed.max() < 4 * hands.speed_noise:
        return Failed(f"{NO_SWING} the hands hardly move.")
    known = pinned.get("top")
    after = hands.index(known.time_s) if known else 0
    fast = _fastest(hands, after, struck)
    peak = hands.speed[fast]
    calm = even_path(hands.t, hands.plain, smooth_s=CALM_S)
    low = after if known else _turning(hands, calm, fast)
    if low is None:
        return Failed("No top shows: the hands are in full motion from the first frame on.")
    top = known or reversal(hands, error, low)
    down = float(hands.t[fast]) - top.time_s
    earliest = hands.index(top.time_s - LONGEST_BACKSWING * max(down, step_of(hands)))
    address = pinned.get("address") or still_before(calm, error, hands.index(top.time_s), earliest)
    finish, finished = _rest_after(calm, error, fast, peak, px_per_m)
    fastest = Moment(float(hands.t[fast]), step_of(hands))
    return Phases(address, top, fastest, finish, finished)


def _fastest(hands: Path, after: int, struck: Sequence[float]) -> int:
    """Index of the greatest speed, near where something was struck if there the hands are about as fast."""
    fast = after + int(np.argmax(hands.speed[after:]))
    for time in struck:
        first, last = hands.index(time - STRUCK_S), hands.index(time + STRUCK_S) + 1
        near = max(first, after) + int(np.argmax(hands.speed[max(first, after) : max(last, after + 1)]))
        if hands.speed[near] > AS_FAST * hands.speed[fast]:
            return near
    return fast


def _turning(hands: Path, calm: Path, fast: int) -> int | None:
    """Index of the slowest spot about the top: where the hands are highest before their lowest place by the
    strike.

    Told by places and not by speeds: thirty frames a second show the hands but two or three times about the
    top, so that the slowest of these looks fast, and seen along the target line they look slow through
    impact. Going back in time from the strike they rise until the top, and are lower again before it. None
    where they come from nowhere higher, or are that high from the first frame on.
    """
    low = _lowest_about(hands, fast)
    away = hands.xy[low, 1] - hands.xy[: low + 1, 1]
    far, first = low, low
    for i in range(low, -1, -1):
        if away[i] > away[far]:
            far = i
        elif away[far] > COMES_SHARE * away.max() and away[i] < HOME_SHARE * away[far]:
            break
        first = i
    if far == first:
        return None
    near = np.flatnonzero(away[first : low + 1] > FAR_SHARE * away[far]) + first
    return int(near[np.argmin(calm.speed[near])])


def _lowest_about(hands: Path, fast: int) -> int:
    """Index of the hands' lowest place about their fastest moment: to either side they come up again."""
    down = hands.xy[:, 1]
    rise = LOW_SHARE * float(np.ptp(down))
    low = fast
    for way in (range(fast, len(down)), range(fast, -1, -1)):
        here = fast
        for i in way:
            if down[i] > down[here]:
                here = i
            elif down[i] < down[here] - rise:
                break
        low = here if down[here] > down[low] else low
    return low


def still_before(hands: Path, error: Middle, top: int, earliest: int) -> Moment | None:
    """The last still moment before the backswing, by where its speed grows from.

    >>> from kneel.motion.example import example_hands
    >>> hands, error, _ = example_hands()
    >>> round(still_before(hands, error, hands.index(0.8), 0).time_s, 1)
    0.1
    """
    if top < 4:
        return None
    speed = hands.speed[: top + 1]
    crest = _crest(hands, top, earliest)
    still = max(STILL_SHARE * speed[crest], 2.5 * hands.speed_noise)
    slow = np.flatnonzero(speed[:crest] < still)
    step = step_of(hands)
    if slow.size == 0:
        return None if speed[0] > BARELY * still else Moment(float(hands.t[0]), 2 * step)
    last = int(slow[-1])
    onset = float(hands.t[last])
    rising = np.flatnonzero((speed[last:crest] > 2 * still) & (speed[last:crest] < 5 * still)) + last
    # How fast it gathers speed: told by its rise, else by the way to its greatest.
    gathers = float(speed[crest] - speed[last]) / max(float(hands.t[crest] - hands.t[last]), step)
    if rising.size >= 3:
        slope, level = np.polyfit(hands.t[rising] - onset, speed[rising], 1)
        if slope > 0:
            onset += float(np.clip(-level / slope, -0.1, 0.0))
            gathers = float(slope)
    onset = max(onset, float(hands.t[0]))
    unsure = error.speed_sigma(onset, REVERSAL_S) / max(gathers, 1e-9)
    return Moment(onset, float(np.sqrt(0.015**2 + step**2 / 12 + unsure**2)))


def _crest(hands: Path, top: int, earliest: int) -> int:
    """Index of the backswing's greatest speed.

    It lies after the last time at which the hands were as far from the top as
    they rest, less a tenth; walking up and waggling lie before.
    """
    away = np.linalg.norm(hands.xy[earliest : top + 1] - hands.xy[top], axis=1)
    far = np.flatnonzero(away > 0.9 * away.max())
    start = earliest + (int(far[-1]) if far.size else 0)
    # At the top itself a speed told over a stretch is that of the downswing already.
    end = max(hands.index(float(hands.t[top]) - 2 * CALM_S), start + 1)
    return start + int(np.argmax(hands.speed[start:end]))


def _rest_after(hands: Path, error: Middle, fast: int, peak: float, px_per_m: float) -> tuple[Moment, bool]:
    """Where the hands come to rest after the strike, and whether they do within the clip."""
    level = max(REST_SHARE * peak, 2.5 * hands.speed_noise)
    step = step_of(hands)
    # The hands also look slow for a moment where they turn over the shoulder.
    stretch = max(1, round(REST_LASTS_S / step))
    calm = (hands.speed[fast:] < level).astype(float)
    lasting = np.convolve(calm, np.ones(stretch), mode="valid") > stretch - 0.5
    slow = np.flatnonzero(lasting) + fast
    if slow.size == 0:
        # It may come to rest too near the clip's end for that.
        slow = np.flatnonzero(calm[-stretch:].all(keepdims=True)) + len(hands.t) - stretch
    if not slow.size:
        slow = _stays(hands, fast, px_per_m)
    if slow.size:
        rest = _kept(hands, slow, px_per_m)
        before = max(fast, rest - 2 * stretch)
        slows = float(hands.speed[before] - hands.speed[rest]) / max((rest - before) * step, step)
        unsure = error.speed_sigma(float(hands.t[rest]), REVERSAL_S) / max(slows, 1e-9)
        # Where it hardly slows down any more the stretch itself bounds when it came to rest.
        unsure = min(unsure, float(hands.t[-1] - hands.t[fast]))
        return Moment(float(hands.t[rest]), float(np.hypot(REST_SIGMA_S, unsure))), True
    return Moment(float(hands.t[-1]), 5 * step), False


def _kept(hands: Path, slow: NDArray[np.int64], px_per_m: float) -> int:
    """The first of the indices from which on hands keep their place for a while; the first where none does.
    Seen along the target line they look slow on the way, too, where they go with the line of sight.
    """
    stretch = max(1, round(KEEPS_S / step_of(hands)))
    for rest in slow.tolist():
        away = hands.xy[rest : rest + stretch] - hands.xy[rest]
        if np.linalg.norm(away, axis=1).max() < KEEPS_M * px_per_m:
            return int(rest)
    return int(slow[0])


def _stays(hands: Path, fast: int, px_per_m: float) -> NDArray[np.int64]:
    """From where on the hands stay about where they are in the end, as one index; empty where they do not."""
    least = max(2, round(STAYS_S / step_of(hands)))
    place = np.median(hands.xy[-least:], axis=0)
    away = np.linalg.norm(hands.xy - place, axis=1) > REST_M * px_per_m
    since = int(np.flatnonzero(away)[-1]) + 1 if away.any() else 0
    stays = since > fast and len(hands.t) - since >= least
    return np.array([since] if stays else [], dtype=np.int64)
