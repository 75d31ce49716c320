"""One sentence for a student: no school, no error, left and right instead of lead and trail."""

from __future__ import annotations

import re

from kneel.judge.finding import Finding
from kneel.judge.verdict import Verdict
from kneel.model import Hand
from kneel.speech.words import capital, checkpoint_words, length_words


def sided(words: str, hand: Hand) -> str:
    """Words with lead and trail told as left and right.

    >>> sided("The lead knee and the trail hip.", Hand.RIGHT), sided("Trail side higher", Hand.LEFT)
    ('The left knee and the right hip.', 'Left side higher')
    >>> sided("The lead toes lead to it", Hand.RIGHT)
    'The left toes lead to it'
    """
    lead, trail = ("left", "right") if hand is Hand.RIGHT else ("right", "left")
    for word, side in (("lead", lead), ("trail", trail)):
        words = re.sub(rf"\b{word}\b(?! to\b)", side, words)
        words = re.sub(rf"\b{word.capitalize()}\b", side.capitalize(), words)
    return words


def plain_sentence(finding: Finding, hand: Hand) -> str:
    """What is seen, as one says it across a room; empty where nothing is told."""
    weighed = finding.decided
    if weighed is None or weighed.told is None or finding.verdict is Verdict.UNKNOWN:
        return ""
    if finding.verdict is Verdict.CLEAR:
        return sided(f"{finding.fault.good}.", hand)
    told = weighed.told
    size = length_words(abs(told.value), None, told.unit, signed=False)
    words = weighed.check.says.format(
        size=size, value=length_words(told.value, None, told.unit), checkpoint=checkpoint_words(weighed.at)
    )
    perhaps = "It may be that " if finding.verdict is Verdict.WATCH else ""
    said = f"{perhaps}{words}." if perhaps else f"{capital(words)}."
    return sided(said, hand)
