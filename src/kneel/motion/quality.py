"""How well each point is followed, and what spoils it, in plain words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.model import Hand, spoken
from kneel.motion.body import moves
from kneel.motion.track import PointData, Track

FloatArray = NDArray[np.float64]

GOOD_M, FAIR_M = 0.012, 0.025
"""Usual error of a point's way since address below which it is followed well, and fairly (common practice,
no source: a teacher sees about a centimetre)."""

FAST_MPS, FAST_TIMES = 10.0, 3.0
"""Hands, club and ball move faster than this; so much more error is still good enough for what they tell."""

SELDOM, OFTEN_HIDDEN, OFTEN_APART = 0.6, 0.1, 0.3
"""Shares of the frames beyond which it is said so."""

BLURS_M = 0.06
"""What moves farther than this from one frame to the next is smeared or skipped."""

APART_SIGMAS = 3.0
LEG_JOINTS: Final = ("hip", "knee", "ankle")


class Grade(StrEnum):
    """How well a point is followed."""

    GOOD = "good"
    FAIR = "fair"
    POOR = "poor"


@dataclass(frozen=True)
class Quality:
    """How well one point is followed between address and finish.

    ``usual_px`` and ``worst_px`` are the median and the largest standard error
    of its way since address, the latter on ``worst_frame``; ``spoilt`` says
    what makes it so, by share of the frames, most important first.
    """

    grade: Grade
    usual_px: float
    worst_px: float
    worst_frame: int
    spoilt: tuple[str, ...]


def point_quality(
    data: PointData,
    track: Track,
    name: str,
    *,
    frames: tuple[int, int],
    px_per_m: float,
    size_px: tuple[float, float] | None = None,
) -> Quality:
    """How well a point is followed over ``frames``, first (address) and last, both included.

    ``px_per_m`` is a rough px per metre, ``size_px`` the picture's width and height.

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> hip = study.points["left_hip"], study.tracks["left_hip"]
    >>> point_quality(*hip, "left_hip", frames=(6, 100), px_per_m=300.0).grade.value
    'good'
    """
    first, last = frames
    part = slice(first, last + 1)
    since = track.sigma**2 + track.sigma[first] ** 2 - 2 * track.covariance_with(first)
    if name == "ball":
        # It lies still, and at address the club hides it.
        since = track.sigma**2
    error = np.sqrt(np.maximum(since[part], 0.0))
    usual, worst = float(np.median(error)), int(np.argmax(error))
    body = px_per_m * (FAST_TIMES if moves(name)[1] > FAST_MPS else 1.0)
    grade = Grade.GOOD if usual < GOOD_M * body else Grade.FAIR if usual < FAIR_M * body else Grade.POOR
    spoilt = _spoilt(data, track, name, part, px_per_m, size_px)
    return Quality(grade, usual, float(error[worst]), first + worst, spoilt)


def _spoilt(
    data: PointData,
    track: Track,
    name: str,
    part: slice,
    px_per_m: float,
    size_px: tuple[float, float] | None,
) -> tuple[str, ...]:
    shares: list[tuple[float, str]] = []
    if size_px is not None:
        limit = np.array(size_px) - 1
        outside = ((track.xy[part] < 0) | (track.xy[part] > limit)).any(axis=1)
        shares.append((float(outside.mean()), "leaves the picture in {} of the frames"))
    seen = [s for s in data.sightings if not s.by_hand]
    hidden = np.zeros(len(track.xy[part]), dtype=bool)
    for sighting in seen:
        sigma = (sighting.sigma if sighting.doubt is None else sighting.varying)[part]
        known = np.isfinite(sigma)
        if known.any():
            hidden |= known & (sigma > 2 * np.median(sigma[known]))
    if hidden.mean() > OFTEN_HIDDEN:
        shares.append((float(hidden.mean()), "is hidden or hard to tell in {} of the frames"))
    if seen:
        anywhere = np.any([np.isfinite(s.xy[part, 0]) for s in seen], axis=0)
        if anywhere.mean() < SELDOM and name.rsplit("_", 1)[-1] != "ball":
            shares.append((float(1 - anywhere.mean()), "is not seen in {} of the frames"))
    steps = np.linalg.norm(np.diff(track.xy[part], axis=0), axis=1)
    if moves(name)[1] <= FAST_MPS and steps.size:
        shares.append(
            (float((steps > BLURS_M * px_per_m).mean()), "moves too far between frames in {} of them")
        )
    apart = _apart(data, track, part)
    if apart > OFTEN_APART:
        shares.append((apart, "moves otherwise than what is seen of it in {} of the frames (cloth, an arm)"))
    shares.sort(reverse=True)
    return tuple(words.format(f"{100 * share:.0f} %") for share, words in shares if share >= 0.02)


def _apart(data: PointData, track: Track, part: slice) -> float:
    """Share of the steps followed in the picture that the path does not share."""
    moved = np.diff(track.xy[part], axis=0)
    worst = 0.0
    for links in data.links:
        step, sigma = links.step[part][: len(moved)], links.sigma[part][: len(moved)]
        known = np.isfinite(sigma)
        if known.sum() > 10:
            off = np.linalg.norm(moved[known] - step[known], axis=1)
            worst = max(worst, float((off > APART_SIGMAS * sigma[known]).mean()))
    return worst


def spoilt_words(qualities: Mapping[str, Quality], hand: Hand, per_px: float | None) -> list[str]:
    """What is said of all points that are followed poorly; ``per_px`` is cm per px, None to say pixels.

    >>> from kneel.motion.example import example
    >>> spoilt_words(example().quality, Hand.RIGHT, 0.33)
    []
    """
    poor: dict[str, list[str]] = {}
    for name, quality in qualities.items():
        if quality.grade is Grade.POOR:
            size = quality.usual_px if per_px is None else quality.usual_px * per_px
            why = quality.spoilt[0] if quality.spoilt else ""
            words = f"{spoken(name, hand)} ± {size:.1f} {'pixels' if per_px is None else 'cm'}"
            poor.setdefault(why, []).append(words)
    if not poor:
        return []
    parts = [
        ", ".join(points) + (f" ({'each' if len(points) > 1 else 'it'} {why})" if why else "")
        for why, points in poor.items()
    ]
    return [
        f"Followed poorly since address: {'; '.join(parts)}. "
        "A mark by hand at address and one where it matters help most."
    ]


def first_last(data: PointData) -> tuple[int, int]:
    """First and last frame index at which a point is sighted or followed.

    >>> from kneel.model import Sighting
    >>> seen = Sighting(np.array([[np.nan] * 2, [1.0, 2.0], [1.0, 2.0], [np.nan] * 2]), np.ones(4))
    >>> first_last(PointData((seen,), ()))
    (1, 2)
    """
    known = np.zeros(len(data.sightings[0].xy), dtype=bool)
    for sighting in data.sightings:
        known |= np.isfinite(sighting.xy[:, 0])
    for links in data.links:
        linked = np.isfinite(links.step[:, 0])
        known[:-1] |= linked
        known[1:] |= linked
    where = np.flatnonzero(known)
    return int(where[0]), int(where[-1])


def points_quality(
    points: Mapping[str, PointData],
    tracks: Mapping[str, Track],
    frames: tuple[int, int],
    *,
    px_per_m: float,
    size_px: tuple[float, float] | None,
) -> dict[str, Quality]:
    """How well some tracks are followed from the first to the last of ``frames``, where they are there.

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> found = points_quality(study.points, study.tracks, (6, 100), px_per_m=300.0, size_px=None)
    >>> found["left_hip"].grade.value
    'good'
    """
    out = {}
    for name, track in tracks.items():
        if name not in points:
            continue
        # The ball is there only until it leaves.
        first, last = first_last(points[name])
        part = max(frames[0], first), min(frames[1], last)
        if part[0] <= part[1]:
            out[name] = point_quality(
                points[name], track, name, frames=part, px_per_m=px_per_m, size_px=size_px
            )
    return out
