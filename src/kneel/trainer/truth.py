"""What a simulated swing truly shows, by the judge's own rule on numbers without an error."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from kneel.judge import Finding, Knowledge
from kneel.judge.kinds import ONCE
from kneel.judge.numbers import SIZED_FOR_CM
from kneel.judge.records import School
from kneel.judge.verdict import HALF
from kneel.judge.weighing import over_checks, weigh
from kneel.model import Club, Kind, View
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY, Unit
from kneel.motion.quantity import Single
from kneel.trainer.asked import AskedFault, asked_in

if TYPE_CHECKING:
    from kneel.sim.truth import Truth

EXACT = 1e-6
"""The stated error of what has none."""


@dataclass(frozen=True)
class TrueNumbers:
    """The numbers of a simulated swing as its picture shows them, those of the body where it shows none."""

    truth: Truth
    view: View
    stature_cm: float
    club: Club = Club.IRON
    kind: Kind = Kind.FULL

    @property
    def size(self) -> float:
        return self.stature_cm / SIZED_FOR_CM

    def cm(self, unit: str) -> tuple[float, float]:  # noqa: ARG002
        return 1.0, 0.0

    def seen_from(self, measure: str) -> View | None:
        return self.view if self.view in REGISTRY[measure].views else None

    def tell(self, measure: str, at: str) -> Single | Failed:
        value = self.value(measure, at)
        if value is None:
            return Failed("the simulator does not tell it", "simulated")
        unit = "cm" if REGISTRY[measure].unit is Unit.LENGTH else REGISTRY[measure].unit.value
        return Single(measure, unit, value, EXACT, value - 2 * EXACT, value + 2 * EXACT)

    def value(self, measure: str, at: str) -> float | None:
        """A measure at a checkpoint, cm or degrees; None where the simulator has none."""
        if at == ONCE:
            value = self.truth.swing.get(measure, float("nan"))
        else:
            series = self.truth.seen.get(measure, self.truth.measures.get(measure))
            if series is None or at not in self.truth.checkpoints_s:
                return None
            value = self.truth.at(series, at)
        return float(value) if np.isfinite(value) else None


def past_limit(finding: Finding) -> float | None:
    """How many steps of severity a fault is past its limit, negative inside; None where nothing tells."""
    told = [one for one in finding.weighed if one.judged is not None]
    if not told or (finding.fault.need == "all" and len(told) < len(finding.weighed)):
        return None
    return over_checks(finding.fault, [one.past for one in told], [one.at for one in told])


def sizes_of(numbers: TrueNumbers, school: School, knowledge: Knowledge) -> dict[str, float]:
    """Of each fault asked for in that view how far it is past its limit."""
    found = {
        one.key: past_limit(weigh(knowledge.faults[one.key], numbers, school))
        for one in asked_in(numbers.view)
    }
    return {key: past for key, past in found.items() if past is not None}


def values_of(numbers: TrueNumbers, asked: Sequence[AskedFault]) -> dict[str, float]:
    """The numbers whose size is asked."""
    told = {one.key: numbers.value(one.measure, one.at) for one in asked}
    return {key: value for key, value in told.items() if value is not None}


def present(past: dict[str, float]) -> tuple[str, ...]:
    """The faults that are there: past their limit by more than half a step, as the judge has it.

    >>> present({"sway": 1.4, "slide": 0.3, "hang_back": -2.0})
    ('sway',)
    """
    return tuple(key for key, size in past.items() if size >= HALF)


def absent(past: dict[str, float]) -> tuple[str, ...]:
    """The faults that are not there: inside their limit. What is between is neither, and nobody is asked.

    >>> absent({"sway": 1.4, "slide": 0.3, "hang_back": -2.0})
    ('hang_back',)
    """
    return tuple(key for key, size in past.items() if size <= 0)
