"""What each action of the Hand-out does. One entry per key of :mod:`kneel.desk.shell.actions`."""

from __future__ import annotations

import contextlib
import datetime
import glob
import shutil
from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton

from kneel.book import Book
from kneel.book.index.indexing import day_of
from kneel.book.repository import lessons
from kneel.contract.calendar import calendar_of
from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.context import Context
from kneel.desk.places.handout.beside import PageAsked, PageMade, clip_beside
from kneel.desk.places.handout.saved import SavedButtons
from kneel.desk.places.place import Handlers, Place
from kneel.desk.records.output_paths import KEPT, OutputKeeper
from kneel.desk.records.practice import Practice
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.model import Handed, KneelError
from kneel.practice.films import film_of


class HandoutParts(Place):
    """What the actions ask of the Hand-out."""

    fault: str
    other: QPushButton
    saved: SavedButtons
    failed = pyqtSignal(str)

    @property
    def made(self) -> PageMade | None:
        """The page on show, where it is of what is asked now."""
        raise NotImplementedError

    def asked(self) -> PageAsked | None:
        """What a page would be made of now."""
        raise NotImplementedError

    def refresh(self) -> None:
        """Have the page made anew."""
        raise NotImplementedError

    def once_made(self, deed: Callable[[], object]) -> None:
        """Do something as soon as the page on show is of now."""
        raise NotImplementedError


class HandoutActions:
    """The actions on what goes home."""

    def __init__(self, opened: OpenSwing, context: Context, practice: Practice, place: HandoutParts) -> None:
        self._open, self._context, self._practice, self._place = opened, context, practice, place
        self._writers = Lane(place)
        self._clips = Lane(place, context.jobs, tr("making the slow clip"))

    def table(self) -> Handlers:
        """Every key with its deed."""
        return {
            "save_pdf": self.save_pdf,
            "save_html": self.save_html,
            "save_slow": self.save_slow,
            "home_fault": self.choose_fault,
        }

    def close_down(self) -> None:
        """Give up what is under way."""
        self._writers.stop()
        self._clips.stop()

    def save_pdf(self) -> None:
        """Save the page that is shown as PDF."""
        self._place.once_made(lambda: self._save_page(".pdf"))

    def save_html(self) -> None:
        """Save the page that is shown as HTML."""
        self._place.once_made(lambda: self._save_page(".html"))

    def _save_page(self, suffix: str) -> None:
        made = self._place.made
        if made is not None:
            self._save("page", suffix, lambda: made.pdf if suffix == ".pdf" else made.html.encode("utf-8"))
            self._film_along(made)

    def _film_along(self, made: PageMade) -> None:
        """The instructor's own film of the drill lies beside the page that names it."""
        keeper = OutputKeeper.of(self._open, self._context.records.books)
        if not made.drill or keeper is None:
            return

        def work(_: Task) -> None:
            film = film_of(made.drill)
            if film is None:
                return
            if any((keeper.clip.parent / KEPT).glob(f"*{glob.escape(made.film)}*{film.suffix}")):
                return
            with contextlib.suppress(OSError):
                keeper.keep_as(made.film, film.suffix, lambda target: shutil.copyfile(film, target))

        self._writers.start(Operation(work=work))

    def save_calendar(self) -> None:
        """Save the plan's days as a calendar."""
        plan = self._practice.plan
        if plan is not None:
            today, flags = self._practice.today, self._practice.student.flags
            self._save("calendar", ".ics", lambda: calendar_of(plan, today, flags))

    def save_slow(self) -> None:
        """Save the slow clip, made beside the desk."""
        asked, keeper = self._place.asked(), OutputKeeper.of(self._open, self._context.records.books)
        if asked is None or keeper is None:
            return
        beside = self._context.beside

        def work(task: Task) -> Path | None:
            return keeper.keep_as(
                "slow",
                ".mp4",
                lambda target: beside.call(
                    clip_beside, asked, target, long=True, progress=task.progress, stopped=task.stopped
                ),
            )

        self._start(work, "clip", keeper.clip, self._clips)

    def _save(self, what: str, suffix: str, made: Callable[[], bytes]) -> None:
        keeper = OutputKeeper.of(self._open, self._context.records.books)
        if keeper is not None:
            self._start(lambda _: keeper.keep(what, suffix, made()), what, keeper.clip, self._writers)

    def _start(self, work: Callable[[Task], Path | None], what: str, clip: Path, lane: Lane) -> None:
        record, today = self._practice.record, self._practice.today
        books, which, student = self._context.records.books, record.which, record.key

        def whole(task: Task) -> Path | None:
            target = work(task)
            if target is not None and student:
                # The file is there, whatever becomes of the note.
                with contextlib.suppress(KneelError):
                    _note(books.open(which), student, day_of(clip), Handed(today, what, target.name))
            return target

        def done(target: Path | None) -> None:
            if target is not None:
                self._place.said.emit(tr("Saved as %s") % shown(f"{KEPT}/{target.name}"))
                self._place.saved.show_file(target)
                self._context.records.changed.emit()

        def failed(error: Exception) -> None:
            words = str(error) if isinstance(error, KneelError) else ""
            self._place.failed.emit(
                words or tr("Nothing can be written beside %s; nothing was lost.") % shown(clip.name)
            )

        lane.start(Operation(work=whole, done=done, failed=failed))

    def choose_fault(self) -> Chooser | None:
        """Let the page be about another finding."""
        reading = self._open.numbers.reading
        if reading is None:
            return None

        def take(key: str) -> None:
            self._place.fault = key
            self._place.refresh()

        now = self._place.made.fault if self._place.made is not None else ""
        found = [f for f in reading.findings if f.decided is not None]
        found.sort(key=lambda f: not f.verdict.at_work)
        choices = [
            Choice(f.fault.title, lambda k=f.key: take(k), detail=tr(f.verdict.value), checked=f.key == now)
            for f in found
        ]
        chooser = Chooser(self._place, self._context.look, tr("What is the page about?"), choices)
        chooser.open(self._place.other)
        return chooser


def _note(book: Book, student: str, day: datetime.date, handed: Handed) -> None:
    """The lesson remembers what went home."""
    with book.writing() as db:
        lesson, revision = lessons.on_day(db, student, day)
        lessons.save(db, replace(lesson, handed=(*lesson.handed, handed)), revision)
