"""Impact from independent witnesses: the ball leaving, the clubhead coming back, the hands returning."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from kneel.motion.checkpoints.middle import Middle
from kneel.motion.checkpoints.moment import Moment, fused
from kneel.motion.checkpoints.phases import Phases
from kneel.motion.checkpoints.reversal import REVERSAL_S
from kneel.motion.signal import Path, first_crossing
from kneel.motion.track import Track

HANDS_AHEAD_M = 0.08
HANDS_AHEAD_SIGMA_M = 0.06
"""At impact the hands are a little nearer the target than at address (common practice, no source)."""

SOUND_DELAY = Moment(0.006, 0.005)
"""How much later than it happens a strike is heard: 0 to 4 m of air at 343 m/s (textbook value)."""

LONGEST_ASTRAY_S = 0.1
"""The hands come back within so much of the strike, however slowly they go there."""

HOME_SIGMA_M = 0.10
"""The clubhead comes back to where it stood at address about so well (common practice, no source)."""

UNSURE_TIMES = 3.0
"""A ball whose place is so much less sure than usual is hidden."""

LATEST_SHARE = 2.0
"""The strike comes within this many times the time from the top to the hands' greatest speed."""


def find_impact(
    phases: Phases,
    hands: Path,
    error: Middle,
    tracks: Mapping[str, Track],
    last_seen: Mapping[str, tuple[int, int]],
    px_per_m: float,
    strikes: Sequence[Moment] = (),
    *,
    behind: bool = False,
) -> Moment | None:
    """Impact from all witnesses that agree with the course of the hands, and with each other.

    ``error`` tells how well the hands are known, ``last_seen`` maps points to
    their first and last sighted frame index, ``strikes`` are those heard. From
    ``behind`` the golfer stands before ball and club: what looks like them is
    no witness. None where none speaks.

    >>> from kneel.motion.checkpoints.phases import find_phases
    >>> from kneel.motion.example import example_hands
    >>> hands, error, px_per_m = example_hands()
    >>> phases = find_phases(hands, error, px_per_m, {})
    >>> heard = Moment(1.05, 0.003)
    >>> round(find_impact(phases, hands, error, {}, {}, px_per_m, [heard]).time_s, 3)
    1.044
    """
    rough = _hands_return(phases, hands, error, px_per_m)

    def agreeing(witnesses: Iterable[Moment | None]) -> list[Moment]:
        known = [w for w in witnesses if w is not None]
        if rough is None:
            return known
        return [w for w in known if abs(w.time_s - rough.time_s) < max(4 * rough.sigma_s, 0.05)]

    heard = agreeing(map(as_heard, strikes))
    ball = agreeing([] if behind else [_ball_leaves(phases, tracks, last_seen, px_per_m)])
    if ball:
        # It is by the ball that impact is defined; only a sound may tell better.
        return fused([*ball, *(s for s in heard if s.sigma_s < ball[0].sigma_s)])
    club = agreeing([] if behind else [_club_returns(phases, tracks, px_per_m)])
    return fused([*club, *heard]) or rough


def as_heard(strike: Moment) -> Moment:
    """When the ball was struck, from when the strike was heard beside the camera.

    >>> struck = as_heard(Moment(1.0, 0.0))
    >>> round(struck.time_s, 3), round(struck.sigma_s, 3)
    (0.994, 0.005)
    """
    sigma = float(np.hypot(strike.sigma_s, SOUND_DELAY.sigma_s))
    return Moment(strike.time_s - SOUND_DELAY.time_s, sigma)


def _latest(phases: Phases) -> float:
    """The latest time at which the strike may come; a share, so that slowed clips work too."""
    return phases.top.time_s + LATEST_SHARE * (phases.fastest.time_s - phases.top.time_s) + 0.1


def _hands_return(phases: Phases, hands: Path, error: Middle, px_per_m: float) -> Moment | None:
    """Hands crossing the place they have at impact, a hand's breadth ahead of address."""
    start = phases.address.time_s if phases.address else None
    top, end = hands.index(phases.top.time_s), hands.index(_latest(phases))
    stretch = slice(top, max(end, top + 2))
    low = top + int(np.argmax(hands.xy[stretch, 1]))
    lowest = _lowest(hands, error, low)
    if start is None:
        return lowest
    home = hands.at(start)
    going = hands.velocity[low, 0]
    if abs(going) < 0.35 * hands.speed.max():
        # Seen along the target line the hands hardly move sideways: their lowest place must do.
        return lowest
    ahead = np.sign(going) * HANDS_AHEAD_M * px_per_m
    beyond = (hands.xy[stretch, 0] - home[0] - ahead) * np.sign(going)
    time = first_crossing(hands.t[stretch], beyond, rising=True)
    if time is None:
        return lowest
    astray = float(np.hypot(HANDS_AHEAD_SIGMA_M * px_per_m, error.moved_sigma(start, time)))
    # Where they cross it long after they were lowest they have slowed down.
    pace = max(min(abs(going), abs(float(hands.velocity[hands.index(time), 0]))), 1e-9)
    return Moment(time, min(float(np.hypot(astray / pace, 0.004)), LONGEST_ASTRAY_S))


def _lowest(hands: Path, error: Middle, low: int) -> Moment:
    """Where the hands are lowest; they are so within 20 ms of the strike (common practice, no source)."""
    time = float(hands.t[low])
    turns = abs(float(np.gradient(hands.velocity[:, 1], hands.t)[low]))
    return Moment(time, float(np.hypot(0.02, error.speed_sigma(time, REVERSAL_S) / max(turns, 1e-9))))


def _ball_leaves(
    phases: Phases,
    tracks: Mapping[str, Track],
    last_seen: Mapping[str, tuple[int, int]],
    px_per_m: float,
) -> Moment | None:
    """Midway between the last frame that shows the ball in place and the first without."""
    ball = tracks.get("ball")
    if ball is None:
        return None
    times, (first, last) = ball.times_s, last_seen["ball"]
    top = int(np.searchsorted(times, phases.top.time_s))
    end = int(np.searchsorted(times, _latest(phases)))
    if not first <= top < last:
        return None
    rest = np.median(ball.xy[first : top + 1], axis=0)
    off = np.linalg.norm(ball.xy[top : min(last, end) + 1] - rest, axis=1)
    gone = np.flatnonzero(off > max(0.04 * px_per_m, 5 * float(np.median(ball.sigma[: top + 1]))))
    if gone.size:
        after = top + int(gone[0])
    elif last < min(end, len(times) - 1):
        after = last + 1
    else:
        return None
    # Frames at the end in which the club hides it are as likely before as after the strike.
    unsure = ball.sigma[:after] > UNSURE_TIMES * float(np.median(ball.sigma[: top + 1]))
    shown = int(np.flatnonzero(~unsure)[-1])
    return Moment(float(times[shown] + times[after]) / 2, float(times[after] - times[shown]) / np.sqrt(12))


def _club_returns(phases: Phases, tracks: Mapping[str, Track], px_per_m: float) -> Moment | None:
    """The clubhead passing the place it had at address."""
    club = tracks.get("clubhead")
    if club is None or phases.address is None:
        return None
    times = club.times_s
    home = np.array([np.interp(phases.address.time_s, times, club.xy[:, k]) for k in (0, 1)])
    after = np.flatnonzero((times > phases.top.time_s) & (times < _latest(phases)))
    if after.size < 3:
        return None
    away = np.linalg.norm(club.xy[after] - home, axis=1)
    near = int(after[np.argmin(away)])
    if not 0 < near < len(times) - 1:
        return None
    a, b = club.xy[near - 1], club.xy[near + 1]
    along = b - a
    length = float(np.linalg.norm(along))
    if length <= 0 or away.min() > length:
        return None
    share = float(np.clip((home - a) @ along / length**2, 0, 1))
    time = times[near - 1] + share * (times[near + 1] - times[near - 1])
    step = (times[near + 1] - times[near - 1]) / 2
    moved = Middle([club]).moved_sigma(phases.address.time_s, time)
    astray = float(np.hypot(moved, HOME_SIGMA_M * px_per_m)) / (length / (2 * step))
    return Moment(float(time), float(np.sqrt(0.003**2 + step**2 / 12 + astray**2)))
