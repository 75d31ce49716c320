"""Following coloured spots from where they were clicked.

In every frame the region of the spot's colour nearest to where it is due is
taken. Where it runs into another like it, or is half covered, it is not seen
rather than seen in the wrong place; and where two come out of one, it is lost.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kneel.model import Sighting
from kneel.motion.body import moves
from kneel.vision.plan import Leg, span
from kneel.vision.spot import LONGEST, Spot, cut_out, spot_at, spots_near

Picture = NDArray[np.uint8]
FloatArray = NDArray[np.float64]

MIXED = 0.35
"""A spot that differs by more from what it usually is has run into another, or is half covered."""

ADAPTS_S = 0.3
ADAPTS_TIMES = 1.4
"""What it usually looks like follows in about this time, and at most by this factor in size."""

LOST_S, FARTHEST_M = 0.25, 0.07
"""What has not been seen for so long is no longer looked for, nor anything so far from where it is due:
sooner or later something else of its colour would be found."""

ROLLS = 0.08
"""As the body turns, the middle of what is seen of a spot moves on it: by this share of its radius."""

STRAYS, STRAYS_SHARE = 4.0, 0.1
"""A spot so many errors from where it belongs strays; one that does in this share of its frames is none."""

BEST_SIGMA_PX = 0.12

SKIN_M = {"hip": 0.09, "shoulder": 0.06, "knee": 0.03, "ankle": 0.03, "head": 0.08}
"""How far before a joint its spot sits, in m: on the front of the pelvis, on the kneecap (half a limb's
depth, from memory). Where the body turns, the spot goes aside by its sine."""

TURNS, TURNS_S = 0.5, 0.3
"""The sine by which a body usually turns off the pose it was marked in, and for how long."""


def follow_spots(
    legs: Sequence[Leg],
    picture: Callable[[int], Picture],
    times_s: FloatArray,
    *,
    px_per_m: float,
    stopped: Callable[[], bool] = lambda: False,
) -> dict[Leg, Sighting]:
    """Where the spots that the legs start on are seen; legs that start on none are left out.

    ``picture(n)`` gives frame ``n`` (H, W, 3) RGB, asked in rising order and
    then in falling order; ``times_s`` (T,) are real seconds; ``px_per_m`` is a
    rough px per metre. Sightings are of full length (T,), NaN where the spot
    is hidden or gone. A leg that does not end where it was marked is dropped.
    """
    seen: dict[Leg, Sighting] = {}
    walkers = {}
    starts: dict[tuple[int, float, float], Spot | None] = {}
    for leg in sorted(legs, key=lambda k: k.first):
        click = leg.first, leg.x, leg.y
        # Most clicks begin two legs, one each way.
        if click not in starts and not stopped():
            starts[click] = spot_at(picture(leg.first), leg.x, leg.y, px_per_m=px_per_m)
        start = starts.get(click)
        if start is not None:
            walkers[leg] = _Walker(leg, start, len(times_s), px_per_m)
    for way in (1, -1):
        there = [walker for leg, walker in walkers.items() if leg.step == way]
        for frame in span([w.leg for w in there], way):
            if stopped():
                break
            gap = abs(float(times_s[frame + way] - times_s[frame]))
            here = [w for w in there if w.at == frame and frame != w.leg.last]
            if not here:
                continue
            shown = picture(frame + way)
            taken: list[Spot] = []
            # Who has seen its spot last has the first claim: one spot is not two points.
            for walker in sorted(here, key=lambda w: w.lost_s):
                found = walker.advance(shown, gap, taken)
                taken += [found] if found else []
    for leg, walker in walkers.items():
        if walker.arrived():
            lasting = np.full(len(times_s), ROLLS * walker.first.radius)
            seen[leg] = Sighting(walker.xy, walker.sigma, lasting)
    return seen


class _Walker:
    """One leg being followed from frame to frame."""

    def __init__(self, leg: Leg, start: Spot, frames: int, px_per_m: float) -> None:
        self.leg, self.spot, self.px_per_m, self.at = leg, start, px_per_m, leg.first
        self.first, self.lost_s = start, 0.0
        self.velocity, self.mixed, self.gone = np.zeros(2), False, False
        self.fastest = moves(leg.point)[1] * px_per_m
        self.xy, self.sigma = np.full((frames, 2), np.nan), np.full(frames, np.nan)
        self.xy[self.at], self.sigma[self.at] = (start.x, start.y), BEST_SIGMA_PX

    def advance(self, picture: Picture, gap_s: float, taken: Sequence[Spot]) -> Spot | None:
        """Look for the spot one frame on, among those not taken by others; the one it is, if it is seen."""
        self.at += self.leg.step
        self.lost_s += gap_s
        self.gone = self.gone or self.lost_s > LOST_S
        if self.gone:
            return None
        due = np.array([self.spot.x, self.spot.y]) + self.velocity * min(self.lost_s, 0.1)
        slack = min(0.5 * self.fastest * self.lost_s, FARTHEST_M * self.px_per_m) + 0.01 * self.px_per_m + 2
        cut = cut_out(picture, due[0], due[1], slack + LONGEST * self.first.radius + 3)
        found = [] if cut is None else spots_near(replace(self.spot, x=due[0], y=due[1]), *cut, slack)
        found = [s for s in found if all(np.hypot(s.x - t.x, s.y - t.y) > 0.5 * t.radius for t in taken)]
        if not found or (self.lost_s > 3 * gap_s and not found[0].like(self.spot)):
            return None
        if len(found) > 1 and self.mixed:
            # It had run into another like it; which of the two it is cannot be told.
            self.gone = True
            return None
        spot = found[0]
        odd = spot.oddness(self.spot)
        self.mixed = odd > MIXED
        moved = np.array([spot.x - self.spot.x, spot.y - self.spot.y])
        if not self.mixed:
            sigma = np.hypot(BEST_SIGMA_PX, spot.radius * max(odd, 0.0)) + 0.01 * float(np.hypot(*moved))
            self.xy[self.at], self.sigma[self.at] = (spot.x, spot.y), sigma
            self.velocity = moved / self.lost_s
            self.lost_s = 0.0
        self.spot = self._usual(spot, 0.0 if odd > 0.2 else min(gap_s / ADAPTS_S, 0.5))
        return None if self.mixed else spot

    def _usual(self, spot: Spot, fresh: float) -> Spot:
        """Where it is now; what it usually looks like follows slowly, and not far from the click."""

        def blend(old: float, new: float, first: float) -> float:
            return float(np.clip((1 - fresh) * old + fresh * new, first / ADAPTS_TIMES, first * ADAPTS_TIMES))

        colour = (1 - fresh) * self.spot.colour + fresh * spot.colour
        area = blend(self.spot.area, spot.area, self.first.area)
        length = blend(self.spot.length, spot.length, self.first.length)
        return replace(spot, colour=colour, area=area, length=length)

    def arrived(self) -> bool:
        """Whether it ends near where the leg's end was marked, if that is where it got to."""
        end = self.leg.end
        here = self.xy[self.leg.last]
        if end is None or not np.isfinite(here).all():
            return True
        return bool(np.hypot(*(here - end)) < 1.5 * LONGEST * self.first.radius)


def of_joint(point: str, spot: Sighting, px_per_m: float) -> Sighting:
    """A spot as a sighting of the joint behind it, which it leaves as the body turns."""
    depth = SKIN_M.get(point.rsplit("_", maxsplit=1)[-1], 0.0)
    return replace(spot, wander=TURNS * depth * px_per_m, wander_s=TURNS_S)


def fused(seen: Mapping[Leg, Sighting]) -> dict[str, Sighting]:
    """One sighting per point from its legs: where two disagree, their difference is the error."""
    out = {}
    for point in sorted({leg.point for leg in seen}):
        found = [s for leg, s in seen.items() if leg.point == point]
        xy, sigma = np.stack([s.xy for s in found]), np.stack([s.sigma for s in found])
        weight = np.where(np.isfinite(sigma), 1 / sigma**2, 0.0)
        total = weight.sum(axis=0)
        any_seen = total > 0
        safe = np.where(any_seen, total, 1.0)
        mean = (np.nan_to_num(xy) * weight[..., None]).sum(axis=0) / safe[:, None]
        apart = np.where(weight > 0, np.linalg.norm(np.nan_to_num(xy) - mean, axis=2), 0.0).max(axis=0)
        best = np.nanmin(np.where(weight > 0, sigma, np.inf), axis=0)
        mean[~any_seen] = np.nan
        lasting = np.max([s.lasting for s in found if s.lasting is not None], axis=0)
        out[point] = Sighting(mean, np.where(any_seen, np.hypot(best, apart), np.nan), lasting)
    return out


def on_the_body(spots: Mapping[str, Sighting], seen: Mapping[str, Sequence[Sighting]]) -> dict[str, Sighting]:
    """The spots that go with the joint they were clicked on; others are a sleeve, a hand, the ground.

    ``seen`` is where the body model sees the points. A spot keeps its distance
    from there but for what the model's own error wanders and scatters; one
    that strays farther in a good share of its frames is something else, and
    where it strays for a moment it is not believed then.
    """
    out = {}
    for point, spot in spots.items():
        stray = np.zeros(len(spot.sigma), dtype=bool)
        for one in seen.get(point, ()):
            apart = spot.xy - one.xy
            known = np.isfinite(apart[:, 0])
            if known.any():
                off = np.linalg.norm(apart - np.median(apart[known], axis=0), axis=1)
                limit = STRAYS * np.hypot(one.wander, one.sigma)
                stray |= known & (off > limit)
        if stray.mean() > STRAYS_SHARE * np.isfinite(spot.xy[:, 0]).mean():
            continue
        xy, sigma = np.where(stray[:, None], np.nan, spot.xy), np.where(stray, np.nan, spot.sigma)
        out[point] = replace(spot, xy=xy, sigma=sigma)
    return out
