"""Looking at a stretch by the body model, in two steps that are kept apart.

The landmarks of the golfer hang on the pictures alone; what follows from them
(flow, the camera's motion, club and ball) also on whether the camera faces the
body. Where joints are and how unsure, and which side is left, is told from the
landmarks anew each time: it costs no picture.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import msgspec
import numpy as np

from kneel.evidence.shelf import (
    KeptSighting,
    Packed,
    Shelf,
    kept,
    pack,
    pack_links,
    packed,
    unpack,
    unpack_links,
)
from kneel.evidence.stretch import Stretch
from kneel.model import CameraPath, Near, View
from kneel.vision.landmarks.body import find_landmarks
from kneel.vision.landmarks.joints import Bodies, joints
from kneel.vision.landmarks.looks import Landmarks
from kneel.vision.looked import BODY_SHARE, Looked, look_on, shared, warnings

LOOKS = 6
"""Raise when club, ball, flow or camera are told otherwise from the same landmarks, so that they are anew."""

Progress = Callable[[int, int], None]


class _KeptLandmarks(msgspec.Struct, frozen=True):
    arrays: Packed
    notes: tuple[str, ...]
    choice_open: bool


class _KeptLook(msgspec.Struct, frozen=True):
    things: dict[str, list[KeptSighting]]
    links: dict[str, list[Packed]]
    camera: Packed | None


def look_at(
    stretch: Stretch,
    shelf: Shelf,
    *,
    view: View | None = None,
    mirrored: bool = False,
    near: Near | None = None,
    progress: Progress = lambda done, total: None,
    part: Callable[[Looked], None] | None = None,
    stopped: Callable[[], bool] = lambda: False,
) -> Looked:
    """What the body model and all that follows from it show of a stretch.

    ``part`` is told what is known so far, before all of it is. ``view`` is where the camera stands, None
    where that is to be seen;
    ``near`` says which body is meant. Empty once ``stopped`` says yes. Raises
    ``BodyModelError`` where the model is needed and not installed.
    """
    known = kept_look(stretch, shelf, view=view, mirrored=mirrored, near=near)
    if known is not None:
        return known

    def coarse(some: Landmarks) -> None:
        bodies = joints(some, stretch.times_s, view=view, mirrored=mirrored)
        if part is not None and bodies.sightings:
            part(_told(Looked(), some, bodies))

    looks = _kept_landmarks(stretch, shelf, near)
    if looks is None:
        looks = find_landmarks(
            lambda: stretch.straight_reader().picture,
            stretch.times_s,
            near=near,
            progress=shared(progress, 0, BODY_SHARE),
            part=coarse if part is not None else None,
            stopped=stopped,
        )
        if stopped():
            return Looked()
        arrays = pack(
            frames=looks.frames.astype(float),
            xy=looks.xy,
            visible=looks.visible,
            edges=looks.edges,
            others=looks.others,
        )
        keep = _KeptLandmarks(arrays, looks.notes, looks.choice_open)
        shelf.put(_landmarks_key(stretch, shelf, near), packed(keep))
        looks = _as_kept(keep)
    bodies = joints(looks, stretch.times_s, view=view, mirrored=mirrored)
    if not bodies.sightings:
        return Looked(warnings=warnings(looks))
    if part is not None:
        part(_told(Looked(), looks, bodies))
    reader = stretch.reader()
    try:
        rest = shared(progress, BODY_SHARE, 1 - BODY_SHARE)
        fresh = look_on(bodies, reader.luma, stretch.times_s, progress=rest, stopped=stopped)
    finally:
        reader.close()
    if stopped():
        return Looked()
    look = _to_keep(fresh)
    shelf.put(_look_key(stretch, shelf, near, bodies), packed(look))
    return _told(_from_kept(look), looks, bodies)


def kept_look(
    stretch: Stretch, shelf: Shelf, *, view: View | None, mirrored: bool, near: Near | None
) -> Looked | None:
    """The same from what is kept; None where it is not."""
    looks = _kept_landmarks(stretch, shelf, near)
    if looks is None:
        return None
    bodies = joints(looks, stretch.times_s, view=view, mirrored=mirrored)
    if not bodies.sightings:
        return Looked(warnings=warnings(looks))
    known = kept(shelf, _look_key(stretch, shelf, near, bodies), _KeptLook)
    if known is None:
        return None
    try:
        return _told(_from_kept(known), looks, bodies)
    except ValueError:
        return None


def _told(found: Looked, looks: Landmarks, bodies: Bodies) -> Looked:
    joints_seen = {point: (sighting,) for point, sighting in bodies.sightings.items()}
    found = replace(
        found,
        sightings=joints_seen | dict(found.sightings),
        warnings=warnings(looks),
        choice_open=looks.choice_open,
    )
    return found.other_sides() if bodies.swapped else found


def _landmarks_key(stretch: Stretch, shelf: Shelf, near: Near | None) -> str:
    return shelf.key("landmarks", stretch.name, None if near is None else (near.x, near.y, near.frame))


def _look_key(stretch: Stretch, shelf: Shelf, near: Near | None, bodies: Bodies) -> str:
    return shelf.key("look", LOOKS, _landmarks_key(stretch, shelf, near), bodies.square)


def _kept_landmarks(stretch: Stretch, shelf: Shelf, near: Near | None) -> Landmarks | None:
    known = kept(shelf, _landmarks_key(stretch, shelf, near), _KeptLandmarks)
    if known is None:
        return None
    try:
        return _as_kept(known)
    except ValueError:
        return None


def _as_kept(known: _KeptLandmarks) -> Landmarks:
    array = unpack(known.arrays)
    parts = [array(name) for name in ("frames", "xy", "visible", "edges", "others")]
    frames, xy, visible, edges, others = parts
    if frames is None or xy is None or visible is None or edges is None or others is None:
        raise ValueError("kept landmarks lack a part")
    return Landmarks(frames.astype(np.int64), xy, visible, edges, known.notes, known.choice_open, others)


def _to_keep(found: Looked) -> _KeptLook:
    camera = found.camera
    return _KeptLook(
        {name: [KeptSighting.of(one) for one in seen] for name, seen in found.sightings.items()},
        {name: [pack_links(one) for one in many] for name, many in found.links.items()},
        None if camera is None else pack(maps=camera.maps, sigma=camera.sigma),
    )


def _from_kept(known: _KeptLook) -> Looked:
    return Looked(
        {name: tuple(one.sighting() for one in seen) for name, seen in known.things.items()},
        {name: tuple(unpack_links(one) for one in many) for name, many in known.links.items()},
        (),
        camera_from(known.camera),
    )


def camera_from(one: Packed | None) -> CameraPath | None:
    """A kept path of the camera again."""
    if one is None:
        return None
    array = unpack(one)
    maps, sigma = array("maps"), array("sigma")
    return None if maps is None or sigma is None else CameraPath(maps, sigma)
