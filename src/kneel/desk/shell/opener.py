"""Opening, splitting and recovering: only the latest asking counts, whatever answers first."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.demo.place import demo_lesson
from kneel.desk.operations import Job, Task, Workers
from kneel.desk.places.context import Context
from kneel.desk.shell.splitting import Parted, split
from kneel.desk.swing.opening import Opened, open_swing
from kneel.desk.swing.two_takes import TwoTakes
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.documents import recovery
from kneel.documents.recovery import Recovered
from kneel.evidence.swings import worth_parting
from kneel.model import KneelError, SwingFileError

AT_ONCE = 4
"""A file that never answers must not keep the next one waiting."""

LAST, TRYING = "last", "opening"
SETTLED_MS = 3000


class Opener(QObject):
    """Opens swings. ``opened`` carries what is to be shown, ``parted`` what a long clip was parted into."""

    opened = pyqtSignal(object)
    parted = pyqtSignal(object)
    failed = pyqtSignal(object)
    said = pyqtSignal(str)
    told = pyqtSignal(str)
    left_over = pyqtSignal(object)

    def __init__(self, takes: TwoTakes, context: Context) -> None:
        super().__init__()
        self._takes, self._on_desk, self._context = takes, takes.first, context
        on_desk = takes.first
        self._openings, self._splits, self._reading = Workers(self, AT_ONCE), Workers(self), Workers(self)
        self._opening: Task | None = None
        self._splitting: Task | None = None
        self._recovering: Recovered | None = None
        self._said: tuple[Path | None, Path | None, str] = (None, None, "")
        self._opening_job = Job(tr("opening"), self.stop)
        self._splitting_job = Job(tr("looking for swings"), self._leave_whole)
        context.jobs.add(self._opening_job)
        context.jobs.add(self._splitting_job)
        on_desk.autosave.saved.connect(self._recovered)

    # Opening

    def open(self, path: Path) -> None:
        """Open a clip or a swing file."""
        self._open(lambda: path, shown(path.name))

    def again(self, document: Path, *, clip: Path | None = None, school: str = "") -> None:
        """Open a document once more, with the clip or school that the user says, or said of it before."""
        before = self._said if self._said[0] == document else (document, None, "")
        self._said = document, clip or before[1], school or before[2]
        self._open(lambda: document, shown(document.name), *self._said[1:])

    def open_demo(self) -> None:
        """Open the demo lesson, copied on first use."""
        self._open(demo_lesson, tr("the demo lesson"))

    def reopen_last(self) -> None:
        """Open what was open last, if it is still there, and did not end the program last time."""
        last, settings = str(self._context.settings.value(LAST) or ""), self._context.settings
        if not last:
            return
        if str(settings.value(TRYING) or "") == last:
            settings.remove(TRYING)
            self.said.emit(
                tr("%s is not opened by itself: Kneel ended while it was opened last time.")
                % shown(Path(last).name)
            )
            return

        def find() -> Path:
            if not Path(last).exists():
                raise SwingFileError("")
            return Path(last)

        self._open(find, shown(Path(last).name))
        # On the disk at once: what ends the program leaves no time to write it.
        settings.setValue(TRYING, last)
        settings.sync()

    def recover(self, one: Recovered) -> None:
        """Open the swing that some kept work belongs to, and take the work as one more step."""

        def find() -> Path:
            clip = one.swing.clip
            if one.document.is_file() or clip is None:
                return one.document
            return Path(clip.path)

        self._open(find, shown(one.document.name))
        self._recovering = one

    def look_for_left_over(self, *, asked: bool = False) -> None:
        """See in the background whether unsaved work is kept; ``left_over`` tells of it."""

        def found(kept: list[Recovered]) -> None:
            if kept:
                self.left_over.emit(kept)
            elif asked:
                self.told.emit(tr("All work is saved: nothing was left over."))

        self._reading.start(Task(lambda _: recovery.kept(), done=found))

    def stop(self) -> None:
        """Give up what is being opened or split."""
        for task in (self._opening, self._splitting):
            if task is not None:
                task.stop()
        self._opening = self._splitting = self._recovering = None
        self._context.settings.remove(TRYING)
        for job in (self._opening_job, self._splitting_job):
            self._context.jobs.tell(job, 0, 0)

    def _open(self, find: Callable[[], Path], name: str, clip: Path | None = None, school: str = "") -> None:
        self.stop()
        # The sooner it is saved, the less the next clip has to wait for it.
        self._on_desk.save()
        callbacks, autosave = self._on_desk.callbacks(), self._on_desk.autosave
        second = self._takes.callbacks()

        def work(_: Task) -> Opened:
            # What is opened may be the document that is being saved.
            autosave.settle()
            opened = open_swing(find(), callbacks, clip=clip, school=school, second=second)
            # Here, so that nobody need wait; what is wrong with the Book is said when it is asked.
            books = self._context.records.books
            with contextlib.suppress(KneelError):
                books.open(books.look_up(opened.store.info.path))
            return opened

        self._opening = Task(work, done=self._take, failed=self._fail, drop=_let_go)
        self._opening_job.words = tr("opening %s") % name
        self._context.jobs.tell(self._opening_job, 0, 1)
        self._openings.start(self._opening)

    def _take(self, opened: Opened) -> None:
        self._opening = None
        self._context.jobs.tell(self._opening_job, 0, 0)
        settings = self._context.settings
        self.opened.emit(opened)
        if self._on_desk.store is opened.store:
            settings.setValue(LAST, str(opened.document))
            self._take_recovered()
            self._begin_split(opened)
        # Once it has been painted and stepped about in for a moment.
        QTimer.singleShot(SETTLED_MS, lambda: settings.remove(TRYING))

    def _fail(self, error: KneelError) -> None:
        self._opening = self._recovering = None
        self._context.settings.remove(TRYING)
        self._context.jobs.tell(self._opening_job, 0, 0)
        self.failed.emit(error)

    # Recovering

    def _take_recovered(self) -> None:
        one = self._recovering
        if one is None:
            return
        document = self._on_desk.document
        try:
            swing = one.swing.given(clip=self._on_desk.swing.clip, guessed=one.swing.guessed)
        except ValueError as error:
            self._recovering = None
            self.said.emit(tr("What was kept does not fit this clip (%s); it stays kept.") % error)
            return
        document.change(tr("Recover unsaved work"), swing)
        self.said.emit(tr("The work that could not be saved is here again; undo takes it back."))

    def _recovered(self) -> None:
        one, self._recovering = self._recovering, None
        if one is not None:
            threading.Thread(target=recovery.forget, args=(one.document,), daemon=True).start()

    # Splitting

    def _begin_split(self, opened: Opened) -> None:
        swing, beside = self._on_desk.swing, self._context.beside
        length = float(self._on_desk.times_s[-1]) if self._on_desk.frames else 0.0
        if not worth_parting(swing, length):
            return
        # The part with the swing in it is looked at, not the whole: as soon as it is known.
        self._on_desk.gathering.hold()
        self._splitting = Task(
            lambda task: split(task, beside, opened, lambda: self._on_desk.swing),
            done=self._take_split,
            failed=lambda error: self._take_split(Parted()),
            progressed=lambda done, total: self._context.jobs.tell(self._splitting_job, done, total),
        )
        self._splits.start(self._splitting)

    def _leave_whole(self) -> None:
        """The whole clip is taken: nobody wants to wait."""
        self.stop()
        self._on_desk.gathering.release()

    def _take_split(self, found: Parted) -> None:
        self._splitting = None
        self._context.jobs.tell(self._splitting_job, 0, 0)
        if found.first is not None:
            self.parted.emit(found)
        else:
            self._on_desk.gathering.release()


def _let_go(opened: Opened) -> None:
    threading.Thread(target=opened.let_go, daemon=True).start()
