"""Which numbers were asked, and what that costs: one alone, or many together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kneel.compare.difference import ALONE, Difference, difference
from kneel.compare.errors import Member
from kneel.judge.finding import Why
from kneel.judge.knowledge import Knowledge, in_use
from kneel.judge.numbers import Numbers
from kneel.judge.records import School
from kneel.judge.weighing import weigh
from kneel.motion.failure import Failed

FAMILY = 0.02
"""Chance of any false claim about the numbers that are asked together (Holm)."""


@dataclass(frozen=True)
class AskedNumber:
    """A measure at a checkpoint, and the least change of it that would matter, in its unit."""

    measure: str
    at: str
    worth: float


@dataclass(frozen=True)
class Compared:
    """What lies between two sides. ``prescribed`` is the number of a plan, asked alone."""

    prescribed: Difference | Failed | None
    others: tuple[Difference, ...]
    counts: tuple[int, int]

    @property
    def rows(self) -> tuple[Difference, ...]:
        """All differences, the largest for its error first; what a plan prescribes, before all."""
        first = (self.prescribed,) if isinstance(self.prescribed, Difference) else ()
        return (*first, *sorted(self.others, key=lambda one: one.p))

    @property
    def claimed(self) -> tuple[Difference, ...]:
        """All that is said to have changed, or to differ."""
        first = (self.prescribed,) if isinstance(self.prescribed, Difference) else ()
        return tuple(one for one in (*first, *self.others) if one.claimed)


def judged_alone(found: Difference, worth: float, *, among: int = 1, chance: float = ALONE) -> Difference:
    """The difference with its verdict, asked alone, of a number that was chosen ``among`` so many by what
    they came to: the worst of many was worse by chance, so that all of them count (Bonferroni).

    >>> from kneel.compare.difference import two_sides
    >>> from kneel.motion.example import example
    >>> from kneel.judge.numbers import OfSwing
    >>> sides = two_sides([OfSwing(example())], [OfSwing(example(-12.0))])
    >>> judged_alone(difference(*sides, "pelvis_shift", "top"), 1.0).verdict.value
    'these differ'
    """
    limit = chance / max(among, 1)
    return found.judged(worth, found.limit(limit), claimed=found.p <= limit)


def judged_together(
    found: Sequence[Difference], worth: Sequence[float], chance: float = FAMILY
) -> list[Difference]:
    """Several differences asked together: together they are wrong with at most that chance.

    Step down by Holm (S. Holm, A simple sequentially rejective multiple test procedure, Scand. J. Statist. 6,
    1979): the k-th smallest p of m counts where it and all before it are at most chance / (m − k + 1).

    >>> from kneel.compare.difference import two_sides
    >>> from kneel.motion.example import example
    >>> from kneel.judge.numbers import OfSwing
    >>> sides = two_sides([OfSwing(example())], [OfSwing(example(-12.0))])
    >>> found = [difference(*sides, "pelvis_shift", at) for at in ("top", "impact")]
    >>> [one.claimed for one in judged_together(found, [1.0, 1.0])]
    [True, False]
    """
    order = sorted(range(len(found)), key=lambda k: found[k].p)
    claimed: set[int] = set()
    for step, k in enumerate(order):
        if found[k].p > chance / (len(found) - step):
            break
        claimed.add(k)
    return [
        one.judged(least, one.limit(chance / len(found)), claimed=k in claimed)
        for k, (one, least) in enumerate(zip(found, worth, strict=True))
    ]


def asked_by(school: School, numbers: Numbers, knowledge: Knowledge | None = None) -> tuple[AskedNumber, ...]:
    """What decides a fault under a school in this view, each once; a margin is what would matter.

    >>> from kneel.motion.example import example
    >>> from kneel.judge.numbers import OfSwing
    >>> asked = asked_by(in_use().school("centred"), OfSwing(example()))
    >>> ("pelvis_shift", "top") in {(one.measure, one.at) for one in asked}
    True
    """
    found: dict[tuple[str, str], AskedNumber] = {}
    for fault in (knowledge or in_use()).faults.values():
        for weighed in weigh(fault, numbers, school).weighed:
            if weighed.limits is not None and weighed.why is not Why.VIEW:
                key = weighed.check.measure, weighed.at
                found.setdefault(key, AskedNumber(*key, weighed.limits.margin))
    return tuple(found.values())


def compare_all(
    before: Sequence[Member],
    after: Sequence[Member],
    asked: Sequence[AskedNumber],
    *,
    prescribed: AskedNumber | None = None,
    among: int = 1,
) -> Compared:
    """Compare two sides of one view, club and kind in all that is ``asked``, together, and in what was
    ``prescribed``, alone; that was chosen ``among`` so many.

    >>> from kneel.compare.difference import two_sides
    >>> from kneel.motion.example import example
    >>> from kneel.judge.numbers import OfSwing
    >>> sides = two_sides([OfSwing(example())], [OfSwing(example(-12.0))])
    >>> found = compare_all(*sides, [AskedNumber("pelvis_shift", "top", 1.0)])
    >>> [one.measure for one in found.claimed]
    ['pelvis_shift']
    """
    one = None
    if prescribed is not None:
        one = difference(before, after, prescribed.measure, prescribed.at)
        if isinstance(one, Difference):
            one = judged_alone(one, prescribed.worth, among=among)
    skip = (prescribed.measure, prescribed.at) if prescribed else None
    rest = {(a.measure, a.at): a.worth for a in asked}
    told = [
        (found, worth)
        for key, worth in rest.items()
        if key != skip and isinstance(found := difference(before, after, *key), Difference)
    ]
    others = judged_together([found for found, _ in told], [worth for _, worth in told])
    return Compared(one, tuple(others), (len(before), len(after)))
