"""What a lesson worked on: what somebody chose, what still binds from the last one, else what comes first."""

from __future__ import annotations

import datetime
from collections.abc import Sequence

from msgspec.structs import replace
from sqlalchemy import Connection

from kneel.book.repository import lessons
from kneel.book.repository.records import Seen
from kneel.compare.lesson import Filmed, JudgedLesson, judge_lesson
from kneel.judge import Finding, Knowledge
from kneel.model import Root, Student
from kneel.motion.quantity import Single
from kneel.practice.carried import carried, first_to_work_on
from kneel.practice.planning import edge_of


def seen_of(finding: Finding) -> Seen:
    plain = Seen(finding.key, finding.verdict.value)
    decided = finding.decided
    if decided is None or decided.told is None or decided.limits is None:
        return plain
    way, limit = edge_of(decided.limits, decided.check.side, decided.told)
    told = decided.told
    return replace(
        plain,
        measure=decided.check.measure,
        at=decided.at,
        unit=told.unit,
        value=told.value,
        sigma=told.sigma,
        limit=limit,
        way=way,
    )


def settle_root(
    db: Connection, key: str, student: Student, filmed: Sequence[Filmed], knowledge: Knowledge
) -> None:
    """Say what the lesson works on: what the instructor chose, what still binds from the last one, else what
    comes first now; with its number over all the lesson's swings.
    """
    lesson, revision = lessons.load(db, key)
    school = filmed[0].reading.school
    told = judge_lesson([one for one in filmed if one.reading.school == school], school, knowledge)
    root = _chosen(db, lesson.root, lesson.day, student, told)
    if root != lesson.root:
        lessons.save(db, replace(lesson, root=root), revision)


def _chosen(
    db: Connection, now: Root | None, day: datetime.date, student: Student, told: JudgedLesson
) -> Root | None:
    if now is not None and now.by_hand:
        fault = now.fault
    else:
        before = lessons.before(db, student.id, day, with_root=True)
        last = None
        if before is not None and before.root is not None:
            stands = [carried(before.root, balls.numbers) for balls in told.sets]
            last = next((one for one in stands if one.now is not None), stands[0])
        order = first_to_work_on(told.reading.priority, last)
        # What may be one is shown, and binds nobody.
        order = order or tuple(finding.key for finding, _ in told.reading.chain)
        if not order:
            return None
        fault = order[0]
        if last is not None and last.binds:
            now = replace(last.root, by_hand=False, given_up="")
    try:
        seen = seen_of(told.reading.of(fault))
    except KeyError:
        return now
    plan = student.plan
    drill = (
        plan.drill
        if plan is not None and plan.fault == fault
        else now.drill
        if now and now.fault == fault
        else ""
    )
    root = seen.root(drill=drill)
    if now is None or now.fault != fault:
        return root
    root = replace(root, by_hand=now.by_hand, given_up=now.given_up)
    if now.measure and (now.measure, now.at) != (root.measure, root.at):
        return _same_number(root, now, told)
    return root


def _same_number(root: Root, was: Root, told: JudgedLesson) -> Root:
    """The root told by the number it was told by before, where a set tells it: a trend is of one number."""
    for balls in told.sets:
        if balls.numbers.seen_from(was.measure):
            single = balls.numbers.tell(was.measure, was.at)
            if isinstance(single, Single) and single.unit == was.unit:
                return replace(
                    root,
                    measure=was.measure,
                    at=was.at,
                    unit=was.unit,
                    value=single.value,
                    sigma=single.sigma,
                    limit=was.limit,
                    way=was.way,
                )
    return root
