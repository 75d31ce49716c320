"""What the Book says of lessons, of what carries over, and of a student's practice."""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Mapping, Sequence
from typing import Protocol

from kneel.compare.difference import Difference
from kneel.judge import in_use
from kneel.judge.roots import ADDED, LEFT, REJECTED
from kneel.model import Ball, Club, Lesson, Override, Plan, Root, Student, View
from kneel.practice import drills_in_use
from kneel.practice.carried import Carried, RootStage
from kneel.practice.schedule import planned_days
from kneel.speech.change import moved_words
from kneel.speech.headline import film_views
from kneel.speech.limits import allowed_words
from kneel.speech.practice import brief_day, day_words, limit_words, measure_words
from kneel.speech.words import capital, length_words, listed, number, small, with_unit

_SAID = {REJECTED: "not there", ADDED: "seen all the same", LEFT: "known and left"}


class SeenFault(Protocol):
    """A fault that was seen."""

    @property
    def fault(self) -> str: ...


class SwingFacts(Protocol):
    """What is known of a swing besides its numbers."""

    @property
    def seen(self) -> Sequence[SeenFault]: ...
    @property
    def overrides(self) -> Sequence[Override]: ...
    @property
    def ball(self) -> Ball | None: ...


class OfLesson(Protocol):
    """A swing of a lesson."""

    @property
    def view(self) -> View: ...
    @property
    def club(self) -> Club: ...
    @property
    def facts(self) -> SwingFacts: ...


def lesson_title(day: datetime.date, swings: Sequence[OfLesson], today: datetime.date) -> tuple[str, str]:
    """A lesson's name, and what was filmed."""
    title = f"Lesson of {day_words(day)}" + ("" if day.year == today.year else f" {day.year}")
    if not swings:
        return title, "Nothing filmed"
    clubs = listed(list(dict.fromkeys(one.club.value for one in swings)))
    views = list(dict.fromkeys(one.view.value for one in swings))
    seen = "two views" if len(views) == 2 else views[0] if len(views) == 1 else f"{len(views)} views"
    count = "one swing" if len(swings) == 1 else f"{len(swings)} swings"
    return title, capital(f"{clubs}, {seen}, {count}")


def lesson_facts(lesson: Lesson, swings: Sequence[OfLesson]) -> str:
    """What was worked on and how it hangs together, what was overruled, and what went home."""
    parts = []
    if lesson.root is not None:
        parts.append(root_words(lesson.root, [one.facts for one in swings]))
    overruled = _overruled([one.facts for one in swings])
    if overruled:
        parts.append(f"Overruled: {overruled}")
    balls = balls_words([one.facts.ball for one in swings])
    if balls or lesson.flight:
        parts.append(f"Ball: {balls or lesson.flight}")
    handed = list(dict.fromkeys(one.what for one in lesson.handed))
    if handed:
        parts.append(f"Handed out: {listed(handed)}")
    return "  ·  ".join(parts)


def balls_words(balls: Iterable[Ball | None]) -> str:
    """What the balls of a lesson did, the most frequent first.

    >>> balls_words([Ball(strike="fat"), None, Ball(strike="fat", start="left"), Ball(strike="clean")])
    '2 fat, 1 starts left, 1 clean'
    """
    said: list[str] = []
    for ball in balls:
        if ball is not None:
            curve = "" if ball.curve in ("", "not") else f"curves {ball.curve}"
            start = f"starts {ball.start}" if ball.start else ""
            said += [part for part in (ball.strike, start, curve) if part]
    counts = sorted(((said.count(one), -said.index(one), one) for one in dict.fromkeys(said)), reverse=True)
    return ", ".join(f"{count} {one}" for count, _, one in counts)


def root_words(root: Root, told: Iterable[SwingFacts] = ()) -> str:
    """What a lesson worked on, with what hung under it, its number and its drill."""
    under = _under(root.fault, told)
    chain = " → ".join([_title(root.fault), *under])
    chosen = "Chosen" if root.by_hand else "Worked on" if root.pursued else "Seen"
    words = f"{chosen}: {small(chain)}"
    if root.verdict == "watch":
        words += " (may be one)"
    if root.value is not None and root.measure:
        words += f", {root_number(root)}"
    if root.drill:
        known = drills_in_use().all.get(root.drill)
        words += f", drill: {small(known.title if known else root.drill)}"
    if root.given_up:
        words += f"; given up: {root.given_up}"
    return words


def root_number(root: Root) -> str:
    """A root's number with its error, and where it is read."""
    if root.value is None:
        return "its number could not be told"
    return f"{measure_words(root.measure, root.at)} {length_words(root.value, root.sigma, root.unit)}"


def limit_of(root: Root) -> str:
    """Where a root's number has to come; empty without a limit."""
    if root.limit is None:
        return ""
    low, high = (root.limit, None) if root.way == "up" else (None, root.limit)
    return allowed_words(root.measure, low, high, root.unit)


def last_title(lesson: Lesson, today: datetime.date) -> str:
    """When the last lesson was, and what it worked on."""
    day = brief_day(lesson.day, today)
    root = lesson.root
    return f"Last time, {day}" + (f": {small(_title(root.fault))}" if root is not None else "")


def last_line(lesson: Lesson, last: Carried | None, change: Difference | None, today: datetime.date) -> str:
    """The last lesson in one line: what it worked on, the number then and now, and what became of it."""
    title = last_title(lesson, today)
    root = lesson.root
    if root is None or last is None or root.value is None:
        return title
    then = length_words(root.value, None, root.unit) if last.now is None else number(root.value, root.unit)
    if last.now is None:
        return f"{title}, {then} then"
    became = f", {moved_words(change, root.way)}" if change is not None else ""
    now = with_unit(number(last.now.value, last.now.unit), last.now.unit)
    return f"{title} {then} → {now}{became}"


def carried_sentence(last: Carried, change: Difference | None = None) -> str:
    """What the last lesson worked on, held against today's swing, before anything new is looked at."""
    root = last.root
    then = capital(root_number(root))
    match last.stage:
        case RootStage.GIVEN_UP:
            return f"{then}; given up ({root.given_up})."
        case RootStage.UNTOLD:
            views = film_views([root.measure])
            return f"{then}. This swing does not tell it: film {views}, or give it up with a reason."
    assert last.now is not None
    now = length_words(last.now.value, last.now.sigma, last.now.unit)
    between = f" ({moved_words(change, root.way)})" if change is not None else ""
    if last.stage is RootStage.HELD:
        return f"{then}, now {now}{between}: inside by more than its error, so the next thing may come."
    limit = limit_of(root)
    return f"{then}, now {now}{between}" + (f"; wanted {limit}." if limit else ".")


def still_work_on(last: Carried) -> str:
    """What to work on while the last lesson's root binds."""
    return f"Still work on: {small(_title(last.root.fault))}. The rest waits till it holds or is given up."


def last_words(lesson: Lesson, plans: Sequence[Plan], until: datetime.date) -> str:
    """The drill that was given, how often it was practised until a day, and what was said."""
    parts = []
    drill = lesson.root.drill if lesson.root else ""
    if drill:
        known = drills_in_use().all.get(drill)
        parts.append(known.title if known else drill)
    since = [plan for plan in plans if lesson.day <= plan.start <= until]
    if since:
        planned = [day for day in planned_days(since[-1]) if day <= until]
        done = sum(one.date <= until for one in since[-1].log)
        parts.append(f"{done} of {len(planned)} sessions")
    if lesson.said:
        parts.append(f"“{lesson.said}”")
    return " · ".join(parts)


def practice_words(student: Student, today: datetime.date) -> tuple[str, ...]:
    """What is practised now: drill, dose, sessions so far, what must move, and care; empty without a plan."""
    plan = student.plan
    if plan is None:
        return ()
    drills = drills_in_use().all
    drill = drills.get(plan.drill)
    amount_ = f"{plan.minutes} min, {len(plan.weekdays)} days a week"
    left = (plan.check_in - today).days
    film = "Film it now: the check-in is due." if left <= 0 else f"Film it on {day_words(plan.check_in)}."
    moves = f"Must move: {measure_words(plan.aim.measure, plan.aim.at)}, {limit_words(plan.aim)}."
    return (drill.title if drill else plan.drill, amount_, moves, film)


def _title(fault: str) -> str:
    faults: Mapping[str, object] = in_use().faults
    known = faults.get(fault)
    return getattr(known, "title", fault.replace("_", " "))


def _under(fault: str, told: Iterable[SwingFacts]) -> list[str]:
    """What was seen and hangs under a fault, near or far."""
    faults = in_use().faults
    seen = dict.fromkeys(one.fault for facts in told for one in facts.seen)
    reached: list[str] = []
    ahead = [fault]
    while ahead:
        known = faults.get(ahead.pop(0))
        for key in known.explains if known else ():
            if key in seen and key not in reached and key != fault:
                reached.append(key)
                ahead.append(key)
    return [small(_title(key)) for key in reached[:3]]


def _overruled(told: Iterable[SwingFacts]) -> str:
    said = {}
    for facts in told:
        for one in facts.overrides:
            reason = f", {one.reason}" if one.reason else ""
            said[one.fault] = f"“{small(_title(one.fault))}” {_SAID.get(one.verdict, one.verdict)}{reason}"
    return "; ".join(said.values())
