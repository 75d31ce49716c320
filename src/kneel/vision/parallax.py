"""How still things shift in the picture of a camera that turns, zooms and is carried a little.

Turning and zooming move the near and the far alike; turning moves the edges
more than the middle (the infinitesimal homography: a shift, and a bend with
the square of the place). Carrying the camera moves the near more than the
far: on level ground by an amount that grows evenly with the row from where
the ground ends, at the horizon or at the foot of a wall (inverse depth of a
plane is linear in the picture). After Hartley and Zisserman, Multiple View
Geometry, 2nd ed. 2004, from memory.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]

NEAREST = 2.0
"""Ground nearer than half the golfer's distance is not in the picture."""

BANDS = (0.25, 0.5, 0.7, 0.85, 0.95, 1.1)
"""Rows between which corners are counted together, as shares of the way down to the golfer's feet."""

SWEEPS = 5
TUKEY = 4.685
LEAST_SIGMA_PX = 0.1
MEDIAN_TO_SIGMA = 0.849
"""One axis' standard deviation over the median length of a normal error in two."""

UNKNOWNS = 8
UNIT_PX = 100.0
BENT = 2e-4
"""How much a turn usually bends a picture, per px, so that corners in one part of it cannot make up more."""


@dataclass(frozen=True)
class GroundShift:
    """What a clip's shifts have in common: the picture's ``centre`` (2,) px, and two rows of the first frame.

    At ``end`` the ground ends, at ``feet`` the golfer stands. ``carried`` px
    is how far a hand usually shifts the golfer by carrying the camera.
    """

    centre: FloatArray
    end: float
    feet: float
    carried: float

    def nearness(self, rows: FloatArray) -> FloatArray:
        """Inverse depth by row: 0 from the ground's end up, 1 at the golfer's feet."""
        return np.clip((rows - self.end) / max(self.feet - self.end, 1.0), 0.0, NEAREST)

    def fairness(self, rows: FloatArray) -> FloatArray:
        """Weights (N,), one on average, that give every band of rows the same say."""
        band = np.searchsorted(np.array(BANDS) * self.feet, rows)
        counts = np.bincount(band, minlength=len(BANDS) + 1)
        return np.asarray(len(rows) / ((counts > 0).sum() * counts[band]))


@dataclass(frozen=True)
class Shift:
    """One frame against the first.

    ``turn`` (2, 2) is turn and zoom, ``far`` (2,) px the shift of what is far,
    ``near`` (2,) px the further shift of the ground at the golfer, ``bend``
    (2,) per px what panning and tilting do to the edges; ``covariance`` (8, 8)
    is that of all of them as :func:`fit_shift` fits them.
    """

    ground: GroundShift
    turn: FloatArray
    far: FloatArray
    near: FloatArray
    bend: FloatArray
    covariance: FloatArray

    def there(self, points: FloatArray) -> FloatArray:
        """Where places (N, 2) of the first frame are seen."""
        off = points - self.ground.centre
        return np.asarray(self.ground.centre + off @ self.turn.T + self._more(points))

    def back(self, points: FloatArray) -> FloatArray:
        """The places (N, 2) of the first frame that are seen at ``points``."""
        inverse = np.linalg.inv(self.turn).T
        places = points
        for _ in range(6):
            off = (points - self.ground.centre - self._more(places)) @ inverse
            places = self.ground.centre + off
        return places

    def golfer(self, middle: FloatArray) -> FloatArray:
        """The map (2, 3) of what is as far away as the golfer's feet, true near ``middle`` (2,)."""
        off = middle - self.ground.centre
        slope = self.turn + np.outer(off, self.bend) + (self.bend @ off) * np.eye(2)
        seen = self.ground.centre + self.turn @ off + self.far + self.near + (self.bend @ off) * off
        return np.column_stack([slope, seen - slope @ middle])

    def sigma(self, middle: FloatArray) -> float:
        """Standard error (px, the worse axis) of the golfer's map at ``middle`` (2,)."""
        rows = _rows((middle - self.ground.centre)[None] / UNIT_PX, np.ones(1))
        return float(np.sqrt(max(row @ self.covariance @ row for row in rows)))

    def _more(self, places: FloatArray) -> FloatArray:
        off = places - self.ground.centre
        weight = self.ground.nearness(places[:, 1])[:, None]
        return np.asarray(self.far + weight * self.near + (off @ self.bend)[:, None] * off)


def no_shift(ground: GroundShift) -> Shift:
    """The first frame against itself."""
    return Shift(ground, np.eye(2), np.zeros(2), np.zeros(2), np.zeros(2), np.zeros((8, 8)))


def fit_shift(places: FloatArray, there: FloatArray, ground: GroundShift) -> tuple[Shift, FloatArray]:
    """The shift that takes most of ``places`` (N, 2) to ``there``, and how far each is off, (N,) px.

    Least squares with Tukey's weights (Holland and Welsch 1977), so that what
    moves by itself has no say. Each band of rows has as much say as another:
    a wall full of corners must not outvote the few on the ground before it.
    """
    (shift,), (off,) = fit_shifts(places[None], there, [ground])
    return shift, off


def fit_shifts(
    places: FloatArray, there: FloatArray, grounds: Sequence[GroundShift]
) -> tuple[list[Shift], FloatArray]:
    """:func:`fit_shift` for each of G ``grounds`` of one picture, by its own ``places`` (G, N, 2), at once;
    how far each is off is (G, N) px.
    """
    centre = grounds[0].centre
    fair = np.array([ground.fairness(at[:, 1]) for ground, at in zip(grounds, places, strict=True)])
    nearness = np.array([ground.nearness(at[:, 1]) for ground, at in zip(grounds, places, strict=True)])
    rows = _rows((places - centre) / UNIT_PX, nearness)
    carried = np.array([ground.carried for ground in grounds])
    held = np.zeros((len(grounds), UNKNOWNS))
    held[:, 4:6], held[:, 6:8] = 1 / carried[:, None] ** 2, 1 / (BENT * UNIT_PX**2) ** 2
    aim = (there - centre).T.ravel()
    say, sigma = fair, np.full((len(grounds), 1), LEAST_SIGMA_PX)
    off: FloatArray = np.zeros_like(fair)
    told: FloatArray = np.zeros((len(grounds), UNKNOWNS, 1))
    for _ in range(SWEEPS):
        weighed = np.tile(say / sigma**2, 2)[:, None] * rows.swapaxes(1, 2)
        told = np.asarray(np.linalg.solve(_normal(weighed, rows, held), weighed @ aim[:, None]), np.float64)
        left = (aim - (rows @ told)[:, :, 0]).reshape(len(grounds), 2, -1)
        off = np.hypot(left[:, 0], left[:, 1])
        sigma = np.maximum(MEDIAN_TO_SIGMA * np.median(off, axis=1, keepdims=True), LEAST_SIGMA_PX)
        say = fair * np.clip(1 - (off / (TUKEY * sigma)) ** 2, 0, None) ** 2
    weighed = np.tile(np.minimum(say, 1.0) / sigma**2, 2)[:, None] * rows.swapaxes(1, 2)
    honest = np.linalg.inv(_normal(weighed, rows, held))
    fitted = zip(grounds, told[:, :, 0], honest, strict=True)
    return [_shift(ground, one, covariance) for ground, one, covariance in fitted], off


def _normal(weighed: FloatArray, rows: FloatArray, held: FloatArray) -> FloatArray:
    return np.asarray(weighed @ rows + held[:, :, None] * np.eye(UNKNOWNS), dtype=np.float64)


def _shift(ground: GroundShift, told: FloatArray, covariance: FloatArray) -> Shift:
    a, b, fx, fy, nx, ny, bx, by = told
    turn = np.array([[a, -b], [b, a]]) / UNIT_PX
    bend = np.array([bx, by]) / UNIT_PX**2
    return Shift(ground, turn, np.array([fx, fy]), np.array([nx, ny]), bend, covariance)


def _rows(places: FloatArray, nearness: FloatArray) -> FloatArray:
    """How where places (…, N, 2) are seen answers to the unknowns, (…, 2 N, 8): across, then down."""
    x, y = places[..., 0], places[..., 1]
    one, none = np.ones_like(x), np.zeros_like(x)
    across = np.stack([x, -y, one, none, nearness, none, x * x, x * y], axis=-1)
    down = np.stack([y, x, none, one, none, nearness, x * y, y * y], axis=-1)
    return np.concatenate([across, down], axis=-2)
