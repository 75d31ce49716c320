"""What ``analyze`` and its kin work on: points or a clip, loaded and analysed."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from kneel.cli.outputs import Output, demand_input, demand_outputs
from kneel.cli.parts import named_numbers
from kneel.cli.settings import own_checkpoints, own_rules, settings_of
from kneel.disk import shown
from kneel.model import (
    CHECKPOINTS,
    OwnCheckpoint,
    PointsError,
    Swing,
    UsageError,
    out_of_order,
)
from kneel.motion.analysis import analyse
from kneel.motion.checkpoints import HELD
from kneel.motion.clock import pace_of, real_times
from kneel.motion.plate import Plate
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.motion.study import Study
from kneel.motion.viewed import seen_in_the_picture

if TYPE_CHECKING:
    from kneel.evidence.stretch import Stretch

FROM_THE_FEET = "Taken as filmed down the line, for the feet stand behind each other: else say --view."


COCO = ".coco.json"
"""Points as COCO keypoints have this ending."""


@dataclass(frozen=True)
class Loaded:
    """A swing ready to be analysed. ``frames`` are the file's own frame numbers."""

    swing: Swing
    clip: dict[str, Any]
    frames: NDArray[np.int64]
    analyse: Callable[[dict[str, float]], Study]
    """The analysis with these checkpoints pinned, as indices into the frames."""

    warnings: tuple[str, ...] = ()
    stretch: Stretch | None = None
    """The frames it is of, where it has pictures."""

    rate: str = ""
    """What its file says of the rate, where nobody else has; to be followed by another sentence."""


def analysed_as(loaded: Loaded, asked: argparse.Namespace) -> Study:
    """The numbers of what was loaded. Raises ``PointsError`` where nothing can be measured."""
    analysis = loaded.analyse(_pinned(loaded, asked))
    if not {"address", HELD, asked.pose} & set(analysis.checkpoints):
        why = analysis.warnings[0] if analysis.warnings else "The clip starts after the club has moved away."
        raise PointsError(
            f"{shown(Path(asked.input).name)} cannot be measured. {why} {loaded.rate}"
            "Where it is a swing, name address, top and impact with --checkpoint NAME=FRAME."
        )
    return analysis


def load(asked: argparse.Namespace, outputs: Sequence[Output]) -> Loaded:
    path = demand_input(asked.input)
    inputs = [path] + [demand_input(name) for name in (asked.marks, asked.plate) if name]
    demand_outputs(outputs, inputs)
    if path.name.lower().endswith((".csv", COCO)):
        return _load_points(path, asked)
    return _load_clip(path, asked, outputs)


def _load_points(path: Path, asked: argparse.Namespace) -> Loaded:
    from kneel.documents.coco import read_coco
    from kneel.documents.points_csv import read_points

    if asked.marks:
        raise UsageError("--marks goes with a video; this is a points file already.")
    rows = read_coco(path, asked.fps_capture) if path.name.lower().endswith(COCO) else read_points(path)
    stored = 1 / float(np.median(np.diff(rows.times_s))) if len(rows) > 1 else 0.0
    said, plate = Swing(guessed=("view", "capture_rate")).given(**settings_of(asked)), _plate(asked)
    swing = seen_in_the_picture(said, rows.xy)
    notes = () if swing is said else (FROM_THE_FEET,)
    own = own_checkpoints(asked, int(rows.frames[0]), int(rows.frames[-1]))
    times = real_times(rows.times_s, swing.capture_rate, pace_of(rows.times_s))
    clip = {
        "source": path.name,
        "kind": "points",
        "frames": len(rows),
        "rate_stored": round(stored, 3),
        **_golfer(swing),
    }

    def analysis(pinned: dict[str, float]) -> Study:
        index = np.arange(len(rows))
        setup = Setup.of(
            swing,
            pinned=pinned,
            kind=swing.kind if asked.kind or asked.pose else None,
            own={name: float(np.interp(frame, rows.frames, index)) for name, frame in own.items()},
            rules=own_rules(asked),
            plate=plate,
        )
        return analyse(times, from_rows(rows), setup)

    return Loaded(swing, clip, rows.frames, analysis, notes)


def _load_clip(path: Path, asked: argparse.Namespace, outputs: Sequence[Output]) -> Loaded:
    """A video with the document that names it or marks of its own, or a swing file with its clip."""
    from kneel.cli.follow import open_document
    from kneel.evidence import analysed, supposed

    document = open_document(path, asked.marks, asked.standard or "")
    demand_outputs(outputs, document.files)
    document = document.with_(**settings_of(asked))
    if not (asked.pose or asked.checkpoint or asked.own):
        document = document.parted()
    swing, info = document.swing, document.info
    seen = document.gathered()
    if not (seen.looked.sightings or swing.marks):
        raise PointsError(f"{info.path.name} cannot be measured. {' '.join(seen.notes)}")
    said, swing = swing, supposed(swing, seen.looked)
    taken = () if swing is said else (FROM_THE_FEET,)
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
    plate = _plate(asked)
    own = tuple(
        OwnCheckpoint(name, name, frame=frame) for name, frame in own_checkpoints(asked, first, last).items()
    ) + tuple(OwnCheckpoint(name, name, rule) for name, rule in own_rules(asked).items())
    swing = swing.given(checkpoints=(*swing.checkpoints, *own), guessed=swing.guessed)

    def analysis(pinned: dict[str, float]) -> Study:
        return analysed(swing.given(pinned=pinned), document.stretch, seen, plate)

    filmed = document.rate_notes
    notes = (*document.notes, *info.warnings, *filmed, *seen.notes, *taken)
    rate = "".join(f"{note} Where that is wrong, give the true rate with --fps-capture. " for note in filmed)
    return Loaded(swing, clip, np.arange(first, last + 1), analysis, notes, document.stretch, rate)


def _golfer(swing: Swing) -> dict[str, str]:
    return {"view": swing.view.value, "handed": swing.hand.value, "club": swing.club.value}


def _plate(asked: argparse.Namespace) -> Plate | None:
    from kneel.documents.plate_csv import read_plate

    return read_plate(Path(asked.plate)) if asked.plate else None


def _pinned(loaded: Loaded, asked: argparse.Namespace) -> dict[str, float]:
    """Checkpoints set by hand, as indices into the frames at hand."""
    pinned = dict(loaded.swing.pinned)
    first, last = int(loaded.frames[0]), int(loaded.frames[-1])
    if asked.pose:
        pinned[asked.pose] = float((len(loaded.frames) - 1) // 2)
    for name, frame in named_numbers(asked.checkpoint, "--checkpoint", "NAME=FRAME").items():
        if name not in CHECKPOINTS:
            raise UsageError(f"There is no checkpoint “{name}”; known are {', '.join(CHECKPOINTS)}.")
        if not first <= frame <= last:
            raise UsageError(f"--checkpoint {name}={frame:g} lies outside frames {first} to {last}.")
        pinned[name] = float(np.interp(frame, loaded.frames, np.arange(len(loaded.frames))))
    clash = out_of_order(pinned)
    if clash is not None:
        early, late = clash
        raise UsageError(
            f"--checkpoint: {late} is set before {early}, on "
            f"frames {first + pinned[late]:g} and {first + pinned[early]:g}; mend one of them."
        )
    return pinned
