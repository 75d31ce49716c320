"""Where the filmed man's joints are: another network's sightings in four cameras, made one body in space.

The cameras' places are refined with the joints, since the calibration that
comes with the film is 10 to 35 px off its own scene (bundle adjustment: Triggs
et al. 2000, "Bundle adjustment, a modern synthesis", from memory). That network
has the hips at the waistband: by the lengths of thigh and shank (de Leva 1996)
they lie some 3.5 cm lower and nearer together; by eye 1 to 4 cm. The hips of
this reference are moved by 2 cm and are no surer than that; other joints are
good to about 1.5 cm.
"""

from __future__ import annotations

import json
import tomllib
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d
from scipy.optimize import least_squares
from scipy.sparse import lil_matrix

FloatArray = NDArray[np.float64]

HIPS_LOWER_M, HIPS_APART_M = 0.02, 0.178
SMOOTH_FRAMES = 1.5
LEAST_SURE = 0.3
REFINED_EVERY = 4
TURN_SIGMA, PLACE_SIGMA_M = 0.02, 0.05
"""How far off the calibration may be: radians and metres of a camera's place."""

JOINTS = {
    f"{side}_{joint}": first + (side == "right")
    for joint, first in (("shoulder", 5), ("hip", 11), ("knee", 13), ("ankle", 15))
    for side in ("left", "right")
}
"""Joints by their number in that network's list."""


@dataclass(frozen=True)
class Reference:
    """Joints of one camera's film: ``pixels`` by name (T, 2), ``px_per_cm`` (T,) at the body."""

    pixels: dict[str, FloatArray]
    px_per_cm: FloatArray


@dataclass(frozen=True)
class _Camera:
    matrix: FloatArray
    lens: FloatArray
    place: FloatArray

    def shows(self, place: FloatArray, xyz: FloatArray) -> FloatArray:
        points, _ = cv2.projectPoints(xyz, place[:3], place[3:], self.matrix, self.lens)
        return np.asarray(points[:, 0])


def reference(folder: Path) -> dict[int, Reference]:
    """The joints by camera number, from calibration and sightings in ``folder``."""
    cameras = _cameras(folder / "calibration" / "Calib_qualisys.toml")
    seen = np.stack([_sightings(folder / "pose" / f"cam{k + 1}_json", cameras, k, folder) for k in range(4)])
    places = _refined(cameras, seen[:, ::REFINED_EVERY])
    body = np.stack([_placed(cameras, places, seen[:, frame]) for frame in range(seen.shape[1])])
    body = _mended(gaussian_filter1d(_filled(body), SMOOTH_FRAMES, axis=0))
    out = {}
    for number, (camera, place) in enumerate(zip(cameras, places, strict=True), 1):
        shown = camera.shows(place, body.reshape(-1, 3)).reshape(*body.shape[:2], 2)
        turn = cv2.Rodrigues(place[:3])[0]
        depth = (body.mean(axis=1) @ turn.T + place[3:])[:, 2]
        pixels = {name: shown[:, k] for k, name in enumerate(JOINTS)}
        out[number] = Reference(pixels, camera.matrix[0, 0] / depth / 100)
    return out


def _cameras(path: Path) -> list[_Camera]:
    content = tomllib.loads(path.read_text(encoding="utf-8"))
    return [
        _Camera(
            np.array(one["matrix"]),
            np.array(one["distortions"]),
            np.array([*one["rotation"], *one["translation"]]),
        )
        for one in (content[f"cam_{k:02d}"] for k in range(1, 5))
    ]


def _sightings(folder: Path, cameras: list[_Camera], number: int, root: Path) -> FloatArray:
    """The man's joints (T, J, 3): x, y, how sure; of several persons the one at his known path."""
    path = _known_path(root / "opensim" / "Balancing_for_IK.trc")
    out = []
    for frame, file in enumerate(sorted(folder.glob("*.json"))):
        people: list[dict[str, Any]] = json.loads(file.read_text(encoding="utf-8"))["people"]
        bodies = [np.array(one["pose_keypoints_2d"]).reshape(-1, 3)[list(JOINTS.values())] for one in people]
        due = cameras[number].shows(cameras[number].place, path[frame])
        best = min(bodies, key=lambda b: float(np.median(np.linalg.norm(b[:, :2] - due, axis=1))))
        best[best[:, 2] < LEAST_SURE] = np.nan
        out.append(best)
    return np.stack(out)


def _known_path(path: Path) -> FloatArray:
    """The rough path that comes with the film, (T, J, 3) m; its axes are turned."""
    lines = path.read_text(encoding="utf-8").splitlines()
    names = [name for name in lines[3].split("\t")[2:] if name.strip()]
    rows = np.array([[float(v) for v in line.split("\t") if v.strip()] for line in lines[5:] if line.strip()])
    columns = [names.index(name[0].upper() + name.split("_")[1].capitalize()) for name in JOINTS]
    return np.stack([rows[:, 2 + 3 * k : 5 + 3 * k][:, [2, 0, 1]] for k in columns], axis=1)


def _lines(camera: _Camera, place: FloatArray, xy: FloatArray) -> FloatArray:
    """Two equations (2, 4) that a point seen at ``xy`` satisfies."""
    flat = cv2.undistortPoints(xy.reshape(1, 1, 2), camera.matrix, camera.lens, P=camera.matrix)[0, 0]
    rows = camera.matrix @ np.column_stack([cv2.Rodrigues(place[:3])[0], place[3:]])
    return np.stack([flat[0] * rows[2] - rows[0], flat[1] * rows[2] - rows[1]])


def _placed(cameras: list[_Camera], places: list[FloatArray], seen: FloatArray) -> FloatArray:
    """Joints (J, 3) of one frame from what the cameras saw (4, J, 3), outliers counting little."""
    out = np.full((seen.shape[1], 3), np.nan)
    for joint in range(len(out)):
        looks = [
            (c, p, s[joint])
            for c, p, s in zip(cameras, places, seen, strict=True)
            if np.isfinite(s[joint, 0])
        ]
        if len(looks) < 2:
            continue
        straight = np.linalg.svd(np.concatenate([_lines(c, p, s[:2]) for c, p, s in looks]))[2][-1]

        def miss(xyz: FloatArray, looks: Any = looks) -> FloatArray:
            parts = [(c.shows(p, xyz[None])[0] - s[:2]) * np.sqrt(s[2]) for c, p, s in looks]
            return np.concatenate(parts)

        out[joint] = least_squares(miss, straight[:3] / straight[3], loss="soft_l1", f_scale=6.0).x
    return out


def _refined(cameras: list[_Camera], seen: FloatArray) -> list[FloatArray]:
    """Places of the cameras (6,) each, refined with joints seen in some frames (4, F, J, 3)."""
    first = [camera.place for camera in cameras]
    start = np.stack([_placed(cameras, first, seen[:, k]) for k in range(seen.shape[1])]).reshape(-1, 3)
    known = np.isfinite(start[:, 0])
    start[~known] = np.nanmean(start, axis=0)
    flat = seen.reshape(4, -1, 3)
    used = [np.flatnonzero(np.isfinite(one[:, 0]) & known) for one in flat]

    def split(v: FloatArray) -> tuple[list[FloatArray], FloatArray]:
        return [first[0], v[:6], v[6:12], v[12:18]], v[18:].reshape(-1, 3)

    def miss(v: FloatArray) -> FloatArray:
        places, body = split(v)
        parts = [
            ((camera.shows(place, body)[rows] - one[rows, :2]) * np.sqrt(one[rows, 2:])).ravel()
            for camera, place, one, rows in zip(cameras, places, flat, used, strict=True)
        ]
        loose = np.array([1 / TURN_SIGMA] * 3 + [1 / PLACE_SIGMA_M] * 3)
        kept = [(places[k] - first[k]) * loose for k in (1, 2, 3)]
        return np.concatenate([*parts, *kept, 0.01 * (body - start).ravel()])

    v = np.concatenate([*first[1:], start.ravel()])
    found = least_squares(
        miss, v, jac_sparsity=_sparsity(used, len(v)), loss="soft_l1", f_scale=6.0, max_nfev=60
    )
    return split(found.x)[0]


def _sparsity(used: list[NDArray[np.int64]], unknowns: int) -> Any:
    """Which unknowns each residual of the refinement hangs on."""
    total = 2 * sum(len(rows) for rows in used) + unknowns
    out, line = lil_matrix((total, unknowns), dtype=int), 0
    for camera, rows in enumerate(used):
        for row in rows.tolist():
            for _ in range(2):
                if camera:
                    out[line, 6 * (camera - 1) : 6 * camera] = 1
                out[line, 18 + 3 * row : 21 + 3 * row] = 1
                line += 1
    for own in range(unknowns):
        out[line + own, own] = 1
    return out


def _filled(body: FloatArray) -> FloatArray:
    """Joints (T, J, 3) with gaps filled between neighbours."""
    out, every = body.copy(), np.arange(len(body))
    for joint in range(body.shape[1]):
        known = np.flatnonzero(np.isfinite(body[:, joint, 0]))
        for axis in range(3):
            out[:, joint, axis] = np.interp(every, known, body[known, joint, axis])
    return out


def _mended(body: FloatArray) -> FloatArray:
    """Hips moved down the trunk and together, see the module."""
    out, at = body.copy(), list(JOINTS).index
    left, right = body[:, at("left_hip")], body[:, at("right_hip")]
    lower, upper = (left + right) / 2, (body[:, at("left_shoulder")] + body[:, at("right_shoulder")]) / 2
    across = _unit(left - right)
    down = lower - upper
    down = _unit(down - (down * across).sum(axis=1, keepdims=True) * across)
    lower = lower + HIPS_LOWER_M * down
    out[:, at("left_hip")] = lower + HIPS_APART_M / 2 * across
    out[:, at("right_hip")] = lower - HIPS_APART_M / 2 * across
    return out


def _unit(v: FloatArray) -> FloatArray:
    return np.asarray(v / np.linalg.norm(v, axis=1, keepdims=True))
