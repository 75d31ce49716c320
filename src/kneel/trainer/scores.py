"""What answers say of an eye: what it tells, how large it takes things to be, how sure it may be, what it
takes for what. Pure functions of answers.

Scores count the first answer to a swing alone: whoever sees one again remembers it. They are of one way of
showing and one size of fault, since another asks for another eye.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from kneel.model import View
from kneel.trainer.asked import asked_faults
from kneel.trainer.detection import Counts, Detection
from kneel.trainer.records import Answer, Settings, Sure

LEAST_SIZES = 8
"""Sizes are spoken of from so many on."""

SMALLEST = 0.05
"""No eye is steadier than that, cm or degrees."""

LEAST_TAKEN, SHARE_TAKEN = 3, 0.2
"""One thing is taken for another where that happened so often, and in such a share of what was there."""

LEAST_SURE = 5
PRIOR_DAYS, USUAL_DAYS = 4.0, 0.3
"""Sittings' means of how far sizes are off lie apart by so much of what single ones do, believed like so many
sittings (common practice, no source).
"""


@dataclass(frozen=True)
class SizeError:
    """How far sizes are off, in centimetres or degrees; + is taken to be more than it is.

    ``bias`` is the mean over sittings, ``error`` its standard error, ``typical`` the root mean square.
    """

    unit: str
    count: int
    bias: float
    error: float
    freedom: float
    typical: float

    @property
    def biased(self) -> bool:
        """Whether the mean is off by more than chance, 95 %."""
        return abs(self.bias) > self.error * float(stdtrit(self.freedom, 0.975))


@dataclass(frozen=True)
class SureShare:
    """Of the answers given so sure, how many were right, and between what the share lies (95 %)."""

    sure: Sure
    right: int
    count: int
    between: tuple[float, float]


@dataclass(frozen=True)
class Taken:
    """A fault that was there and not named while another, that was not there, was: so often, of so many."""

    fault: str
    named: str
    count: int
    of: int


@dataclass(frozen=True)
class Scores:
    """All that is shown of an eye. ``each`` has every fault that was ever there or not, ``whole`` whether
    anything is wrong at all.
    """

    answers: tuple[Answer, ...]
    each: dict[str, Detection]
    whole: Detection
    sizes: dict[tuple[View, str], SizeError]
    sure: tuple[SureShare, ...]
    taken: tuple[Taken, ...]

    @property
    def right(self) -> int:
        return sum(one.right for one in self.answers)


def first_answers(answers: Iterable[Answer]) -> list[Answer]:
    """Of each swing the first answer that somebody gave, in order of time."""
    seen: set[tuple[str, str]] = set()
    out = []
    for one in sorted(answers, key=lambda one: one.when):
        if (one.by, one.swing) not in seen:
            seen.add((one.by, one.swing))
            out.append(one)
    return out


def like(answers: Iterable[Answer], settings: Settings) -> list[Answer]:
    """Those of the same size and way of showing; a swing with nothing wrong has any size."""
    return [
        one
        for one in answers
        if one.shown == settings.shown and one.size == settings.size and settings.view in (None, one.view)
    ]


def scores(answers: Sequence[Answer]) -> Scores:
    """The scores of answers, each of another swing."""
    days = by_sitting(answers)
    keys = [key for key in asked_faults() if any(key in (*one.present, *one.absent) for one in answers)]
    return Scores(
        tuple(answers),
        {key: Detection(tuple(_told_of(key, day) for day in days)) for key in keys},
        Detection(tuple(_told_at_all(day) for day in days)),
        _sizes(days),
        tuple(_sureness(answers)),
        tuple(_taken(answers)),
    )


def by_sitting(answers: Sequence[Answer]) -> list[list[Answer]]:
    """Answers of one day (UTC) go together.

    >>> by_sitting([])
    []
    """
    days: dict[str, list[Answer]] = defaultdict(list)
    for one in answers:
        days[one.when[:10]].append(one)
    return list(days.values())


def _told_of(key: str, answers: Sequence[Answer]) -> Counts:
    there = [key in one.named for one in answers if key in one.present]
    not_there = [key in one.named for one in answers if key in one.absent]
    return Counts(sum(there), len(there), sum(not_there), len(not_there))


def _told_at_all(answers: Sequence[Answer]) -> Counts:
    there = [bool(one.named) for one in answers if one.present]
    not_there = [bool(one.named) for one in answers if not one.present and _nothing_between(one)]
    return Counts(sum(there), len(there), sum(not_there), len(not_there))


def _nothing_between(answer: Answer) -> bool:
    """Whether nothing is near a limit, so that “nothing wrong” is simply right."""
    asked = {key for key, one in asked_faults().items() if one.view is answer.view}
    return asked <= set(answer.absent)


def _sizes(days: Sequence[Sequence[Answer]]) -> dict[tuple[View, str], SizeError]:
    """By view, and by what is told in centimetres and what in degrees."""
    off: dict[tuple[View, str], list[list[float]]] = defaultdict(list)
    for day in days:
        here: dict[tuple[View, str], list[float]] = defaultdict(list)
        for one in day:
            for key, said in one.said.items():
                if key in one.true and key in asked_faults():
                    here[one.view, unit_of(key)].append(_further(key, said) - _further(key, one.true[key]))
        for group, values in here.items():
            off[group].append(values)
    return {
        group: told for group, sittings in off.items() if (told := size_error(group[1], sittings)) is not None
    }


def unit_of(key: str) -> str:
    """Whether a fault's size is told in centimetres or in degrees.

    >>> unit_of("sway"), unit_of("sitting")
    ('cm', 'deg')
    """
    return "cm" if asked_faults()[key].shape == "across" else "deg"


def _further(key: str, value: float) -> float:
    """A number so that more of it is more of the movement, whichever way it counts: a sway of −8 is 8."""
    asked = asked_faults()[key]
    return -value if -asked.low > asked.high else value


def size_error(unit: str, sittings: Sequence[Sequence[float]]) -> SizeError | None:
    """What the errors of sizes come to; None of fewer than ``LEAST_SIZES``.

    An eye is off by another amount on another day: the mean's error holds how far sittings lie apart, which a
    prior says where there are few.

    >>> told = size_error("cm", [[1.0, 2.0, 3.0, 2.0], [1.5, 2.5, 2.0, 2.0]])
    >>> round(told.bias, 2), told.biased, size_error("cm", [[1.0, 2.0]])
    (2.0, True, None)
    >>> apart = size_error("cm", [[1.0, 1.1, 0.9, 1.0], [5.0, 5.1, 4.9, 5.0]])
    >>> round(apart.error, 2), round(size_error("cm", [[size] for size in (1.0, 2.0, 3.0, 2.0) * 2]).error, 2)
    (0.89, 0.27)
    """
    every = np.concatenate([np.asarray(values, dtype=np.float64) for values in sittings if len(values)])
    if len(every) < LEAST_SIZES:
        return None
    held = [np.asarray(values, dtype=np.float64) for values in sittings if len(values)]
    counts = np.array([len(values) for values in held], dtype=np.float64)
    means = np.array([values.mean() for values in held])
    inner = sum(float(((values - values.mean()) ** 2).sum()) for values in held)
    freedom_in = max(len(every) - len(held), 1)
    within = inner / freedom_in if len(every) > len(held) else float(every.var(ddof=1))
    within = max(within, SMALLEST**2)
    between = _between_days(means, counts, within)
    weights = 1 / (between + within / counts)
    bias = float((weights * means).sum() / weights.sum())
    freedom = PRIOR_DAYS + len(held) - 1
    return SizeError(
        unit, len(every), bias, float(weights.sum() ** -0.5), freedom, float(np.sqrt(np.mean(every**2)))
    )


def _between_days(means: np.ndarray, counts: np.ndarray, within: float) -> float:
    """The variance between sittings: by moments, with the usual one believed like some sittings."""
    usual = USUAL_DAYS**2 * within
    if len(means) < 2:
        return usual
    shown = max(float(means.var(ddof=1)) - within * float((1 / counts).mean()), 0.0)
    weight = len(means) - 1
    return (weight * shown + PRIOR_DAYS * usual) / (weight + PRIOR_DAYS)


def _sureness(answers: Sequence[Answer]) -> Iterable[SureShare]:
    for sure in Sure:
        given = [one.right for one in answers if one.sure == sure]
        if given:
            yield SureShare(sure, sum(given), len(given), wilson(sum(given), len(given)))


def wilson(count: int, of: int) -> tuple[float, float]:
    """The 95 % interval of a share: Wilson 1927, *JASA* 22:209 (from memory).

    >>> [round(end, 3) for end in wilson(8, 10)]
    [0.49, 0.943]
    """
    z = 1.959964
    share, wide = count / of, z * z / of
    middle = (share + wide / 2) / (1 + wide)
    half = z / (1 + wide) * float(np.sqrt(share * (1 - share) / of + wide / (4 * of)))
    return middle - half, middle + half


def _taken(answers: Sequence[Answer]) -> list[Taken]:
    """What is taken for what, the most often first."""
    there: Counter[str] = Counter()
    pairs: Counter[tuple[str, str]] = Counter()
    for one in answers:
        there.update(one.present)
        pairs.update((key, other) for key in one.missed for other in one.false)
    found = [Taken(key, other, count, there[key]) for (key, other), count in pairs.items()]
    told = [one for one in found if one.count >= LEAST_TAKEN and one.count >= SHARE_TAKEN * one.of]
    return sorted(told, key=lambda one: (-one.count / one.of, one.fault, one.named))


def over_time(answers: Sequence[Answer], block: int = 100, step: int = 20) -> list[tuple[str, Detection]]:
    """Whether anything is wrong at all, over blocks of answers that overlap, with the day each one ends."""
    out = []
    for end in range(block, len(answers) + 1, step):
        part = answers[end - block : end]
        out.append((part[-1].when, Detection(tuple(_told_at_all(day) for day in by_sitting(part)))))
    return out
