"""A reading in the order of the swing: what is at work, fine, or cannot be told at each checkpoint."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from kneel.judge.finding import Finding
from kneel.judge.kinds import ONCE
from kneel.judge.reading import Reading
from kneel.judge.verdict import Verdict
from kneel.model import CHECKPOINTS

ORDER = (*CHECKPOINTS, ONCE)


@dataclass(frozen=True)
class Stop:
    """One checkpoint of a walk, ``once`` for the swing as a whole."""

    at: str
    work: tuple[Finding, ...]
    fine: tuple[Finding, ...]
    untold: tuple[Finding, ...]

    @property
    def first(self) -> Finding | None:
        """What is looked at there first."""
        return next(iter((*self.work, *self.fine, *self.untold)), None)


def walk(reading: Reading) -> tuple[Stop, ...]:
    """Every checkpoint at which something is asked, set-up first; a finding stands where it was decided.

    >>> from kneel.judge import judge, known
    >>> from kneel.motion.example import example
    >>> reading = judge(example(), known().school("centred"))
    >>> len(walk(reading)) > 1
    True
    """
    return tuple(_stops(reading))


def _stops(reading: Reading) -> Iterator[Stop]:
    placed: dict[str, list[Finding]] = {}
    for finding in reading.findings:
        if finding.asked or finding.override is not None:
            placed.setdefault(_place(finding), []).append(finding)
    for at in ORDER:
        here = placed.get(at, [])
        if here:
            yield Stop(
                at,
                tuple(f for f in here if f.verdict.at_work),
                tuple(f for f in here if f.verdict is Verdict.CLEAR),
                tuple(f for f in here if f.verdict is Verdict.UNKNOWN),
            )


def _place(finding: Finding) -> str:
    """Where a finding was decided, or where it would be."""
    return finding.checkpoint or finding.fault.check[0].at[0]
