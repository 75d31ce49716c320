"""Centimetres per pixel, each way of knowing it with its own error."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from kneel.model import KnownLength, NoScale, ScaleSource, Stature, TypedScale
from kneel.motion import body
from kneel.motion.failure import Failed
from kneel.motion.track import Track

BALL_DIAMETER_CM = 4.267
"""The Rules of Golf: a ball's diameter is not less than 42.67 mm."""

OFF_PLANE = 0.02
"""How far a thing of known length is out of the ankles' plane, relative; where a joint hangs comes on top."""

TYPED = 0.01
"""A scale that somebody typed in holds in the ankles' plane, as well as it was read off something."""

FORESHORTENED = 0.015
"""What a leg that is never quite straight or square to the camera may lose, relative."""

BENT_KNEE = 0.02
"""What the straightest moment of a leg still lacks of its length where no knee is marked, relative."""

STRAIGHT_SHARE = 90
"""Percentile of the projected leg length that is taken for the straight leg."""


@dataclass(frozen=True)
class Scale:
    """``per_px`` units per pixel, ``relative`` its standard error as a share.

    ``unit`` is ``cm`` or ``stance``. ``cm_per_unit`` (with its own relative
    error) turns a length into centimetres for judging: exactly 1 for ``cm``,
    a guess from the usual golfer's build for ``stance``.
    """

    unit: str
    per_px: float
    relative: float
    source: str
    cm_per_unit: float = 1.0
    cm_relative: float = 0.0


def find_scale(
    source: ScaleSource, tracks: Mapping[str, Track], address: int, also: Sequence[ScaleSource] = ()
) -> Scale | Failed:
    """Work out the scale from one source and ``also`` others; ``address`` is the frame index of address.

    Several are put together by their errors. Returns :class:`Failed` where the points do not allow any.

    >>> from kneel.motion.example import example
    >>> find_scale(Stature(175.0), example().tracks, 6).unit
    'cm'
    """
    # A source that is given twice tells no more than once.
    told = [_from_source(one, tracks, address) for one in dict.fromkeys((source, *also))]
    known = [scale for scale in told if isinstance(scale, Scale) and scale.unit == "cm"]
    return fused_scale(known) if known else told[0]


def fused_scale(scales: Sequence[Scale]) -> Scale:
    """The mean of several scales by inverse variance of their logarithms.

    Where they agree worse than their errors allow, these are widened by the
    Birge ratio (Birge 1932).

    >>> both = fused_scale([Scale("cm", 0.40, 0.03, "stick"), Scale("cm", 0.42, 0.04, "stature")])
    >>> round(both.per_px, 3), round(both.relative, 3), both.source
    (0.407, 0.024, 'stick and stature')
    """
    if len(scales) == 1:
        return scales[0]
    weight = np.array([scale.relative**-2 for scale in scales])
    logs = np.log([scale.per_px for scale in scales])
    mean = float((weight * logs).sum() / weight.sum())
    ratio = float((weight * (logs - mean) ** 2).sum() / (len(scales) - 1))
    relative = float(np.sqrt(max(ratio, 1.0) / weight.sum()))
    return Scale("cm", float(np.exp(mean)), relative, " and ".join(scale.source for scale in scales))


def _from_source(source: ScaleSource, tracks: Mapping[str, Track], address: int) -> Scale | Failed:
    match source:
        case TypedScale():
            own = source.sigma / source.cm_per_px
            return Scale("cm", source.cm_per_px, float(np.hypot(own, TYPED)), "typed")
        case KnownLength():
            return known_length(source)
        case Stature():
            return by_stature(source.stature_cm, tracks, sigma_cm=source.sigma_cm)
        case NoScale():
            return by_stance(tracks, address)


def known_length(source: KnownLength) -> Scale | Failed:
    """Scale from two marked ends: each end errs by ``sigma_px`` along the line.

    >>> ball = KnownLength(0, 100, 50, 112, 50, BALL_DIAMETER_CM, "ball", sigma_px=0.5)
    >>> scale = known_length(ball)
    >>> round(scale.per_px, 4), round(scale.relative, 3)
    (0.3556, 0.062)
    """
    length_px = float(np.hypot(source.bx - source.ax, source.by - source.ay))
    if length_px < 2:
        return Failed("The two ends of the known length lie on one spot.")
    ends = np.sqrt(2.0) * source.sigma_px / length_px
    return Scale("cm", source.length_cm / length_px, float(np.hypot(ends, OFF_PLANE)), source.what)


def by_stature(stature_cm: float, tracks: Mapping[str, Track], *, sigma_cm: float = 0.0) -> Scale | Failed:
    """Scale from body height through the length of the straighter leg.

    The projected length of thigh and shank can only fall short of the true
    one, so a high percentile over the swing is taken for it.

    >>> from kneel.motion.example import example
    >>> round(by_stature(175.0, example().tracks).per_px, 2)
    0.34
    """
    leg = _leg_px(tracks)
    if isinstance(leg, Failed):
        return leg
    length, error = leg
    parts = (body.LEG_SHARE_SIGMA, FORESHORTENED, error / length, sigma_cm / stature_cm)
    relative = np.sqrt(sum(part**2 for part in parts))
    return Scale("cm", body.LEG * stature_cm / length, float(relative), "stature")


def by_stance(tracks: Mapping[str, Track], address: int) -> Scale | Failed:
    """Stance widths as unit; the usual golfer's build tells centimetres for judging.

    >>> from kneel.motion.example import example
    >>> by_stance(example().tracks, 6).unit
    'stance'
    """
    ankles = [tracks.get(f"{side}_ankle") for side in ("left", "right")]
    left, right = ankles
    if left is None or right is None:
        return Failed("There is no scale: give the golfer's stature, a known length, or both ankles.")
    width = float(np.linalg.norm(left.xy[address] - right.xy[address]))
    if width < 5:
        return Failed("There is no scale: the ankles lie on one spot in this view.")
    ends = np.hypot(left.sigma[address], right.sigma[address]) / width
    relative = float(np.hypot(ends, TYPED))
    leg = _leg_px(tracks)
    if not isinstance(leg, Failed):
        length, _ = leg
        cm_per_px = body.LEG * body.NOMINAL_STATURE_CM / length
        spread = body.NOMINAL_STATURE_SIGMA / body.NOMINAL_STATURE_CM
        return Scale("stance", 1 / width, relative, "stance", cm_per_px * width, spread)
    return Scale("stance", 1 / width, relative, "stance", 42.0, 0.2)


def _leg_px(tracks: Mapping[str, Track]) -> tuple[float, float] | Failed:
    """Length of the straight leg and its standard error, px.

    Through the knee where it is marked; else from hip to ankle, which a bent
    knee shortens.
    """
    for joints, bent in ((("hip", "knee", "ankle"), 0.0), (("hip", "ankle"), BENT_KNEE)):
        found = [leg for side in ("left", "right") if (leg := _chain_px(tracks, side, joints))]
        if found and max(found)[0] >= 5:
            length, error = max(found)
            return length * (1 + bent / 2), float(np.hypot(error, bent * length))
    return Failed("There is no scale: stature needs hip and ankle of one leg.")


def _chain_px(tracks: Mapping[str, Track], side: str, joints: tuple[str, ...]) -> tuple[float, float] | None:
    """Longest usual length of a chain of joints on one side, and its error, px."""
    chain = [tracks.get(f"{side}_{joint}") for joint in joints]
    known = [track for track in chain if track is not None]
    if len(known) < len(chain):
        return None
    parts = [np.linalg.norm(a.xy - b.xy, axis=1) for a, b in pairwise(known)]
    total = np.sum(parts, axis=0)
    error = np.hypot(known[0].sigma, known[-1].sigma)
    sure = error < 0.15 * np.median(total)
    if not sure.any():
        return None
    return float(np.percentile(total[sure], STRAIGHT_SHARE)), float(np.median(error[sure]))
