"""From frames to sightings of every joint, with errors that say what the network is worth.

The network's errors are of three kinds: a lasting offset (this body in these
clothes), one that wanders with the pose, and scatter from frame to frame.
The solver finds the first two together with the path (``kneel.motion.track``).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, fields
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.model import Sighting, View
from kneel.vision.landmarks.hands import LEFT, RIGHT, grip_of
from kneel.vision.landmarks.legs import unswapped
from kneel.vision.landmarks.networks import CROP_SIZE, Found, Networks
from kneel.vision.landmarks.outline import ROWS, face_on, hip_edges, hips_moved, seat_of
from kneel.vision.landmarks.region import Region

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]
Pictures = Callable[[int], Picture]

LEAST_PRESENCE = 0.5
WANDERS_S = 0.25
"""How long an error that goes with the pose keeps its size."""

UNSEEN = 0.3
"""Less visible than this a landmark is hidden, and its error counts this much more:"""
HIDDEN_TIMES = 3.0
OUTLINED_TIMES = 0.6
"""Hips that follow the body's outline wander by so much less."""

STEP_SHARE = 0.35
"""The square may not move by more of its side from one look to the next."""

MOST_LOOKS_PER_S = 125.0
# Landmarks of the network by point; several are averaged.
_POINTS: Final = {
    "head": (7, 8),
    "grip": (*LEFT, *RIGHT),
    **{
        f"{side}_{joint}": (first + k,)
        for joint, first in (
            ("shoulder", 11),
            ("elbow", 13),
            ("wrist", 15),
            ("hip", 23),
            ("knee", 25),
            ("ankle", 27),
            ("heel", 29),
            ("toe", 31),
        )
        for k, side in enumerate(("left", "right"))
    },
}

# Lasting offset, error that wanders with the pose, and scatter, as shares of the body's height in the
# picture; measured on simulated swings (docs/accuracy.md), shoulders and hands are the worst. Both hips err
# together as the pelvis turns, so that their mean is no surer than each: their wander says so.
_ERRORS: Final = {
    "head": (0.012, 0.014, 0.006),
    "shoulder": (0.015, 0.029, 0.008),
    "elbow": (0.015, 0.030, 0.014),
    "wrist": (0.020, 0.045, 0.025),
    "grip": (0.012, 0.030, 0.018),
    "hip": (0.022, 0.014, 0.004),
    "knee": (0.010, 0.009, 0.004),
    "ankle": (0.010, 0.008, 0.004),
    "heel": (0.012, 0.012, 0.006),
    "toe": (0.012, 0.015, 0.008),
    "seat": (0.008, 0.006, 0.004),
}


@dataclass(frozen=True)
class Bodies:
    """What the network saw: ``sightings`` by point, and ``seen`` (T,) whether a body was there at all.

    ``height_px`` is the body's height in the picture, NaN where there was none;
    ``outlined`` is whether the hips follow the body's outline.
    """

    sightings: dict[str, Sighting]
    seen: NDArray[np.bool_]
    height_px: float
    outlined: bool = False


@dataclass
class _Looks:
    """Landmarks of a run of frames: (N, 39, 2) px, NaN where none was seen, and how visible (N, 39).

    ``edges`` (N, rows, 2) are those of the outline at the hips.
    """

    xy: FloatArray
    visible: FloatArray
    edges: FloatArray


def sight(
    open_pictures: Callable[[], Pictures],
    times_s: FloatArray,
    *,
    near: tuple[float, float] | None = None,
    view: View | None = None,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
    workers: int = 2,
) -> Bodies:
    """Look for the body's joints in every frame.

    ``open_pictures`` gives a function from frame number to picture (H, W, 3)
    RGB, a fresh one for each worker thread, asked in rising order.
    ``times_s`` (T,) are real seconds. ``near`` (x, y) px says which body is
    meant where there are several; ``view`` is where the camera stands, None
    where that is to be seen. Raises ``BodyModelError``.
    """
    count = len(times_s)
    stride = _stride(times_s)
    frames = np.arange(0, count, stride)
    parts = [p for p in np.array_split(frames, workers) if p.size]
    done = [0] * len(parts)

    def work(k: int) -> _Looks:
        networks = Networks()
        picture = open_pictures()

        def tell(n: int) -> None:
            done[k] = n
            progress(sum(done), len(frames))

        return _look(networks, picture, parts[k], near, tell, stopped)

    with ThreadPoolExecutor(len(parts)) as pool:
        looks = list(pool.map(work, range(len(parts))))
    whole = _Looks(*(np.concatenate([getattr(k, part.name) for k in looks]) for part in fields(_Looks)))
    return _bodies(times_s, frames, whole, view)


def _stride(times_s: FloatArray) -> int:
    if len(times_s) < 2:
        return 1
    rate = 1 / float(np.median(np.diff(times_s)))
    return max(1, round(rate / MOST_LOOKS_PER_S))


def _look(
    networks: Networks,
    picture: Pictures,
    frames: NDArray[np.int64],
    near: tuple[float, float] | None,
    tell: Callable[[int], None],
    stopped: Callable[[], bool],
) -> _Looks:
    """Follow one body through some frames, looking anew where it is lost."""
    xy = np.full((len(frames), 39, 2), np.nan)
    visible = np.zeros((len(frames), 39))
    edges = np.full((len(frames), len(ROWS), 2), np.nan)
    region: Region | None = None
    for k, frame in enumerate(frames.tolist()):
        if stopped():
            break
        shown = picture(frame)
        for _ in range(2):
            fresh = region is None
            region = region or _chosen(networks, shown, near)
            found = networks.landmarks(shown, region) if region else None
            if region is None or found is None:
                break
            here = region.to_picture(found.xy, CROP_SIZE)
            following = Region.round_points(here[33], here[34])
            if _plausible(found, region, following, fresh=fresh):
                xy[k], visible[k] = here, found.visible
                edges[k] = hip_edges(found.mask, region, here)
                region = following
                break
            region = None
            if fresh:
                break
        tell(k + 1)
    return _Looks(xy, visible, edges)


def _plausible(found: Found, region: Region, following: Region, *, fresh: bool) -> bool:
    """Whether a look is to be believed: presence alone says little."""
    if found.presence < LEAST_PRESENCE:
        return False
    shares = found.xy / CROP_SIZE
    torso = np.linalg.norm((shares[11] + shares[12] - shares[23] - shares[24]) / 2)
    leg = np.mean([np.linalg.norm(shares[23 + s] - shares[27 + s]) for s in (0, 1)])
    if not (0.06 < torso < 0.6 and 0.06 < leg < 0.8):
        return False
    moved = np.hypot(following.x - region.x, following.y - region.y)
    return fresh or bool(moved < STEP_SHARE * region.side and 0.6 < following.side / region.side < 1.6)


def _chosen(networks: Networks, picture: Picture, near: tuple[float, float] | None) -> Region | None:
    """The body meant: nearest to a place, else the largest; in tiles where the whole shows none."""
    found = networks.detect(picture)
    if not found:
        found = _in_tiles(networks, picture)
    if not found:
        return None
    if near is not None:
        return min((r for _, r in found), key=lambda r: np.hypot(r.x - near[0], r.y - near[1]))
    middle = picture.shape[1] / 2
    return max((r for _, r in found), key=lambda r: r.side - 0.3 * abs(r.x - middle))


def _in_tiles(networks: Networks, picture: Picture) -> list[tuple[float, Region]]:
    """Look in overlapping squares: a body far away is too small in the whole picture."""
    height, width = picture.shape[:2]
    side = min(height, width)
    for size in (side, side // 2):
        found = []
        for y in _starts(height, size):
            for x in _starts(width, size):
                tile = np.ascontiguousarray(picture[y : y + size, x : x + size])
                for score, r in networks.detect(tile):
                    found.append((score, Region(r.x + x, r.y + y, r.side, r.angle)))
        if found:
            return found
    return []


def _starts(length: int, size: int) -> Sequence[int]:
    count = max(1, int(np.ceil((length - size) / (size / 2))) + 1)
    return np.linspace(0, length - size, count).astype(int).tolist()


def _bodies(times_s: FloatArray, frames: NDArray[np.int64], looks: _Looks, view: View | None) -> Bodies:
    """Landmarks of the frames looked at as sightings over all frames."""
    count = len(times_s)
    seen = np.zeros(count, dtype=bool)
    seen[frames] = np.isfinite(looks.xy[:, 0, 0])
    if not seen.any():
        return Bodies({}, seen, float("nan"))
    height = _height(looks.xy)
    xy, visible = unswapped(looks.xy, height), looks.visible
    trusted = np.zeros(len(frames), dtype=bool)
    square = face_on(xy) if view is None else view is not View.DOWN_THE_LINE
    if square:
        moved, trusted = hips_moved(xy, looks.edges)
        xy[:, 23:25, 0] += moved[:, None]
    grip, alone = grip_of(xy, height)
    sightings = {}
    for name, marks in _POINTS.items():
        offset, wander, scatter = (height * share for share in _ERRORS[name.rsplit("_", 1)[-1]])
        place = np.full((count, 2), np.nan)
        place[frames] = grip if name == "grip" else xy[:, marks].mean(axis=1)
        error = np.full(count, scatter)
        unsure = visible[:, marks].max(axis=1) < UNSEEN
        if name == "grip" or name.endswith("_wrist"):
            unsure |= alone
        if name.endswith("_hip") and trusted.any():
            wander *= OUTLINED_TIMES
            unsure |= ~trusted
        error[frames] *= np.where(unsure, HIDDEN_TIMES, 1.0)
        sightings[name] = Sighting(place, error, offset=offset, wander=wander, wander_s=WANDERS_S)
    if not square:
        place = np.full((count, 2), np.nan)
        place[frames] = seat_of(xy, looks.edges)
        offset, wander, scatter = (height * share for share in _ERRORS["seat"])
        sightings["seat"] = Sighting(place, np.full(count, scatter), offset=offset, wander=wander)
    return Bodies(sightings, seen, height, bool(trusted.any()))


def _height(xy: FloatArray) -> float:
    """The body's height in px: the longest it stretches from head to heels, usually."""
    head, heels = xy[:, 7:9].mean(axis=1), xy[:, 29:31].mean(axis=1)
    return float(1.1 * np.nanpercentile(np.linalg.norm(heels - head, axis=1), 80))
