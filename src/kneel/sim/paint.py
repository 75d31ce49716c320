"""Drawing the figure on its background: samples of smooth surfaces through a depth buffer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from kneel.sim.camera import Camera
from kneel.sim.look import Light
from kneel.sim.surface import FloatArray, Grid, Loft, sample

Picture = NDArray[np.uint8]

FINE = 2
"""The figure is drawn this many times larger and averaged down."""

SAME_SURFACE_CM = 0.005
MARGIN_PX = 3
NEAREST_CM = 20.0


@dataclass(frozen=True)
class Lamp:
    """A light: where it stands, how strong its beam and the open sky are, its tint, how dark shadows fall."""

    toward: tuple[float, float, float]
    beam: float
    sky: float
    ground: float
    tint: tuple[float, float, float]
    shadow: float

    @property
    def way(self) -> FloatArray:
        way = np.array(self.toward, np.float32)
        return way / np.linalg.norm(way)


LAMPS = {
    Light.SUN: Lamp((-0.35, 0.55, 0.76), 0.58, 0.28, 0.30, (1.03, 1.0, 0.95), 0.45),
    Light.OVERCAST: Lamp((-0.1, 0.3, 0.95), 0.16, 0.46, 0.36, (0.97, 1.0, 1.02), 0.16),
    Light.EVENING: Lamp((-0.85, 0.25, 0.36), 0.62, 0.20, 0.24, (1.12, 0.95, 0.78), 0.40),
    Light.DIM: Lamp((-0.2, 0.5, 0.84), 0.16, 0.14, 0.12, (1.04, 0.99, 0.92), 0.30),
    Light.LAMPS: Lamp((0.15, 0.45, 0.88), 0.44, 0.26, 0.32, (1.03, 1.0, 0.93), 0.26),
}


@dataclass(frozen=True)
class _Drawn:
    """A loft's samples that face the camera: which of the grid, the fine pixel and the depth of each."""

    loft: Loft
    grid: Grid
    index: NDArray[np.int64]
    pixel: NDArray[np.intp]
    depth: FloatArray


@dataclass
class PaintedPart:
    """What is drawn so far of a figure: the part of the picture it may cover, nearest depths and colours."""

    camera: Camera
    light: Light
    box: tuple[int, int, int, int]
    near: FloatArray
    colour: FloatArray

    @staticmethod
    def over(lofts: Sequence[Loft], camera: Camera, light: Light) -> PaintedPart:
        """An empty canvas that these surfaces fit on."""
        box = _box(lofts, camera)
        count = (box[2] - box[0]) * (box[3] - box[1]) * FINE * FINE
        return PaintedPart(
            camera, light, box, np.full(count, np.inf, np.float32), np.zeros((count, 3), np.float32)
        )

    def copy(self) -> PaintedPart:
        return PaintedPart(self.camera, self.light, self.box, self.near.copy(), self.colour.copy())

    def add(self, lofts: Sequence[Loft]) -> PaintedPart:
        """Draw more surfaces, hidden by what is nearer."""
        drawn = [_place(loft, self.camera, self.box) for loft in lofts]
        for part in drawn:
            np.minimum.at(self.near, part.pixel, part.depth)
        way = np.stack(self.camera.place()[1:]).astype(np.float32)
        for part in drawn:
            seen = np.flatnonzero(part.depth <= self.near[part.pixel] + SAME_SURFACE_CM)
            index = part.index[seen]
            row, column = np.divmod(index, len(part.grid.angle))
            paint = part.loft.paint(part.grid.along[row], part.grid.angle[column])
            normals = np.stack([sheet.ravel()[index] for sheet in part.grid.normals])
            lit = _lit(normals, LAMPS[self.light], way)
            self.colour[part.pixel[seen]] = paint * lit
        return self

    def onto(self, picture: Picture) -> Picture:
        """Average the fine picture down onto a background, in place."""
        x0, y0, x1, y1 = self.box
        if x0 >= x1 or y0 >= y1:
            return picture
        tall, wide = (y1 - y0) * FINE, (x1 - x0) * FINE
        part, size = picture[y0:y1, x0:x1], (x1 - x0, y1 - y0)
        covered = np.isfinite(self.near).astype(np.float32).reshape(tall, wide)
        cover = cv2.resize(covered, size, interpolation=cv2.INTER_AREA)
        mean = cv2.resize(self.colour.reshape(tall, wide, 3), size, interpolation=cv2.INTER_AREA)
        part[:] = np.clip(mean + (1 - cover)[..., None] * part + 0.5, 0, 255).astype(np.uint8)
        return picture


def _box(lofts: Sequence[Loft], camera: Camera) -> tuple[int, int, int, int]:
    """The part of the picture the figure may cover, nothing where it is out of sight."""
    corners = [loft.centres + s * loft.a + t * loft.b for loft in lofts for s in (-1, 1) for t in (-1, 1)]
    pixels, depth = camera.project(np.concatenate(corners))
    pixels = pixels[depth > NEAREST_CM]
    if len(pixels) == 0:
        return (0, 0, 0, 0)
    low, high = np.floor(pixels.min(axis=0)) - MARGIN_PX, np.ceil(pixels.max(axis=0)) + MARGIN_PX
    x0, y0 = np.maximum(low, 0).astype(int).tolist()
    x1, y1 = np.minimum(high, (camera.width, camera.height)).astype(int).tolist()
    return (x0, y0, x1, y1) if x0 < x1 and y0 < y1 else (0, 0, 0, 0)


def _place(loft: Loft, camera: Camera, box: tuple[int, int, int, int]) -> _Drawn:
    """Samples with the fine pixel each falls on; those outside the picture are left out."""
    x0, y0, x1, y1 = box
    grid = sample(loft, camera, FINE)
    index = np.flatnonzero(grid.facing)
    x, y, depth = (sheet.ravel()[index] for sheet in grid.places)
    # What has flown past the camera is kept out below.
    depth = np.where(depth > NEAREST_CM, depth, np.float32(np.inf))
    x, y = camera.to_pixels(x / depth, y / depth)
    wide, tall = (x1 - x0) * FINE, (y1 - y0) * FINE
    # What passes close by the camera lies farther off than a whole number tells.
    column = np.clip((x - np.float32(x0 - 0.5)) * np.float32(FINE), -1, wide).astype(np.int32)
    row = np.clip((y - np.float32(y0 - 0.5)) * np.float32(FINE), -1, tall).astype(np.int32)
    kept = (column >= 0) & (column < wide) & (row >= 0) & (row < tall) & np.isfinite(depth)
    pixel = (row * wide + column).astype(np.intp)
    if not kept.all():
        index, pixel, depth = index[kept], pixel[kept], depth[kept]
    return _Drawn(loft, grid, index, pixel, depth)


def _lit(normals: FloatArray, lamp: Lamp, axes: FloatArray) -> FloatArray:
    """How light falls on surfaces: beam, open sky from above, what the ground throws back; (N, 3).

    ``normals`` (3, N) of any length in the camera's space, whose ``axes`` are rows in the world.
    """
    size = np.maximum(np.sqrt(np.einsum("ij,ij->j", normals, normals)), 1e-12)
    beam = np.maximum((axes @ lamp.way) @ normals / size, 0)
    sky = np.float32(0.5) + np.float32(0.5) * (axes[:, 2] @ normals / size)
    light = np.float32(lamp.ground) + np.float32(lamp.beam) * beam + np.float32(lamp.sky) * sky
    return np.asarray(light[:, None] * np.array(lamp.tint, np.float32), np.float32)


def shaded(lofts: Sequence[Loft], camera: Camera, light: Light, background: Picture) -> Picture:
    """The background, darkened where the figure keeps the light off the ground, as a new picture."""
    picture, lamp = background.copy(), LAMPS[light]
    way = lamp.way.astype(np.float64)
    angle = np.linspace(0, 2 * np.pi, 12, endpoint=False)[:, None, None]
    height, width = picture.shape[:2]
    mask = np.zeros((height, width), np.uint8)
    for loft in lofts:
        rings = loft.centres + np.cos(angle) * loft.a + np.sin(angle) * loft.b
        pixels, depth = camera.project(rings - (rings[..., 2:] / way[2]) * way)
        if (depth < 50).any():
            continue
        cv2.fillConvexPoly(mask, cv2.convexHull(np.round(pixels).astype(np.int32).reshape(-1, 2)), 255)
    rows = np.flatnonzero(mask.any(axis=1))
    if len(rows) == 0:
        return picture
    y0, y1 = max(0, rows[0] - 16), min(height, rows[-1] + 16)
    soft = cv2.GaussianBlur(mask[y0:y1], (0, 0), 4.0)
    dark = 1.0 - lamp.shadow * soft.astype(np.float32) / 255
    picture[y0:y1] = (picture[y0:y1] * dark[..., None]).astype(np.uint8)
    return picture
