"""From points to numbers: tracks, checkpoints, scale and measures of one swing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kneel.model import (
    CameraPath,
    Kind,
    Links,
    Sighting,
    Swing,
    View,
    anatomical,
    target_direction,
)
from kneel.motion.body import rough_px_per_m
from kneel.motion.checkpoints import HELD, Checkpoint, Moment, find_checkpoints, start_of
from kneel.motion.checkpoints.rules import Known, Rule, by_rule, read_rule
from kneel.motion.chest import tilted
from kneel.motion.clock import Slowed
from kneel.motion.failure import Failed
from kneel.motion.feet import doubted
from kneel.motion.limbs import solve_body
from kneel.motion.plate import Plate
from kneel.motion.quality import first_last
from kneel.motion.scale import Scale, find_scale
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_marks
from kneel.motion.square import passed_square
from kneel.motion.stand import find_stand, stand_notes
from kneel.motion.study import Study
from kneel.motion.track import PointData, Resting, Track
from kneel.motion.viewed import right_lies_right

FloatArray = NDArray[np.float64]

SURE_TIMES = 2.0
"""A ball's place is told by the frames in which it is no more than so many times less sure than at best."""

TOLD_M, LOST_M = 0.01, 0.03
"""A camera that moved by less at the golfer is not worth a word; one known no better than this is lost."""


def analyse_swing(
    swing: Swing,
    times_s: FloatArray,
    links: Mapping[str, Sequence[Links]],
    strikes: tuple[Moment, ...] = (),
    sightings: Mapping[str, Sequence[Sighting]] | None = None,
    camera: CameraPath | None = None,
    plate: Plate | None = None,
    *,
    crowd: bool = False,
) -> Study:
    """Analyse a document: its marks, what was seen and followed, its settings.

    ``times_s`` (T,) are real seconds of the clip's frames; ``links`` maps
    points to what was followed for them, ``sightings`` to where other sources
    than hand marks saw them, ``strikes`` are those heard, ``camera`` is how it
    moved, ``plate`` what a pressure plate recorded, ``crowd`` whether another of
    those seen may be the golfer.

    >>> study = analyse_swing(Swing(), np.arange(120) / 60, {})
    >>> dict(study.checkpoints), study.warnings[0]
    ({}, 'The checkpoints cannot be found without the hands: mark the grip or the wrists.')
    """
    clip = swing.clip
    width, height = (clip.width, clip.height) if clip else (1280, 720)
    points = from_marks(swing.marks, len(times_s), links, height_px=height, sightings=sightings)
    # What is pinned outside the span is none of this swing's.
    pinned = {name: frame for name, frame in swing.pinned.items() if 0 <= frame <= len(times_s) - 1}
    setup = Setup.of(
        swing,
        pinned=pinned,
        strikes=strikes,
        width_px=width,
        height_px=height,
        guessed=frozenset(sightings or ()),
        plate=plate,
        crowd=crowd and swing.near is None,
    )
    return analyse(times_s, points, setup, camera)


def analyse(
    times_s: FloatArray,
    points: Mapping[str, PointData],
    setup: Setup,
    camera: CameraPath | None = None,
) -> Study:
    """Solve the tracks and compute everything that follows from them.

    ``times_s`` (T,) are real seconds, strictly increasing. Points and tracks
    are where the picture shows them; checkpoints and measures are told with
    the motion of ``camera`` taken out. Never fails: what cannot be told is
    missing with a reason.

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> again = analyse(study.times_s, study.points, study.setup)
    >>> round(again.at("pelvis_shift", "top").value, 1)
    -6.1
    """
    shown = solve_body(times_s, points, setup.view)
    tracks = {n: t if camera is None else replace(t, xy=camera.steadied(t.xy)) for n, t in shown.items()}
    seen = {name: first_last(points[name]) for name in tracks}
    px_per_m = rough_px_per_m({n: t.xy for n, t in tracks.items()}, height_px=setup.height_px)
    checkpoints, notes = _checkpoints(times_s, tracks, seen, setup, px_per_m)
    camera = doubted(camera, tracks, checkpoints, px_per_m)
    if setup.view is not View.DOWN_THE_LINE:
        at = {name: point.time_s for name, point in checkpoints.items()}
        square = passed_square(tracks, checkpoints)
        for known in (square, tilted({**tracks, **square}, setup.hand, at, px_per_m)):
            for name, track in known.items():
                moved = track.xy - tracks[name].xy
                shown[name] = replace(track, xy=shown[name].xy + moved)
                tracks[name] = track
    tracks |= _resting(tracks, seen, checkpoints)
    start = start_of(checkpoints)
    address = 0 if start is None else start.shown
    mirrored, mirror_notes = _mirrored(setup, tracks, address)
    direction = target_direction(setup.view, setup.hand, mirrored=mirrored)
    scale = find_scale(setup.scale, tracks, address, setup.also_scaled)
    centre = None if setup.width_px is None else (setup.width_px - 1) / 2

    def place(point: str) -> FloatArray | None:
        track = tracks.get(anatomical(point, setup.hand))
        return None if track is None else track.xy[address]

    stand = find_stand(
        setup.view,
        place,
        direction=direction,
        px_per_m=px_per_m,
        plumb=setup.plumb,
        centre_x=centre,
    )
    warnings = (
        *notes,
        *mirror_notes,
        *_scale_notes(scale),
        *_camera_notes(camera, tracks, px_per_m),
        *stand_notes(stand),
    )
    study = Study(
        setup,
        times_s,
        shown,
        tracks,
        checkpoints,
        scale,
        stand,
        direction,
        mirrored,
        px_per_m,
        warnings,
        points,
        camera,
    )
    return replace(study, warnings=(*warnings, *_slow_notes(study.slowed)))


def _checkpoints(
    times_s: FloatArray,
    tracks: Mapping[str, Track],
    seen: Mapping[str, tuple[int, int]],
    setup: Setup,
    px_per_m: float,
) -> tuple[dict[str, Checkpoint], list[str]]:
    """Those found and pinned, in order, and the instructor's own; of a held pose its one moment."""
    notes: list[str] = []
    if setup.kind is Kind.HELD or len(times_s) < 2:
        middle = float((len(times_s) - 1) // 2)
        points = {HELD: _by_hand(times_s, middle)} if not setup.pinned else {}
        points |= {name: _by_hand(times_s, frame) for name, frame in setup.pinned.items()}
    else:
        points, notes = find_checkpoints(
            times_s,
            tracks,
            seen,
            hand=setup.hand,
            px_per_m=px_per_m,
            pinned=setup.pinned,
            strikes=setup.strikes,
            along=setup.view is View.DOWN_THE_LINE,
            behind=setup.view is View.REAR,
            guessed=setup.guessed,
            back_only=setup.kind is Kind.BACKSWING,
        )
    last = len(times_s) - 1
    own = {name: _by_hand(times_s, frame) for name, frame in setup.own.items() if 0 <= frame <= last}
    known = Known(times_s, tracks, setup.hand, points)
    for name, words in setup.rules.items():
        rule = read_rule(words)
        told = by_rule(rule, known) if isinstance(rule, Rule) else rule
        if isinstance(told, Failed):
            notes.append(told.reason)
        else:
            own[name] = told
    return points | {name: point for name, point in own.items() if name not in points}, notes


def _resting(
    tracks: Mapping[str, Track], seen: Mapping[str, tuple[int, int]], points: Mapping[str, Checkpoint]
) -> dict[str, Track]:
    """The ball as one place until it leaves: it is as sure all the while as where it is seen best."""
    ball = tracks.get("ball")
    if ball is None:
        return {}
    first, last = seen["ball"]
    end = min(points["impact"].shown, last + 1) if "impact" in points else last + 1
    known = np.arange(first, max(end, first + 1))
    sure = known[ball.sigma[known] < SURE_TIMES * ball.sigma[known].min()]
    place = np.median(ball.xy[sure], axis=0)
    scatter = 1.4826 * float(np.median(np.abs(ball.xy[sure] - place)))
    until = np.arange(len(ball.sigma)) < max(end, 1)
    return {"ball": Resting.of(ball, place, float(np.hypot(ball.sigma.min(), scatter)), until)}


def _by_hand(times_s: FloatArray, frame: float) -> Checkpoint:
    step = float(np.median(np.diff(times_s))) if len(times_s) > 1 else 0.0
    time = float(np.interp(frame, np.arange(len(times_s)), times_s))
    return Checkpoint(frame, time, step / float(np.sqrt(12)), "marked")


def _mirrored(setup: Setup, tracks: Mapping[str, Track], address: int) -> tuple[bool, list[str]]:
    """Whether the picture is mirrored: said, or read off where left and right lie.

    Face-on the golfer's right side lies at image left, from the rear at
    image right; a mirror swaps that.
    """
    if setup.mirrored is not None:
        return setup.mirrored, []
    if setup.view is View.DOWN_THE_LINE:
        return False, []
    here = slice(address, address + 1)
    pairs = [
        (tracks[f"left_{joint}"].xy[here], tracks[f"right_{joint}"].xy[here])
        for joint in ("ankle", "hip", "shoulder", "knee")
        if f"right_{joint}" in tracks and f"left_{joint}" in tracks
    ]
    right_is_right = right_lies_right(pairs)
    if right_is_right is None:
        return False, []
    mirrored = right_is_right != (setup.view is View.REAR)
    note = "Left and right lie as in a mirrored picture, and it is read as one; say so if it is not."
    return mirrored, [note] if mirrored else []


def camera_moved_cm(camera: CameraPath, tracks: Mapping[str, Track], px_per_m: float) -> float | None:
    """How far the camera carried the golfer's picture at most, cm; None where it could not be followed.

    >>> from kneel.motion.example import example
    >>> still = CameraPath(np.tile(np.eye(2, 3), (120, 1, 1)), np.zeros(120))
    >>> camera_moved_cm(still, example().tracks, 300.0)
    0.0
    """
    if float(np.median(camera.sigma)) > LOST_M * px_per_m:
        return None
    middle = np.mean([track.xy.mean(axis=0) for track in tracks.values()], axis=0)
    return 100 * float(np.linalg.norm(camera.moved(middle), axis=1).max()) / px_per_m


def _camera_notes(camera: CameraPath | None, tracks: Mapping[str, Track], px_per_m: float) -> list[str]:
    """Say so where the camera moved more than a reader of the numbers would like to know of."""
    if camera is None or not tracks:
        return []
    if camera.by_feet:
        far = 100 * float(camera.sigma.max()) / px_per_m
        return [
            "Too little that stands still is seen to tell whether the camera moves: lengths are as unsure "
            f"as the feet seem to go, up to {far:.0f} cm. Set it down, or let more of the place be seen."
        ]
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


def _slow_notes(slowed: Slowed | None) -> list[str]:
    if slowed is None:
        return []
    if not slowed.rates:
        return [
            f"The downswing lasts {1000 * slowed.down_s:.0f} ms: the clip is not as slow as its rate of "
            f"{slowed.stored:.3g} frames a second would have it. Say its true rate to have times."
        ]
    return [
        f"The downswing lasts {slowed.down_s:.1f} s: the clip looks slowed down {slowed.times:.3g} times, as "
        f"if filmed at {slowed.rates[0]:g} frames a second. Say its true rate to have times."
    ]


def _scale_notes(scale: Scale | Failed) -> list[str]:
    if isinstance(scale, Failed):
        return [scale.reason]
    if scale.unit == "stance":
        return [
            "No scale is given: lengths are in stance widths and judged as those of a golfer of usual build."
        ]
    return []
