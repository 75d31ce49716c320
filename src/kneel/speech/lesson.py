"""What a lesson of several swings says: what is seen from where, in how many, and how it hangs together."""

from __future__ import annotations

from kneel.compare.lesson import Balls, JudgedLesson
from kneel.judge.finding import Finding
from kneel.judge.records import Fault
from kneel.model import View
from kneel.speech.findings import place, work_on
from kneel.speech.words import FROM, capital, listed, small


def seen_in(lesson: JudgedLesson, finding: Finding) -> str:
    """In how many swings of which set a finding is at work."""
    told = []
    for balls in lesson.sets:
        shows = balls.shows[finding.key]
        if shows:
            told.append(f"{len(shows)} of {len(balls.swings)} {_named(balls, lesson)}")
    return listed(told)


def _named(balls: Balls, lesson: JudgedLesson) -> str:
    """A set in words: its view, and its club and kind where others of the view differ in them."""
    same = [other for other in lesson.sets if other.view is balls.view]
    more = []
    if len({other.club for other in same}) > 1:
        more.append(f"with the {balls.club.value}")
    if len({other.kind for other in same}) > 1:
        more.append(f"in {balls.kind.value} swings")
    return " ".join([FROM[balls.view], *more])


def lesson_text(lesson: JudgedLesson) -> str:
    """What to work on, where it is seen, and what of other clips hangs under it."""
    reading, parts = lesson.reading, []
    said = work_on(reading)
    if said:
        parts.append(said)
    for key in reading.priority:
        root = reading.of(key)
        parts.append(f"{root.fault.title} is seen in {_seen(lesson, root)}.")
        elsewhere = [f for f in (reading.of(k) for k in root.explains) if _other_set(lesson, root, f)][:2]
        if elsewhere:
            told = listed([f"{f.fault.title.lower()} ({_seen(lesson, f)})" for f in elsewhere])
            hangs = "hangs" if len(elsewhere) == 1 else "hang"
            parts.append(f"{capital(told)} {hangs} under it: other swings, one chain.")
    return " ".join(parts)


def joined(root: Fault, effect: Fault, root_view: View, effect_view: View, here: View) -> str:
    """One sentence that joins two clips, as it reads on the one that is open.

    >>> from kneel.judge import known
    >>> faults = known().faults
    >>> joined(faults["sway"], faults["early_extension"], View.FACE_ON, View.DOWN_THE_LINE, View.FACE_ON)
    'The sway here explains the early extension in the clip down the line.'
    """
    first, second = (
        "here" if view is here else f"in the clip {FROM[view]}" for view in (root_view, effect_view)
    )
    return f"The {small(root.title)} {first} explains the {small(effect.title)} {second}."


def chains_across(lesson: JudgedLesson) -> list[tuple[Finding, Finding]]:
    """Roots with what hangs under them in the clips of another view, what matters first."""
    reading = lesson.reading
    roots = [f for f, depth in reading.chain if depth == 0]
    return [
        (root, f)
        for root in roots
        for f in (reading.of(k) for k in root.explains)
        if _other_set(lesson, root, f)
    ]


def _seen(lesson: JudgedLesson, finding: Finding) -> str:
    return seen_in(lesson, finding) or "the typical swing"


def _other_set(lesson: JudgedLesson, one: Finding, other: Finding) -> bool:
    """Whether two findings were decided in sets of different views."""
    first, second = lesson.set_of(one), lesson.set_of(other)
    return first is not None and second is not None and first.view is not second.view


def lines(lesson: JudgedLesson) -> list[str]:
    """The lesson's chain, a line a finding, as the command line prints it."""
    told = []
    for finding, depth in lesson.reading.chain:
        where = _seen(lesson, finding)
        told.append(f"{'  ' * depth}{finding.verdict.value:8} {finding.fault.title}, {where}")
        stands = place(finding, lesson.reading)
        if stands:
            told.append(f"{'  ' * depth}         {stands}")
    return told
