"""A clip that lies on its side: a copy of it that stands, made beside it and opened."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.bench.rack.rack import Rack
from kneel.desk.places.context import Context
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.intake import write_down
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.disk import free_path, shown
from kneel.footage.turning import turned_copy
from kneel.model import FootageError


class TurnedCopy(QObject):
    """Makes the copy in the background. ``said`` carries a sentence."""

    said = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, rack: Rack, context: Context, parent: QWidget) -> None:
        super().__init__(parent)
        self._open, self._rack, self._context, self._parent = opened, rack, context, parent
        self._lane = Lane(self, context.jobs, tr("turning a copy of the clip"))

    def choose(self) -> Chooser | None:
        """Ask which way."""
        if self._open.store is None:
            return None
        detail = tr("a copy beside the clip, which stays as it is")
        ways = (tr("A quarter to the right"), 1), (tr("A quarter to the left"), 3), (tr("Upside down"), 2)
        choices = [Choice(title, lambda q=quarters: self.make(q), detail=detail) for title, quarters in ways]
        chooser = Chooser(self._parent, self._context.look, tr("Turn the clip"), choices, typing=False)
        chooser.open()
        return chooser

    def make(self, quarters: int) -> None:
        """Write the copy turned so many quarters clockwise, and open it."""
        store = self._open.store
        if store is None or self._lane.busy:
            return
        source, golfer = store.info.path, self._open.swing.golfer

        def work(task: Task) -> Path | None:
            try:
                target = _free(source)
                made = turned_copy(source, target, quarters, progress=task.progress, stopped=task.stopped)
            except OSError as error:
                why = error.strerror or str(error)
                raise FootageError(
                    f"No turned copy of {shown(source.name)} can be written beside it ({why}). The clip is "
                    "untouched; copy it to a folder of your own first."
                ) from error
            if made and golfer:
                # The copy is as much the student's as the clip is.
                write_down([target], golfer)
            return target if made else None

        def done(made: Path | None) -> None:
            if made is None:
                return
            self._rack.add([made])
            now = self._open.store
            if now is not None and now.info.path == source:
                # Whoever has gone on to another swing finds it on the rack.
                self._rack.wanted.emit(made)
            words = tr("The turned copy is %s, on the rack; the clip stays as it is.")
            self.said.emit(words % shown(made.name))

        failed = self._open.failed
        self._lane.start(Operation(work=work, done=done, failed=lambda error: failed.emit(str(error))))


def _free(clip: Path) -> Path:
    """A name for the copy that nothing has. Raises ``OSError`` where there are too many."""
    return free_path(clip.parent, lambda n: f"{clip.stem} turned{'' if n == 1 else f' {n}'}{clip.suffix}")
