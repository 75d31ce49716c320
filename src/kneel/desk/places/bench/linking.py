"""Taking two clips for one swing: which may be, whether they are, and letting them go again."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import msgspec
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog

from kneel.book.repository.search_text import same_golfer
from kneel.desk.operations import Lane, Operation
from kneel.desk.places.bench.rack.entries import RackEntry
from kneel.desk.places.bench.rack.rack import Rack
from kneel.desk.places.bench.reading.pane import ReadingPane
from kneel.desk.places.context import Context
from kneel.desk.swing.intake import parted, write_down
from kneel.desk.swing.titles import VIEW_TITLES
from kneel.desk.swing.two_takes import TwoTakes
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.documents.finding import free_document
from kneel.documents.keeper import Keeper
from kneel.documents.swing_file import SUFFIX, load_stamped
from kneel.evidence.kept import KeptSwing, kept_swing, whole_swing
from kneel.model import ClipGoneError, KneelError, Swing, Take, UsageError, View
from kneel.motion.space.linked import Linked, link
from kneel.motion.study import Study

MOST_TRIED = 3
"""So many clips are looked at by themselves."""


@dataclass(frozen=True)
class Partner:
    """Another camera's clip of the swing on the desk: its take, and what both are together."""

    path: Path
    take: Take
    linked: Linked


class Linking(QObject):
    """Links and unlinks the swing on the desk. ``said`` carries a sentence, ``failed`` why it is refused."""

    said = pyqtSignal(str)
    failed = pyqtSignal(str)

    def __init__(self, takes: TwoTakes, rack: Rack, reading: ReadingPane, context: Context) -> None:
        super().__init__(rack)
        self._takes, self._open, self._rack, self._context = takes, takes.first, rack, context
        self._asked = Lane(self, context.jobs, tr("looking at the other camera’s clip"), newest=True)
        self._proposing, self._writing = Lane(self, newest=True), Lane(self)
        self._partner: Path | None = None
        """The partner that is proposed."""

        self._proposed_for: Path | None = None
        self._asking = False
        self._tried: set[tuple[Path, Path]] = set()
        """Swings with partners of which it is known whether they fit."""

        self._parted: set[Path] = set()
        """Swings whose other camera was let go: it is not proposed again."""

        self._stale = False
        self._line = reading.camera
        self._line.clicked.connect(self._take_up)
        takes.failed.connect(self.failed)
        for signal in (takes.changed, self._open.opened, self._open.numbers.renewed):
            signal.connect(self._say)
        rack.arranged.connect(self._propose)
        takes.changed.connect(self._changed)
        self._open.autosave.saved.connect(self._saved)

    # Which clips may be of one swing

    def partners(self) -> list[RackEntry]:
        """Clips of the rack that another camera may have filmed of this swing: the likeliest first."""
        here = next((one for one in self._rack.entries if one.document == self._open.path), None)
        if here is None or self._takes.shown:
            return []
        along = self._open.swing.view is View.DOWN_THE_LINE
        beside, dropped = self._rack.model.beside(self._open.path), self._rack.dropped_with_open()
        found = [
            one
            for one in self._rack.entries
            if one.clip != here.clip
            # Of what was dropped together nobody has said yet from where it was filmed.
            and (one.document in dropped or (one.view is View.DOWN_THE_LINE) != along)
            and (not one.golfer or not here.golfer or same_golfer(one.golfer, here.golfer))
            and (one.day is None or here.day is None or one.day == here.day)
            and one.part_of is None
        ]
        return sorted(
            found,
            key=lambda one: (one.document != beside, one.document not in dropped, one.club is not here.club),
        )

    def choose(self) -> None:
        """Choose the other camera's clip of this swing."""
        if self._open.store is None:
            return
        if self._takes.shown:
            self.said.emit(tr("This swing has two cameras already; unlink them first."))
            return
        choices = [
            Choice(one.stem, lambda path=one.target: self.link(path), tr(VIEW_TITLES[one.view.value]))
            for one in self.partners()
        ]
        choices.append(Choice(tr("Another file …"), self._browse))
        Chooser(self._rack.window(), self._context.look, tr("The other camera’s clip"), choices).open(None)

    def _browse(self) -> None:
        path = self._open.path
        start = str(path.parent) if path is not None else ""
        name, _ = QFileDialog.getOpenFileName(self._rack.window(), tr("The other camera’s clip"), start)
        if name:
            self.link(Path(name))

    # Linking

    def link(self, path: Path) -> None:
        """Take a clip, or a swing file, for another camera's of the swing on the desk, where it is."""
        study, swing = self._open.numbers.settled.own, self._open.swing
        if study is None or self._takes.shown:
            return

        def done(partner: Partner) -> None:
            self._takes.link(partner.take)
            sigma = 1000 * partner.linked.clock.sigma_s
            self.said.emit(
                tr("%s is the other camera of this swing: one clock, ± %.1f ms. Undo takes it back.")
                % (shown(partner.path.name), sigma)
            )

        def failed(error: Exception) -> None:
            known = isinstance(error, KneelError | OSError)
            reason = str(error) if known else tr("%s cannot be read.") % shown(path.name)
            self.failed.emit(tr("Not linked: %s") % reason)
            # It may have been parted into its swings for that.
            self._rack.refresh()

        self._asked.start(
            Operation(
                work=lambda task: _partner(path, study, swing, task.stopped),
                subject=lambda: self._open.path,
                done=done,
                failed=failed,
            )
        )

    def unlink(self) -> None:
        """Let the other camera go; what was marked on its clip goes into its own document."""
        known = self._takes.second_clip
        take = self._takes.unlink()
        if take is None or take.clip is None:
            self.said.emit(tr("This swing has one camera."))
            return
        clip, golfer = known or Path(take.clip.path), self._open.swing.golfer
        if self._open.path is not None:
            self._parted.add(self._open.path)
        self._writing.start(
            Operation(
                work=lambda _: _given_back(clip, take, golfer),
                done=lambda _: self._rack.refresh(),
                failed=lambda error: self.failed.emit(str(error)),
            )
        )
        self.said.emit(tr("%s is a swing of its own again.") % shown(clip.name))

    def _changed(self) -> None:
        """Which clips are of one swing the rack reads off the documents, once they say so."""
        self._stale = True

    def _saved(self) -> None:
        if self._stale:
            self._stale = False
            self._rack.refresh()

    # Proposing

    def _propose(self) -> None:
        """See beside the desk whether a likely partner fits; each is tried once what it shows is known."""
        path, study, swing = self._open.path, self._open.numbers.settled.own, self._open.swing
        if path is None or study is None or self._takes.shown or self._asking or path in self._parted:
            return
        if self._open.gathering.busy or not {"address", "top", "impact"} <= {*study.checkpoints}:
            return
        every = [one.document for one in self.partners() if one.marked]
        likely = next((one for one in every[:MOST_TRIED] if (path, one) not in self._tried), None)
        if likely is None:
            return
        self._asking = True

        def done(found: Partner | str | None) -> None:
            if found is not None:
                self._tried.add((path, likely))
            if isinstance(found, Partner) and not self._takes.shown and self._partner is None:
                name, sigma = shown(likely.name.removesuffix(SUFFIX)), 1000 * found.linked.clock.sigma_s
                why = tr("The hands go together within %.0f ms") % max(2 * sigma, 1.0)
                self._partner = likely
                self._line.show_words(tr("Another camera saw it too: %s.") % name, tr("Link"), why)

        def ended() -> None:
            self._asking = False

        self._proposing.start(
            Operation(
                work=lambda _: _known_partner(likely, study, swing),
                subject=lambda: (self._open.path, self._takes.shown),
                done=done,
                ended=ended,
            )
        )

    def _say(self) -> None:
        """Say why two are not told together, or nothing; a proposal stands until the swing is another."""
        if self._takes.apart:
            self._line.show_words(tr("Told by one camera alone. %s") % self._takes.apart, tr("Unlink"))
        elif self._takes.shown or self._open.path != self._proposed_for:
            self._partner = None
            self._line.show_words("")
        self._proposed_for = self._open.path

    def _take_up(self) -> None:
        if self._takes.shown:
            self.unlink()
        elif self._partner is not None:
            self.link(self._partner)


def _partner(path: Path, study: Study, swing: Swing, stopped: Callable[[], bool]) -> Partner:
    """Whatever a clip lacks is looked for; of several swings in it that one is taken which fits. Raises
    :class:`UsageError` with the reason where none does.
    """
    documents = [path] if path.name.endswith(SUFFIX) else write_down([path])
    if not documents:
        raise UsageError(tr("%s is no clip that can be read.") % shown(path.name))
    if len(documents) == 1:
        documents = parted(documents[0], stopped)
    why: UsageError | None = None
    for document in documents:
        known = whole_swing(document, stopped)
        try:
            if known is not None:
                return _as_partner(document, known, study, swing)
        except UsageError as error:
            why = why or error
    if why is None:
        raise UsageError(
            tr("nothing is known of %s yet. Open it, have its joints looked for, and link it then.")
            % shown(path.name)
        )
    if len(documents) > 1:
        raise UsageError(tr("none of the %d swings in it is this one: %s") % (len(documents), why))
    raise why


def _known_partner(document: Path, study: Study, swing: Swing) -> Partner | str | None:
    """A partner, the reason why it is none, or None where nothing is known of it yet."""
    try:
        known = kept_swing(document)
        if known is None or not known.whole:
            return None
        return _as_partner(document, known, study, swing)
    except KneelError as error:
        return str(error)


def _as_partner(document: Path, known: KeptSwing, study: Study, swing: Swing) -> Partner:
    golfers = known.swing.golfer, swing.golfer
    if all(golfers) and not same_golfer(*golfers):
        raise UsageError(tr("The two clips are of two golfers: %s and %s.") % tuple(map(shown, golfers)))
    if len(known.swing.takes) > 1:
        raise UsageError(tr("%s has another camera already.") % shown(document.name))
    linked = link(study, known.study)
    return Partner(document, known.swing.take, linked)


def _given_back(clip: Path, take: Take, golfer: str) -> Path:
    """Put what was marked on a clip into its own document, and into another one beside it where that has
    marks which nobody saw here. Raises ``ClipGoneError`` or ``SwingFileError``.
    """
    written = write_down([clip], golfer)
    if not written:
        raise ClipGoneError(tr("%s is gone; undo keeps its marks with this swing.") % shown(clip.name), clip)
    for document in written:
        swing, stamp = load_stamped(document)
        if swing.take.start == take.start:
            break
    else:
        # Of the swings of this clip it is none yet.
        document, stamp = free_document(clip, len(written) + 1), None
        swing = msgspec.structs.replace(swing, id=uuid.uuid4().hex, overrides=(), golfer=golfer)
    still = tuple(name for name in swing.guessed if name != "view")
    whole = msgspec.structs.replace(swing, takes=(take.with_(clip=swing.clip),), guessed=still)
    keeper = Keeper(document, stamp)
    marked = {(mark.point, mark.frame) for mark in take.marks}
    if stamp is not None and any((mark.point, mark.frame) not in marked for mark in swing.take.marks):
        keeper = keeper.beside(whole)
        keeper.release()
    else:
        keeper.save(whole)
    return keeper.path
