"""The range behind the golfer: sky, hills, grass and a mat, from the camera's own rays."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from kneel.sim.camera import Camera

FloatArray = NDArray[np.float64]
Picture = NDArray[np.uint8]

_TILE_CM = 640.0
_TILE_PX = 1024


def backdrop(camera: Camera, seed: int) -> Picture:
    """A still background (H, W, 3) RGB without the golfer."""
    rng = np.random.default_rng(seed)
    position, rays = camera.rays()
    rise = rays[..., 2] / np.linalg.norm(rays, axis=2)
    picture = _sky(rise)
    _hills(picture, rays, rise, rng)
    below = rise < -0.004
    reach = np.where(below, position[2] / np.where(below, -rays[..., 2], 1.0), 0.0)
    x = position[0] + reach * rays[..., 0]
    y = position[1] + reach * rays[..., 1]
    grass = _grass(x, y, reach, rng)
    haze = np.clip(reach / 9000.0, 0, 0.55)[..., None]
    grass = (1 - haze) * grass + haze * np.array([126.0, 150.0, 128.0])
    grass = np.where(_on_mat(x, y)[..., None], _mat(x, y, rng), grass)
    picture = np.where(below[..., None], grass, picture)
    return np.clip(picture, 0, 255).astype(np.uint8)


def _sky(rise: FloatArray) -> FloatArray:
    share = np.clip(rise / 0.35, 0, 1)[..., None]
    return (1 - share) * np.array([196.0, 208.0, 214.0]) + share * np.array([138.0, 168.0, 198.0])


def _hills(picture: FloatArray, rays: FloatArray, rise: FloatArray, rng: np.random.Generator) -> None:
    bearing = np.arctan2(rays[..., 1], rays[..., 0])
    waves = rng.uniform(0, 2 * np.pi, 4)
    ridge = 0.020 + sum(
        0.010 / (k + 1) * np.sin((3 + 4 * k) * bearing + wave) for k, wave in enumerate(waves)
    )
    trees = (rise < ridge) & (rise > -0.02)
    tint = 1 + 0.10 * np.sin(60 * bearing + 40 * np.sin(9 * bearing)) * np.clip(rise * 60, -1, 1)
    picture[trees] = (np.array([74.0, 96.0, 84.0]) * tint[..., None])[trees]


def _grass(x: FloatArray, y: FloatArray, reach: FloatArray, rng: np.random.Generator) -> FloatArray:
    tile = rng.normal(0, 1, (_TILE_PX, _TILE_PX)).astype(np.float32)
    fine = gaussian_filter(tile, 1.2, mode="wrap") * 2.5
    broad = gaussian_filter(tile, 24.0, mode="wrap") * 40
    scale = _TILE_PX / _TILE_CM
    blades = _tiled(fine, x * scale, y * scale) / (1 + reach / 900.0)
    patches = _tiled(broad, x * scale / 5, y * scale / 5)
    stripes = np.sign(np.sin(x / 130.0)) * np.clip(1 - reach / 6000.0, 0, 1)
    light = 1 + 0.10 * blades + 0.06 * patches + 0.03 * stripes
    return np.array([92.0, 124.0, 74.0]) * light[..., None]


def _tiled(tile: NDArray[np.float32], x: FloatArray, y: FloatArray) -> FloatArray:
    size = tile.shape[0]
    return np.asarray(
        cv2.remap(
            tile,
            np.mod(x, size).astype(np.float32),
            np.mod(y, size).astype(np.float32),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_WRAP,
        ),
        dtype=np.float64,
    )


def _on_mat(x: FloatArray, y: FloatArray) -> NDArray[np.bool_]:
    return (np.abs(x) < 85) & (y > -55) & (y < 115)


def _mat(x: FloatArray, y: FloatArray, rng: np.random.Generator) -> FloatArray:
    grain = rng.normal(0, 1, x.shape)
    rim = (np.abs(x) > 81) | (y < -51) | (y > 111)
    base = np.where(rim[..., None], np.array([58.0, 64.0, 62.0]), np.array([74.0, 108.0, 88.0]))
    return base * (1 + 0.03 * grain)[..., None]
