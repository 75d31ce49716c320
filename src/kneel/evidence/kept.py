"""A swing from what is kept of it: its document and the evidence on the shelf, without a look at a frame; or
with what is lacking gathered.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
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
from kneel.model import FootageError, Swing, UsageError, View
from kneel.model.two_takes import second_take, turned
from kneel.motion.checkpoints import Moment
from kneel.motion.measures import REGISTRY
from kneel.motion.space.linked import Linked, link, told_by_two
from kneel.motion.study import Study
from kneel.vision import Looked, installed


@dataclass(frozen=True)
class KeptSwing:
    """A document's swing, its numbers, and the frames they are of; ``whole`` where no evidence is lacking.

    Of a swing by two cameras ``study`` has what both tell together, ``second`` is the swing as the second
    camera saw it, and ``linked`` is the body in space; ``apart`` says why that cannot be told.
    """

    swing: Swing
    study: Study
    stretch: Stretch
    whole: bool = True
    second: KeptSwing | None = None
    linked: Linked | None = None
    apart: str = ""

    @property
    def studies(self) -> tuple[Study, ...]:
        """What is judged: one camera's numbers, or those of both."""
        if self.linked is None or self.second is None:
            return (self.study,)
        return self.study, self.second.study

    def seen_from(self, view: View) -> KeptSwing:
        """The swing as its camera of a view saw it, the first where none or both are of it."""
        other = self.second
        if other is None or self.linked is None or self.study.setup.view is view:
            return self
        return other if other.study.setup.view is view else self

    def showing(self, measure: str | None) -> KeptSwing:
        """The swing as that camera saw it which shows a measure, the first where both or neither does."""
        other = self.second
        if other is None or self.linked is None or measure is None:
            return self
        shown = [one.study.setup.view in REGISTRY[measure].views for one in (self, other)]
        return other if shown == [False, True] else self


def kept_swing(document: Path, shelf: Shelf | None = None, second: Shelf | None = None) -> KeptSwing | None:
    """A document's swing with its numbers; None where its joints were not looked for yet and nobody marked
    them.

    ``shelf`` is where it is looked for, ``second`` where for the second camera's clip; afterwards they know
    which pieces were used. Raises ``SwingFileError`` or ``FootageError`` where the document or its clip
    cannot be read.
    """
    swing = load_swing(document)
    known = _kept(swing, document, shelf)
    if known is None or second_take(swing) is None:
        return known
    try:
        return by_both(known, _kept(turned(swing), document, second))
    except FootageError:
        return by_both(known, None)


def whole_swing(document: Path, stopped: Callable[[], bool] = lambda: False) -> KeptSwing | None:
    """The same with whatever is lacking looked for and followed, which takes its time; None where there is
    nothing to look for or to follow, or once ``stopped`` says yes.

    Raises as :func:`kept_swing` does, and ``BodyModelError``.
    """
    swing = load_swing(document)
    known = _whole(swing, document, stopped)
    if known is None or second_take(swing) is None:
        return known
    return by_both(known, second_of(swing, document, stopped))


def second_of(swing: Swing, document: Path, stopped: Callable[[], bool] = lambda: False) -> KeptSwing | None:
    """A swing as its second camera alone tells it, with whatever is lacking looked for; ``document`` lies in
    the folder where its clip is looked for. None where that is not found. Raises ``BodyModelError``.
    """
    try:
        return _whole(turned(swing), document, stopped)
    except FootageError:
        return None


def by_both(known: KeptSwing, second: KeptSwing | None) -> KeptSwing:
    """A swing by its first camera, with what the second one and both together tell."""
    if second is None:
        return replace(known, whole=False)
    try:
        linked = link(known.study, second.study, agreed=True)
    except UsageError as error:
        return replace(known, second=second, apart=str(error))
    study, other = (told_by_two(one.study, linked) for one in (known, second))
    whole = known.whole and second.whole
    return replace(known, study=study, whole=whole, second=replace(second, study=other), linked=linked)


def _kept(swing: Swing, document: Path, shelf: Shelf | None) -> KeptSwing | None:
    found = _found(swing, document, shelf)
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


def _whole(swing: Swing, document: Path, stopped: Callable[[], bool]) -> KeptSwing | None:
    known = _kept(swing, document, None)
    if known is not None and known.whole:
        return known
    found = _found(swing, document, None)
    if found is None or not (found[0].looked or found[0].marks):
        return None
    evidence = gather(found[0], found[1], shelf=found[2], stopped=stopped)
    return None if stopped() else _told(found, evidence, True)


_Found = tuple[Swing, Stretch, Shelf, tuple[Moment, ...]]


def _found(swing: Swing, document: Path, shelf: Shelf | None) -> _Found | None:
    """The document's swing, its frames, and the shelf for them; None where its clip is not found."""
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
