"""The demo's Book: made from what ships beside the clips, its running plans as if begun lately."""

from __future__ import annotations

import datetime
from importlib.resources import files
from pathlib import Path

import msgspec

from kneel.book import Book
from kneel.book.exchange.snapshot import Sent, unpacked
from kneel.book.repository import students
from kneel.model import RUNGS, BookError, Plan, Practised, Student
from kneel.practice.ladder import standing
from kneel.practice.schedule import DAY, WEEK, planned_days

SHIPPED = "book.json"
AGO = 8
"""A running plan was begun this many to six more days ago, on its own day of the week."""

MISSED, FILMED = 2, 3
"""Which of the sessions so far was missed, and which was filmed."""

STEP_INSIDE, SIGMA = 0.3, 0.8
"""The filmed session lies so far inside its rung's limit, and with what error."""


def remember(book: Book, folder: Path, today: datetime.date) -> None:
    """Put the demo's students into its Book, each once. Raises ``BookError``."""
    try:
        raw = (files("kneel.demo") / "data" / SHIPPED).read_bytes()
        sent = msgspec.json.decode(raw, type=list[Sent])
    except (OSError, msgspec.MsgspecError) as error:
        raise BookError("The demo's own Book cannot be read; install Kneel anew.") from error
    with book.writing() as db:
        for one in sent:
            if students.student_id(db, one.student.name) is None:
                student = _lately(one.student, folder, today)
                unpacked(db, msgspec.structs.replace(one, student=student), lambda name: folder / name)


def _lately(student: Student, folder: Path, today: datetime.date) -> Student:
    """A student's plans with their swings where they lie, the last one moved to have begun lately."""
    student = students.with_paths(student, lambda name: str(folder / name))
    if student.plan is not None:
        plans = list(student.plans)
        moved = plans[-1]
        later = ((today - AGO * DAY - moved.start).days // WEEK) * WEEK * DAY
        moved = msgspec.structs.replace(moved, start=moved.start + later, check_in=moved.check_in + later)
        plans[-1] = practised(moved, today)
        student = msgspec.structs.replace(student, plans=tuple(plans))
    return student


def practised(plan: Plan, today: datetime.date) -> Plan:
    """A plan practised up to a day: of its sessions one missed and one filmed."""
    for k, day in enumerate(day for day in planned_days(plan) if day < today):
        if k != MISSED:
            log = (*plan.log, _practised(plan, day, filmed=k == FILMED))
            plan = msgspec.structs.replace(plan, log=log)
    return plan


def _practised(plan: Plan, day: datetime.date, *, filmed: bool) -> Practised:
    rung = standing(plan).rung
    if not filmed:
        return Practised(day, rung, 12, held=True)
    limit = plan.ladder[RUNGS.index(rung)]
    value = limit + (STEP_INSIDE if plan.aim.way == "up" else -STEP_INSIDE)
    return Practised(day, rung, 12, value=round(value, 1), sigma=SIGMA)
