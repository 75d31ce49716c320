"""Cutting a clip into its swings by hand, beside the automatic cut: where a swing begins, ends, is two."""

from __future__ import annotations

import uuid
from pathlib import Path

import msgspec
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from kneel.desk.operations import Lane, Operation
from kneel.desk.rack import Rack
from kneel.desk.swing import OpenSwing
from kneel.desk.words import tr
from kneel.disk import shown
from kneel.documents.finding import free_document
from kneel.documents.keeper import Keeper
from kneel.model import Swing

SHORTEST = 8
"""A swing has at least so many frames."""


class Cutting(QObject):
    """Trims and splits at the cursor, as steps of the open swing. ``said`` carries a sentence."""

    said = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, rack: Rack, parent: QWidget) -> None:
        super().__init__(parent)
        self._open, self._rack = opened, rack
        self._writers = Lane(self)

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
        if self._open.store is not None and self._open.swing.span is not None:
            self._open.set(tr("Take the whole clip"), span=None)
        else:
            self.said.emit(tr("This swing is the whole clip already."))

    def split_here(self) -> None:
        """What lies from the frame on show on is a swing of its own, with a document of its own."""
        reach, store = self._reach(), self._open.store
        if reach is None or store is None:
            return
        cut = reach[0] + self._open.cursor.frame
        if not (self._long(reach[0], cut - 1) and self._long(cut, reach[1])):
            self.said.emit(tr("Both swings would have to be longer: go to a frame between them."))
            return
        second = within(self._open.document.history.now, (cut, reach[1]))
        clip = store.info.path

        def work(_: object) -> Path:
            path = free_document(clip, 2)
            Keeper(path, None).save(second)
            return path

        def done(path: Path) -> None:
            self._cut(tr("Split the clip here"), (reach[0], cut - 1))
            self._rack.refresh()
            words = tr("The second swing is %s, on the rack. Undo gives this one its frames back.")
            self.said.emit(words % shown(path.name))

        self._writers.start(
            Operation(
                subject=lambda: self._open.path,
                work=work,
                done=done,
                failed=lambda error: self._open.failed.emit(str(error)),
            )
        )

    def _reach(self) -> tuple[int, int] | None:
        store = self._open.store
        return None if store is None else self._open.swing.reach(store.info.frames)

    @staticmethod
    def _long(first: int, last: int) -> bool:
        return last - first + 1 >= SHORTEST

    def _cut(self, label: str, span: tuple[int, int]) -> None:
        if not self._long(*span):
            self.said.emit(tr("So few frames are no swing: go farther, and cut there."))
            return
        self._open.document.change(label, within(self._open.document.history.now, span, same=True))


def within(swing: Swing, span: tuple[int, int], *, same: bool = False) -> Swing:
    """The swing on a part of its clip, both ends included; what stands on other frames is left out of a new
    swing, and kept, out of sight, in the ``same`` one.
    """
    first, last = span
    take = swing.take
    if same:
        return swing.given(span=span, guessed=swing.guessed)
    marks = tuple(mark for mark in take.marks if first <= mark.frame <= last)
    pinned = {name: frame for name, frame in take.pinned.items() if first <= frame <= last}
    cut = msgspec.structs.replace(
        swing, id=uuid.uuid4().hex, takes=(take.with_(span=span, marks=marks, pinned=pinned),)
    )
    return cut.given(overrides=(), guessed=swing.guessed)
