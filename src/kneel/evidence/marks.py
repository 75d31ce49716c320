"""Following the marks of a swing, leg by leg; a leg followed once is never followed again."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence

import msgspec
import numpy as np
from numpy.typing import NDArray

from kneel.evidence.seen import camera_from
from kneel.evidence.shelf import KeptSighting, Packed, Shelf, kept, pack, pack_links, packed, unpack_links
from kneel.evidence.stretch import Stretch
from kneel.model import CameraPath, Links, Mark, Sighting
from kneel.motion.body import rough_px_per_m
from kneel.vision import Followed, Leg, Source, follow_legs, legs
from kneel.vision.followed import marked_places
from kneel.vision.steady import camera_path

FloatArray = NDArray[np.float64]

SCALE_STEPS = 8.0
"""The picture's scale is told in steps of an eighth of a natural logarithm, so that moving one mark a little
changes how no other is followed."""

CAMERA_GRID_M = 0.25
"""Where people stand is told to the camera's motion on a grid, for the same reason."""


CAMERA = 2
"""Raise when the camera's motion is told otherwise of the same pictures, so that it is told anew."""

MOST_FORMER_LEGS = 400
"""Legs of marks that were moved or taken away are kept as well, so many of them."""


class _KeptLeg(msgspec.Struct, frozen=True):
    """What was followed on one leg: steps, and a coloured spot where it starts on one."""

    point: str
    first: int
    x: float
    y: float
    last: int
    end: tuple[float, float] | None
    links: Packed | None
    spot: KeptSighting | None


class _KeptLegs(msgspec.Struct, frozen=True):
    legs: list[_KeptLeg]


class _KeptCamera(msgspec.Struct, frozen=True):
    camera: Packed | None


def wanted_legs(marks: Iterable[Mark], stretch: Stretch) -> list[Leg]:
    """The legs that the marks of a swing ask for."""
    return legs(marks, len(stretch))


def scale_of(marks: Sequence[Mark], stretch: Stretch) -> float:
    """A rough px per metre from the marks, in steps."""
    placed: dict[str, FloatArray] = {}
    for mark in marks:
        if mark.frame < len(stretch):
            xy = placed.setdefault(mark.point, np.full((len(stretch), 2), np.nan))
            xy[mark.frame] = mark.x, mark.y
    rough = rough_px_per_m(placed, height_px=stretch.height_px)
    return float(np.exp(round(np.log(rough) * SCALE_STEPS) / SCALE_STEPS))


def legs_key(shelf: Shelf, stretch: Stretch, px_per_m: float) -> str:
    """Under what all legs of one stretch and scale are kept."""
    return shelf.key("legs", stretch.name, round(px_per_m, 6))


def follow_marks(
    stretch: Stretch,
    marks: Sequence[Mark],
    shelf: Shelf,
    *,
    sources: frozenset[Source] = frozenset(Source),
    steady: bool = False,
    part: Callable[[Followed], None] = lambda followed: None,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Followed:
    """What every leg of the marks shows: by flow and, where it starts on a coloured spot, by colour.

    ``part`` is given what is known already, before anything is followed.
    ``steady`` asks for the camera's own motion too. Once ``stopped`` says
    yes, what was known before is given.
    """
    wanted = wanted_legs(marks, stretch)
    px_per_m = scale_of(marks, stretch)
    key = legs_key(shelf, stretch, px_per_m)
    known = _known(shelf, key, stretch)
    lacking = [leg for leg in wanted if leg not in known]
    if lacking and sources & {Source.FLOW, Source.COLOUR}:
        if len(lacking) < len(wanted):
            part(_followed(known, wanted, sources))
        fresh = _fresh(stretch, lacking, px_per_m, progress, stopped)
        if stopped():
            return _followed(known, wanted, sources)
        # Others may have followed more meanwhile.
        known = _known(shelf, key, stretch) | known | fresh
        shelf.put(key, packed(_KeptLegs(_worth_keeping(known, wanted))))
    followed = _followed(known, wanted, sources)
    if not steady or not wanted:
        return followed
    camera = _camera(stretch, marks, shelf, px_per_m, stopped)
    return Followed(followed.links, followed.spots, camera)


def kept_marks(stretch: Stretch, marks: Sequence[Mark], shelf: Shelf, *, steady: bool) -> Followed:
    """The same from what is kept; legs that are not kept are left out."""
    if not marks:
        return Followed()
    px_per_m = scale_of(marks, stretch)
    known = _known(shelf, legs_key(shelf, stretch, px_per_m), stretch)
    followed = _followed(known, wanted_legs(marks, stretch), frozenset(Source))
    if not steady or not followed.legs():
        return followed
    places = standing_places(marks, stretch, px_per_m)
    camera = kept(shelf, camera_key(shelf, stretch, places), _KeptCamera)
    return Followed(followed.links, followed.spots, camera_from(camera.camera) if camera else None)


def all_kept(stretch: Stretch, marks: Sequence[Mark], shelf: Shelf, *, steady: bool) -> bool:
    """Whether nothing would have to be followed any more."""
    wanted = wanted_legs(marks, stretch)
    if not wanted:
        return True
    px_per_m = scale_of(marks, stretch)
    known = _known(shelf, legs_key(shelf, stretch, px_per_m), stretch)
    if not set(wanted) <= known.keys():
        return False
    places = standing_places(marks, stretch, px_per_m)
    return not steady or kept(shelf, camera_key(shelf, stretch, places), _KeptCamera) is not None


def camera_key(shelf: Shelf, stretch: Stretch, places: FloatArray) -> str:
    """Under what the camera's motion is kept: it hangs on roughly where people stand."""
    return shelf.key("camera", CAMERA, stretch.name, np.ascontiguousarray(places).tobytes())


def standing_places(marks: Sequence[Mark], stretch: Stretch, px_per_m: float) -> FloatArray:
    """Where the marked points are in every frame, on a coarse grid, (P, T, 2) px."""
    cell = CAMERA_GRID_M * px_per_m
    places = marked_places(wanted_legs(marks, stretch), len(stretch))
    return np.unique(np.round(places / cell) * cell, axis=0)


def _camera(
    stretch: Stretch, marks: Sequence[Mark], shelf: Shelf, px_per_m: float, stopped: Callable[[], bool]
) -> CameraPath | None:
    places = standing_places(marks, stretch, px_per_m)
    key = camera_key(shelf, stretch, places)
    known = kept(shelf, key, _KeptCamera)
    if known is None:
        reader = stretch.reader()
        try:
            found = camera_path(reader.luma, places, px_per_m=px_per_m, stopped=stopped)
        finally:
            reader.close()
        if stopped():
            return None
        known = _KeptCamera(None if found is None else pack(maps=found.maps, sigma=found.sigma))
        shelf.put(key, packed(known))
    return camera_from(known.camera)


def _fresh(
    stretch: Stretch,
    lacking: Sequence[Leg],
    px_per_m: float,
    progress: Callable[[int, int], None],
    stopped: Callable[[], bool],
) -> dict[Leg, _KeptLeg]:
    reader = stretch.reader()
    try:
        found = follow_legs(
            lacking, reader, stretch.times_s, px_per_m=px_per_m, progress=progress, stopped=stopped
        )
    finally:
        reader.close()
    return {leg: _to_keep(leg, found.links.get(leg), found.spots.get(leg)) for leg in lacking}


def _known(shelf: Shelf, key: str, stretch: Stretch) -> dict[Leg, _KeptLeg]:
    found = kept(shelf, key, _KeptLegs)
    if found is None:
        return {}
    return {Leg(k.point, k.first, k.x, k.y, k.last, k.end): k for k in found.legs if _fits(k, len(stretch))}


def _worth_keeping(known: Mapping[Leg, _KeptLeg], wanted: Sequence[Leg]) -> list[_KeptLeg]:
    """The legs that are wanted now, and the latest of those that were: an undone mark may come back."""
    now = set(wanted)
    before = [one for leg, one in known.items() if leg not in now]
    return [*before[-MOST_FORMER_LEGS:], *(known[leg] for leg in wanted)]


def _fits(leg: _KeptLeg, frames: int) -> bool:
    return min(leg.first, leg.last) >= 0 and max(leg.first, leg.last) < frames


def _followed(known: Mapping[Leg, _KeptLeg], wanted: Sequence[Leg], sources: frozenset[Source]) -> Followed:
    links: dict[Leg, Links] = {}
    spots: dict[Leg, Sighting] = {}
    for leg in wanted:
        one = known.get(leg)
        if one is None:
            continue
        if one.links is not None and Source.FLOW in sources:
            links[leg] = unpack_links(one.links)
        if one.spot is not None and Source.COLOUR in sources:
            spots[leg] = one.spot.sighting()
    return Followed(links, spots)


def _to_keep(leg: Leg, links: Links | None, spot: Sighting | None) -> _KeptLeg:
    kept_links = None if links is None else pack_links(links)
    kept_spot = None if spot is None else KeptSighting.of(spot)
    return _KeptLeg(leg.point, leg.first, leg.x, leg.y, leg.last, leg.end, kept_links, kept_spot)
