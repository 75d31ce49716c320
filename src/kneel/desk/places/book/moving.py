"""Lessons that leave and come, and copies of the Book: asked for in a dialog, done in a worker."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from kneel.book import Book
from kneel.book.exchange.exporting import export
from kneel.book.exchange.importing import TakenIn, take_in
from kneel.book.maintenance.copies import back_up
from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.context import Context
from kneel.desk.records import Which
from kneel.desk.widgets.language import several, tr
from kneel.disk import shown
from kneel.model import KneelError


class Moving(QObject):
    """``said`` carries a sentence once something is done, ``failed`` one why it could not be."""

    said = pyqtSignal(str)
    failed = pyqtSignal(str)
    taken_in = pyqtSignal(str)

    def __init__(self, context: Context, parent: QWidget) -> None:
        super().__init__(parent)
        self._context, self._parent = context, parent
        self._lane = Lane(self, context.jobs, tr("copying lessons"))

    def close_down(self) -> None:
        """Give up what is under way; nothing half is left."""
        self._lane.stop()

    def browse_export(self, which: Which, student: str) -> None:
        """Ask where a student's lessons go."""
        folder = QFileDialog.getExistingDirectory(self._parent, tr("Where do the student’s lessons go?"))
        if folder:
            self.export(which, student, Path(folder))

    def export(self, which: Which, student: str, into: Path) -> None:
        """Write all that is known of a student, clips and all, into a folder."""
        self._start(
            which,
            lambda book, task: export(book, student, into, progress=task.progress, stopped=task.stopped),
            lambda folder: tr("All of it lies in %s") % shown(folder),
        )

    def browse_in(self, which: Which) -> None:
        """Ask for a zip of lessons."""
        name, _ = QFileDialog.getOpenFileName(
            self._parent,
            tr("Which lessons are taken in?"),
            "",
            f"{tr('Lessons')} (*.zip student.kneel.json);;{tr('All')} (*)",
        )
        if name:
            path = Path(name)
            self.take_in(which, path if path.suffix.lower() == ".zip" else path.parent)

    def take_in(self, which: Which, source: Path) -> None:
        """Take in lessons from a folder or a zip."""

        def told(found: list[TakenIn]) -> str:
            self._context.records.changed.emit()
            if found:
                self.taken_in.emit(found[0].student)
            names = ", ".join(shown(one.name) for one in found)
            troubles = [trouble for one in found for trouble in one.troubles]
            words = tr("%s: %s, %s taken in") % (
                names,
                several(sum(one.lessons for one in found), "one lesson", "%d lessons"),
                several(sum(one.swings for one in found), "one swing", "%d swings"),
            )
            return f"{words}. {troubles[0]}" if troubles else words

        self._start(
            which,
            lambda book, task: take_in(book, source, progress=task.progress, stopped=task.stopped),
            told,
        )

    def browse_copy(self, which: Which) -> None:
        """Ask where a copy of the Book goes."""
        name, _ = QFileDialog.getSaveFileName(
            self._parent, tr("Where does the copy go?"), "book-copy.sqlite", f"{tr('Copies')} (*.sqlite)"
        )
        if name:
            self._start(
                which,
                lambda book, _: back_up(book, Path(name)),
                lambda found: (
                    tr("A copy with %s was saved and read back")
                    % several(found.students, "one student", "%d students")
                ),
            )

    def _start(self, which: Which, work: Callable[[Book, Task], Any], told: Callable[[Any], str]) -> None:
        books = self._context.records.books

        def failed(error: Exception) -> None:
            if isinstance(error, KneelError):
                self.failed.emit(str(error))

        self._lane.start(
            Operation(
                work=lambda task: work(books.open(which), task),
                done=lambda found: self.said.emit(told(found)),
                failed=failed,
            )
        )
