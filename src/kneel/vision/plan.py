"""What has to be followed: from every mark to the next one, both ways."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from kneel.model import Mark


@dataclass(frozen=True)
class Leg:
    """One way to follow: a point from where it was marked, over frames, forward or back.

    ``last`` is the frame at which to stop, below ``first`` when going back;
    ``end`` is where the point was marked there, None at the clip's edge. A leg
    is the whole key of what was followed: same leg, same answer.
    """

    point: str
    first: int
    x: float
    y: float
    last: int
    end: tuple[float, float] | None = None

    @property
    def step(self) -> int:
        return 1 if self.last >= self.first else -1


def legs(marks: Iterable[Mark], frames: int) -> list[Leg]:
    """The legs that the marks ask for, each as far as the neighbouring mark or the clip's end.

    >>> [(leg.first, leg.last) for leg in legs([Mark("ball", 10, 0, 0)], 100)]
    [(10, 99), (10, 0)]
    """
    by_point: dict[str, list[Mark]] = defaultdict(list)
    for mark in marks:
        if 0 <= mark.frame < frames:
            by_point[mark.point].append(mark)
    found = []
    for point, placed in sorted(by_point.items()):
        placed.sort(key=lambda m: m.frame)
        for k, mark in enumerate(placed):
            following = placed[k + 1] if k + 1 < len(placed) else None
            preceding = placed[k - 1] if k else None
            for other, edge in ((following, frames - 1), (preceding, 0)):
                last = other.frame if other else edge
                if last != mark.frame:
                    end = (other.x, other.y) if other else None
                    found.append(Leg(point, mark.frame, mark.x, mark.y, last, end))
    return found


def span(legs: Sequence[Leg], way: int) -> range:
    """The frames from which legs going one way (+1 or -1) take a step, in that order."""
    if not legs:
        return range(0)
    starts, ends = [leg.first for leg in legs], [leg.last for leg in legs]
    return range(min(starts), max(ends)) if way > 0 else range(max(starts), min(ends), -1)
