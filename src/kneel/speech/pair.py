"""What is said of two swings side by side: of these two, never of the student."""

from __future__ import annotations

from kneel.compare.difference import Difference
from kneel.compare.family import Compared
from kneel.compare.pair import Pair
from kneel.speech.practice import measure_words
from kneel.speech.words import capital, length_words, number, with_unit


def step_words(pair: Pair) -> str:
    """By what the two run in step, and how well."""
    count = len(pair.step.checkpoints)
    by = "one checkpoint" if count == 1 else f"{count} checkpoints"
    return f"In step by {by}, ± {1000 * pair.step.typical_s:.0f} ms."


def counted_words(found: Compared) -> str:
    """How many numbers were asked, and how many differ."""
    asked, real = len(found.rows), len(found.claimed)
    if not asked:
        return "No number is told by both."
    numbers = "one number" if asked == 1 else f"{asked} numbers"
    if not real:
        return f"Of {numbers} none differs by more than its error explains."
    verb = "differs by more than its error explains" if real == 1 else "differ by more than errors explain"
    return f"Of {numbers} {real} {verb}."


def difference_words(one: Difference) -> str:
    """One number of both, and what lies between.

    >>> numbers = -8.1, -6.6, 0.7, 0.6, 9.0, (None, None), (1, 1), 0.01, 1.3, 1.5
    >>> difference_words(Difference("pelvis_shift", "top", "cm", *numbers))
    'Pelvis shift at the top: −8.1 and −6.6 cm, +1.5 ± 0.6 cm between them.'
    """
    first, second = number(one.before, one.unit), with_unit(number(one.after, one.unit), one.unit)
    between = length_words(one.difference, one.sigma, one.unit)
    return f"{capital(measure_words(one.measure, one.at))}: {first} and {second}, {between} between them."


def least_words(one: Difference) -> str:
    """The least that could be told of it here.

    >>> numbers = -8.1, -6.6, 0.7, 0.6, 9.0, (None, None), (1, 1), 0.01, 1.3, 1.5
    >>> least_words(Difference("pelvis_shift", "top", "cm", *numbers))
    'The least that can be told here is 1.5 cm; asked alone, 1.3 cm.'
    """
    least, alone = (
        length_words(v, None, one.unit, signed=False) for v in (one.detectable, one.detectable_alone)
    )
    return f"The least that can be told here is {least}; asked alone, {alone}."


def pair_sentences(pair: Pair) -> list[str]:
    """All that is said: how they run in step, how many numbers were asked, and those that differ."""
    differing = [difference_words(one) for one in pair.compared.rows if one.claimed]
    return [step_words(pair), counted_words(pair.compared), *differing]
