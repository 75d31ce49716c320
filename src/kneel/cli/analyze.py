"""``kneel analyze``: points or a clip in, numbers and verdicts out."""

from __future__ import annotations

import argparse
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from kneel.cli.parts import named_numbers, write_json
from kneel.judge import Reading, judge, school
from kneel.judge.result import result
from kneel.judge.words import checkpoint_words
from kneel.model import (
    CHECKPOINTS,
    CameraPath,
    Club,
    Hand,
    PointsError,
    Stature,
    Swing,
    TypedScale,
    UsageError,
    View,
)
from kneel.motion.analysis import Analysis, Setup, analyse
from kneel.motion.checkpoints import Moment
from kneel.motion.clock import pace_of, real_times
from kneel.motion.sightings import from_marks, from_rows
from kneel.motion.track import PointData


@dataclass(frozen=True)
class Loaded:
    """A swing ready to be analysed. ``frames`` are the file's own frame numbers."""

    swing: Swing
    clip: dict[str, Any]
    frames: NDArray[np.int64]
    times_s: NDArray[np.float64]
    points: dict[str, PointData]
    size: tuple[int, int] | None
    strikes: tuple[Moment, ...] = ()
    warnings: tuple[str, ...] = ()
    camera: CameraPath | None = None


def run(asked: argparse.Namespace) -> int:
    """Analyse one input and print or write the result."""
    loaded = _load(asked)
    swing = loaded.swing
    chosen = school(swing.school)
    second = school(asked.against) if asked.against else None
    setup = Setup(
        swing.view,
        swing.hand,
        swing.mirrored,
        swing.scale,
        _pinned(loaded, asked),
        loaded.strikes,
        *(loaded.size or (None, None)),
    )
    analysis = analyse(loaded.times_s, loaded.points, setup, loaded.camera)
    if "address" not in analysis.checkpoints:
        why = analysis.warnings[0] if analysis.warnings else "The clip starts after the club has moved away."
        raise PointsError(
            f"There is no address in {Path(asked.input).name} to measure from. {why} "
            "Name it with --checkpoint address=FRAME."
        )
    reading = judge(analysis, chosen)
    against = judge(analysis, second) if second else None
    if asked.json:
        write_json(_content(loaded, analysis, reading, against), asked.json)
    if asked.json != "-":
        _print(analysis, reading, against)
    return 0


def _content(loaded: Loaded, analysis: Analysis, reading: Reading, against: Reading | None) -> dict[str, Any]:
    content = result(analysis, reading, loaded.clip, loaded.frames)
    content["warnings"] = [*loaded.warnings, *content["warnings"]]
    if against:
        other = result(analysis, against, loaded.clip, loaded.frames)
        content["against"] = {k: other[k] for k in ("school", "findings", "priority")}
    return content


def _load(asked: argparse.Namespace) -> Loaded:
    path = Path(asked.input)
    if path.name.lower().endswith(".csv"):
        return _load_points(path, asked)
    return _load_clip(path, asked)


def _load_points(path: Path, asked: argparse.Namespace) -> Loaded:
    from kneel.book.points_csv import read_points

    if asked.marks:
        raise UsageError("--marks goes with a video; this is a points file already.")
    rows = read_points(path)
    stored = 1 / float(np.median(np.diff(rows.times_s)))
    swing = _given(Swing(), asked)
    times = real_times(rows.times_s, swing.capture_rate, pace_of(rows.times_s))
    clip = {
        "source": path.name,
        "kind": "points",
        "frames": len(rows),
        "rate_stored": round(stored, 3),
        **_golfer(swing),
    }
    return Loaded(swing, clip, rows.frames, times, from_rows(rows), None)


def _load_clip(path: Path, asked: argparse.Namespace) -> Loaded:
    """A video with the marks beside it or named, or a swing file with its clip."""
    from kneel.cli.follow import open_document
    from kneel.vision import Source

    document = open_document(path, asked.marks)
    swing = _given(document.swing, asked)
    info = document.info
    first, last = swing.reach(info.frames)
    times = info.real_s(swing.capture_rate)[first : last + 1]
    sources = frozenset(Source) if document.wants_looking else frozenset(Source) - {Source.BODY}
    seen = document.seen(times, sources, view=View(asked.view) if asked.view else None)
    points = from_marks(swing.marks, len(times), seen.links, height_px=info.height, sightings=seen.sightings)
    if not points:
        raise PointsError(f"{info.path.name} cannot be measured. {' '.join(seen.warnings)}")
    clip = {
        "source": info.path.name,
        "kind": "video",
        "frames": info.frames,
        "width": info.width,
        "height": info.height,
        "rate_stored": round(info.rate_stored, 3),
        "rate_captured": round(swing.capture_rate or info.rate_stored, 3),
        **_golfer(swing),
    }
    frames = np.arange(first, last + 1)
    size = (info.width, info.height)
    strikes = document.strikes(swing.capture_rate)
    warnings = (*info.warnings, *seen.warnings)
    return Loaded(swing, clip, frames, times, points, size, strikes, warnings, seen.camera)


def _golfer(swing: Swing) -> dict[str, str]:
    return {"view": swing.view.value, "handed": swing.hand.value, "club": swing.club.value}


def _given(swing: Swing, asked: argparse.Namespace) -> Swing:
    """The swing with what the command line says."""
    settings: dict[str, Any] = {}
    if asked.view:
        settings["view"] = View(asked.view)
    if asked.handed:
        settings["hand"] = Hand(asked.handed)
    if asked.club:
        settings["club"] = Club(asked.club)
    if asked.standard:
        settings["school"] = asked.standard
    if asked.fps_capture is not None:
        if not 1 <= asked.fps_capture <= 10000:
            raise UsageError(f"--fps-capture takes 1 to 10000 frames a second, not {asked.fps_capture:g}.")
        settings["capture_rate"] = asked.fps_capture
    if asked.mirrored:
        settings["mirrored"] = asked.mirrored == "yes"
    if asked.cm_per_px is not None:
        if not 0.001 <= asked.cm_per_px <= 20:
            raise UsageError(f"--cm-per-px takes 0.001 to 20, not {asked.cm_per_px:g}.")
        settings["scale"] = TypedScale(asked.cm_per_px)
    if asked.stature is not None:
        if not 80 <= asked.stature <= 250:
            raise UsageError(f"--stature takes 80 to 250 cm, not {asked.stature:g}.")
        settings["scale"] = Stature(asked.stature)
    return msgspec.structs.replace(swing, **settings)


def _pinned(loaded: Loaded, asked: argparse.Namespace) -> dict[str, float]:
    """Checkpoints set by hand, as indices into the frames at hand."""
    pinned = dict(loaded.swing.pinned)
    first, last = int(loaded.frames[0]), int(loaded.frames[-1])
    for name, frame in named_numbers(asked.checkpoint, "--checkpoint", "NAME=FRAME").items():
        if name not in CHECKPOINTS:
            raise UsageError(f"There is no checkpoint “{name}”; known are {', '.join(CHECKPOINTS)}.")
        if not first <= frame <= last:
            raise UsageError(f"--checkpoint {name}={frame:g} lies outside frames {first} to {last}.")
        pinned[name] = float(np.interp(frame, loaded.frames, np.arange(len(loaded.frames))))
    return pinned


def _print(analysis: Analysis, reading: Reading, against: Reading | None) -> None:
    print(f"Judged as {reading.school.title.lower()}:")
    for finding in reading.findings:
        print(f"  {finding.verdict.value:8} {finding.fault.title}. {finding.text}")
        for reason in finding.evidence:
            print(f"           {reason}")
    if against:
        print(f"Judged as {against.school.title.lower()}:")
        for finding in against.findings:
            print(f"  {finding.verdict.value:8} {finding.fault.title}. {finding.text}")
    names = ", ".join(f"{checkpoint_words(n)} {c.time_s:.3f} s" for n, c in analysis.checkpoints.items())
    print(f"Checkpoints: {names}")
    for warning in (*analysis.warnings, *analysis.spoilt()):
        print(f"Note: {warning}")
