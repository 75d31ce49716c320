"""The demo students’ records, as if the lessons had been lately: plans begun, and practised up to today."""

from __future__ import annotations

import datetime
from importlib.resources import files
from pathlib import Path

import msgspec

from kneel.documents.students import FOLDER, save_student, student_file
from kneel.model import RUNGS, Plan, Practised, Student
from kneel.practice.ladder import standing
from kneel.practice.schedule import DAY, WEEK, planned_days

SHIPPED = "students.json"
AGO = 8
"""A running plan was begun this many to six more days ago, on its own day of the week."""

MISSED, FILMED = 2, 3
"""Which of the sessions so far was missed, and which was filmed."""

STEP_INSIDE, SIGMA = 0.3, 0.8
"""The filmed session lies so far inside its rung's limit, and with what error."""


def place_students(folder: Path, today: datetime.date) -> None:
    """Put the records beside the demo's days, where there are none yet. Raises ``StudentFileError``."""
    shipped = files("kneel.demo") / "data" / SHIPPED
    students = msgspec.json.decode(shipped.read_bytes(), type=list[Student])
    for student in students:
        if not student_file(folder / FOLDER, student.name).exists():
            plans = tuple(_lately(plan, folder, today) for plan in student.plans)
            save_student(folder / FOLDER, msgspec.structs.replace(student, plans=plans), "")


def _lately(plan: Plan, folder: Path, today: datetime.date) -> Plan:
    """A plan moved by whole weeks to have begun lately, its sessions practised but one."""
    later = ((today - AGO * DAY - plan.start).days // WEEK) * WEEK * DAY
    moved = msgspec.structs.replace(
        plan,
        start=plan.start + later,
        check_in=plan.check_in + later,
        before=tuple(msgspec.structs.replace(one, path=str(folder / one.path)) for one in plan.before),
    )
    for k, day in enumerate(day for day in planned_days(moved) if day < today):
        if k != MISSED:
            moved = msgspec.structs.replace(
                moved, log=(*moved.log, _practised(moved, day, filmed=k == FILMED))
            )
    return moved


def _practised(plan: Plan, day: datetime.date, *, filmed: bool) -> Practised:
    rung = standing(plan).rung
    if not filmed:
        return Practised(day, rung, 12, held=True)
    limit = plan.ladder[RUNGS.index(rung)]
    value = limit + (STEP_INSIDE if plan.aim.way == "up" else -STEP_INSIDE)
    return Practised(day, rung, 12, value=round(value, 1), sigma=SIGMA)
