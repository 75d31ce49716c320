"""The sides of a check-in and of a cue: which swings are meant, and what they come to, told beside the
desk."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from kneel.book.index.indexing import day_of
from kneel.compare.check_in import Answer, answered
from kneel.compare.errors import Member, OneNumber
from kneel.compare.family import asked_by
from kneel.evidence.kept import KeptSwing, kept_swing
from kneel.evidence.stood import stood_through
from kneel.judge import in_use
from kneel.judge.numbers import OfSwing
from kneel.model import KneelError, Plan
from kneel.motion.quantity import Single

MOST = 24
"""So many swings a side are looked at."""


@dataclass(frozen=True)
class AnswerTold:
    """What a check-in comes to; without an ``answer`` why there is none. ``counts`` are the swings on either
    side that could be told, ``stood`` is whether the camera was seen to stand.
    """

    answer: Answer | None
    counts: tuple[int, int]
    stood: bool = False
    reason: str = ""


def ask(
    plan: Plan,
    before: Sequence[Path],
    after: Sequence[Path],
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    part: Callable[[object], None] = lambda some: None,  # noqa: ARG001
    stopped: Callable[[], bool] = lambda: False,
) -> AnswerTold | None:
    """Hold the swings before and after against the plan. Runs beside the desk, in another process.

    Only swings of the plan's own view, club and kind count: a half swing is no measure of a full one. Of
    those after only what was filmed once the plan had begun counts, on a day after all that it was made
    on.
    """
    total = len(before) + len(after)
    sides: list[list[KeptSwing]] = [[], []]
    for k, document in enumerate((*before, *after)):
        progress(k, total)
        if stopped():
            return None
        known = _known(document)
        known = None if known is None else known.seen_from(plan.view)
        if known is not None and _like(known, plan):
            sides[k >= len(before)].append(known)
    last = max((day_of(one.stretch.path) for one in sides[0]), default=plan.start)
    early = any(not _filmed_since(one, plan, last) for one in sides[1])
    sides[1] = [one for one in sides[1] if _filmed_since(one, plan, last)]
    counts = len(sides[0]), len(sides[1])
    if not all(counts):
        which = "from before the plan" if not counts[0] else "to hold it against"
        reason = f"No swing {which} can be read: open it once, so that it is looked through, and ask again."
        if counts[0] and early:
            reason = "None of these swings was filmed since the plan began: film new ones, and ask again."
        return AnswerTold(None, counts, reason=reason)
    stood = stood_through([(one.stretch, one.study) for side in sides for one in side])
    members = [[_member(one, stood) for one in side] for side in sides]
    school = in_use().school(plan.school)
    asked = asked_by(school, OfSwing(sides[0][0].study, plan.club))
    return AnswerTold(answered(plan, *members, asked), counts, stood)


def number_before(
    document: Path,
    now: Path,
    measure: str,
    at: str,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,  # noqa: ARG001
    part: Callable[[object], None] = lambda some: None,  # noqa: ARG001
    stopped: Callable[[], bool] = lambda: False,  # noqa: ARG001
) -> tuple[Member, Member | None] | None:
    """A number of a swing, as a member of a side; and, where its clip is of the same lesson as that of
    ``now``, or was filmed from the same place, a member like it for ``now`` (its numbers are those of the
    desk). None where it is not told. Runs beside the desk.
    """
    known = _known(document)
    if known is None:
        return None
    known = known.showing(measure)
    single = OfSwing(known.study, known.swing.club).tell(measure, at)
    if not isinstance(single, Single):
        return None
    here = _known(now)
    here = None if here is None else here.showing(measure)
    stood = here is not None and stood_through([(one.stretch, one.study) for one in (known, here)])
    mine = _member(known, stood)
    flat = Single.given(single.key, single.unit, single.value, single.sigma, single.causes)
    number = OneNumber(at, flat, mine.numbers.source)
    theirs = None if here is None else replace(_member(here, stood), numbers=number)
    return replace(mine, numbers=number), theirs


def _known(document: Path) -> KeptSwing | None:
    try:
        return kept_swing(document)
    except (KneelError, OSError):
        return None


def _like(one: KeptSwing, plan: Plan) -> bool:
    numbers = OfSwing(one.study, one.swing.club)
    return (one.study.setup.view, numbers.club, numbers.kind) == (plan.view, plan.club, plan.kind)


def _filmed_since(one: KeptSwing, plan: Plan, last: datetime.date) -> bool:
    day = day_of(one.stretch.path)
    return day >= plan.start and day > last


def _member(one: KeptSwing, stood: bool) -> Member:
    """A swing of a side; lessons are told apart by their day, as in the Book."""
    lesson = day_of(one.stretch.path).isoformat()
    return Member(OfSwing(one.study, one.swing.club), lesson, "one" if stood else lesson)
