"""What each action of the Hand-out does. One entry per key of :mod:`kneel.desk.actions`."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace

from kneel.book import Book, lessons
from kneel.book.filing import day_of
from kneel.book.saving import save_lesson
from kneel.contract.calendar import calendar_of
from kneel.desk.chooser import Choice, Chooser
from kneel.desk.context import Context
from kneel.desk.home.beside import clip_beside
from kneel.desk.jobs import Job
from kneel.desk.kept import KEPT, free_name
from kneel.desk.places import Deeds
from kneel.desk.practice import Practice
from kneel.desk.swing import OpenSwing
from kneel.desk.tasks import Task, Workers
from kneel.desk.words import tr
from kneel.disk import shown, write_bytes
from kneel.model import Handed, KneelError

if TYPE_CHECKING:
    from kneel.desk.home.place import HomePlace


class HomeDeeds:
    """The actions on what goes home."""

    def __init__(self, opened: OpenSwing, context: Context, practice: Practice, place: HomePlace) -> None:
        self._open, self._context, self._practice, self._place = opened, context, practice, place
        self._writers = Workers(place)
        self._job = context.jobs.add(Job(tr("making the slow clip"), self._writers.give_up))

    def table(self) -> Deeds:
        """Every key with its deed."""
        return {
            "save_pdf": self.save_pdf,
            "save_html": self.save_html,
            "save_slow": self.save_slow,
            "home_fault": self.choose_fault,
        }

    def close_down(self) -> None:
        """Give up what is under way."""
        self._writers.give_up()

    def save_pdf(self) -> None:
        """Save the page that is shown as PDF."""
        made = self._place.made
        if made is not None:
            self._save("page", ".pdf", lambda: made.pdf)

    def save_html(self) -> None:
        """Save the page that is shown as HTML."""
        made = self._place.made
        if made is not None:
            self._save("page", ".html", lambda: made.html.encode("utf-8"))

    def save_calendar(self) -> None:
        """Save the plan's days as a calendar."""
        plan = self._practice.plan
        if plan is not None:
            today, flags = self._practice.today, self._practice.student.flags
            self._save("calendar", ".ics", lambda: calendar_of(plan, today, flags))

    def save_slow(self) -> None:
        """Save the slow clip, made beside the desk."""
        asked, store = self._place.asked(), self._open.store
        if asked is None or store is None:
            return
        clip = store.info.path

        def work(task: Task) -> Path | None:
            target = free_name(clip, "slow", ".mp4")
            made: Path | None = self._context.aside.call(
                clip_beside, asked, target, progress=task.progress, stopped=task.stopped
            )
            return made

        self._start(work, "clip", clip)

    def _save(self, what: str, suffix: str, made: Callable[[], bytes]) -> None:
        store = self._open.store
        if store is None:
            return
        clip = store.info.path

        def work(_: Task) -> Path:
            target = free_name(clip, what, suffix)
            write_bytes(target, made(), private=True)
            return target

        self._start(work, what, clip)

    def _start(self, work: Callable[[Task], Path | None], what: str, clip: Path) -> None:
        book, student = self._practice.book, self._practice.student_id
        today = self._practice.today

        def whole(task: Task) -> Path | None:
            target = work(task)
            if target is not None and book is not None and student:
                _note(book, student, day_of(clip), Handed(today, what, target.name))
            return target

        def done(target: Path | None) -> None:
            self._context.jobs.tell(self._job, 0, 0)
            if target is not None:
                self._place.said.emit(tr("Saved as %s") % shown(f"{KEPT}/{target.name}"))
                self._context.books.changed.emit()

        def failed(error: Exception) -> None:
            self._context.jobs.tell(self._job, 0, 0)
            words = str(error) if isinstance(error, KneelError) else ""
            self._place.failed.emit(
                words or tr("Nothing can be written beside %s; nothing was lost.") % shown(clip.name)
            )

        task = Task(
            whole,
            done=done,
            failed=failed,
            progressed=lambda k, of: self._context.jobs.tell(self._job, k, of),
        )
        self._writers.start(task)

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
    with book.reading() as db:
        lesson, revision = lessons.on_day(db, student, day)
    save_lesson(book, lesson, replace(lesson, handed=(*lesson.handed, handed)), revision)
