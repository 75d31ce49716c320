"""The two sides of a check-in: which swings are meant, and what they come to, told beside the desk."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from kneel.evidence.kept import KeptSwing, kept_swing
from kneel.evidence.stood import stood_through
from kneel.judge import at_hand
from kneel.judge.change import Between
from kneel.judge.numbers import OfSwing
from kneel.model import KneelError, Plan
from kneel.practice.answer import Outcome, answered
from kneel.speech.change import answer_sentence, change_sentence

MOST = 24
"""So many swings a side are looked at."""


@dataclass(frozen=True)
class AnswerTold:
    """What a check-in comes to, in words; ``counts`` are the swings on either side that could be told."""

    outcome: Outcome
    text: str
    others: tuple[str, ...]
    counts: tuple[int, int]
    stood: bool


def ask(
    plan: Plan,
    before: Sequence[Path],
    after: Sequence[Path],
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    part: Callable[[object], None] = lambda some: None,  # noqa: ARG001
    stopped: Callable[[], bool] = lambda: False,
) -> AnswerTold | None:
    """Hold the swings before and after against the plan. Runs beside the desk, in another process."""
    total = len(before) + len(after)
    sides: list[list[KeptSwing]] = [[], []]
    for k, document in enumerate((*before, *after)):
        progress(k, total)
        if stopped():
            return None
        try:
            known = kept_swing(document)
        except (KneelError, OSError):
            known = None
        if known is not None and known.study.setup.view is plan.view:
            sides[k >= len(before)].append(known)
    counts = len(sides[0]), len(sides[1])
    if not all(counts):
        which = "from before the plan" if not counts[0] else "to hold it against"
        text = f"No swing {which} can be read: open it once, so that it is looked through, and ask again."
        return AnswerTold(Outcome.NOT_TOLD, text, (), counts, False)
    stood = stood_through([(one.stretch, one.study) for side in sides for one in side])
    lessons = {one.stretch.path.parent for one in sides[0]} != {one.stretch.path.parent for one in sides[1]}
    numbers = [[OfSwing(one.study, one.swing.club) for one in side] for side in sides]
    school = at_hand()[0].school(plan.school)
    answer = answered(plan, numbers[0], numbers[1], school, Between(lessons=lessons, stood=stood))
    others = tuple(change_sentence(one) for one in answer.found.claimed if one is not answer.found.prescribed)
    return AnswerTold(answer.outcome, answer_sentence(answer), others, counts, stood)
