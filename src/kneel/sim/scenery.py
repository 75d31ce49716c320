"""What stands behind the golfer, from the camera's own rays: sky, hills and grass, or a bay and its net."""

from __future__ import annotations

from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from kneel.sim.camera import Camera
from kneel.sim.look import FilmPlace, Light

FloatArray = NDArray[np.float64]
Picture = NDArray[np.uint8]

_TILE_CM = 640.0
_TILE_PX = 1024
FAR = 1e9

# Top and bottom of the sky, tint and strength of everything else.
_SKIES = {
    Light.SUN: ((138, 168, 198), (196, 208, 214), (1.0, 1.0, 1.0)),
    Light.OVERCAST: ((168, 174, 180), (196, 198, 200), (0.86, 0.89, 0.92)),
    Light.EVENING: ((112, 128, 164), (232, 196, 150), (0.98, 0.86, 0.70)),
    Light.DIM: ((58, 64, 76), (84, 88, 96), (0.46, 0.46, 0.48)),
    Light.LAMPS: ((26, 30, 42), (44, 50, 60), (0.80, 0.80, 0.76)),
}

WALL_CM = 330.0
"""How far the bay's walls stand from the ball, behind the golfer and at both sides."""

CEILING_CM = 320.0
NET_MESH_CM = 12.0


def backdrop(
    camera: Camera, seed: int, place: FilmPlace = FilmPlace.RANGE, light: Light = Light.SUN
) -> Picture:
    """A still background (H, W, 3) RGB without the golfer."""
    rng = np.random.default_rng(seed)
    position, rays = camera.rays()
    rise = rays[..., 2] / np.linalg.norm(rays, axis=2)
    picture = _sky(rise, light)
    if place is not FilmPlace.BAY:
        _hills(picture, rays, rise, rng)
    below = rise < -0.004
    reach = np.where(below, position[2] / np.where(below, -rays[..., 2], 1.0), FAR)
    x, y = (position[k] + np.where(below, reach, 0) * rays[..., k] for k in (0, 1))
    ground = _grass(x, y, np.where(below, reach, 0), rng)
    if place is FilmPlace.BAY:
        ground = _floor(x, y, rng)
    if place is not FilmPlace.GRASS:
        ground = np.where(_on_mat(x, y)[..., None], _mat(x, y, rng, camera), ground)
    picture = np.where(below[..., None], ground, picture)
    if place is FilmPlace.BAY:
        picture = _walls(picture, position, rays, reach, rng)
    if place is FilmPlace.NET:
        picture = _net(picture, position, rays, reach)
    if place is not FilmPlace.BAY:
        picture = picture * np.where(below[..., None], np.array(_SKIES[light][2]), 1.0)
    else:
        picture = picture * np.array(_SKIES[light][2])
    return np.clip(picture, 0, 255).astype(np.uint8)


def _sky(rise: FloatArray, light: Light) -> FloatArray:
    top, bottom, _ = _SKIES[light]
    share = np.clip(rise / 0.35, 0, 1)[..., None]
    return np.asarray((1 - share) * np.array(bottom, float) + share * np.array(top, float))


def _hills(picture: FloatArray, rays: FloatArray, rise: FloatArray, rng: np.random.Generator) -> None:
    bearing = np.arctan2(rays[..., 1], rays[..., 0])
    waves = rng.uniform(0, 2 * np.pi, 4)
    ridge = 0.020 + sum(
        0.010 / (k + 1) * np.sin((3 + 4 * k) * bearing + wave) for k, wave in enumerate(waves)
    )
    trees = (rise < ridge) & (rise > -0.02)
    tint = 1 + 0.10 * np.sin(60 * bearing + 40 * np.sin(9 * bearing)) * np.clip(rise * 60, -1, 1)
    dim = picture[trees].mean() / 205 if trees.any() else 1.0
    picture[trees] = (np.array([74.0, 96.0, 84.0]) * dim * tint[..., None])[trees]


@cache
def _sheets(seed: int) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Fine and broad noise that repeats at the edges."""
    tile = np.random.default_rng(seed).normal(0, 1, (_TILE_PX, _TILE_PX)).astype(np.float32)
    return gaussian_filter(tile, 1.2, mode="wrap") * 2.5, gaussian_filter(tile, 24.0, mode="wrap") * 40


def _grass(x: FloatArray, y: FloatArray, reach: FloatArray, rng: np.random.Generator) -> FloatArray:
    fine, broad = _sheets(int(rng.integers(1 << 31)))
    scale = _TILE_PX / _TILE_CM
    blades = _tiled(fine, x * scale, y * scale) / (1 + reach / 900.0)
    patches = _tiled(broad, x * scale / 5, y * scale / 5)
    stripes = np.sign(np.sin(x / 130.0)) * np.clip(1 - reach / 6000.0, 0, 1)
    light = 1 + 0.10 * blades + 0.06 * patches + 0.03 * stripes
    grass = np.array([92.0, 124.0, 74.0]) * light[..., None]
    haze = np.clip(reach / 9000.0, 0, 0.55)[..., None]
    return np.asarray((1 - haze) * grass + haze * np.array([126.0, 150.0, 128.0]))


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


def _mat(x: FloatArray, y: FloatArray, rng: np.random.Generator, camera: Camera) -> FloatArray:
    grain = rng.normal(0, 1, x.shape)
    if camera.moved:
        # A hand's camera must see the same grain from wherever it is.
        grain = _tiled(_sheets(int(rng.integers(1 << 31)))[0], x * 6, y * 6)
    rim = (np.abs(x) > 81) | (y < -51) | (y > 111)
    base = np.where(rim[..., None], np.array([58.0, 64.0, 62.0]), np.array([74.0, 108.0, 88.0]))
    return np.asarray(base * (1 + 0.03 * grain)[..., None])


def _floor(x: FloatArray, y: FloatArray, rng: np.random.Generator) -> FloatArray:
    fine, broad = _sheets(int(rng.integers(1 << 31)))
    light = 1 + 0.03 * _tiled(fine, x * 2, y * 2) + 0.05 * _tiled(broad, x / 3, y / 3)
    return np.asarray(np.array([112.0, 110.0, 104.0]) * light[..., None])


def _walls(
    picture: FloatArray, position: FloatArray, rays: FloatArray, reach: FloatArray, rng: np.random.Generator
) -> FloatArray:
    """Timber walls behind the golfer and at the trail side, and a ceiling."""
    fine, broad = _sheets(int(rng.integers(1 << 31)))
    nearest = reach.copy()
    for axis, at in ((1, -WALL_CM), (0, -WALL_CM - 120)):
        ray = rays[..., axis]
        along = np.where(ray < -1e-6, (at - position[axis]) / np.where(ray < -1e-6, ray, -1.0), FAR)
        along = np.where(along > 0, along, FAR)
        other = position[1 - axis] + along * rays[..., 1 - axis]
        height = position[2] + along * rays[..., 2]
        hit = (along < nearest) & (height > 0) & (height < CEILING_CM)
        board = np.where(np.abs(np.mod(other, 24.0) - 12) > 11.4, 0.72, 1.0)
        shade = np.where(hit, board * (1 + 0.05 * _tiled(fine, other, height * 0.2)), 1)
        shade = shade * np.where(hit, 1 + 0.05 * _tiled(broad, other / 2, height / 6), 1)
        timber = np.array([150.0, 128.0, 102.0]) * (0.96 if axis else 0.82)
        picture = np.where(hit[..., None], timber * shade[..., None], picture)
        nearest = np.where(hit, along, nearest)
    up = np.where(rays[..., 2] > 1e-6, (CEILING_CM - position[2]) / np.maximum(rays[..., 2], 1e-6), FAR)
    x, y = (position[k] + up * rays[..., k] for k in (0, 1))
    roof = (up < nearest) & (up > 0) & (y < WALL_CM) & (x < 260)
    beams = np.where(np.mod(x, 90) < 12, 0.7, 1.0)[..., None]
    return np.asarray(np.where(roof[..., None], np.array([88.0, 82.0, 76.0]) * beams, picture))


def _net(picture: FloatArray, position: FloatArray, rays: FloatArray, reach: FloatArray) -> FloatArray:
    """A net hung behind the golfer and across the target line, seen through."""
    for axis, at in ((1, -260.0), (0, 330.0)):
        ray = rays[..., axis]
        along = (at - position[axis]) / np.where(np.abs(ray) > 1e-6, ray, 1e-6)
        other = position[1 - axis] + along * rays[..., 1 - axis]
        height = position[2] + along * rays[..., 2]
        hit = (along > 0) & (along < reach) & (height > 0) & (height < 330)
        cord = np.minimum(np.mod(other + height, NET_MESH_CM), np.mod(other - height, NET_MESH_CM))
        strength = np.clip(1.6 - cord, 0, 1) * 0.55 * hit
        post = hit & (np.abs(np.mod(other + 150, 300) - 150) < 3)
        strength = np.where(post | (hit & (height > 322)), 0.95, strength + 0.06 * hit)
        picture = (1 - strength[..., None]) * picture + strength[..., None] * np.array([52.0, 56.0, 58.0])
    return picture
