"""One fault judged: what decided it, what speaks for it, and how it hangs together with others. All data."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from kneel.judge.records import Check, Fault, Support
from kneel.judge.verdict import HALF, Judged, Limits, Verdict, normal
from kneel.model import Override
from kneel.motion.quantity import Single
from kneel.motion.viewed import Question


class Why(StrEnum):
    """Why a fault cannot be told."""

    NONE = ""
    VIEW = "view"
    KIND = "kind"
    PLATE = "plate"
    SCHOOL = "school"
    MISSING = "missing"
    DOUBT = "doubt"


NOT_ASKED = (Why.VIEW, Why.SCHOOL, Why.KIND, Why.PLATE)
"""Why nothing is asked: another view, school or kind of swing would, or a plate that is not there."""


@dataclass(frozen=True)
class Weighed:
    """One check at one checkpoint: the value against the window as used, or why there is none."""

    check: Check
    at: str
    limits: Limits | None = None
    told: Single | None = None
    judged: Judged | None = None
    why: Why = Why.NONE
    reason: str = ""
    beyond: bool = False
    """Whether it is asked for going past the window on purpose."""

    usual: bool = False
    """Whether the limits are the fault's own, and no school's."""

    @property
    def verdict(self) -> Verdict:
        return self.judged.verdict if self.judged else Verdict.UNKNOWN

    @property
    def past(self) -> float:
        """Margins past the limit, negative inside."""
        return self.judged.past / self.limits.margin if self.judged and self.limits else 0.0

    @property
    def wide(self) -> bool:
        """Whether its error is too wide for three marks' worth: σ over 0.6 of the margin."""
        return bool(self.told and self.limits and self.told.sigma > 0.6 * self.limits.margin)


@dataclass(frozen=True)
class Supported:
    """A second number that stands beside a fault; ``speaks`` where it speaks for it."""

    support: Support
    at: str
    told: Single
    share: Single | None
    speaks: bool


@dataclass(frozen=True)
class Finding:
    """One fault judged under one school.

    ``because`` is the fault at work that it hangs under, ``explains`` those at work that it leads to,
    near or far. ``fits`` are the reported misses that it brings, ``strange`` those that it does not,
    ``balls`` of how many noted balls it brings the miss.
    ``override`` is what the instructor says, ``numbers_say`` the verdict without it. ``swings`` are those of
    a lesson in which it is at work.
    """

    fault: Fault
    verdict: Verdict
    weighed: tuple[Weighed, ...] = ()
    decided: Weighed | None = None
    why: Why = Why.NONE
    reason: str = ""
    supports: tuple[Supported, ...] = ()
    root: bool = False
    because: str = ""
    explains: tuple[str, ...] = ()
    credit: float = 0.0
    fits: tuple[str, ...] = ()
    strange: tuple[str, ...] = ()
    balls: int = 0
    override: Override | None = None
    swings: tuple[int, ...] = ()
    numbers_say: Verdict | None = None
    question: Question = Question.NONE
    """What must be answered before this, past its limit by enough, is called a fault."""

    @property
    def judged(self) -> Verdict:
        """What the numbers say, whatever the instructor says."""
        return self.numbers_say or self.verdict

    @property
    def key(self) -> str:
        return self.fault.key

    @property
    def asked(self) -> bool:
        """Whether anything is asked of this swing: the view may show it, and the school has a limit."""
        return self.why not in NOT_ASKED

    @property
    def probability(self) -> float | None:
        """The chance that the deciding value is truly past its limit: of this measurement alone."""
        return self.decided.judged.probability if self.decided and self.decided.judged else None

    @property
    def chance(self) -> float:
        """The chance that the deciding value is past its limit by as much as is worth a word."""
        one = self.decided
        if one is None or one.judged is None or one.told is None or one.limits is None:
            return 0.0
        return normal((one.judged.past - HALF * one.limits.margin) / max(one.told.sigma, 1e-9))

    @property
    def severity(self) -> float:
        """Margins past the limit."""
        return self.decided.judged.severity if self.decided and self.decided.judged else 0.0

    @property
    def checkpoint(self) -> str | None:
        return self.decided.at if self.decided else None

    @property
    def measure(self) -> str | None:
        return self.decided.check.measure if self.decided else None

    @property
    def told(self) -> Single | None:
        return self.decided.told if self.decided else None

    @property
    def unit(self) -> str | None:
        return self.told.unit if self.told else None

    @property
    def value(self) -> float | None:
        return self.told.value if self.told else None

    @property
    def sigma(self) -> float | None:
        return self.told.sigma if self.told else None

    @property
    def limits(self) -> Limits | None:
        return self.decided.limits if self.decided else None

    @property
    def window(self) -> tuple[float | None, float | None] | None:
        """The window as used, in the unit of the value."""
        return (self.limits.lo, self.limits.hi) if self.limits else None
