"""What marks by hand lead to: flow from each to the next, and coloured spots where one was marked."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from kneel.footage import FrameReader
from kneel.model import CameraPath, Links, Sighting
from kneel.vision.colour import follow_spots
from kneel.vision.flow import follow
from kneel.vision.plan import Leg

FloatArray = NDArray[np.float64]


class Source(StrEnum):
    """Where points come from besides marks by hand."""

    BODY = "body"
    FLOW = "flow"
    COLOUR = "colour"


@dataclass(frozen=True)
class Followed:
    """What was followed, by leg; a leg that does not start on a coloured spot has none.

    ``camera`` is how the camera moved, None where it stood still or nobody asked.
    """

    links: Mapping[Leg, Links] = field(default_factory=dict)
    spots: Mapping[Leg, Sighting] = field(default_factory=dict)
    camera: CameraPath | None = None

    def legs(self) -> set[Leg]:
        """The legs that were followed at all."""
        return {*self.links, *self.spots}


def follow_legs(
    legs: Sequence[Leg],
    reader: FrameReader,
    times_s: FloatArray,
    *,
    px_per_m: float,
    sources: frozenset[Source] = frozenset(Source),
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Followed:
    """Follow every leg by flow and, where it starts on a coloured or bright spot, by colour.

    ``times_s`` (T,) are real seconds, ``px_per_m`` a rough px per metre.
    ``stopped`` is asked between frames.
    """
    links: Mapping[Leg, Links] = {}
    spots: Mapping[Leg, Sighting] = {}
    if Source.FLOW in sources:
        links = follow(legs, reader.luma, times_s, px_per_m=px_per_m, progress=progress, stopped=stopped)
    if Source.COLOUR in sources:
        spots = follow_spots(legs, reader.picture, times_s, px_per_m=px_per_m, stopped=stopped)
    return Followed(links, spots)


def marked_places(legs: Sequence[Leg], frames: int) -> FloatArray:
    """Where the marks say that points are, and between them about where, (P, T, 2)."""
    by_point: dict[str, dict[int, tuple[float, float]]] = {}
    for leg in legs:
        by_point.setdefault(leg.point, {})[leg.first] = (leg.x, leg.y)
    out = []
    for placed in by_point.values():
        at = sorted(placed)
        xy = np.array([placed[n] for n in at])
        out.append(np.stack([np.interp(np.arange(frames), at, xy[:, k]) for k in (0, 1)], axis=1))
    return np.array(out)
