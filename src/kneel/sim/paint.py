"""Drawing the figure on its background, one frame at a time."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from kneel.sim.camera import Camera
from kneel.sim.mesh import Faces

FloatArray = NDArray[np.float64]
Picture = NDArray[np.uint8]

FINE = 2
"""The figure is drawn this many times larger and averaged down."""

SUBPIXEL_BITS = 4
SUN = np.array([-0.35, 0.55, 0.76]) / np.linalg.norm([-0.35, 0.55, 0.76])


def draw(faces: Faces, camera: Camera, background: Picture) -> Picture:
    """The figure and its shadow on ``background`` (H, W, 3), as a new picture."""
    picture = background.copy()
    _shadow(faces, camera, picture)
    position, *_ = camera.place()
    middle = faces.corners.mean(axis=1)
    toward = position - middle
    front = (faces.normals * toward).sum(axis=1) > 0
    distance = np.linalg.norm(toward[front], axis=1)
    order = np.argsort(-distance)
    corners, _ = camera.project(faces.corners[front][order])
    colours = _lit(faces.normals[front][order], faces.colours[front][order])
    _fill(picture, corners, colours)
    return picture


def _lit(normals: FloatArray, colours: FloatArray) -> FloatArray:
    """Colours under a sun and an open sky."""
    sun = np.clip(normals @ SUN, 0, 1)
    sky = 0.5 + 0.5 * normals[:, 2]
    light = 0.42 + 0.50 * sun + 0.20 * sky
    return np.asarray(np.clip(colours * light[:, None], 0, 255))


def _fill(picture: Picture, corners: FloatArray, colours: FloatArray) -> None:
    height, width = picture.shape[:2]
    low = np.floor(corners.min(axis=(0, 1))).astype(int) - 2
    high = np.ceil(corners.max(axis=(0, 1))).astype(int) + 3
    x0, y0 = np.maximum(low, 0)
    x1, y1 = np.minimum(high, (width, height))
    if x0 >= x1 or y0 >= y1:
        return
    part = picture[y0:y1, x0:x1]
    canvas = np.repeat(np.repeat(part, FINE, axis=0), FINE, axis=1)
    fine = (corners - (x0, y0) + 0.5) * FINE - 0.5
    polygons = np.round(fine * (1 << SUBPIXEL_BITS)).astype(np.int32)
    for polygon, colour in zip(polygons, colours.tolist(), strict=True):
        cv2.fillConvexPoly(canvas, polygon, colour, cv2.LINE_8, SUBPIXEL_BITS)
    picture[y0:y1, x0:x1] = cv2.resize(canvas, (x1 - x0, y1 - y0), interpolation=cv2.INTER_AREA)


def _shadow(faces: Faces, camera: Camera, picture: Picture) -> None:
    """Darken the ground where the figure keeps off the sun."""
    points = faces.corners[::2]
    ground = points - (points[..., 2:] / SUN[2]) * SUN
    pixels, depth = camera.project(ground)
    quads = np.round(pixels[(depth > 50).all(axis=1)]).astype(np.int32)
    if len(quads) == 0:
        return
    mask = np.zeros(picture.shape[:2], np.uint8)
    for quad in quads:
        cv2.fillConvexPoly(mask, quad, 255)
    y0, y1 = np.clip([quads[..., 1].min() - 20, quads[..., 1].max() + 20], 0, picture.shape[0])
    if y0 >= y1:
        return
    soft = cv2.GaussianBlur(cv2.dilate(mask[y0:y1], np.ones((5, 5), np.uint8)), (0, 0), 4)
    dark = 1.0 - 0.42 * soft.astype(np.float32) / 255
    picture[y0:y1] = (picture[y0:y1] * dark[..., None]).astype(np.uint8)
