"""Cutting a clip into its swings by hand, beside the automatic cut: where a swing begins, ends, is two."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from pathlib import Path

import msgspec
from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtWidgets import QWidget

from kneel.desk.operations import Lane, Operation
from kneel.desk.places.bench.rack.rack import Rack
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.documents.finding import free_document
from kneel.documents.keeper import Keeper
from kneel.documents.swing_file import disk_stamp
from kneel.evidence.swings import LONG_S, worth_parting
from kneel.model import Swing

SHORTEST = 8
"""A swing has at least so many frames."""


@dataclass(frozen=True)
class _Cut:
    """What was cut last: of which document, what it was called, its span before, and what was split off."""

    document: Path
    label: str
    before: tuple[int, int] | None
    second: tuple[Path, str | None] | None = None
    """With the stamp it was written in: it goes with an undo only as long as nobody has changed it."""

    words: str = ""
    """What is said of it once it is open anew."""


class Cutting(QObject):
    """Trims and splits at the cursor. Other frames are another swing: it is saved and opened anew.

    ``said`` carries a sentence; what was cut last can be taken back as long as nothing else was done since.
    """

    said = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, rack: Rack, parent: QWidget) -> None:
        super().__init__(parent)
        self._open, self._rack = opened, rack
        self._writers = Lane(self)
        self._last: _Cut | None = None
        self._next: tuple[_Cut, int] | None = None
        opened.autosave.saved.connect(self._saved)
        opened.autosave.troubled.connect(self._not_saved)
        opened.opened.connect(self._opened)

    # What is cut

    def begin_here(self) -> None:
        """The swing begins on the frame on show."""
        reach = self._reach()
        if reach is not None:
            self._cut(tr("Begin the swing here"), (reach[0] + self._open.cursor.frame, reach[1]))

    def end_here(self) -> None:
        """The swing ends on the frame on show."""
        reach = self._reach()
        if reach is not None:
            self._cut(tr("End the swing here"), (reach[0], reach[0] + self._open.cursor.frame))

    def whole(self) -> None:
        """The swing is the whole clip again."""
        store, span = self._open.store, self._open.swing.span
        if store is not None and span is not None and span != (0, store.info.frames - 1):
            self._take(tr("Take the whole clip"), self._all())
        else:
            self.said.emit(tr("This swing is the whole clip already."))

    def narrow(self, span: tuple[int, int], others: int) -> None:
        """The first swing seen in a long clip: its frames are the swing, unless somebody works on it; there
        are so many ``others``, with documents of their own.
        """
        if others:
            self._rack.refresh()
        swing, store = self._open.swing, self._open.store
        if store is None or not worth_parting(swing, float(self._open.times_s[-1])):
            self._open.gathering.release()
            return
        begins, ends = self._open.times_s[list(span)].tolist()
        words = tr("The swing lies between %.1f and %.1f s; Swing ▸ The whole clip again shows all of it.")
        words %= (begins, ends)
        if others:
            words = tr("This clip shows %d swings; all are on the rack.") % (others + 1)
        self._take(tr("Take the swing's part of the clip"), span, words=words)

    def split_here(self) -> None:
        """What lies from the frame on show on is a swing of its own, with a document of its own."""
        reach, store = self._reach(), self._open.store
        if reach is None or store is None:
            return
        cut = reach[0] + self._open.cursor.frame
        if not (_long(reach[0], cut - 1) and _long(cut, reach[1])):
            self.said.emit(tr("Both swings would have to be longer: go to a frame between them."))
            return
        second = within(self._open.document.now, (cut, reach[1]))
        clip, mine = store.info.path, self._open.path

        def work(_: object) -> tuple[Path, str | None]:
            path = next(one for number in range(2, 1000) if (one := free_document(clip, number)) != mine)
            keeper = Keeper(path, None)
            keeper.save(second)
            return path, keeper.stamp

        def done(made: tuple[Path, str | None]) -> None:
            self._take(tr("Split the clip here"), (reach[0], cut - 1), made)
            self.said.emit(tr("The second swing is %s, on the rack.") % shown(made[0].name))

        self._writers.start(
            Operation(
                subject=lambda: self._open.path,
                work=work,
                done=done,
                failed=lambda error: self._open.failed.emit(str(error)),
            )
        )

    # Taking it back

    @property
    def label(self) -> str | None:
        """What would be taken back; None where nothing was cut, or something was done since."""
        last = self._last
        here = last is not None and last.document == self._open.path
        return (
            last.label
            if last is not None and here and self._open.document.history.undo_label is None
            else None
        )

    def undo(self) -> None:
        """Give the swing the frames it had; what was split off goes where it was not changed since."""
        last, self._last = self._last, None
        if last is None:
            return
        second = last.second

        def gone(_: object) -> None:
            if second is not None and disk_stamp(second[0]) == second[1]:
                second[0].unlink()

        self._writers.start(Operation(work=gone, done=lambda _: self._rack.refresh()))
        self._take("", last.before)

    # How

    def _reach(self) -> tuple[int, int] | None:
        store = self._open.store
        return None if store is None else self._open.swing.reach(store.info.frames)

    def _all(self) -> tuple[int, int] | None:
        """The whole clip, said in so many frames where a swing would be looked for in it again."""
        store = self._open.store
        if store is None or float(store.info.real_s(self._open.swing.capture_rate)[-1]) <= LONG_S:
            return None
        return 0, store.info.frames - 1

    def _cut(self, label: str, span: tuple[int, int]) -> None:
        if _long(*span):
            self._take(label, span)
        else:
            self.said.emit(tr("So few frames are no swing: go farther, and cut there."))

    def _take(
        self,
        label: str,
        span: tuple[int, int] | None,
        second: tuple[Path, str | None] | None = None,
        words: str = "",
    ) -> None:
        """Save the swing with other frames, and open it anew once that is on the disk."""
        path, now = self._open.path, self._open.document.now
        if path is None:
            return
        before = now.span or self._all()
        self._next = _Cut(path, label, before, second, words), self._open.first + self._open.cursor.frame
        autosave = self._open.autosave
        autosave.touch(self._open.document.kept(now.given(span=span, guessed=now.guessed)))
        autosave.save()

    def _saved(self) -> None:
        if self._next is not None and self._next[0].document == self._open.path:
            self._rack.wanted.emit(self._open.path)

    def _not_saved(self, trouble: str) -> None:
        """It stays as it was, and is looked at so."""
        if trouble and self._next is not None:
            self._next = None
            self._open.gathering.release()

    def _opened(self) -> None:
        """It is open with its other frames: the picture stands where it stood, if that belongs to them."""
        if self._next is None or self._next[0].document != self._open.path:
            self._next = None
            return
        (cut, frame), self._next = self._next, None
        self._last = cut if cut.label else None
        if 0 <= frame - self._open.first < self._open.frames:
            self._open.cursor.go(frame - self._open.first)
        self._rack.refresh()
        if cut.words:
            # After whatever the opening itself has to say.
            QTimer.singleShot(0, lambda: self.said.emit(cut.words))


def _long(first: int, last: int) -> bool:
    return last - first + 1 >= SHORTEST


def within(swing: Swing, span: tuple[int, int]) -> Swing:
    """A new swing on a part of a clip, both ends included, with what stands on its frames."""
    first, last = span
    take = swing.take
    marks = tuple(mark for mark in take.marks if first <= mark.frame <= last)
    pinned = {name: frame for name, frame in take.pinned.items() if first <= frame <= last}
    taken = take.with_(span=span, marks=marks, pinned=pinned)
    return msgspec.structs.replace(swing, id=uuid.uuid4().hex, takes=(taken,), overrides=())
