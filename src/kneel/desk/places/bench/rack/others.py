"""The other swings of the student on the desk, read and judged together beside it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.desk.operations import Job, Lane, Operation, Task
from kneel.desk.places.bench.rack.sets import LessonTold, SetTold, glance_of, read_lesson
from kneel.desk.places.context import Context
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.documents.glance_file import save_glance

READ_AFTER_MS = 1200
"""The sets are judged once the swing on the desk has been still for so long."""


class OtherSwings(QObject):
    """Reads what the rack wants read once the desk is still, and keeps what the open swing shows.

    ``wanted`` tells which documents, and which of them nobody has opened yet; ``soon`` starts.
    ``told`` carries what all show together, ``read`` the documents that were read for it, ``came`` that one
    of them has been, with the documents that were written for other swings of its clip.
    """

    told = pyqtSignal(object)
    read = pyqtSignal(object)
    came = pyqtSignal(object)

    def __init__(
        self,
        parent: QObject,
        opened: OpenSwing,
        context: Context,
        wanted: Callable[[], tuple[list[Path], list[Path]]],
        folder: Callable[[], Path | None],
    ) -> None:
        super().__init__(parent)
        self._open, self._beside, self._wanted, self._folder = opened, context.beside, wanted, folder
        self._glances = Lane(self)
        self._readers = Lane(self, context.jobs, tr("reading the other swings"), newest=True)
        self._told: LessonTold | None = None
        self._told_for: object = None
        self.soon = QTimer(self, singleShot=True, interval=READ_AFTER_MS)
        self.soon.timeout.connect(self._read)
        self._glance_soon = QTimer(self, singleShot=True, interval=400)
        self._glance_soon.timeout.connect(self._keep_glance)

    @property
    def sets(self) -> tuple[SetTold, ...]:
        """What is known of the sets on the rack."""
        return self._told.sets if self._told else ()

    @property
    def job(self) -> Job | None:
        """The reading under way."""
        return self._readers.job

    def forget(self) -> None:
        """Another lesson: nothing is known of it."""
        self._told = self._told_for = None

    def stop(self) -> None:
        """Leave the process beside the desk to what is more urgent; what was asked is asked anew."""
        self._readers.stop()
        self._told_for = None

    def close_down(self) -> None:
        """Give up what is under way."""
        self._readers.stop()
        self._glances.stop()

    def read_now(self) -> None:
        """Judge anew, without waiting."""
        self._told_for = None
        self._read()

    def keep_glance_soon(self) -> None:
        """Keep what the open swing shows, for the next time the rack is seen, once it stands still."""
        self._glance_soon.start()

    def _keep_glance(self) -> None:
        path, analysis = self._open.path, self._open.analysis
        if path is not None and analysis is not None:
            glance = glance_of(analysis, self._open.numbers.reading)
            self._glances.start(Operation(work=lambda _: save_glance(path, glance)))

    def _read(self) -> None:
        documents, unread = self._wanted()
        school = self._open.swing.school
        about = (tuple(documents), school)
        if len(documents) < 2 or about == self._told_for or self._open.store is None:
            return
        if self._open.gathering.busy:
            self.soon.start()
            return
        self._told_for = about

        def work(task: Task) -> LessonTold | None:
            return self._beside.call(
                read_lesson,
                documents,
                school,
                unread,
                long=True,
                progress=task.progress,
                part=lambda others: task.hand_over(lambda: self.came.emit(others)),
                stopped=task.stopped,
            )

        def done(told: LessonTold | None) -> None:
            if told is not None:
                self._told = told
                self.told.emit(told)
                # Those that nobody has opened yet, and what came to be of other swings of their clips.
                fresh = [one for one in told.glances if one in unread or one not in documents]
                self.read.emit([one for one in fresh if one != self._open.path])

        self._readers.start(Operation(subject=self._folder, work=work, done=done))
