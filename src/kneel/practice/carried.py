"""What the last lesson worked on, held against today's swing before anything new is looked at."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from kneel.judge.numbers import Numbers
from kneel.model import Root
from kneel.motion.measures import REGISTRY
from kneel.motion.quantity import Single


class RootStage(StrEnum):
    """Where the last lesson's root stands today."""

    HELD = "held"
    OPEN = "open"
    UNTOLD = "untold"
    GIVEN_UP = "given up"


@dataclass(frozen=True)
class Carried:
    """The last lesson's root, and its number now where today's swing tells it in the same unit."""

    root: Root
    stage: RootStage
    now: Single | None = None

    @property
    def binds(self) -> bool:
        """Whether it is still what is worked on: pursued, not inside its window yet, and not given up."""
        return self.root.pursued and self.stage in (RootStage.OPEN, RootStage.UNTOLD)


def carried(root: Root, numbers: Numbers) -> Carried:
    """Where a root stands: held once its number is inside the limit by more than its standard error.

    >>> from kneel.judge import judge, known
    >>> from kneel.motion.example import example
    >>> reading = judge(example(), known().school("centred"))
    >>> from kneel.judge.numbers import OfSwing
    >>> from kneel.model import Root
    >>> carried(Root("sway", ""), OfSwing(example())) is not None
    True
    """
    if root.given_up:
        return Carried(root, RootStage.GIVEN_UP)
    if root.measure not in REGISTRY or numbers.seen_from(root.measure) is None:
        return Carried(root, RootStage.UNTOLD)
    told = numbers.tell(root.measure, root.at)
    if not isinstance(told, Single) or told.unit != root.unit:
        return Carried(root, RootStage.UNTOLD)
    inside = root.inside(told.value)
    held = inside is not None and inside > told.sigma
    return Carried(root, RootStage.HELD if held else RootStage.OPEN, told)


def first_to_work_on(priority: tuple[str, ...], last: Carried | None) -> tuple[str, ...]:
    """What to work on now: the last lesson's root while it binds, and nothing beside it until it holds.

    >>> from kneel.model import Root
    >>> first_to_work_on(("slide", "flip"), Carried(Root("sway"), RootStage.OPEN))
    ('sway',)
    >>> first_to_work_on(("slide", "flip"), Carried(Root("sway"), RootStage.HELD))
    ('slide', 'flip')
    """
    return (last.root.fault,) if last is not None and last.binds else priority
