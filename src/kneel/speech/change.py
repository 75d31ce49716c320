"""What is said of a difference, of a check-in and of a cue, from the data of comparing and practice."""

from __future__ import annotations

from kneel.compare.check_in import Answer, Outcome
from kneel.compare.difference import ChangeWord, Difference
from kneel.model import Cue
from kneel.practice.cues import Tried, clearly_moved, moved
from kneel.speech.practice import measure_words
from kneel.speech.words import capital, length_words, listed, number, with_unit

_OUTCOMES = {
    Outcome.HOLDS: "It holds: keep the drill at half the dose and go on to the next thing.",
    Outcome.CLOSER: "It moved the right way and is not there yet: go on as planned.",
    Outcome.CANNOT_TELL: "Cannot tell: it is within the error. Film more swings, camera in one place.",
    Outcome.NOT_MOVED: "It has not moved: change the drill, not the dose.",
    Outcome.WORSE: "Something got worse: stop this drill and look again.",
    Outcome.NOT_TOLD: "The number cannot be told from these swings.",
}


SINCE = {
    ChangeWord.CHANGED: "changed",
    ChangeWord.UNCHANGED: "unchanged",
    ChangeWord.CANNOT_TELL: "cannot tell",
    ChangeWord.DIFFER: "the swings differ",
    ChangeWord.ALIKE: "within error",
}
"""A verdict in two words; of fewer than three swings a side none speaks of the student."""


def moved_words(change: Difference, way: str = "") -> str:
    """What became of a number that is to go ``way``, up or down: better or worse by how much, where it moved
    by more than its error; without a way the verdict alone.

    >>> numbers = -8.1, -6.6, 0.7, 0.6, 9.0, (0.4, 0.5), (3, 3), 0.01, 1.3, 1.3
    >>> some = Difference("pelvis_shift", "top", "cm", *numbers, verdict=ChangeWord.DIFFER)
    >>> moved_words(some, "up"), moved_words(some, "down"), moved_words(some)
    ('better by 1.5 cm', 'worse by 1.5 cm', 'the swings differ')
    """
    if not way or change.verdict not in (ChangeWord.CHANGED, ChangeWord.DIFFER):
        return SINCE[change.verdict]
    better = (change.difference > 0) == (way == "up")
    return f"{'better' if better else 'worse'} by {length_words(abs(change.difference), None, change.unit)}"


def answer_sentence(answer: Answer) -> str:
    """What a check-in comes to, and what to do."""
    change = answer.change
    if answer.outcome is Outcome.FEW and change is not None:
        return few_sentence(change)
    said = _OUTCOMES.get(answer.outcome, "")
    if answer.worse:
        what = listed([measure_words(one.measure, one.at) for one in answer.worse])
        return f"{said} {capital(what)} got worse."
    if answer.outcome is Outcome.NOT_TOLD:
        return f"{said} {answer.reason}".strip()
    return said if change is None else f"{change_sentence(change)} {said}"


def answer_words(answer: Answer | None, reason: str = "") -> tuple[str, tuple[str, ...]]:
    """What a check-in comes to, and what else is said to have changed; of none the ``reason``."""
    if answer is None:
        return reason, ()
    rest = (one for one in answer.found.claimed if one is not answer.change)
    return answer_sentence(answer), tuple(change_sentence(one) for one in rest)


def few_sentence(change: Difference) -> str:
    """Fewer than three swings a side tell nothing of the student."""
    differ = (
        "These swings differ"
        if change.verdict is ChangeWord.DIFFER
        else "These swings do not differ beyond error"
    )
    amount = with_unit(number(change.difference, change.unit), change.unit)
    return f"{differ} ({amount}); film three a side to know whether it stays."


def change_sentence(change: Difference) -> str:
    """What is said of one number on both sides."""
    if change.verdict in (ChangeWord.DIFFER, ChangeWord.ALIKE):
        return few_sentence(change)
    before, after = (with_unit(number(v, change.unit), change.unit) for v in (change.before, change.after))
    least = length_words(change.detectable, None, change.unit)
    words = {
        ChangeWord.CHANGED: "a real change",
        ChangeWord.UNCHANGED: "unchanged",
        ChangeWord.CANNOT_TELL: "no telling",
    }[change.verdict]
    return (
        f"{capital(measure_words(change.measure, change.at))} went from {before} to {after}: {words} "
        f"(the least that can be told here is {least})."
    )


def since_words(change: Difference, day: str) -> str:
    """What became of a number since a day, in few words; nothing more than the rule for changes allows.

    >>> from dataclasses import replace
    >>> numbers = -8.1, -6.6, 0.7, 0.6, 9.0, (0.4, 0.5), (3, 3), 0.01, 1.3, 1.3
    >>> some = Difference("pelvis_shift", "top", "cm", *numbers)
    >>> since_words(replace(some, verdict=ChangeWord.CHANGED), "4 Aug")
    '+1.5 ± 0.6 cm since 4 Aug: changed'
    >>> since_words(replace(some, verdict=ChangeWord.ALIKE), "4 Aug")
    '+1.5 ± 0.6 cm since 4 Aug: within error'
    """
    amount = length_words(change.difference, change.sigma, change.unit)
    return f"{amount} since {day}: {SINCE[change.verdict]}"


def cue_words(one: Tried) -> str:
    """How often a cue worked; and beside what it felt like how much it was."""
    felt = (
        f" Felt like {one.felt.rstrip('.')}; it was {length_words(one.real, None, one.unit)}."
        if one.felt
        else ""
    )
    return _worked(one) + (f".{felt}" if felt else "")


def felt_and_real(cue: Cue) -> str:
    """A cue of two swings as what it is: each number with its own error, and what it felt like beside it."""
    then, now = (
        length_words(value, sigma, cue.unit)
        for value, sigma in ((cue.before, cue.before_sigma), (cue.after, cue.after_sigma))
    )
    far, sigma = moved(cue)
    real = f"one swing each: {then} before, {now} after, {length_words(far, sigma, cue.unit)} its way"
    clearly = "it moved" if clearly_moved(cue) else "no clear move"
    felt = f" Felt like {cue.felt.rstrip('.')}." if cue.felt else ""
    return f"{capital(real)}: {clearly}.{felt}"


def _worked(one: Tried) -> str:
    times = "once" if one.times == 1 else f"{one.times} times"
    if one.worked:
        return (
            f"“{one.words}”: moved it {one.clearly} of {one.times}"
            if one.times > 1
            else f"“{one.words}”: moved it"
        )
    return f"“{one.words}”: tried {times}, no clear move"
