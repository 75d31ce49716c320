"""A swing from what is kept of it: its document and the evidence on the shelf, without a look at a frame; or
with what is lacking gathered.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from kneel.documents.finding import clip_of
from kneel.documents.swing_file import load_swing
from kneel.evidence.gather import Evidence, analysed, gather, known_evidence, supposed
from kneel.evidence.marks import all_kept
from kneel.evidence.shelf import Shelf
from kneel.evidence.stretch import Stretch
from kneel.evidence.strikes import hear
from kneel.footage import Clip
from kneel.footage.content import content_of
from kneel.footage.hearing import in_real_time
from kneel.model import Swing
from kneel.motion.checkpoints import Moment
from kneel.motion.study import Study
from kneel.vision import Looked, installed


@dataclass(frozen=True)
class KeptSwing:
    """A document's swing, its numbers, and the frames they are of; ``whole`` where no evidence is lacking."""

    swing: Swing
    study: Study
    stretch: Stretch
    whole: bool = True


def kept_swing(document: Path, shelf: Shelf | None = None) -> KeptSwing | None:
    """A document's swing with its numbers; None where its joints were not looked for yet and nobody marked
    them.

    ``shelf`` is where it is looked for; afterwards it knows which pieces were used. Raises
    ``SwingFileError`` or ``FootageError`` where the document or its clip cannot be read.
    """
    found = _found(document, shelf)
    if found is None:
        return None
    swing, stretch, shelf, _ = found
    looked, followed = known_evidence(swing, stretch, shelf)
    if looked is None and not swing.marks:
        return None
    unseen = swing.looked and looked is None and installed()
    whole = not unseen and all_kept(stretch, swing.marks, shelf, steady=not swing.looked)
    counted = looked if looked is not None and swing.looked else Looked()
    return _told(found, Evidence(counted, followed), whole)


def whole_swing(document: Path, stopped: Callable[[], bool] = lambda: False) -> KeptSwing | None:
    """The same with whatever is lacking looked for and followed, which takes its time; None where there is
    nothing to look for or to follow, or once ``stopped`` says yes.

    Raises as :func:`kept_swing` does, and ``BodyModelError``.
    """
    known = kept_swing(document)
    if known is not None and known.whole:
        return known
    found = _found(document, None)
    if found is None or not (found[0].looked or found[0].marks):
        return None
    evidence = gather(found[0], found[1], shelf=found[2], stopped=stopped)
    return None if stopped() else _told(found, evidence, True)


_Found = tuple[Swing, Stretch, Shelf, tuple[Moment, ...]]


def _found(document: Path, shelf: Shelf | None) -> _Found | None:
    """The document's swing, its frames, and the shelf for them; None where its clip is not found."""
    swing = load_swing(document)
    path = clip_of(swing, document)
    if path is None:
        return None
    with Clip(path) as clip:
        info, start_s = clip.info, clip.start_s
    shelf, content = shelf or Shelf(path), content_of(path)
    stretch = Stretch.of(swing, info, content)
    heard = in_real_time(hear(info, start_s, content, shelf), info, swing.capture_rate)
    return swing, stretch, shelf, heard


def _told(found: _Found, evidence: Evidence, whole: bool) -> KeptSwing:
    swing, stretch, _, heard = found
    swing = supposed(swing, evidence.looked)
    study = analysed(swing, stretch, Evidence(evidence.looked, evidence.followed, heard))
    return KeptSwing(swing, study, stretch, whole)
