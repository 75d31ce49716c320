"""All that a school asks of a swing, compared on two sides: the prescribed number alone, others together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kneel.judge.change import Between, Change, Changed, compare, judged_alone, judged_together
from kneel.judge.finding import Why
from kneel.judge.knowledge import Knowledge, known
from kneel.judge.numbers import OfSwing
from kneel.judge.records import School
from kneel.judge.weighing import weigh
from kneel.motion.failure import Failed


@dataclass(frozen=True)
class Asked:
    """A measure at a checkpoint, and the least change of it that would matter, in its unit."""

    measure: str
    at: str
    worth: float


@dataclass(frozen=True)
class Compared:
    """What changed between two sides. ``prescribed`` is the number of a plan, asked alone."""

    prescribed: Change | Failed | None
    others: tuple[Change, ...]
    counts: tuple[int, int]

    @property
    def claimed(self) -> tuple[Change, ...]:
        """All that is said to have changed, or to differ."""
        every = [*((self.prescribed,) if isinstance(self.prescribed, Change) else ()), *self.others]
        return tuple(one for one in every if one.verdict in (Changed.CHANGED, Changed.DIFFER))


def asked_by(school: School, numbers: OfSwing, knowledge: Knowledge | None = None) -> tuple[Asked, ...]:
    """What decides a fault under a school in this view, each once; a margin is what would matter."""
    found: dict[tuple[str, str], Asked] = {}
    for fault in (knowledge or known()).faults.values():
        for weighed in weigh(fault, numbers, school).weighed:
            if weighed.limits is not None and weighed.why is not Why.VIEW:
                key = weighed.check.measure, weighed.at
                found.setdefault(key, Asked(*key, weighed.limits.margin))
    return tuple(found.values())


def compare_all(
    before: Sequence[OfSwing],
    after: Sequence[OfSwing],
    school: School,
    between: Between,
    *,
    prescribed: Asked | None = None,
    also: Sequence[Asked] = (),
) -> Compared:
    """Compare two sides of one view, club and kind in all that the school asks, and in ``also``."""
    one = None
    if prescribed is not None:
        one = compare(before, after, prescribed.measure, prescribed.at, between)
        if isinstance(one, Change):
            one = judged_alone(one, prescribed.worth)
    skip = (prescribed.measure, prescribed.at) if prescribed else None
    rest = {(a.measure, a.at): a for a in (*asked_by(school, before[0]), *also)}
    told = [
        (change, a.worth)
        for key, a in rest.items()
        if key != skip and isinstance(change := compare(before, after, a.measure, a.at, between), Change)
    ]
    others = judged_together([c for c, _ in told], [w for _, w in told])
    return Compared(one, tuple(others), (len(before), len(after)))
