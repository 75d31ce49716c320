"""What the demo's clips carry along: their marks followed, so that each opens with its verdict."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from kneel.documents.swing_file import SUFFIX, load_swing
from kneel.evidence import Shelf, Stretch, gather, hear, sidecar
from kneel.footage import Clip
from kneel.footage.content import content_of
from kneel.model import Swing


def follow_lessons(folder: Path) -> None:
    """Gather the evidence of every document in the folders of ``folder``, and write it beside the clips."""
    for document in sorted(folder.glob(f"*/*{SUFFIX}")):
        swing = load_swing(document)
        if swing.clip is not None:
            clip = Path(swing.clip.path)
            sidecar(clip).unlink(missing_ok=True)
            with tempfile.TemporaryDirectory() as kept:
                written = follow(swing, clip, Shelf(folder=Path(kept)))
            print(
                f"followed {clip.parent.name}/{clip.name}, {written.stat().st_size // 1024} kB",
                file=sys.stderr,
            )


def follow(swing: Swing, clip: Path, shelf: Shelf) -> Path:
    """Gather the evidence of one swing and write it beside its clip; gives where."""
    content = content_of(clip)
    with Clip(clip) as opened:
        info, start = opened.info, opened.start_s
    gather(swing, Stretch.of(swing, info, content), shelf=shelf)
    hear(info, start, content, shelf)
    return shelf.carry(clip, content)
