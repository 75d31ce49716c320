"""Which part of the picture a swing needs: the body in all its frames, the hands, club and ball."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QRectF

from kneel.motion.study import Study

SURE_M = 0.12
"""A place less sure than this many metres does not say where the golfer is."""

CLUB_SURE_M = 0.25
ROOM_M = 0.22
"""Room round the joints: a head and a shoe reach so far beyond their points."""

CLUB_M = 0.55
"""Where no clubhead is followed, so much is left above the hands for a share of the club."""

BALL_M = 0.12

FEWEST_FRAMES = 4
NEEDED = ("head", "left_shoulder", "right_shoulder", "left_ankle", "right_ankle")
MOST = 0.5
"""The body is found once these are known in so many of the frames."""


def swing_box(analysis: Study | None) -> QRectF | None:
    """The part of the picture, px, that the swing needs; None while the body is not found.

    The farthest two frames in a hundred do not count: a follow-through may leave the picture.
    """
    if analysis is None or not analysis.tracks or analysis.px_per_m <= 0:
        return None
    px = analysis.px_per_m
    body = [
        _sure(analysis, name, SURE_M * px) for name in analysis.tracks if name not in ("clubhead", "ball")
    ]
    places = [xy for xy in body if len(xy) >= FEWEST_FRAMES]
    frames = len(analysis.times_s)
    whole = [name for name in NEEDED if name in analysis.tracks and _share(analysis, name, px) >= MOST]
    if len(whole) < len(NEEDED) or frames < FEWEST_FRAMES:
        return None
    reaches = np.array([_reach(xy, 0.02) for xy in places])
    low, high = reaches[:, 0].min(axis=0) - ROOM_M * px, reaches[:, 1].max(axis=0) + ROOM_M * px
    grip = _sure(analysis, "grip", SURE_M * px) if "grip" in analysis.tracks else np.zeros((0, 2))
    club = _sure(analysis, "clubhead", CLUB_SURE_M * px) if "clubhead" in analysis.tracks else grip[:0]
    if len(club) >= FEWEST_FRAMES:
        least, most = _reach(club, 0.04)
        low, high = np.minimum(low, least - 0.05 * px), np.maximum(high, most + 0.05 * px)
    elif len(grip) >= FEWEST_FRAMES:
        low[1] = min(low[1], float(grip[:, 1].min()) - CLUB_M * px)
    ball = analysis.tracks.get("ball")
    if ball is not None:
        at = ball.xy[int(np.argmin(ball.sigma))]
        low, high = np.minimum(low, at - 0.1 * px), np.maximum(high, at + 0.1 * px)
    else:
        # It lies nearer to the camera than the feet, and so lower in the picture.
        high[1] += BALL_M * px
    return QRectF(float(low[0]), float(low[1]), float(high[0] - low[0]), float(high[1] - low[1]))


def _reach(xy: np.ndarray, share: float) -> np.ndarray:
    """From where to where places (N, 2) reach, (2, 2), but for a share of them at either end."""
    ordered = np.sort(xy, axis=0)
    left = round(share * (len(xy) - 1))
    return ordered[[left, len(xy) - 1 - left]]


def _sure(analysis: Study, name: str, limit: float) -> np.ndarray:
    track = analysis.tracks[name]
    return track.xy[track.sigma < limit]


def _share(analysis: Study, name: str, px: float) -> float:
    """In how many of the frames a point is known."""
    return float((analysis.tracks[name].sigma < SURE_M * px).mean())
