"""``kneel track``: the joints of a clip through all its frames, as a points file."""

from __future__ import annotations

import argparse
import re
import sys
from typing import Any

from kneel.cli.follow import open_document
from kneel.cli.outputs import Output, demand_input, demand_outputs
from kneel.cli.parts import capture_rate
from kneel.disk import shown
from kneel.evidence import analysed
from kneel.model import Near, PointsError, Swing, UsageError, View
from kneel.motion.quality import Grade
from kneel.vision import Source

_HOW = {Grade.GOOD: "well", Grade.FAIR: "fairly", Grade.POOR: "poorly"}


def run(asked: argparse.Namespace) -> int:
    """Find and follow, solve, and write every point of every frame with its error."""
    from kneel.documents.coco import SUFFIX as COCO
    from kneel.documents.coco import write_coco
    from kneel.documents.points_csv import write_points

    sources = _sources(asked.sources)
    path, out = demand_input(asked.clip), Output(asked.out, "--out")
    demand_outputs([out], [path] + ([demand_input(asked.marks)] if asked.marks else []))
    document = open_document(path, asked.marks, Swing().school).with_(**_settings(asked, sources))
    demand_outputs([out], document.files)
    info, stretch = document.info, document.stretch
    first, last = document.swing.reach(info.frames)
    stored = info.times_s[first : last + 1]
    seen = document.gathered(sources)
    analysis = analysed(document.swing, stretch, seen)
    tracks = analysis.tracks
    if not tracks:
        why = " ".join(seen.notes) or "Give marks with --marks POINTS.csv, or the source body."
        raise PointsError(f"No point of {info.path.name} can be followed. {why}")
    rows = [
        (first + k, time, name, float(track.xy[k, 0]), float(track.xy[k, 1]), float(track.sigma[k]))
        for k, time in enumerate(stored.tolist())
        for name, track in tracks.items()
        # A ball that has left must not be there: its last row is impact.
        if not analysis.gone(name, k)
    ]
    with out.writing() as target:
        if out.text.lower().endswith(COCO):
            size = info.upright
            write_coco(target, rows, clip=info.path.name, width=size.width, height=size.height)
        else:
            write_points(target, rows)
    for note in (*info.warnings, *document.rate_notes, *seen.notes, *analysis.spoilt()):
        print(f"Note: {shown(note)}", file=sys.stderr)
    said = [f"{len(tracks)} points over {len(stretch)} frames."]
    for grade, how in _HOW.items():
        names = [name for name, quality in analysis.quality.items() if quality.grade is grade]
        said += [f"Followed {how}: {', '.join(names)}."] if names else []
    print(" ".join(said), file=sys.stderr)
    return 0


def _settings(asked: argparse.Namespace, sources: frozenset[Source]) -> dict[str, Any]:
    """What the command line says of the swing."""
    # Tracking is looking, whatever the document says, unless other sources are asked for.
    settings: dict[str, Any] = {"looked": Source.BODY in sources}
    if asked.fps_capture is not None:
        settings["capture_rate"] = capture_rate(asked.fps_capture)
    if asked.view:
        settings["view"] = View(asked.view)
    if asked.near is not None:
        settings["near"] = _near(asked.near)
    return settings


def _sources(text: str) -> frozenset[Source]:
    asked = {part.strip() for part in text.split(",") if part.strip()}
    unknown = asked - set(Source)
    if unknown or not asked:
        raise UsageError(
            f"--sources takes {', '.join(Source)}, not {', '.join(sorted(unknown)) or 'nothing'}."
        )
    return frozenset(Source(name) for name in asked)


def _near(text: str) -> Near:
    match = re.fullmatch(r"(\d+(?:\.\d+)?),(\d+(?:\.\d+)?)", text)
    if not match:
        raise UsageError(f"--near takes X,Y in pixels, not {shown(text)}.")
    try:
        return Near(float(match[1]), float(match[2]))
    except ValueError as error:
        raise UsageError(f"--near {text} cannot be: {error}.") from error
