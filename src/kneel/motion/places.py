"""Solved points as measures see them: levelled, in units, x toward the target, named by lead and trail."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kneel.model import Hand, View, anatomical
from kneel.motion.pairs import JOINTS, Paired
from kneel.motion.sample import SWINGING_M, Alike, ByPoint, Lens, Sample
from kneel.motion.scale import Scale
from kneel.motion.stand import Stand
from kneel.motion.track import Track

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Timed:
    """A moment at which measures are wanted: a fractional frame, and the error of its time in s."""

    name: str
    frame: float
    sigma_s: float


@dataclass(frozen=True)
class Places:
    """The tracks of one swing in the scale's unit.

    ``direction`` is +1 where the target (down the line: the ball line) lies at image
    right. ``address`` counts from, ``frames`` and the rest as in :class:`Sample`.
    ``origin_px`` is where the camera looks to and as high as it stands; only what is
    unsure depends on it.
    """

    tracks: Mapping[str, Track]
    times_s: FloatArray
    hand: Hand
    view: View
    direction: int
    scale: Scale
    px_per_m: float
    stand: Stand
    address: Timed
    origin_px: tuple[float, float]
    unsteady_px: FloatArray | None = None
    repeats: Mapping[str, tuple[float, float]] = field(default_factory=dict)

    def track(self, point: str) -> Track | None:
        """The track of a point named by lead and trail."""
        return self.tracks.get(anatomical(point, self.hand))

    def _known(self, point: str) -> Track:
        return self.tracks[anatomical(point, self.hand)]

    @cached_property
    def xy(self) -> ByPoint[FloatArray]:
        """Places (T, 2) in units, by point."""
        return ByPoint(lambda point: self.in_units(self._known(point).xy))

    def in_units(self, px: FloatArray) -> FloatArray:
        """Pixels (..., 2) as units along the target line and up, from :attr:`origin_px`."""
        roll = np.radians(self.stand.roll_deg)
        x, y = px[..., 0] - self.origin_px[0], px[..., 1] - self.origin_px[1]
        level = np.stack([np.cos(roll) * x + np.sin(roll) * y, np.cos(roll) * y - np.sin(roll) * x], axis=-1)
        return np.asarray(level * self.scale.per_px * np.array([self.direction, -1.0]))

    def in_pixels(self, moved: FloatArray) -> FloatArray:
        """A move (..., 2) in units, along the target line and up, as one of the picture, px (..., 2)."""
        level = moved / self.scale.per_px * np.array([self.direction, -1.0])
        roll = np.radians(self.stand.roll_deg)
        x, y = level[..., 0], level[..., 1]
        return np.stack([np.cos(roll) * x - np.sin(roll) * y, np.sin(roll) * x + np.cos(roll) * y], axis=-1)

    @cached_property
    def sigma(self) -> ByPoint[FloatArray]:
        return ByPoint(lambda point: self._known(point).sigma * self.scale.per_px)

    @cached_property
    def across(self) -> ByPoint[FloatArray]:
        """Covariance of every frame with address, (T,) in square units, by point."""
        frame, square = self.address_frame, self.scale.per_px**2
        return ByPoint(lambda point: self._known(point).covariance_with(frame) * square)

    @cached_property
    def alike(self) -> dict[tuple[str, str], Alike]:
        """How the errors of pairs that were solved together, and of each end, hang together by frame."""
        found, frame, square = {}, self.address_frame, self.scale.per_px**2
        for joint in JOINTS:
            for one, two in (("lead", "trail"), ("lead", "lead"), ("trail", "trail")):
                points = f"{one}_{joint}", f"{two}_{joint}"
                a, b = (self.track(point) for point in points)
                if isinstance(a, Paired) and isinstance(b, Paired):
                    now = a.alike(b)
                    found[points] = Alike(now, now[frame], a.together(b, frame) * square)
        return found

    @cached_property
    def lasts(self) -> ByPoint[FloatArray]:
        """What lasts through the clip of each point's error, (T, B) units."""
        return ByPoint(lambda point: self._known(point).lasts * self.scale.per_px)

    @cached_property
    def pace(self) -> ByPoint[FloatArray]:
        if len(self.times_s) < 2:
            return ByPoint(lambda point: np.zeros_like(self.xy[point]))
        return ByPoint(lambda point: np.gradient(self.xy[point], self.times_s, axis=0))

    @property
    def address_frame(self) -> int:
        return int(np.clip(np.floor(self.address.frame + 0.5 + 1e-6), 0, len(self.times_s) - 1))

    @cached_property
    def lens(self) -> Lens:
        """How the camera sees, in units."""
        return Lens(self.view, self.stand, self.px_per_m * self.scale.per_px, np.zeros(2))

    @cached_property
    def swings(self) -> FloatArray:
        """How far the body is, or has been since, from its address at every frame, 0 to 1.

        At impact the hands are back where they were; the pelvis is not.
        """
        start, most = self.address_frame, np.zeros(len(self.times_s))
        for name, track in self.tracks.items():
            if name != "ball":
                most = np.maximum(most, np.linalg.norm(track.xy - track.xy[start], axis=1))
        most[start:] = np.maximum.accumulate(most[start:])
        return np.minimum(most / (SWINGING_M * self.px_per_m), 1.0)

    def sample(self, closed: Mapping[str, FloatArray]) -> Sample:
        """Every frame; ``closed`` maps hip and shoulder to the sign of their turn, (T,)."""
        then = self.address_frame
        return Sample(
            self.xy,
            ByPoint(lambda p: self.xy[p][then]),
            self.sigma,
            ByPoint(lambda p: float(self.sigma[p][then])),
            self.across,
            self.lasts,
            ByPoint(lambda p: self.lasts[p][then]),
            self.pace,
            ByPoint(lambda p: self.pace[p][then]),
            self.lens,
            self.scale.relative,
            self.address.sigma_s,
            self.swings,
            closed,
            self.repeats,
            self.alike,
            *self._unsteady(),
        )

    def frames(self, frames: NDArray[np.int64], closed: Mapping[str, FloatArray]) -> Sample:
        """Some whole frames."""
        return self.sample_at([Timed("", float(f), 0.0) for f in frames], closed)

    def draws(self, point: str, count: int, frames: NDArray[np.int64], *, lasting: bool = True) -> FloatArray:
        """Drawn errors of a point's path at some frames, (count, K, 2) units; alike for every measure.
        Without ``lasting`` what lasts through the clip is left out.
        """
        track, name = self._known(point), anatomical(point, self.hand)
        # Both ends of a pair are drawn by one seed, or they would not err together.
        seed = [ord(c) for c in (name.rpartition("_")[2] if isinstance(track, Paired) else name)]
        return track.draws(count, seed, frames, lasting=lasting) * self.scale.per_px

    def sample_at(self, moments: Sequence[Timed], closed: Mapping[str, FloatArray]) -> Sample:
        """Some moments, with the errors of their own times."""
        index, frames = np.arange(len(self.times_s)), np.array([m.frame for m in moments])
        then = self.address_frame

        def part(values: FloatArray) -> FloatArray:
            if values.ndim == 1:
                return np.interp(frames, index, values)
            columns = [np.interp(frames, index, column) for column in values.T]
            return np.stack(columns, axis=1) if columns else np.empty((len(frames), 0))

        unsteady, before = self._unsteady()
        return Sample(
            ByPoint(lambda p: part(self.xy[p])),
            ByPoint(lambda p: self.xy[p][then]),
            ByPoint(lambda p: part(self.sigma[p])),
            ByPoint(lambda p: float(self.sigma[p][then])),
            ByPoint(lambda p: part(self.across[p])),
            ByPoint(lambda p: part(self.lasts[p])),
            ByPoint(lambda p: self.lasts[p][then]),
            ByPoint(lambda p: part(self.pace[p])),
            ByPoint(lambda p: self.pace[p][then]),
            self.lens,
            self.scale.relative,
            self.address.sigma_s,
            part(self.swings),
            {joint: part(way) for joint, way in closed.items()},
            self.repeats,
            {pair: Alike(part(one.now), one.then, part(one.across)) for pair, one in self.alike.items()},
            None if unsteady is None else part(unsteady),
            before,
            np.array([m.sigma_s for m in moments]),
            tuple(m.name for m in moments),
        )

    def _unsteady(self) -> tuple[FloatArray | None, float]:
        if self.unsteady_px is None:
            return None, 0.0
        size = self.unsteady_px * self.scale.per_px
        return size, float(size[self.address_frame])
