"""The golfer's landmarks through a clip: one body, found once and followed by all workers alike.

First everybody is glanced at (``people``) and the golfer told from the others; then as many threads as there
are cores follow that one body, each through its own part of the frames, and each may look only where the
glances say that this body is. Where another hides it, it is not seen.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, fields, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from kneel.model import Near
from kneel.vision.landmarks.cuts import THUMB, cuts, thumb
from kneel.vision.landmarks.looks import OUTSIDE, Landmarks, nothing_seen
from kneel.vision.landmarks.lying import lying
from kneel.vision.landmarks.networks import CROP_SIZE, Found, Networks
from kneel.vision.landmarks.outline import ROWS, hip_edges
from kneel.vision.landmarks.people import (
    Cast,
    Glimpse,
    Person,
    choose,
    colours_at,
    glance,
    glance_frames,
    people,
)
from kneel.vision.landmarks.region import Region
from kneel.vision.landmarks.standing import inside_of, plausible, stands
from kneel.vision.landmarks.worth import some_of, stride, worth_looking

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]
Pictures = Callable[[int], Picture]

STEP_SHARE = 0.35
"""The square may not move by more of its side from one look to the next."""

ASTRAY = 0.2
"""Nor lie farther, as a share of its side, from where the glances have this body."""

TOUCHING = 0.45
"""Squares whose middles are nearer than this share of their side may hide one another."""

UNLIKE, UNLIKE_BESIDE, VARIES_TIMES = 0.5, 0.25, 2.5
"""Clothes that differ from the golfer's by more, and by more than so many times what they vary, are
another's; beside somebody whose clothes fit better less is enough."""

SELDOM = 0.4
"""A body seen in fewer of the frames is none that swings here."""

GLANCE_SHARE = 0.1
"""About how much of the work the glances are."""


LEAST_PX, LONGEST_STRIP = 48, 12
"""A picture with a side shorter than this, or so many times longer than it is wide, shows no golfer."""


@dataclass
class _Part:
    xy: FloatArray
    visible: FloatArray
    edges: FloatArray
    thumbs: FloatArray


@dataclass
class _Known:
    """What was seen in ``frames`` (N,) already."""

    frames: NDArray[np.int64]
    seen: _Part

    def take(self, frame: int, part: _Part, k: int) -> bool:
        """Put what was seen in a frame into a part; False where it was not looked at."""
        n = int(np.searchsorted(self.frames, frame))
        if n >= len(self.frames) or self.frames[n] != frame:
            return False
        for one in fields(_Part):
            getattr(part, one.name)[k] = getattr(self.seen, one.name)[n]
        return True


def find_landmarks(
    open_pictures: Callable[[], Pictures],
    times_s: FloatArray,
    *,
    near: Near | None = None,
    progress: Callable[[int, int], None] = lambda done, total: None,
    part: Callable[[Landmarks], None] | None = None,
    stopped: Callable[[], bool] = lambda: False,
    workers: int = 2,
) -> Landmarks:
    """Look for the golfer's landmarks in every frame.

    ``open_pictures`` gives a function from frame number to picture (H, W, 3)
    RGB, a fresh one for each thread, asked in rising order. ``times_s`` (T,)
    are real seconds. ``near`` says which body is meant where there are
    several. What is found does not depend on ``workers``, but for what the
    network itself carries from frame to frame. ``part`` is told a first, coarse
    look at the whole swing, which also tells where to look closely
    (:func:`worth_looking`). Raises ``BodyModelError``.
    """
    frames = np.arange(0, len(times_s), stride(times_s))

    def glanced(done: int, total: int) -> None:
        progress(round(1000 * GLANCE_SHARE * done / max(total, 1)), 1000)

    def followed(done: int, total: int) -> None:
        progress(round(1000 * (GLANCE_SHARE + (1 - GLANCE_SHARE) * done / max(total, 1))), 1000)

    glances = glance_frames(times_s, near)
    cast = _cast(open_pictures, glances, near, glanced, stopped, workers)
    if cast is None and near is None:
        return nothing_seen(frames, lying(Networks(), open_pictures(), glances, stopped))
    if cast is None or stopped():
        return nothing_seen(frames)
    few = some_of(times_s, frames)[::2]
    if len(few) < 3 or len(few) == len(frames):
        return _told(frames, _looked_at(open_pictures, frames, cast, None, followed, stopped, workers), cast)
    share = len(few) / (len(few) + len(frames) / 3)

    def first(done: int, total: int) -> None:
        followed(round(1000 * share * done / max(total, 1)), 1000)

    def then(done: int, total: int) -> None:
        followed(round(1000 * (share + (1 - share) * done / max(total, 1))), 1000)

    seen = _looked_at(open_pictures, few, cast, None, first, stopped, workers)
    if stopped():
        return nothing_seen(frames)
    coarse = _told(few, seen, cast)
    if part is not None:
        part(coarse)
    wanted = np.union1d(few, worth_looking(coarse, frames, times_s))
    known = _Known(few, seen)
    return _told(wanted, _looked_at(open_pictures, wanted, cast, known, then, stopped, workers), cast)


def _looked_at(
    open_pictures: Callable[[], Pictures],
    frames: NDArray[np.int64],
    cast: Cast,
    known: _Known | None,
    progress: Callable[[int, int], None],
    stopped: Callable[[], bool],
    workers: int,
) -> _Part:
    """The golfer's landmarks in some frames, shared out among the workers; those that are ``known`` are not
    looked at again.
    """
    starts = _starts(frames, cast.golfer, workers)
    parts = [p for p in np.split(frames, starts) if p.size]
    done = [0] * len(parts)

    def work(k: int) -> _Part:
        def tell(n: int) -> None:
            done[k] = n
            progress(sum(done), len(frames))

        return _follow(Networks(), open_pictures(), parts[k], cast, known, tell, stopped)

    with ThreadPoolExecutor(len(parts)) as pool:
        followed_parts = list(pool.map(work, range(len(parts))))
    whole = (np.concatenate([getattr(part, one.name) for part in followed_parts]) for one in fields(_Part))
    return _Part(*whole)


def _told(frames: NDArray[np.int64], seen: _Part, cast: Cast) -> Landmarks:
    """What was seen in some frames, without what lies on others and in other shots."""
    arrays = [seen.xy.copy(), seen.visible.copy(), seen.edges.copy()]
    xy, visible, edges = _kept_apart(frames, arrays, cast)
    open_choice = bool(cast.notes)
    looks = Landmarks(frames, xy, visible, edges, cast.notes, open_choice, _others(frames, cast))
    return _one_shot(looks, cuts(seen.thumbs))


def _others(frames: NDArray[np.int64], cast: Cast) -> FloatArray:
    """Where everybody else is, (K, N, 3); who is glimpsed but once may be nobody."""
    others = [person for person in cast.others if len(person.glimpses) > 1]
    squares = [[(r.x, r.y, r.side) for r in map(one.region, frames.tolist())] for one in others]
    return np.array(squares, dtype=float).reshape(len(others), len(frames), 3)


def _one_shot(looks: Landmarks, starts: Sequence[int]) -> Landmarks:
    """Only the shot in which the body is seen most, where the film is cut; nothing where that is too seldom.

    ``starts`` are where the other shots begin, counted in the frames looked at.
    """
    notes = looks.notes
    shots = list(pairwise([0, *starts, len(looks.frames)]))
    first, last = max(shots, key=lambda shot: int(looks.seen[shot[0] : shot[1]].sum()))
    if starts:
        gone = np.ones(len(looks.frames), dtype=bool)
        gone[first:last] = False
        looks.xy[gone], looks.edges[gone], looks.visible[gone] = np.nan, np.nan, 0.0
        notes = (
            *notes,
            f"This film is cut in {len(shots)} pieces: only that of {last - first} frames is read where the "
            "golfer is seen longest. Mark the swing's beginning and end within one piece.",
        )
    if looks.seen[first:last].mean() < SELDOM:
        return nothing_seen(looks.frames)
    return replace(looks, notes=notes)


def _cast(
    open_pictures: Callable[[], Pictures],
    glances: Sequence[int],
    near: Near | None,
    progress: Callable[[int, int], None],
    stopped: Callable[[], bool],
    workers: int,
) -> Cast | None:
    """Who is there, by glances shared out among the workers."""
    parts = [p.tolist() for p in np.array_split(np.asarray(glances), workers) if p.size]
    done = [0] * len(parts)
    width = [0]

    def work(k: int) -> list[list[Glimpse]]:
        networks, picture = Networks(), open_pictures()
        found = []
        for frame in parts[k]:
            if stopped():
                break
            shown = picture(frame)
            width[0] = shown.shape[1]
            found.append(glance(networks, shown, frame, near) if _roomy(shown) else [])
            done[k] += 1
            progress(sum(done), len(glances))
        return found

    with ThreadPoolExecutor(len(parts)) as pool:
        every = [one for part in pool.map(work, range(len(parts))) for one in part]
    return choose(people(every), width[0], near)


def _roomy(picture: NDArray[np.uint8]) -> bool:
    """Whether anybody can be found in a picture: a strip would be looked through for ever."""
    low, high = sorted(picture.shape[:2])
    return bool(low >= LEAST_PX and high <= LONGEST_STRIP * low)


def _starts(frames: NDArray[np.int64], golfer: Person, workers: int) -> list[int]:
    """Where the frames are cut into parts: at frames in which the golfer was glimpsed."""
    known = np.minimum(np.searchsorted(frames, [g.frame for g in golfer.glimpses]), len(frames) - 1)
    wanted = [len(frames) * k / workers for k in range(1, workers)]
    return sorted({int(known[np.argmin(np.abs(known - w))]) for w in wanted})


def _follow(
    networks: Networks,
    picture: Pictures,
    frames: NDArray[np.int64],
    cast: Cast,
    known: _Known | None,
    tell: Callable[[int], None],
    stopped: Callable[[], bool],
) -> _Part:
    """Follow the golfer through some frames, looking where the glances have it once it is lost."""
    count = len(frames)
    part = _Part(
        np.full((count, 39, 2), np.nan),
        np.zeros((count, 39)),
        np.full((count, len(ROWS), 2), np.nan),
        np.zeros((count, *THUMB)),
    )
    region: Region | None = None
    for k, frame in enumerate(frames.tolist()):
        if stopped():
            break
        if known is not None and known.take(frame, part, k):
            here = part.xy[k]
            region = Region.round_points(here[33], here[34]) if np.isfinite(here[33, 0]) else None
            tell(k + 1)
            continue
        shown, due = picture(frame), cast.golfer.region(frame)
        part.thumbs[k] = thumb(shown)
        for look_in in (region, due) if region is not None else (due,):
            found = networks.landmarks(shown, look_in)
            here = look_in.to_picture(found.xy, CROP_SIZE)
            inside = inside_of(shown, here)
            following = Region.round_points(here[33], here[34])
            believed = _believed(found, look_in, following, due) and stands(here, inside)
            if believed and not _hidden(shown, here, following, frame, cast):
                part.xy[k], part.visible[k] = here, np.where(inside, found.visible, OUTSIDE)
                part.edges[k] = hip_edges(found.mask, look_in, here)
                region = following
                break
            region = None
        tell(k + 1)
    return part


def _believed(found: Found, looked_in: Region, following: Region, due: Region) -> bool:
    """Whether a look shows a body that is where the golfer can be."""
    if not plausible(found):
        return False
    moved = np.hypot(following.x - looked_in.x, following.y - looked_in.y)
    astray = np.hypot(following.x - due.x, following.y - due.y)
    alike = all(0.6 < following.side / other.side < 1.6 for other in (looked_in, due))
    return bool(moved < STEP_SHARE * looked_in.side and astray < ASTRAY * due.side and alike)


def _hidden(shown: Picture, here: FloatArray, region: Region, frame: int, cast: Cast) -> bool:
    """Whether what was found wears another's clothes: somebody hides the golfer."""
    worn, golfer = colours_at(shown, here), cast.golfer
    unlike = golfer.unlike(worn)
    if unlike > max(UNLIKE, VARIES_TIMES * golfer.varies):
        return True
    near = [p for p in cast.others if _touches(p.region(frame), region)]
    return unlike > UNLIKE_BESIDE and any(p.unlike(worn) < unlike for p in near)


def _touches(a: Region, b: Region) -> bool:
    return bool(np.hypot(a.x - b.x, (a.y - b.y) / 2) < TOUCHING * max(a.side, b.side))


def _kept_apart(frames: NDArray[np.int64], whole: list[FloatArray], cast: Cast) -> list[FloatArray]:
    """Take back what lies on another body at a glance, and all since and until the glances about it."""
    xy = whole[0]
    own = {g.frame: g.region for g in cast.golfer.glimpses}
    known = sorted({g.frame for p in (cast.golfer, *cast.others) for g in p.glimpses})
    theirs = {
        frame: [g.region for p in cast.others for g in p.glimpses if g.frame == frame] for frame in known
    }
    for n, frame in enumerate(known):
        k = int(np.searchsorted(frames, frame))
        if k >= len(frames) or frames[k] != frame or not np.isfinite(xy[k, 23, 0]):
            continue
        middle = xy[k, 23:25].mean(axis=0)
        away = _away(own[frame], middle) if frame in own else ASTRAY
        if any(_away(region, middle) < min(away, ASTRAY / 2) for region in theirs[frame]):
            first = known[n - 1] if n else -1
            last = known[n + 1] if n + 1 < len(known) else int(frames[-1]) + 1
            wrong = (frames > first) & (frames < last)
            for array in whole:
                array[wrong] = 0.0 if array is whole[1] else np.nan
    return whole


def _away(region: Region, middle: FloatArray) -> float:
    return float(np.hypot(region.x - middle[0], region.y - middle[1])) / region.side
