"""The track solver: from scattered sightings to a path and its standard error.

Per coordinate of a point the path x over frames 0..T-1 minimises

    sum w_seen(t) (x_t - z_t)^2                     absolute sightings
  + sum w_step(t) (x_{t+1} - x_t - f_t)^2           motion followed in the picture
  + sum (v_t - v_{t-1})^2 / (q (dt_t + dt_{t-1})/2) unforced changes of velocity
  + sum v_t^2 dt_t / (q tau^2)                      which fade within tau, so that
  + (v_0^2 + v_{T-2}^2) / (2 V^2)                   speeds are V or so in the long run

with v_t = (x_{t+1} - x_t)/dt_t on the real, uneven frame times and weights of
one over variance. The last three are minus twice the log density of a
stationary velocity of Ornstein and Uhlenbeck (1930, "On the theory of the
Brownian motion") of standard deviation V and fading time tau = 2 V^2/q. They
are sums over time, so that more frames of one motion change nothing.

What is followed in the picture between the same two frames is one witness,
however often and whichever way it was followed
(:func:`kneel.motion.witnesses.one_witness`).

All but hand-placed marks are Huber-weighted by their radial residual. The
normal matrix is pentadiagonal; the diagonal of its inverse is the variance
(Rauch, Tung and Striebel's smoother gives the same numbers, which the tests
check).

A body model errs in ways that last, so it has unknowns of its own. What it is
off by through the whole clip (this body in these clothes) borders the matrix
and is eliminated by its Schur complement. What it is off by for a while (this
pose) is a first-order Gauss-Markov process b_t, which sits between the x_t in
the same banded matrix, of twice the size and half bandwidth 4. Where the model
sees a joint badly it shows that error c_t times (``Sighting.doubt``): what it
is off by behind the other leg lasts as long as it is hidden, so that looking
there a hundred times tells no more than looking once.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray

from kneel.model import Links, Sighting
from kneel.motion.banded import Factor, factor
from kneel.motion.witnesses import Layer, link_layers, sighting_layers

FloatArray = NDArray[np.float64]

SETTLED_PX = 0.05
"""Robust weights are not renewed once no point moves by more."""

LEAST_PX = 0.005
"""Errors that a source claims to be smaller are taken to be this."""

LASTING_FADES_S = 0.4
"""A lasting error keeps its size about this long (of the order of half a swing)."""


@dataclass(frozen=True)
class PointData:
    """All that is known of one point before solving.

    ``restless`` is the square root of q, the spectral density of its
    unforced acceleration, in px/s^1.5; ``fastest`` V, the standard deviation of
    its velocity in the long run, px/s. ``links`` are all of the same pixels: they count once.
    """

    sightings: Sequence[Sighting]
    links: Sequence[Links] = ()
    restless: float = 600.0
    fastest: float = 3000.0

    def seen(self) -> bool:
        """True where at least one sighting says where the point is."""
        return any(np.isfinite(s.xy[:, 0]).any() for s in self.sightings)


@dataclass(frozen=True)
class Track:
    """The path of one point: ``xy`` (T, 2) px, ``sigma`` (T,) px per coordinate.

    Errors of x and y are equal and independent; those of two frames are not,
    see :meth:`covariance_with`.
    """

    xy: FloatArray
    sigma: FloatArray
    times_s: FloatArray
    lasting: FloatArray
    _factor: Factor
    _slot: int
    _border: FloatArray
    _each: int = 1
    _learnt: tuple[tuple[FloatArray, float], ...] = ()

    def marked(self, frame: int, xy: FloatArray, sigma: float, instead_of: FloatArray | None = None) -> Track:
        """The track with one more mark by hand (2,) px, or with one moved, all other weights as they are.

        A change of rank one, from one column c of the covariance: a mark that
        moves by d moves the path by c d / sigma², a new one at z by
        c (z - x) / (c_t + sigma²) and takes c² / (c_t + sigma²) off the
        variance (the gain of Kalman's filter, 1960).
        """
        column = self.covariance_with(frame)
        if instead_of is not None:
            pull = (xy - instead_of) / sigma**2
            return replace(self, xy=self.xy + column[:, None] * pull)
        total = float(column[frame]) + sigma**2
        path = self.xy + column[:, None] * ((xy - self.xy[frame]) / total)
        error = np.sqrt(np.maximum(self.sigma**2 - column**2 / total, LEAST_PX**2))
        return replace(self, xy=path, sigma=error, _learnt=(*self._learnt, (column, total)))

    @property
    def lasts(self) -> FloatArray:
        """How far one deviation of each error that lasts through the clip (a body in its clothes, a spot
        beside its joint) moves the path, (T, B) px; what marks by hand tell of it is taken off.
        """
        return self._border

    def covariance_with(self, frame: int) -> FloatArray:
        """Covariance (px^2) of every frame's coordinate with that of ``frame``, shape (T,)."""
        column = self._factor.inverse_column(frame * self._each, self._slot)[:: self._each]
        column = column + self._border @ self._border[frame]
        apart = np.abs(self.times_s - self.times_s[frame]) / LASTING_FADES_S
        column = column + self.lasting * self.lasting[frame] * np.exp(-apart)
        for learnt, total in self._learnt:
            column = column - learnt * (learnt[frame] / total)
        return np.asarray(column)

    def draws(
        self, count: int, seed: int | list[int], frames: NDArray[np.int64], *, lasting: bool = True
    ) -> FloatArray:
        """Errors of the path drawn from its covariance at some rising frames, (count, K, 2) px.

        The same for one seed; each comes with its opposite, so that ``count`` is even. Without ``lasting``
        what lasts through the clip is left out.
        """
        rng, length, half = np.random.default_rng(seed), len(self.sigma), count // 2
        lots = rng.standard_normal((length * self._each, 2 * half))
        errors = self._factor.spread(lots, self._slot)[frames * self._each]
        through = self._border[frames] @ rng.standard_normal((self._border.shape[1], 2 * half))
        errors += through if lasting else 0.0
        if self.lasting.any():
            errors += self.lasting[frames, None] * self._faded(rng, frames, 2 * half)
        drawn = errors.reshape(len(frames), half, 2).transpose(1, 0, 2)
        return np.concatenate([drawn, -drawn])

    def _faded(self, rng: np.random.Generator, frames: NDArray[np.int64], count: int) -> FloatArray:
        """Walks (K, count) of unit size that fade as a lasting error does."""
        times = self.times_s[frames]
        keeps = np.exp(-np.abs(np.diff(times, prepend=times[0])) / LASTING_FADES_S)
        fresh = np.sqrt(1 - keeps**2)
        walk = rng.standard_normal((len(frames), count))
        for k in range(1, len(frames)):
            walk[k] = keeps[k] * walk[k - 1] + fresh[k] * walk[k]
        return walk


class Resting(Track):
    """The track of what lies still: its error is one and the same in every frame."""

    @staticmethod
    def of(track: Track, place: FloatArray, sigma: float, until: NDArray[np.bool_]) -> Resting:
        """``track`` with the place (2,) px and error px of where it rests in the frames ``until`` (T,)."""
        known = {field.name: getattr(track, field.name) for field in fields(track)}
        known["xy"] = np.where(until[:, None], place, track.xy)
        known["sigma"] = np.where(until, sigma, track.sigma)
        return Resting(**known)

    @property
    def lasts(self) -> FloatArray:
        return np.empty((len(self.sigma), 0))

    def covariance_with(self, frame: int) -> FloatArray:
        return np.asarray(self.sigma * self.sigma[frame])

    def draws(
        self,
        count: int,
        seed: int | list[int],
        frames: NDArray[np.int64],
        *,
        lasting: bool = True,  # noqa: ARG002
    ) -> FloatArray:
        half = np.random.default_rng(seed).standard_normal((count // 2, 1, 2))
        return np.concatenate([half, -half]) * self.sigma[frames][:, None]


def solve_tracks(
    times_s: FloatArray, points: Mapping[str, PointData], *, sweeps: int = 5
) -> dict[str, Track]:
    """Solve the paths of all points that have at least one sighting.

    ``times_s`` is (T,), strictly increasing, in real seconds. ``sweeps`` is
    how often the robust weights are renewed. Points without any sighting are
    left out of the answer.

    >>> from kneel.model import Sighting
    >>> times, xy = np.arange(30) / 60, np.full((30, 2), 5.0)
    >>> seen = PointData((Sighting(xy, np.ones(30)),), ())
    >>> track = solve_tracks(times, {"ball": seen})["ball"]
    >>> track.xy[15].round(3).tolist(), bool(track.sigma[15].max() < 1)
    ([5.0, 5.0], True)
    """
    names = [name for name, data in points.items() if data.seen()]
    if not names:
        return {}
    stack = _Stack(times_s, [points[name] for name in names])
    solved = stack.solve(sweeps)
    variance = solved.factor.inverse_diagonal()[:, :: stack.each] + (solved.border**2).sum(axis=2)
    tracks = {}
    for slot, name in enumerate(names):
        lasting = _lasting(points[name], len(times_s))
        sigma = np.sqrt(variance[slot] + lasting**2)
        border = solved.border[slot]
        tracks[name] = Track(
            solved.xy[slot], sigma, times_s, lasting, solved.factor, slot, border, stack.each
        )
    return tracks


def _lasting(data: PointData, frames: int) -> FloatArray:
    """The lasting error that no hand mark removes, (T,) px."""
    parts = [s.lasting for s in data.sightings if s.lasting is not None]
    return np.max(parts, axis=0) if parts else np.zeros(frames)


@dataclass(frozen=True)
class _Solved:
    """One sweep's answer: paths (C, T, 2), the factor, and what unknown offsets add to the covariance.

    The inverse is that of the factor plus ``border`` (C, T, K) times its transpose; ``offsets``
    (K, C, 2) px are those of the layers that have one, ``wander`` (C, T, 2) what wandering ones are off by.
    """

    xy: FloatArray
    wander: FloatArray
    factor: Factor
    border: FloatArray
    offsets: FloatArray


class _Stack:
    """The normal equations of C points over T frames."""

    def __init__(self, times_s: FloatArray, points: Sequence[PointData]) -> None:
        self.count, self.length = len(points), len(times_s)
        self.seen = sighting_layers([p.sightings for p in points], times_s)
        self.moved = link_layers([p.links for p in points], self.length - 1)
        self.prior = self._prior(np.diff(times_s), points)
        wandering = any(layer.wander.any() for layer in self.seen)
        self.each = 2 if wandering else 1
        """Unknowns per frame: the place, and what a wandering source is off by."""

        self.drift = self._drift() if wandering else np.zeros((2, 0, 0))

    def _prior(self, dt: FloatArray, points: Sequence[PointData]) -> FloatArray:
        """The stationary velocity's log density: (3, C, T) bands that do not change between sweeps."""
        bands = np.zeros((3, self.count, self.length))
        if self.length < 2:
            return bands
        q = np.array([p.restless for p in points])[:, None] ** 2
        variance = np.array([p.fastest for p in points])[:, None] ** 2
        fades = 2 * variance / q
        slow = np.ones_like(q) * dt / (q * fades**2)
        for end in (0, -1):
            slow[:, end] += 1.0 / (2 * variance[:, 0])
        _add_links(bands, slow / dt**2)
        if self.length >= 3:
            stiff = 1.0 / (q * (dt[1:] + dt[:-1]) / 2)
            c0, c2 = 1.0 / dt[:-1], 1.0 / dt[1:]
            c1 = -(c0 + c2)
            bands[0, :, :-2] += stiff * c0 * c0
            bands[0, :, 1:-1] += stiff * c1 * c1
            bands[0, :, 2:] += stiff * c2 * c2
            bands[1, :, :-2] += stiff * c0 * c1
            bands[1, :, 1:-1] += stiff * c1 * c2
            bands[2, :, :-2] += stiff * c0 * c2
        return bands

    def solve(self, sweeps: int) -> _Solved:
        """The answer of the last sweep."""
        robust = any(layer.robust and layer.weight.any() for layer in (*self.seen, *self.moved))
        done = self._sweep(None)
        for _ in range(sweeps if robust else 0):
            before = done.xy
            done = self._sweep(done)
            if np.abs(done.xy - before).max() < SETTLED_PX:
                break
        return done

    def _drift(self) -> FloatArray:
        """Prior of the wandering error, diagonal and subdiagonal, (2, C, T)."""
        size = np.maximum(np.max([layer.wander for layer in self.seen], axis=0), LEAST_PX)[:, None]
        keeps = np.min([layer.keeps for layer in self.seen], axis=0)
        fresh = 1.0 / (size**2 * (1 - keeps**2))
        bands = np.zeros((2, self.count, self.length))
        bands[0, :, :1] += 1.0 / size**2
        bands[0, :, 1:] += fresh
        bands[0, :, :-1] += keeps**2 * fresh
        bands[1, :, :-1] = -keeps * fresh
        return bands

    def _sweep(self, last: _Solved | None) -> _Solved:
        bands = self.prior.copy()
        rhs, pulled = np.zeros((2, self.count, self.length, 2))
        coupled, carried = np.zeros((2, self.count, self.length))
        shifted: list[tuple[Layer, FloatArray]] = []
        for layer in self.seen:
            weight = layer.weights(None if last is None else self._residual(layer, last, len(shifted)))
            bands[0] += weight
            rhs += weight[..., None] * layer.value
            coupled += weight * layer.grip
            carried += weight * layer.grip**2
            pulled += (weight * layer.grip)[..., None] * layer.value
            if layer.offset.any():
                shifted.append((layer, weight))
        for layer in self.moved:
            weight = layer.weights(None if last is None else np.diff(last.xy, axis=1) - layer.value)
            _add_links(bands, weight)
            pull = weight[..., None] * layer.value
            rhs[:, 1:] += pull
            rhs[:, :-1] -= pull
        if self.each == 1:
            return self._finished(factor(bands), rhs, shifted)
        wide = _interleaved(bands, self.drift, coupled, carried)
        return self._finished(factor(wide), np.stack([rhs, pulled], axis=2), shifted)

    def _residual(self, layer: Layer, last: _Solved, slot: int) -> FloatArray:
        """What is left of a sighting once its own errors are taken away, (C, T, 2)."""
        residual = last.xy - layer.value
        if layer.offset.any():
            residual += last.offsets[slot][:, None]
        return residual + layer.grip[..., None] * last.wander

    def _finished(
        self, done: Factor, rhs: FloatArray, shifted: Sequence[tuple[Layer, FloatArray]]
    ) -> _Solved:
        """Solve with one more unknown per layer and point: how far it lies off through the clip."""
        count, length, each = self.count, self.length, self.each
        sides = [rhs.reshape(count, length * each, 2)]
        for layer, weight in shifted:
            column = np.zeros((count, length, each))
            column[..., 0] = weight
            column[..., 1:] = (weight * layer.grip)[..., None]
            sides.append(column.reshape(count, length * each, 1))
        answer = done.solve(np.concatenate(sides, axis=2))
        free, carried = answer[..., :2], answer[..., 2:]
        offsets, border = np.zeros((0, count, 2)), np.zeros((count, length, 0))
        if shifted:
            columns = np.concatenate(sides[1:], axis=2)
            small = -np.einsum("ctk,ctl->ckl", columns, carried)
            pull = -np.einsum("ctk,ctd->ckd", columns, free)
            for k, (layer, weight) in enumerate(shifted):
                prior = 1.0 / np.maximum(layer.offset, LEAST_PX) ** 2
                small[:, k, k] += weight.sum(axis=1) + prior
                pull[:, k] += (weight[..., None] * layer.value).sum(axis=1)
            solved = np.linalg.solve(small, pull)
            free = free - carried @ solved
            border = (carried @ np.linalg.cholesky(np.linalg.inv(small)))[:, ::each]
            offsets = solved.transpose(1, 0, 2)
        wander = free[:, 1::2] if each == 2 else np.zeros((count, length, 2))
        return _Solved(np.ascontiguousarray(free[:, ::each]), wander, done, border, offsets)


def _interleaved(
    bands: FloatArray, drift: FloatArray, coupled: FloatArray, carried: FloatArray
) -> FloatArray:
    """Bands (5, C, 2T) of places and wandering errors by turns.

    From the bands of each, what couples them (C, T), and what sightings tell of the errors alone (C, T).
    """
    _, count, length = bands.shape
    wide = np.zeros((5, count, length, 2))
    wide[0, ..., 0], wide[0, ..., 1] = bands[0], drift[0] + carried
    wide[1, ..., 0] = coupled
    wide[2, ..., 0], wide[2, ..., 1] = bands[1], drift[1]
    wide[4, ..., 0] = bands[2]
    return wide.reshape(5, count, 2 * length)


def _add_links(bands: FloatArray, weight: FloatArray) -> None:
    bands[0, :, :-1] += weight
    bands[0, :, 1:] += weight
    bands[1, :, :-1] -= weight
