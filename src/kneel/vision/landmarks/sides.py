"""Left and right of the whole body, put right where the network took one for the other.

It takes a front for a back for a while, and then exchanges every joint; or it
takes one leg for the other, mostly seen from the side. Both are told together:
the cheapest way through all frames in which joints move as little as they can.
What is known of view and mirror tells which side lies where in the first place.
"""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.model import View
from kneel.motion.viewed import right_lies_right
from kneel.vision.best_way import cheapest_way

FloatArray = NDArray[np.float64]
Pairs = tuple[tuple[int, int], ...]

FACE: Final[Pairs] = ((1, 4), (2, 5), (3, 6), (7, 8), (9, 10))
UPPER: Final[Pairs] = tuple((k, k + 1) for k in range(11, 23, 2))
HIPS: Final[Pairs] = ((23, 24),)
LEGS: Final[Pairs] = ((25, 26), (27, 28), (29, 30), (31, 32))

_GROUPS: Final = (UPPER, HIPS, LEGS)
_TOLD_BY: Final = (((11, 12), (13, 14), (15, 16)), HIPS, LEGS)
"""The joints of each group that tell whether it is exchanged; fingers only follow their hand."""

# Which groups are exchanged in each of the ways a frame may be read, and what it costs to believe so, as a
# share of the body's height for each 1/60 s: one confusion of the whole body is as likely as one of the legs.
_WAYS: Final = (
    ((False, False, False), 0.0),
    ((True, True, True), 0.024),
    ((False, False, True), 0.024),
    ((False, True, False), 0.006),
    ((False, True, True), 0.030),
    ((True, False, False), 0.040),
    ((True, True, False), 0.040),
)

USUAL_STEP_S = 1 / 60

LEAP, LEAPS_TIMES = 0.08, 4.0
"""No joint but a hand moves by more of the body's height from frame to frame: feet that change places in
one did not, however long the network holds on to it."""

HANDS, HANDS_TELL = 15, 0.2
"""Both hands hold one club: where the network shows them apart it has lost one, and where that one turns up
tells which side it is of by no more than this share of the body's height from look to look."""

FEET_APART, ACROSS, ACROSS_COSTS = 0.06, 0.03, 1.0
"""Of somebody seen square on, whose feet look at least so far apart, of the body's height, hips lie as the
feet do: a pelvis turns by some 90° and then shows them over one another, never the other way round. So do
shoulders as long as the hands hang. What each 1/60 s costs in which they are crosswise by more than so much,
as a share of how far.
"""

HANGING = 0.04
"""Hands hang that are no higher over the hips than this share of the body's height: address and impact."""

FEET: Final = [27, 28]
HOME_COSTS, FAR_FROM_HOME = 0.1, 0.3
"""What each 1/60 s costs in which a foot is away from where it usually stands, as a share of the way, and
how far counts: two feet may come to be taken for one another without either leaping, but neither walks."""


def unswapped(
    xy: FloatArray, height: float, step_s: float | FloatArray = USUAL_STEP_S, *, square: bool = False
) -> FloatArray:
    """Landmarks (N, 39, K) with left and right exchanged where the network took one for the other.

    The first two of K are places in px, the others go with them. Most of the
    time is taken to be right. ``height`` px is the body's, ``step_s`` the time
    from one look to the next, of each (N,) where they differ; ``square`` is
    whether the camera faces the body or its back.
    """
    out = xy.copy()
    seen = np.flatnonzero(np.isfinite(xy[:, 0, 0]))
    if seen.size == 0:
        return out
    places = xy[seen, :, :2]
    moved = [_moved(places, pairs, height) for pairs in _TOLD_BY]
    price = np.tile([cost * height for _, cost in _WAYS], (len(seen), 1))
    astray = [(2, _from_home(places, height))]
    if square:
        astray += [
            (1, _across(places, 23, height)),
            (0, _across(places, 11, height, _hanging(places, height))),
        ]
    for n, (groups, _) in enumerate(_WAYS):
        for group, (as_is, crossed_over) in astray:
            price[:, n] += crossed_over if groups[group] else as_is
    price *= _steps(step_s, xy)[seen, None] / USUAL_STEP_S
    # One table (ways, ways) a step: a group moves as it should where it is read alike at both ends.
    moves = np.zeros((len(seen), len(_WAYS), len(_WAYS)))
    for k, (kept, crossed) in enumerate(moved):
        ways = np.array([groups[k] for groups, _ in _WAYS])
        alike = ways[:, None] == ways[None]
        moves[1:] += np.where(alike[None], kept[:, None, None], crossed[:, None, None])
    chosen = cheapest_way(price, moves.__getitem__)
    for k, pairs in enumerate(_GROUPS):
        wrong = np.array([groups[k] for groups, _ in _WAYS])[chosen]
        # The face goes with the shoulders.
        for p, q in (*pairs, *(FACE if k == 0 else ())):
            out[seen[wrong], p], out[seen[wrong], q] = xy[seen[wrong], q], xy[seen[wrong], p]
    return out


def _steps(step_s: float | FloatArray, xy: FloatArray) -> FloatArray:
    return np.broadcast_to(np.asarray(step_s, dtype=float), (len(xy),))


def exchanged(xy: FloatArray, view: View | None, *, mirrored: bool) -> bool:
    """Whether all of left and right is to be exchanged, by where the camera stands and a mirrored picture.

    ``xy`` (N, 39, 2) are the landmarks, consistent in themselves. The network
    reads a mirrored picture as if it were none. Facing the camera the right
    side lies at image left, from behind at image right; that is held against
    what was seen only where ``view`` is known, not None.
    """
    if view not in (View.FACE_ON, View.REAR):
        return mirrored
    sides = ((xy[:, left], xy[:, right]) for left, right in ((11, 12), *HIPS, *LEGS[:2]))
    right_is_right = right_lies_right(sides)
    return mirrored if right_is_right is None else right_is_right != ((view is View.REAR) != mirrored)


def _across(
    xy: FloatArray, left: int, height: float, where: NDArray[np.bool_] | None = None
) -> tuple[FloatArray, FloatArray]:
    """What it costs that a pair seen square on is crosswise, read as is and exchanged, (N,) px, in the looks
    ``where`` (N,) it cannot be.
    """
    where = np.ones(len(xy), bool) if where is None else where
    pair, hips, feet = (xy[:, one, 0] - xy[:, one + 1, 0] for one in (left, 23, FEET[0]))
    usual = float(np.median(feet))
    # Where hips and feet mostly do not agree nothing tells which of them is right.
    if abs(usual) < FEET_APART * height or np.median(hips) * usual < 0:
        return np.zeros(len(xy)), np.zeros(len(xy))
    ways = (-np.sign(usual) * pair, np.sign(usual) * pair)
    as_is, crossed = (ACROSS_COSTS * where * np.maximum(way - ACROSS * height, 0.0) for way in ways)
    return as_is, crossed


def _hanging(xy: FloatArray, height: float) -> NDArray[np.bool_]:
    """In which looks both hands hang, (N,)."""
    hands, hips = (xy[:, [left, left + 1], 1].mean(axis=1) for left in (HANDS, 23))
    return np.asarray(hands > hips - HANGING * height)


def _from_home(xy: FloatArray, height: float) -> tuple[FloatArray, FloatArray]:
    """What it costs that feet are away from where they usually stand, read as is and crosswise, (N,) px."""
    feet = xy[:, FEET]
    home = np.median(feet, axis=0)
    away = [np.linalg.norm(one - home, axis=2) for one in (feet, feet[:, ::-1])]
    as_is, crossed = (HOME_COSTS * np.minimum(far, FAR_FROM_HOME * height).sum(axis=1) for far in away)
    return as_is, crossed


def _moved(xy: FloatArray, pairs: Pairs, height: float) -> tuple[FloatArray, FloatArray]:
    """How far joints move between looks, read alike and crosswise, (N - 1,) px each."""
    a, b = (xy[:, [pair[side] for pair in pairs]] for side in (0, 1))
    alike = _distance(a[1:], a[:-1], height) + _distance(b[1:], b[:-1], height)
    crosswise = _distance(a[1:], b[:-1], height) + _distance(b[1:], a[:-1], height)
    tells = np.where([left == HANDS for left, _ in pairs], HANDS_TELL * height, np.inf)
    least = np.minimum(alike, crosswise)
    return (
        np.minimum(alike, least + tells).sum(axis=1),
        np.minimum(crosswise, least + tells).sum(axis=1),
    )


def _distance(a: FloatArray, b: FloatArray, height: float) -> FloatArray:
    """How far joints (N, P, 2) are apart, (N, P) px; leaps count more."""
    far = np.linalg.norm(a - b, axis=2)
    return np.asarray(far + LEAPS_TIMES * np.maximum(far - LEAP * height, 0.0))
