"""Records of an earlier Kneel, which kept lengths in inches where they were told so, as they are kept now."""

from __future__ import annotations

from typing import TypeVar

import msgspec
from msgspec.structs import replace

from kneel.model import Aim, Cue, Guard, Lesson, Plan, Practised, Root, Student
from kneel.speech.units import CM_PER_INCH

INCH = "in"
R = TypeVar("R", bound=msgspec.Struct)

_LENGTHS = {
    Aim: ("limit", "by", "start", "sigma"),
    Guard: ("by", "start", "sigma"),
    Cue: ("before", "before_sigma", "after", "after_sigma", "sigma"),
    Root: ("value", "sigma", "limit"),
    Practised: ("value", "sigma"),
}
"""What of each record is a length in its unit."""


def metric_student(student: Student) -> Student:
    """A student's plans and cues with every length in centimetres."""
    plans = tuple(_plan(plan) for plan in student.plans)
    cues = tuple(_metric(cue) if cue.unit == INCH else cue for cue in student.tried)
    same = plans == student.plans and cues == student.tried
    return student if same else replace(student, plans=plans, tried=cues)


def metric_lesson(lesson: Lesson) -> Lesson:
    """A lesson's root with its number in centimetres."""
    root = lesson.root
    return lesson if root is None or root.unit != INCH else replace(lesson, root=_metric(root))


def _plan(plan: Plan) -> Plan:
    guards = tuple(_metric(one) if one.unit == INCH else one for one in plan.guards)
    if plan.aim.unit != INCH:
        return plan if guards == plan.guards else replace(plan, guards=guards)
    log = tuple(_metric(one) for one in plan.log)
    ladder = tuple(limit * CM_PER_INCH for limit in plan.ladder)
    return replace(plan, aim=_metric(plan.aim), ladder=ladder, guards=guards, log=log)


def _metric(record: R) -> R:
    told = {name: getattr(record, name) for name in _LENGTHS[type(record)]}
    lengths = {name: value * CM_PER_INCH for name, value in told.items() if value is not None}
    unit = {"unit": "cm"} if hasattr(record, "unit") else {}
    return replace(record, **lengths, **unit)
