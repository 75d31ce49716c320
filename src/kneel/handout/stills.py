"""Stills that argue: the golfer at a checkpoint, on one scale, with a measure's line and distance."""

from __future__ import annotations

import base64
import io
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from kneel.footage import Clip, picture_of
from kneel.judge.numbers import SIZED_FOR_CM, body_size
from kneel.model import anatomical
from kneel.motion.drawn import Place, Shaped, shape_of
from kneel.motion.ghost import Ghost
from kneel.motion.measures import REGISTRY
from kneel.motion.outline import Piece, pieces_of
from kneel.motion.study import Study

Picture = NDArray[np.uint8]

WIDE_PX, HIGH_PX = 452, 500
"""A still, px: what fits three times on a page at some 150 to an inch."""

STATURES, HIPS_UP, UNDER = 1.34, 0.53, 0.07
"""How high a still is, how high the hips are, and what is shown under the feet, as shares of stature."""

QUALITY = 86

MOST_CUT = 12
"""So many stills are kept: those of the two or three pages that somebody goes between."""

_CUT: OrderedDict[tuple[Path, int, int, int, StillFrame], Picture] = OrderedDict()

RIM_PX, SMOOTH = 2.2, 3
GREEN, DARK = (96, 196, 160), (16, 21, 22)
"""The outline of what to aim for, and the dark line about it."""


@dataclass(frozen=True)
class StillFrame:
    """Which part of the picture is shown: its left upper corner and how many still px are one of it."""

    x: float
    y: float
    grown: float

    def at(self, place: Place) -> Place:
        """A place of the picture in the still."""
        return (place[0] - self.x) * self.grown, (place[1] - self.y) * self.grown


@dataclass(frozen=True)
class Still:
    """A still with its shape in px of the still; ``moment`` is the checkpoint, ``frame`` that of the clip."""

    moment: str
    frame: int
    pixels: Picture
    shape: Shaped | None
    aimed: bool = False
    """Whether the body is outlined as it would be with the number put right."""

    @property
    def jpeg(self) -> str:
        """The picture as a data address."""
        buffer = io.BytesIO()
        Image.fromarray(self.pixels).save(buffer, "JPEG", quality=QUALITY)
        return "data:image/jpeg;base64," + base64.b64encode(buffer.getvalue()).decode("ascii")


def framed(study: Study, whole: tuple[int, int], size: tuple[int, int] = (WIDE_PX, HIGH_PX)) -> StillFrame:
    """The part of the picture in which the golfer stands at address, feet near the lower edge.

    ``whole`` is the picture's width and height: nothing beyond its edges is shown where that can be helped.
    """
    address = study.checkpoints.get("address") or next(iter(study.checkpoints.values()))
    hips = [
        study.tracks[name].xy[address.shown] for name in ("left_hip", "right_hip") if name in study.tracks
    ]
    width, height = size
    stature_px = study.px_per_m * body_size(study) * SIZED_FOR_CM / 100
    grown = height / (STATURES * stature_px)
    middle = np.mean(hips, axis=0) if hips else np.array([width / 2, height / 2])
    top = float(middle[1]) - (STATURES - HIPS_UP - UNDER) * stature_px
    left = float(middle[0]) - width / 2 / grown
    return StillFrame(_within(left, width / grown, whole[0]), _within(top, height / grown, whole[1]), grown)


def _within(start: float, long: float, whole: int) -> float:
    """A stretch moved into the picture, where it is not longer than that."""
    return min(max(start, 0.0), whole - long) if long <= whole else start


def stills_of(
    study: Study, clip: Clip, start: int, measure: str, moments: Sequence[str], ghost: Ghost | None = None
) -> tuple[Still, ...]:
    """A still at each of these checkpoints that the swing has; ``start`` is the clip's first frame of it.
    Where ``ghost`` stands elsewhere than the golfer, its outline is on it.

    Raises ``FootageError`` where the clip cannot be read.
    """
    frame = framed(study, (clip.upright.width, clip.upright.height))
    address = study.checkpoints.get("address")
    found = []
    for name in moments:
        point = study.checkpoints.get(name)
        if point is None:
            continue
        entry = REGISTRY.get(measure)
        shape = shape_of(study, entry, point.shown, address.shown if address else None) if entry else None
        moved = None if shape is None else _moved(shape, frame)
        cut = _cut_once(clip, point.shown + start, frame)
        aimed = ghost is not None and ghost.by[point.shown] != 0
        if ghost is not None and aimed:
            cut = _outlined(cut, frame, ghost, study, point.shown)
        found.append(Still(name, point.shown + start, cut, moved, aimed))
    return tuple(found)


def _cut_once(clip: Clip, number: int, frame: StillFrame) -> Picture:
    """A still of a clip's frame; a page is made anew for every word that is changed on it."""
    try:
        facts = clip.path.stat()
    except OSError:
        # Taken away since it was opened: it can still be read, but not told from another.
        return _cut(picture_of(clip.frame(number), clip.upright), frame)
    key = (clip.path, facts.st_size, facts.st_mtime_ns, number, frame)
    found = _CUT.get(key)
    if found is None:
        while len(_CUT) >= MOST_CUT:
            _CUT.popitem(last=False)
        found = _CUT[key] = _cut(picture_of(clip.frame(number), clip.upright), frame)
    return found


def _cut(pixels: Picture, frame: StillFrame, size: tuple[int, int] = (WIDE_PX, HIGH_PX)) -> Picture:
    """The part of a picture at the size of a still; what lies outside is dark."""
    width, height = size
    box = (frame.x, frame.y, frame.x + width / frame.grown, frame.y + height / frame.grown)
    image = Image.fromarray(pixels)
    cut = image.transform(size, Image.Transform.EXTENT, box, Image.Resampling.BICUBIC, fillcolor=(24, 32, 34))
    return np.asarray(cut)


def _outlined(cut: Picture, frame: StillFrame, ghost: Ghost, study: Study, at: int) -> Picture:
    """A still with the outline of the ghost of a frame."""
    places = {name: frame.at((float(x), float(y))) for name, (x, y) in ghost.pixels(study, at).items()}
    pieces = list(pieces_of(places, study.px_per_m * frame.grown))
    size = (SMOOTH * cut.shape[1], SMOOTH * cut.shape[0])
    image = Image.fromarray(cut)
    for wide, colour in ((2.2 * RIM_PX, DARK), (RIM_PX, GREEN)):
        mask = Image.new("L", size, 0)
        draw = ImageDraw.Draw(mask)
        for rim, fill in ((wide, 255), (0.0, 0)):
            for piece in pieces:
                _fill(draw, piece, rim, fill)
        image.paste(colour, mask=mask.resize(image.size, Image.Resampling.BOX))
    return np.asarray(image)


def _fill(draw: ImageDraw.ImageDraw, piece: Piece, rim: float, fill: int) -> None:
    ends = [
        (np.array(place) * SMOOTH, (radius + rim) * SMOOTH)
        for place, radius in ((piece.start, piece.at_start), (piece.end, piece.at_end))
    ]
    for (x, y), radius in ends:
        draw.ellipse((x - radius, y - radius, x + radius, y + radius), fill=fill)
    (a, wide), (b, narrow) = ends
    length = float(np.linalg.norm(b - a))
    if length > 0:
        side = np.array([a[1] - b[1], b[0] - a[0]]) / length
        corners = (a + side * wide, b + side * narrow, b - side * narrow, a - side * wide)
        draw.polygon([(float(x), float(y)) for x, y in corners], fill=fill)


def _moved(shape: Shaped, frame: StillFrame) -> Shaped:
    def line(ends: tuple[Place, Place]) -> tuple[Place, Place]:
        return frame.at(ends[0]), frame.at(ends[1])

    corner = shape.corner
    return Shaped(
        frame.at(shape.at),
        tuple(frame.at(place) for place in shape.plumbs),
        tuple(line(ends) for ends in shape.firm),
        tuple(line(ends) for ends in shape.faint),
        line(shape.gap) if shape.gap is not None else None,
        (frame.at(corner[0]), frame.at(corner[1]), frame.at(corner[2])) if corner is not None else None,
    )


def feet_of(study: Study, frame: int) -> float | None:
    """How far down the feet stand on a frame, px of the picture."""
    hand = study.setup.hand
    ankles = [study.tracks.get(anatomical(name, hand)) for name in ("lead_ankle", "trail_ankle")]
    found = [float(track.xy[frame, 1]) for track in ankles if track is not None]
    return max(found) if found else None
