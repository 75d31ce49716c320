"""Smooth surfaces: lofts through elliptic rings, sampled as finely as the picture needs."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kneel.sim.camera import Camera

FloatArray = NDArray[np.float32]
Wide = NDArray[np.float64]
Paint = Callable[[FloatArray, FloatArray], FloatArray]

DENSE = 1.12
"""Samples per fine pixel along each direction; much below 1.1 holes show."""

SHARPEST_CM = 0.02
COARSE = np.linspace(0, 2 * np.pi, 40, endpoint=False, dtype=np.float32)


@dataclass(frozen=True)
class Loft:
    """A closed tube: ``centres`` (R, 3) cm and the half axes ``a``, ``b`` (R, 3) of its rings.

    ``paint`` takes place along it (ring number, fractional) and angle round it
    (radians, 0 at ``a``) of N samples and gives colours (N, 3) 0..255.
    """

    centres: Wide
    a: Wide
    b: Wide
    paint: Paint

    def moved(self, other: Loft, share: Wide) -> Loft:
        """Each ring carried this share (R,) of the way to where it is on another loft."""
        s = share[:, None]
        return replace(
            self,
            centres=self.centres + s * (other.centres - self.centres),
            a=self.a + s * (other.a - self.a),
            b=self.b + s * (other.b - self.b),
        )


@dataclass(frozen=True)
class Grid:
    """A loft sampled in the camera's space: N places along it, M round it.

    ``places`` (3, N, M) cm as right, down, forward of the camera; ``normals``
    (3, N, M) outward, not of unit length; ``facing`` (N, M).
    """

    places: FloatArray
    normals: FloatArray
    facing: NDArray[np.bool_]
    along: FloatArray
    angle: FloatArray


def sample(loft: Loft, camera: Camera, fine: float) -> Grid:
    """A loft's grid with ``fine`` samples to a pixel where it faces the camera."""
    position, *axes = camera.place()
    turn = np.stack(axes, axis=1)
    world = np.stack([loft.centres - position, loft.a, loft.b], axis=1)
    rings = (world @ turn).astype(np.float32)
    look = _grid(rings, np.arange(len(rings), dtype=np.float32), COARSE)
    pixels = np.float32(camera.focal) * look.places[:2] / np.maximum(look.places[2], 1.0)
    along, angle = _spacing(pixels, look.facing, fine)
    return _grid(rings, along, angle)


def _spacing(pixels: FloatArray, facing: NDArray[np.bool_], fine: float) -> tuple[FloatArray, FloatArray]:
    """Ring numbers and angles close enough together wherever a coarse look (R, K) faces the camera.

    ``pixels`` (2, R, K).
    """
    beside = facing | np.roll(facing, -1, axis=1)
    x, y = np.roll(pixels, -1, axis=2) - pixels
    across = np.hypot(x, y) * beside
    angles = _filled(across.max(axis=0), fine) * np.float32(2 * np.pi / len(COARSE))
    x, y = np.diff(pixels, axis=1)
    lengthwise = np.hypot(x, y) * (facing[:-1] | facing[1:])
    rows = _filled(lengthwise.max(axis=1), fine)
    return np.append(rows, np.float32(facing.shape[0] - 1)), angles


def _filled(steps_px: FloatArray, fine: float) -> FloatArray:
    """Places at whole numbers and between them, as many as each step is long; none where it is nothing."""
    counts = np.minimum(np.ceil(steps_px * (fine * DENSE)), 400).astype(int)
    total = int(counts.sum())
    first = np.repeat(np.cumsum(counts) - counts, counts)
    start = np.repeat(np.arange(len(counts)), counts)
    return (start + (np.arange(total) - first) / np.repeat(counts, counts)).astype(np.float32)


def _grid(rings: FloatArray, along: FloatArray, angle: FloatArray) -> Grid:
    at, change = _spline(rings.reshape(len(rings), 9), along)
    cos, sin = np.cos(angle), np.sin(angle)
    spokes = np.stack([np.ones_like(cos), cos, sin])
    places = at @ spokes
    normals = _cross(at[:, :, 1:] @ np.stack([-sin, cos]), change @ spokes)
    middle = len(along) // 2
    if (normals[:, middle] * (at[:, middle, 1:] @ spokes[1:])).sum() < 0:
        np.negative(normals, out=normals)
    toward = normals[0] * places[0]
    toward += normals[1] * places[1]
    toward += normals[2] * places[2]
    return Grid(places, normals, toward < 0, along, angle)


def _spline(knots: FloatArray, at: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Values and slopes (3, N, 3) of a Catmull–Rom spline through ``knots`` (R, 9) at ``at`` (N,)."""
    count = len(knots)
    first = np.minimum(at.astype(np.int64), count - 2)
    f = (at - first.astype(np.float32))[:, None]
    square, cube = f**2, f**3
    weights = (-cube + 2 * square - f, 3 * cube - 5 * square + 2, -3 * cube + 4 * square + f, cube - square)
    slopes = (
        -3 * square + 4 * f - 1,
        9 * square - 10 * f,
        -9 * square + 8 * f + 1,
        3 * square - 2 * f,
    )
    near = [knots[np.clip(first + k, 0, count - 1)] for k in (-1, 0, 1, 2)]
    value = sum(w * knot for w, knot in zip(weights, near, strict=True))
    slope = sum(w * knot for w, knot in zip(slopes, near, strict=True))
    # From rings of (centre, a, b) each (x, y, z) to one sheet for x, for y and for z.
    out = [np.float32(0.5) * v.reshape(-1, 3, 3).transpose(2, 0, 1) for v in (value, slope)]
    return np.ascontiguousarray(out[0]), np.ascontiguousarray(out[1])


def _cross(p: FloatArray, q: FloatArray) -> FloatArray:
    """Cross product along the first axis; ``np.cross`` is several times slower."""
    out = np.empty(p.shape, np.float32)
    for k in range(3):
        i, j = (k + 1) % 3, (k + 2) % 3
        np.multiply(p[i], q[j], out=out[k])
        out[k] -= p[j] * q[i]
    return out


def tube(
    root: Wide,
    end: Wide,
    radii: Sequence[float],
    paint: Paint,
    *,
    front: Wide | None = None,
    flat: float = 1.0,
    bands: int = 9,
) -> Loft:
    """A limb between two points with radii spread evenly along it, rounded at both ends.

    ``a`` points to the ``front``; ``flat`` is the width across over the depth along it.
    """
    axis = end - root
    length = float(np.linalg.norm(axis))
    axis = axis / max(length, 1e-9)
    guide = front if front is not None else np.array([0.31, 0.83, 0.12])
    a = guide - (guide @ axis) * axis
    a /= np.linalg.norm(a)
    b = np.cross(axis, a)
    share = np.linspace(0, 1, bands)
    radius = np.interp(share, np.linspace(0, 1, len(radii)), radii)
    cap = np.array([SHARPEST_CM, 0.55, 0.87])
    before, after = -radii[0] * np.array([1.0, 0.83, 0.5]), radii[-1] * np.array([0.5, 0.83, 1.0])
    along = np.concatenate([before, share * length, length + after])
    thick = np.concatenate([radii[0] * cap, radius, radii[-1] * cap[::-1]])[:, None]
    return Loft(root + along[:, None] * axis, thick * a, flat * thick * b, paint)
