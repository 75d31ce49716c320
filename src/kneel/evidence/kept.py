"""A swing from what is kept of it alone: its document and the evidence on the shelf, without a look at a
frame.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from kneel.documents.finding import clip_of
from kneel.documents.swing_file import load_swing
from kneel.evidence.gather import Evidence, analysed, known_evidence, supposed
from kneel.evidence.shelf import Shelf
from kneel.evidence.stretch import Stretch
from kneel.evidence.strikes import hear
from kneel.footage import Clip
from kneel.footage.content import content_of
from kneel.footage.hearing import in_real_time
from kneel.model import Swing
from kneel.motion.study import Study
from kneel.vision import Looked


@dataclass(frozen=True)
class KeptSwing:
    """A document's swing, its numbers, and the frames they are of."""

    swing: Swing
    study: Study
    stretch: Stretch


def kept_swing(document: Path, shelf: Shelf | None = None) -> KeptSwing | None:
    """A document's swing with its numbers; None where its joints were not looked for yet and nobody marked
    them.

    ``shelf`` is where it is looked for; afterwards it knows which pieces were used. Raises
    ``SwingFileError`` or ``FootageError`` where the document or its clip cannot be read.
    """
    swing = load_swing(document)
    path = clip_of(swing, document)
    if path is None:
        return None
    with Clip(path) as clip:
        info, start_s = clip.info, clip.start_s
    shelf, content = shelf or Shelf(path), content_of(path)
    stretch = Stretch.of(swing, info, content)
    looked, followed = known_evidence(swing, stretch, shelf)
    if looked is None and not swing.marks:
        return None
    counted = looked if looked is not None and swing.looked else Looked()
    swing = supposed(swing, counted)
    heard = in_real_time(hear(info, start_s, content, shelf), info, swing.capture_rate)
    return KeptSwing(swing, analysed(swing, stretch, Evidence(counted, followed, heard)), stretch)
