"""Making the demo students' records: flags from the academy, and a plan from the swing it was made on."""

from __future__ import annotations

import datetime
from pathlib import Path

import msgspec

from kneel.documents.swing_file import SUFFIX
from kneel.demo.lesson import students
from kneel.demo.place import FIRST, TODAY
from kneel.demo.practice import SHIPPED
from kneel.evidence.kept import kept_swing
from kneel.judge import judge, known
from kneel.judge.numbers import OfSwing
from kneel.model import Cue, FileRef, Flag, Plan, Prop, Student, Where
from kneel.practice import Wanted, Wish, known_drills, plan_of, propose

AT_HAND = (Prop.STICK, Prop.WALL, Prop.TOWEL)
PLACES = (Where.HOME, Where.RANGE)


def write_students(folder: Path) -> None:
    """Write the records of all students beside the lessons' days."""
    made = [_record(one.name, one.flags, folder) for one in students()]
    raw = msgspec.json.format(msgspec.json.encode(made), indent=1) + b"\n"
    (folder / SHIPPED).write_bytes(raw)


def _record(name: str, flags: tuple[str, ...], folder: Path) -> Student:
    plain = Student(name, tuple(Flag(flag) for flag in flags))
    if not FIRST.startswith(name.lower().replace(" ", "-")):
        return plain
    plan = _plan(folder)
    return msgspec.structs.replace(
        plain, places=PLACES, props=AT_HAND, plans=(plan,), tried=tuple(_cues(plan))
    )


def _plan(folder: Path) -> Plan:
    """The plan that the first demo swing leads to."""
    document = f"{TODAY}/{FIRST}{SUFFIX}"
    kept = kept_swing(folder / document)
    assert kept is not None, "the demo's clips are followed first"
    numbers = OfSwing(kept.study, kept.swing.club)
    reading = judge(kept.study, known().school(kept.swing.school), kept.swing)
    proposal = propose(reading, Wish(props=AT_HAND, places=PLACES), known_drills())
    assert proposal is not None
    wanted = Wanted(datetime.date.fromisoformat(TODAY) + datetime.timedelta(days=1), 21, (2, 3, 5, 6))
    return plan_of(proposal, numbers, wanted, school=kept.swing.school, before=[FileRef(document)])


def _cues(plan: Plan) -> list[Cue]:
    """Cues that were tried at the lesson."""
    aim, day = plan.aim, datetime.date.fromisoformat(TODAY)
    start, sigma = aim.start or 0.0, aim.sigma or 0.7
    rows = (("Trail pocket to the fence behind you", 2.9), ("Keep the belt quiet", 0.3))
    return [
        Cue(words, day, plan.fault, aim.measure, aim.at, aim.unit, aim.way, start, sigma, start + by, sigma)
        for words, by in rows
    ]
