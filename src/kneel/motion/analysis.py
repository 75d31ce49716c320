"""From points to numbers: tracks, checkpoints, scale and measures of one swing."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kneel.model import (
    CameraPath,
    Hand,
    Links,
    NoScale,
    ScaleSource,
    Sighting,
    Swing,
    View,
    anatomical,
    target_direction,
)
from kneel.motion.body import rough_px_per_m
from kneel.motion.checkpoints import Checkpoint, Moment, find_checkpoints
from kneel.motion.failure import Failed
from kneel.motion.limbs import solve_body
from kneel.motion.measures import REGISTRY, Scene, Series
from kneel.motion.quality import LEG_JOINTS, Quality, point_quality, spoilt_words
from kneel.motion.scale import Scale, find_scale
from kneel.motion.sightings import from_marks
from kneel.motion.track import PointData, Track

FloatArray = NDArray[np.float64]

TOLD_M, LOST_M = 0.01, 0.03
"""A camera that moved by less at the golfer is not worth a word; one known no better than this is lost."""


@dataclass(frozen=True)
class Setup:
    """What is known of the swing besides its points.

    ``pinned`` maps checkpoints to frame indices; ``strikes`` are those heard,
    in real seconds on the clock of the frames.
    """

    view: View = View.FACE_ON
    hand: Hand = Hand.RIGHT
    mirrored: bool | None = None
    scale: ScaleSource = field(default_factory=NoScale)
    pinned: Mapping[str, float] = field(default_factory=dict)
    strikes: tuple[Moment, ...] = ()
    width_px: float | None = None
    height_px: float | None = None


@dataclass(frozen=True)
class Analysis:
    """The numbers of one swing. ``missing`` says, by measure, why there is none."""

    setup: Setup
    times_s: FloatArray
    tracks: Mapping[str, Track]
    checkpoints: Mapping[str, Checkpoint]
    scale: Scale | Failed
    direction: int
    mirrored: bool
    px_per_m: float
    measures: Mapping[str, Series]
    missing: Mapping[str, str]
    warnings: tuple[str, ...]
    points: Mapping[str, PointData] = field(default_factory=dict)
    camera: CameraPath | None = None

    @cached_property
    def quality(self) -> dict[str, Quality]:
        """How well each point is followed from address to finish, by anatomical name."""
        return self._quality_of(self.tracks)

    def spoilt(self) -> list[str]:
        """Plain words on the joints of the legs that are followed poorly, and why."""
        scale = self.scale
        per_px = scale.per_px if isinstance(scale, Scale) and scale.unit == "cm" else None
        legs = [name for name in self.tracks if name.rsplit("_", 1)[-1] in LEG_JOINTS]
        return spoilt_words(self._quality_of(legs), self.setup.hand, per_px)

    def _quality_of(self, names: Iterable[str]) -> dict[str, Quality]:
        ends = [self.checkpoints[n].shown for n in ("address", "finish") if n in self.checkpoints]
        frames = (ends[0], ends[1]) if len(ends) == 2 else (0, len(self.times_s) - 1)
        width, height = self.setup.width_px, self.setup.height_px
        size = None if width is None or height is None else (width, height)
        out = {}
        for name in names:
            if name not in self.points:
                continue
            # The ball is there only until it leaves.
            first, last = first_last(self.points[name])
            part = max(frames[0], first), min(frames[1], last)
            if part[0] <= part[1]:
                data, track = self.points[name], self.tracks[name]
                out[name] = point_quality(
                    data, track, name, frames=part, px_per_m=self.px_per_m, size_px=size
                )
        return out

    def gone(self, name: str, frame: int) -> bool:
        """Whether the ball has left by a frame; nothing else goes, by anatomical name."""
        return name == "ball" and name in self.points and frame > first_last(self.points[name])[1]

    def carried(self, xy: FloatArray, start: int, end: int) -> FloatArray:
        """Where frame ``end`` shows a place, px (2,), that stands still in frame ``start``."""
        return xy if self.camera is None else self.camera.carried(xy, start, end)

    def track(self, point: str) -> Track | None:
        """The track of a point by its lead/trail name, None where there is none."""
        return self.tracks.get(anatomical(point, self.setup.hand))


def analyse_swing(
    swing: Swing,
    times_s: FloatArray,
    links: Mapping[str, Sequence[Links]],
    strikes: tuple[Moment, ...] = (),
    sightings: Mapping[str, Sequence[Sighting]] | None = None,
    camera: CameraPath | None = None,
) -> Analysis:
    """Analyse a document: its marks, what was seen and followed, its settings.

    ``times_s`` (T,) are real seconds of the clip's frames; ``links`` maps
    points to what was followed for them, ``sightings`` to where other sources
    than hand marks saw them, ``strikes`` are those heard, ``camera`` is how it
    moved.
    """
    clip = swing.clip
    width, height = (clip.width, clip.height) if clip else (1280, 720)
    points = from_marks(swing.marks, len(times_s), links, height_px=height, sightings=sightings)
    # What is pinned outside the span is none of this swing's.
    pinned = {name: frame for name, frame in swing.pinned.items() if 0 <= frame <= len(times_s) - 1}
    setup = Setup(swing.view, swing.hand, swing.mirrored, swing.scale, pinned, strikes, width, height)
    return analyse(times_s, points, setup, camera)


def analyse(
    times_s: FloatArray,
    points: Mapping[str, PointData],
    setup: Setup,
    camera: CameraPath | None = None,
) -> Analysis:
    """Solve the tracks and compute everything that follows from them.

    ``times_s`` (T,) are real seconds, strictly increasing. Points and tracks
    are where the picture shows them; checkpoints and measures are told with
    the motion of ``camera`` taken out. Never fails: what cannot be told is
    missing with a reason.
    """
    shown = solve_body(times_s, points)
    tracks = {n: t if camera is None else replace(t, xy=camera.steadied(t.xy)) for n, t in shown.items()}
    seen = {name: first_last(points[name]) for name in tracks}
    px_per_m = rough_px_per_m({n: t.xy for n, t in tracks.items()}, height_px=setup.height_px)
    checkpoints, notes = find_checkpoints(
        times_s,
        tracks,
        seen,
        hand=setup.hand,
        px_per_m=px_per_m,
        pinned=setup.pinned,
        strikes=setup.strikes,
        along=setup.view is View.DOWN_THE_LINE,
        behind=setup.view is View.REAR,
    )
    address = checkpoints["address"].shown if "address" in checkpoints else 0
    mirrored, mirror_notes = _mirrored(setup, tracks, address)
    direction = target_direction(setup.view, setup.hand, mirrored=mirrored)
    scale = find_scale(setup.scale, tracks, address)
    measures: dict[str, Series] = {}
    missing: dict[str, str] = {}
    if "address" not in checkpoints:
        reason = notes[0] if notes else "There is no address frame to measure from."
        missing = dict.fromkeys(REGISTRY, reason)
    elif isinstance(scale, Failed):
        missing = dict.fromkeys(REGISTRY, scale.reason)
    else:
        centre = None if setup.width_px is None else (setup.width_px - 1) / 2
        unsteady = None if camera is None else camera.sigma
        scene = Scene(
            setup.view, setup.hand, direction, times_s, tracks, checkpoints, scale, px_per_m, centre, unsteady
        )
        measures, missing = _measured(scene)
    warnings = (*notes, *mirror_notes, *_scale_notes(scale), *_camera_notes(camera, tracks, px_per_m))
    return Analysis(
        setup,
        times_s,
        shown,
        checkpoints,
        scale,
        direction,
        mirrored,
        px_per_m,
        measures,
        missing,
        warnings,
        points,
        camera,
    )


def _measured(scene: Scene) -> tuple[dict[str, Series], dict[str, str]]:
    measures, missing = {}, {}
    for key, entry in REGISTRY.items():
        result = entry(scene)
        if isinstance(result, Failed):
            missing[key] = result.reason
        else:
            measures[key] = result
    return measures, missing


def first_last(data: PointData) -> tuple[int, int]:
    """First and last frame index at which a point is sighted or followed."""
    known = np.zeros(len(data.sightings[0].xy), dtype=bool)
    for sighting in data.sightings:
        known |= np.isfinite(sighting.xy[:, 0])
    for links in data.links:
        linked = np.isfinite(links.step[:, 0])
        known[:-1] |= linked
        known[1:] |= linked
    where = np.flatnonzero(known)
    return int(where[0]), int(where[-1])


def _mirrored(setup: Setup, tracks: Mapping[str, Track], address: int) -> tuple[bool, list[str]]:
    """Whether the picture is mirrored: said, or read off where left and right lie.

    Face-on the golfer's right side lies at image left, from the rear at
    image right; a mirror swaps that.
    """
    if setup.mirrored is not None:
        return setup.mirrored, []
    if setup.view is View.DOWN_THE_LINE:
        return False, []
    gaps = [
        tracks[f"right_{joint}"].xy[address, 0] - tracks[f"left_{joint}"].xy[address, 0]
        for joint in ("ankle", "hip", "shoulder", "knee")
        if f"right_{joint}" in tracks and f"left_{joint}" in tracks
    ]
    if not gaps:
        return False, []
    right_is_right = float(np.median(gaps)) > 0
    mirrored = right_is_right != (setup.view is View.REAR)
    note = "Left and right lie as in a mirrored picture, and it is read as one; say so if it is not."
    return mirrored, [note] if mirrored else []


def camera_moved_cm(camera: CameraPath, tracks: Mapping[str, Track], px_per_m: float) -> float | None:
    """How far the camera carried the golfer's picture at most, cm; None where it could not be followed."""
    if float(np.median(camera.sigma)) > LOST_M * px_per_m:
        return None
    middle = np.mean([track.xy.mean(axis=0) for track in tracks.values()], axis=0)
    return 100 * float(np.linalg.norm(camera.moved(middle), axis=1).max()) / px_per_m


def _camera_notes(camera: CameraPath | None, tracks: Mapping[str, Track], px_per_m: float) -> list[str]:
    """Say so where the camera moved more than a reader of the numbers would like to know of."""
    if camera is None or not tracks:
        return []
    moved = camera_moved_cm(camera, tracks, px_per_m)
    if moved is None:
        return [
            "The camera moves, and too little that stands still is seen to tell how: lengths are uncertain. "
            "Set it down, or let more of the place be seen."
        ]
    if moved < 100 * TOLD_M:
        return []
    return [
        f"The camera moved by up to {moved:.0f} cm at the golfer; that is taken out of the "
        "numbers, with a wider error. Set it down for better ones."
    ]


def _scale_notes(scale: Scale | Failed) -> list[str]:
    if isinstance(scale, Failed):
        return [scale.reason]
    if scale.unit == "stance":
        return [
            "No scale is given: lengths are in stance widths and judged as those of a golfer of usual build."
        ]
    return []
