"""``kneel analyze``: points or a clip in, numbers and verdicts out."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kneel.cli.outputs import Output, demand_input, demand_outputs
from kneel.cli.parts import capture_rate, named_numbers, write_json
from kneel.disk import shown
from kneel.judge import Reading, judge, school
from kneel.judge.result import result
from kneel.judge.words import checkpoint_words
from kneel.model import (
    CHECKPOINTS,
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
from kneel.motion.clock import pace_of, real_times
from kneel.motion.sightings import from_rows


@dataclass(frozen=True)
class Loaded:
    """A swing ready to be analysed. ``frames`` are the file's own frame numbers."""

    swing: Swing
    clip: dict[str, Any]
    frames: NDArray[np.int64]
    analyse: Callable[[dict[str, float]], Analysis]
    """The analysis with these checkpoints pinned, as indices into the frames."""

    warnings: tuple[str, ...] = ()


def run(asked: argparse.Namespace) -> int:
    """Analyse one input and print or write the result."""
    outputs = Output.of(asked.json, "--json")
    loaded = _load(asked, outputs)
    chosen = school(loaded.swing.school)
    second = school(asked.against) if asked.against else None
    analysis = loaded.analyse(_pinned(loaded, asked))
    if "address" not in analysis.checkpoints:
        why = analysis.warnings[0] if analysis.warnings else "The clip starts after the club has moved away."
        raise PointsError(
            f"{shown(Path(asked.input).name)} cannot be measured. {why} "
            "Where it is a swing, name address, top and impact with --checkpoint NAME=FRAME."
        )
    reading = judge(analysis, chosen)
    against = judge(analysis, second) if second else None
    for output in outputs:
        write_json(_content(loaded, analysis, reading, against), output)
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


def _load(asked: argparse.Namespace, outputs: Sequence[Output]) -> Loaded:
    path = demand_input(asked.input)
    inputs = [path] + ([demand_input(asked.marks)] if asked.marks else [])
    demand_outputs(outputs, inputs)
    if path.name.lower().endswith(".csv"):
        return _load_points(path, asked)
    return _load_clip(path, asked, outputs)


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

    def analysis(pinned: dict[str, float]) -> Analysis:
        setup = Setup(swing.view, swing.hand, swing.mirrored, swing.scale, pinned)
        return analyse(times, from_rows(rows), setup)

    return Loaded(swing, clip, rows.frames, analysis)


def _load_clip(path: Path, asked: argparse.Namespace, outputs: Sequence[Output]) -> Loaded:
    """A video with the document that names it or marks of its own, or a swing file with its clip."""
    from kneel.cli.follow import open_document
    from kneel.evidence import analysed

    document = open_document(path, asked.marks)
    demand_outputs(outputs, document.files)
    document = document.with_(**_settings(asked))
    swing, info = document.swing, document.info
    seen = document.gathered()
    if not (seen.looked.sightings or swing.marks):
        raise PointsError(f"{info.path.name} cannot be measured. {' '.join(seen.notes)}")
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
    first, last = swing.reach(info.frames)

    def analysis(pinned: dict[str, float]) -> Analysis:
        return analysed(swing.given(pinned=pinned), document.stretch, seen)

    return Loaded(swing, clip, np.arange(first, last + 1), analysis, (*info.warnings, *seen.notes))


def _golfer(swing: Swing) -> dict[str, str]:
    return {"view": swing.view.value, "handed": swing.hand.value, "club": swing.club.value}


def _given(swing: Swing, asked: argparse.Namespace) -> Swing:
    """The swing with what the command line says."""
    return swing.given(**_settings(asked))


def _settings(asked: argparse.Namespace) -> dict[str, Any]:
    """What the command line says of the swing."""
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
        settings["capture_rate"] = capture_rate(asked.fps_capture)
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
    return settings


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
    placed = [(name, pinned[name]) for name in CHECKPOINTS if name in pinned]
    for (early, before), (late, after) in pairwise(placed):
        if before >= after:
            raise UsageError(
                f"--checkpoint: {late} is set before {early}, on "
                f"frames {first + after:g} and {first + before:g}; mend one of them."
            )
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
        print(f"Note: {shown(warning)}")
