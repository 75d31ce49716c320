"""What the last lesson left, held against the swing on the desk."""

from __future__ import annotations

from msgspec.structs import replace

from kneel.book.views.last_lesson import LastTime, change_since
from kneel.compare.difference import Difference
from kneel.desk.records.student import StudentOnDesk
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.judge.numbers import OfSwing
from kneel.model import Lesson
from kneel.practice.carried import Carried, carried


def numbers_of(opened: OpenSwing) -> OfSwing | None:
    """The numbers of the swing on the desk."""
    study = opened.analysis
    return None if study is None else OfSwing(study, opened.swing.club)


class LastLesson:
    """The lesson before that of the swing on the desk, and what became of what it worked on."""

    def __init__(self, opened: OpenSwing, record: StudentOnDesk) -> None:
        self._open, self._record = opened, record
        self._carried: tuple[tuple[object, ...], Carried] | None = None

    @property
    def known(self) -> LastTime | None:
        """What the Book knows of it; a lesson that was changed here is as it is shown."""
        last = self._record.last
        if last is None:
            return None
        records, which = self._record.records, self._record.which
        lesson = records.now(which, last.lesson)
        worked = records.now(which, last.worked) if last.worked is not None else None
        if lesson is last.lesson and worked is last.worked:
            return last
        return LastTime(lesson, worked, last.rows)

    @property
    def carried(self) -> Carried | None:
        """Its root held against the swing on the desk; None without either."""
        numbers, last = numbers_of(self._open), self.known
        root = last.root if last is not None else None
        if numbers is None or root is None:
            return None
        about = (numbers.study, root)
        if self._carried is None or any(a is not b for a, b in zip(self._carried[0], about, strict=True)):
            self._carried = about, carried(root, numbers)
        return self._carried[1]

    @property
    def since(self) -> Difference | None:
        """What lies between its swings and this one, by the rule for changes."""
        numbers, last = numbers_of(self._open), self.known
        if numbers is None or last is None:
            return None
        return change_since(last, self._open.swing, numbers)

    def give_up(self, why: str) -> None:
        """Its root is not pursued any more; the lesson itself says so."""
        last = self.known
        if last is not None and last.worked is not None and last.root is not None:
            self._record.records.change_of(
                self._record.which,
                Lesson,
                last.worked.id,
                tr("Give up"),
                root=replace(last.root, given_up=why),
            )
