"""A finding's number at one moment of the swing, in a student's words: how far, and whether it is wanted."""

from __future__ import annotations

from kneel.judge.finding import Finding
from kneel.model import Hand
from kneel.motion.measures import REGISTRY
from kneel.motion.measures.lines import words_at
from kneel.motion.quantity import Single
from kneel.motion.study import Study
from kneel.speech.home import plain
from kneel.speech.limits import placed_words
from kneel.speech.words import capital, checkpoint_words, length_words

BEGINS = "here it begins"


def moment_title(moment: str, hand: Hand) -> str:
    """A checkpoint as a student reads it."""
    return capital(plain(checkpoint_words(moment).removeprefix("the "), hand))


def moment_words(finding: Finding, study: Study, moment: str, hand: Hand) -> str:
    """What the picture of a moment shows of a finding; empty where it tells nothing."""
    measure = finding.measure or ""
    told = study.at(measure, moment) if measure in REGISTRY else None
    if not isinstance(told, Single):
        return ""
    if moment == "address" and abs(told.value) < 1e-9:
        return BEGINS
    words, other = (words_at(REGISTRY[measure], study.setup.view, way * told.value) for way in (1, -1))
    # Words that change with its sign have said which way it lies.
    size = length_words(abs(told.value), None, told.unit, signed=False)
    placed = size if words != other else placed_words(measure, told.value, told.unit)
    wanted = ", as wanted" if as_wanted(told.value, finding, moment) else ""
    return f"{plain(words, hand)}: {plain(placed, hand)}{wanted}"


def as_wanted(value: float, finding: Finding, moment: str) -> bool:
    """Whether a number is as it is wanted at a moment: inside what was asked of it there; where nothing was,
    it lies the other way than the fault, as hips that go to the target at the hit.
    """
    for weighed in finding.weighed:
        if weighed.at == moment and weighed.limits is not None:
            low, high = weighed.limits.lo, weighed.limits.hi
            return (low is None or value >= low) and (high is None or value <= high)
    decided = finding.decided
    if decided is None or decided.told is None or moment == decided.at:
        return False
    return decided.check.side != "outside" and value * decided.told.value < 0
