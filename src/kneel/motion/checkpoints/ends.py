"""Address and finish: when club and hands set off, and when the hands come to rest."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kneel.motion.checkpoints.levels import Swinging
from kneel.motion.checkpoints.moment import Moment, fused
from kneel.motion.checkpoints.onset import comes_to_rest, set_off
from kneel.motion.checkpoints.phases import REST_SIGMA_S, Phases
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]

BEGINS_S, ALONG_BEGINS_S, REST_BEGINS_S = 0.30, 0.18, 0.4
"""How long a swing's beginning lasts, seen across the line and along it, where a club soon turns, and how
long the end of one."""

SEEMS_EARLY_S = 0.027
"""Speeds told over a stretch grow before the hands set off (drawn clips from the front: 0.026 ± 0.008 s)."""

ALONG_SIGMA_S = 0.025
"""Seen along the target line hands and club first move away from the camera, or toward it, and hardly aside:
how much less surely they seem to set off (simulated swings)."""

UNSEEN_S, UNSEEN_SIGMA_S = 0.07, 0.045
"""And how much later, and how surely, by the hands alone, or with a club that is only followed: what goes
along an arc goes aside as the square of its way, long after it has set off (drawn clips: 0.06 ± 0.04 s, their
points without error 0.08 ± 0.02)."""


TOO_SOON, RESTS = 1.5, 2.7
"""How many downswings after impact a film has to go on to show any of a finish, and how many after it a body
comes to rest: some 0.7 s (from memory)."""


USUAL_TEMPO, TEMPO_SPREAD = 3.0, 0.35
"""A backswing takes three downswings, and how people differ in it (Grober and Cholewicki, from memory)."""


def hidden_beginning(address: Moment, top: Moment, impact: Moment) -> Moment:
    """Address of somebody seen from behind, whose body hides hands and club then: less sure where that makes
    a backswing that nobody has.

    >>> hidden_beginning(Moment(0.4, 0.03), Moment(1.25, 0.01), Moment(1.54, 0.01)).sigma_s
    0.03
    >>> round(hidden_beginning(Moment(0.71, 0.03), Moment(1.25, 0.01), Moment(1.54, 0.01)).sigma_s, 2)
    0.17
    """
    down = impact.time_s - top.time_s
    off = abs(top.time_s - address.time_s - USUAL_TEMPO * down)
    if off < 2 * TEMPO_SPREAD * down:
        return address
    return Moment(address.time_s, float(np.hypot(address.sigma_s, off / 2)))


def began(swing: Swinging, rough: Moment, *, along: bool) -> Moment:
    """When the club moves away, by shaft and hands; by the hands' speed, ``rough``, where neither tells.

    >>> from kneel.motion.example import example, example_hands
    >>> from kneel.model import Hand
    >>> hands, error, px_per_m = example_hands()
    >>> swing = Swinging(example().tracks, hands, error, Hand.RIGHT, px_per_m, False, False)
    >>> round(began(swing, Moment(0.1, 0.03), along=False).time_s, 1)
    0.1
    """
    hands, known, near = swing.hands, rough.time_s, swing.px_per_m
    seen = not (swing.club_lost or swing.hands_lost)
    club = swing.tracks.get("clubhead") if seen else None
    sigma = float(np.median(club.sigma)) if club is not None else 0.0
    if along:
        # Down the line the hands first move away from the camera, which does not show.
        told = club and set_off(
            club.times_s, club.xy, sigma, rough_s=known, begins_s=ALONG_BEGINS_S, px_per_m=near
        )
        if told:
            return Moment(told.time_s, float(np.hypot(told.sigma_s, ALONG_SIGMA_S)))
        first = max(known - UNSEEN_S, float(hands.t[0]))
        return Moment(first, float(np.hypot(rough.sigma_s, UNSEEN_SIGMA_S)))
    known += 0.0 if swing.hands_lost else SEEMS_EARLY_S
    witnesses = []
    if club is not None:
        shaft = _pointed(swing, club, known)
        witnesses.append(set_off(club.times_s, shaft, sigma, rough_s=known, begins_s=BEGINS_S, px_per_m=near))
    sigma = swing.error.moved_sigma(known - 0.1, known)
    witnesses.append(set_off(hands.t, hands.xy, sigma, rough_s=known, begins_s=BEGINS_S, px_per_m=near))
    found = fused([one for one in witnesses if one is not None]) or Moment(known, rough.sigma_s)
    return Moment(found.time_s, float(np.hypot(found.sigma_s, ALONG_SIGMA_S))) if swing.hands_lost else found


def _pointed(swing: Swinging, club: Track, known_s: float) -> FloatArray:
    """Where the shaft points from the hands, (T, 2) px, as if as long all through as it mostly is about
    a time: a clubhead that is followed slides up and down its shaft.
    """
    times = club.times_s
    away = club.xy - np.stack(
        [np.interp(times, swing.hands.t, column) for column in swing.hands.xy.T], axis=1
    )
    long = np.linalg.norm(away, axis=1)
    near = np.abs(times - known_s) < BEGINS_S
    usual = float(np.median(long[near])) if near.any() else 0.0
    return np.asarray(usual * away / np.maximum(long, 1.0)[:, None])


def rested(swing: Swinging, rough: Moment) -> Moment:
    """When the body comes to rest, by the hands.

    >>> from kneel.motion.example import example, example_hands
    >>> from kneel.model import Hand
    >>> hands, error, px_per_m = example_hands()
    >>> swing = Swinging(example().tracks, hands, error, Hand.RIGHT, px_per_m, False, False)
    >>> 1.5 < rested(swing, Moment(1.75, 0.05)).time_s < 2.0
    True
    """
    hands, known = swing.hands, rough.time_s
    sigma = swing.error.moved_sigma(known, known + 0.1)
    found = comes_to_rest(
        hands.t, hands.xy, sigma, rough_s=known, begins_s=REST_BEGINS_S, px_per_m=swing.px_per_m
    )
    return rough if found is None else Moment(found.time_s, float(np.hypot(found.sigma_s, REST_SIGMA_S)))


def cut_short(phases: Phases, impact: Moment) -> Moment | None:
    """The finish of a film that ends before it: its last frame, as unsure as it is early, or None.

    >>> top, fast = Moment(1.0, 0.01), Moment(1.27, 0.01)
    >>> ends = [Phases(None, top, fast, Moment(end, 0.04), False) for end in (1.4, 1.8, 2.2)]
    >>> [known and round(known.sigma_s, 2) for known in (cut_short(one, Moment(1.3, 0.01)) for one in ends)]
    [None, 0.31, 0.04]
    """
    down, after = impact.time_s - phases.top.time_s, phases.finish.time_s - impact.time_s
    if after < TOO_SOON * down:
        return None
    return Moment(phases.finish.time_s, max(phases.finish.sigma_s, RESTS * down - after))
