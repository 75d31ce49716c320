"""``kneel track``: the joints of a clip through all its frames, as a points file."""

from __future__ import annotations

import argparse
import re
import sys
from pathlib import Path

import msgspec

from kneel.cli.follow import open_document
from kneel.model import Near, PointsError, UsageError, View
from kneel.motion.analysis import Setup, analyse
from kneel.motion.quality import Grade
from kneel.motion.sightings import from_marks
from kneel.vision import Source

_HOW = {Grade.GOOD: "well", Grade.FAIR: "fairly", Grade.POOR: "poorly"}


def run(asked: argparse.Namespace) -> int:
    """Find and follow, solve, and write every point of every frame with its error."""
    from kneel.book.points_csv import write_points

    sources = _sources(asked.sources)
    document = open_document(Path(asked.clip), asked.marks)
    info, swing = document.info, document.swing
    if asked.fps_capture is not None:
        swing = msgspec.structs.replace(swing, capture_rate=asked.fps_capture)
    first, last = swing.reach(info.frames)
    stored = info.times_s[first : last + 1]
    times = info.real_s(swing.capture_rate)[first : last + 1]
    view = View(asked.view) if asked.view else None
    seen = document.seen(times, sources, _near(asked.near), view)
    points = from_marks(swing.marks, len(times), seen.links, height_px=info.height, sightings=seen.sightings)
    if not points:
        why = " ".join(seen.warnings) or "Give marks with --marks POINTS.csv, or the source body."
        raise PointsError(f"No point of {info.path.name} can be followed. {why}")
    setup = Setup(view or swing.view, swing.hand, width_px=info.width, height_px=info.height)
    analysis = analyse(times, points, setup, seen.camera)
    tracks = analysis.tracks
    rows = [
        (first + k, time, name, float(track.xy[k, 0]), float(track.xy[k, 1]), float(track.sigma[k]))
        for k, time in enumerate(stored.tolist())
        for name, track in tracks.items()
        # A ball that has left must not be there: its last row is impact.
        if not analysis.gone(name, k)
    ]
    write_points(asked.out, rows)
    for note in (*info.warnings, *seen.warnings, *analysis.spoilt()):
        print(f"Note: {note}", file=sys.stderr)
    said = [f"{len(tracks)} points over {len(times)} frames."]
    for grade, how in _HOW.items():
        names = [name for name, quality in analysis.quality.items() if quality.grade is grade]
        said += [f"Followed {how}: {', '.join(names)}."] if names else []
    print(" ".join(said), file=sys.stderr)
    return 0


def _sources(text: str) -> frozenset[Source]:
    asked = {part.strip() for part in text.split(",") if part.strip()}
    unknown = asked - set(Source)
    if unknown or not asked:
        raise UsageError(
            f"--sources takes {', '.join(Source)}, not {', '.join(sorted(unknown)) or 'nothing'}."
        )
    return frozenset(Source(name) for name in asked)


def _near(text: str | None) -> Near | None:
    if text is None:
        return None
    match = re.fullmatch(r"(\d+(?:\.\d+)?),(\d+(?:\.\d+)?)", text)
    if not match:
        raise UsageError(f"--near takes X,Y in pixels, not {text}.")
    return Near(float(match[1]), float(match[2]))
