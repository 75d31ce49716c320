"""Making the demo's Book: students from the academy, their lessons with what was said, and the plans between.

Every swing is filed as the program files it; a plan is made from the swing of its lesson.
"""

from __future__ import annotations

import datetime
import tempfile
from pathlib import Path

import msgspec
from msgspec.structs import replace

from kneel.book import open_book
from kneel.book.exchange.snapshot import Sent, packed
from kneel.book.index.indexing import file_swing
from kneel.book.repository import lessons, students
from kneel.demo.lesson import DemoStudent
from kneel.demo.lesson import students as invented
from kneel.demo.remembered import SHIPPED, practised
from kneel.documents.swing_file import SUFFIX
from kneel.evidence.kept import kept_swing
from kneel.judge import known
from kneel.judge.numbers import OfSwing
from kneel.model import Cue, FileRef, Flag, Handed, Plan, Prop, Sex, Student, UsageError, Where
from kneel.practice import PracticeDays, Wish, known_drills, plan_of, propose
from kneel.practice.judging import judge_swing

AT_HAND = (Prop.STICK, Prop.WALL, Prop.TOWEL)
PLACES = (Where.HOME, Where.RANGE)
DAYS = 21
WEEKDAYS = (2, 3, 5, 6)


def write_book(folder: Path) -> None:
    """Write what the demo's Book holds beside the lessons' days."""
    with tempfile.TemporaryDirectory() as kept:
        book = open_book(str(Path(kept) / "book.sqlite"))
        sent: list[Sent] = []
        for one in invented():
            _file(book, one, folder)
            with book.reading() as db:
                key = students.student_id(db, one.name)
                assert key is not None
                told = packed(db, key, lambda path: str(path.relative_to(folder)))
                sent.append(_nameless(told))
        book.close()
    raw = msgspec.json.encode(sent)
    (folder / SHIPPED).write_bytes(msgspec.json.format(raw, indent=0) + b"\n")


def _nameless(sent: Sent) -> Sent:
    """Without the ids that a Book gives: what is made twice is the same."""
    made = [replace(one, lesson=replace(one.lesson, id="", student="")) for one in sent.lessons]
    return replace(sent, student=replace(sent.student, id=""), lessons=tuple(made))


def _file(book, one: DemoStudent, folder: Path) -> None:  # type: ignore[no-untyped-def]
    """A student, lesson by lesson, as they came."""
    with book.writing() as db:
        student, revision = students.save(db, _student(one), 0)
    for lesson in one.lesson:
        day = datetime.date.fromisoformat(lesson.date)
        documents = sorted((folder / lesson.date).glob(f"{one.key}-*{SUFFIX}"))
        for document in documents:
            if file_swing(book, document) is None:
                # Legs of other marks in the user's cache hide those that ship beside the clip.
                raise UsageError(
                    f"{document.name} is not followed whole; set XDG_CACHE_HOME to an empty folder."
                )
        plan = _plan(student, documents, folder, day)
        last = lesson is one.lesson[-1]
        with book.writing() as db:
            if plan is not None:
                plan = plan if last else _over(plan)
                student = replace(student, plans=(*student.plans, plan))
                if last and plan.aim.start is not None:
                    student = replace(student, tried=tuple(_cues(plan)))
                student, revision = students.save(db, student, revision)
            kept, at = lessons.on_day(db, student.id, day)
            root = kept.root
            if root is not None and plan is not None and plan.fault == root.fault:
                root = replace(root, drill=plan.drill)
            page = Handed(day, "page", f"{one.key} {lesson.date}.pdf")
            lessons.save(db, replace(kept, said=lesson.said, root=root, handed=(page,)), at)


def _student(one: DemoStudent) -> Student:
    return Student(
        one.name,
        tuple(Flag(flag) for flag in one.flags),
        PLACES,
        AT_HAND,
        weekdays=WEEKDAYS,
        hand=one.hand,
        stature_cm=one.stature_cm,
        sex=Sex(one.build.value) if one.build.value in set(Sex) else None,
        born=one.born,
        school=one.school,
        clubs=tuple(dict.fromkeys(lesson.club for lesson in one.lesson)),
        goals=one.goals,
    )


def _plan(student: Student, documents: list[Path], folder: Path, day: datetime.date) -> Plan | None:
    """The plan that a lesson's swings lead to, from the first view that shows anything to work on."""
    for document in documents[::-1]:
        kept = kept_swing(document)
        assert kept is not None, "the demo's clips are followed first"
        numbers = OfSwing(kept.study, kept.swing.club)
        reading = judge_swing(kept.study, known().school(kept.swing.school), kept.swing)
        wish = Wish.of(student, kept.swing.club)
        last = student.plans[-1].fault if student.plans else ""
        same = last if last and reading.of(last).verdict.at_work else ""
        try:
            proposal = propose(reading, wish, known_drills(), fault=same)
            if proposal is None:
                continue
            wanted = PracticeDays(day + datetime.timedelta(days=1), DAYS, WEEKDAYS)
            before = [FileRef(str(document.relative_to(folder)))]
            return plan_of(proposal, numbers, wanted, school=kept.swing.school, before=before)
        except UsageError:
            continue
    return None


def _over(plan: Plan) -> Plan:
    """A plan of which the next lesson was the end."""
    end = plan.start + datetime.timedelta(days=plan.days)
    return replace(practised(plan, end), ended="not there yet")


def _cues(plan: Plan) -> list[Cue]:
    """Cues that were tried at the lesson."""
    aim, day = plan.aim, plan.start - datetime.timedelta(days=1)
    start, sigma = aim.start or 0.0, aim.sigma or 0.7
    way = 1 if aim.way == "up" else -1
    rows = (("The trail hip goes back over its heel", 2.9), ("Keep the belt quiet", 0.3))
    return [
        Cue(
            words,
            day,
            plan.fault,
            aim.measure,
            aim.at,
            aim.unit,
            aim.way,
            start,
            sigma,
            start + way * by,
            sigma,
        )
        for words, by in rows
        if plan.fault == "sway"
    ]
