"""One body in space from two pictures of it: a bundle over joints at some moments, and both cameras.

World: x toward the target, y up from the ankles, z toward the ball line, cm; 0 between the ankles at address.
Unknown are all joints at every moment, how each camera stands, how far each joint is seen off in each view
all through, and the lengths of the bones. Everything that is believed beforehand is a named prior, one row of
the least squares with its spread: cameras (``YAW_DEG``, ``ROLL_DEG``, ``DISTANCE_SHARE``, height, scale),
what joints are seen off by (``OFF_CM``), bones that keep their length (``BONE_KEEPS_CM``) and are as long as
a table has them (``BONES``), the stance along the target (``STANCE_DEG``), the pelvis square at address
(``SQUARE_DEG``). Gauss and Newton's steps, damped (B. Triggs et al., Bundle adjustment, a modern synthesis,
2000); errors by the inverse of the normal matrix.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
from numpy.typing import NDArray

from kneel.model import View
from kneel.motion.body import HIP_HEIGHT, SHANK, SHOULDER_HEIGHT, THIGH
from kneel.motion.space.body import ADDRESS, Body, Seen

FloatArray = NDArray[np.float64]

YAW_DEG, ROLL_DEG, DISTANCE_SHARE = 4.0, 0.8, 0.25
OFF_CM = {"hip": 1.0, "knee": 0.8, "ankle": 0.8, "shoulder": 1.0, "head": 1.0, "grip": 0.8}
"""How far a joint is seen off in a view all through a swing besides what its track says (common practice, no
source)."""

BONE_KEEPS_CM = 0.6
"""Joints are no hinges: a bone's length wanders by so much from moment to moment."""

BONES = {
    ("lead_hip", "lead_knee"): (THIGH, 0.04),
    ("trail_hip", "trail_knee"): (THIGH, 0.04),
    ("lead_knee", "lead_ankle"): (SHANK, 0.04),
    ("trail_knee", "trail_ankle"): (SHANK, 0.04),
    ("lead_hip", "trail_hip"): (0.104, 0.15),
    ("lead_shoulder", "trail_shoulder"): (0.205, 0.12),
}
"""Lengths as shares of stature, and their relative spread (Winter 2009, fig. 4.1; how far the middles of a
pair lie apart, from memory)."""

TRUNK_SHARE, TRUNK_SPREAD, TRUNK_KEEPS_CM = SHOULDER_HEIGHT - HIP_HEIGHT, 0.06, 2.0
TRUNK = (("lead_hip", "trail_hip"), ("lead_shoulder", "trail_shoulder"))

STANCE_DEG, SQUARE_DEG = 3.0, 4.0
ROUNDS, SLIGHT = 8, 1e-4
ROOTED_CM = 0.01


class _Problem:
    """Residuals of all that is seen and believed, each over its spread."""

    CAMERA = 7
    """Yaw and roll (radians), height (cm), distance and scale (natural logarithms), shift across and up."""

    def __init__(
        self,
        seen: tuple[Seen, Seen],
        points: Sequence[str],
        moments: Sequence[str],
        stature: float,
        late: float,
    ) -> None:
        self.seen, self.points, self.stature, self.late = seen, tuple(points), stature, late
        self.count, self.many = len(points), len(moments)
        self.bones = [pair for pair in BONES if {*pair} <= {*points}]
        self.whiten = [np.linalg.inv(np.linalg.cholesky(one.covariance())) for one in seen]
        joints = [p.rpartition("_")[2] for p in points]
        self.off = np.array([OFF_CM[j] for j in joints])
        self.address = list(moments).index(ADDRESS)
        self.trunk = all(p in points for pair in TRUNK for p in pair)
        sizes = (2 * self.CAMERA, 1, 4 * self.count, len(self.bones) + 1, 3 * self.count * self.many)
        self.ends = np.cumsum(sizes)

    def split(self, values: FloatArray) -> tuple[FloatArray, ...]:
        """Cameras (2, 7), the clock's error s, what is seen off (2, P, 2), bones, joints (K, P, 3)."""
        cameras, late, off, bones, xyz = np.split(values, self.ends[:-1])
        return (
            cameras.reshape(2, self.CAMERA),
            late,
            off.reshape(2, self.count, 2),
            bones,
            xyz.reshape(self.many, self.count, 3),
        )

    def start(self) -> FloatArray:
        """Where to begin: each picture taken flat."""
        first, second = self.seen
        feet = [k for k, p in enumerate(self.points) if p.endswith("ankle")]
        values = np.zeros(self.ends[-1])
        cameras, _, _, bones, xyz = self.split(values)
        for k, one in enumerate(self.seen):
            middle = one.places[feet, self.address].mean(axis=0)
            cameras[k] = (0.0, 0.0, one.height_cm, np.log(one.distance_cm), 0.0, middle[0], middle[1])
        xyz[..., 0] = (first.places[..., 0] - cameras[0, 5]).T
        xyz[..., 2] = (second.places[..., 0] - cameras[1, 5]).T
        ups = [one.places[..., 1] - cameras[k, 6] for k, one in enumerate(self.seen)]
        xyz[..., 1] = ((ups[0] + ups[1]) / 2).T
        bones[:-1] = [BONES[pair][0] * self.stature for pair in self.bones]
        bones[-1] = TRUNK_SHARE * self.stature
        return np.concatenate([cameras.ravel(), [0.0], np.zeros(4 * self.count), bones, xyz.ravel()])

    def shown(self, camera: FloatArray, view: View, xyz: FloatArray) -> FloatArray:
        """Where a camera shows places (..., 3), (..., 2) cm of its picture."""
        x, y, z = xyz[..., 0], xyz[..., 1], xyz[..., 2]
        along, near = {View.FACE_ON: (x, z), View.REAR: (x, -z), View.DOWN_THE_LINE: (z, -x)}[view]
        yaw, roll, height, distance, scale, across, up = camera
        aside = along * np.cos(yaw) + near * np.sin(yaw)
        nearer = near * np.cos(yaw) - along * np.sin(yaw)
        grown = np.exp(scale) / (1 - nearer / np.exp(distance))
        u, v = aside * grown, (y - height) * grown + height * np.exp(scale)
        return np.stack([u - roll * v + across, v + roll * u + up], axis=-1)

    def residuals(self, values: FloatArray) -> FloatArray:
        """All of them, over their spreads."""
        cameras, late, off, bones, xyz = self.split(values)
        rows = [late / self.late]
        for k, one in enumerate(self.seen):
            told = self.shown(cameras[k], one.view, xyz).transpose(1, 0, 2) + off[k][:, None]
            if k == 1:
                # The second clock is late: what it shows has gone on by that.
                told = told + one.pace * late
            rows.append((self.whiten[k] @ (one.places - told).reshape(-1, 2)).ravel())
            believed = np.array([0.0, 0.0, one.height_cm, np.log(one.distance_cm), 0.0, 0.0, 0.0])
            rows.append((cameras[k] - believed) / self._camera_spreads(one))
            rows.append((off[k] / self.off[:, None]).ravel())
        rows += self._believed(bones, xyz)
        return np.concatenate(rows)

    def _camera_spreads(self, one: Seen) -> FloatArray:
        """How far a camera may stand from where it is believed to, in the order of its unknowns."""
        roll = min(one.roll_sigma_deg, ROLL_DEG)
        angles = np.radians([YAW_DEG, roll])
        return np.array([*angles, one.height_sigma_cm, DISTANCE_SHARE, max(one.scale_share, 0.01), 1e3, 1e3])

    def _believed(self, bones: FloatArray, xyz: FloatArray) -> list[FloatArray]:
        at = {p: xyz[:, k] for k, p in enumerate(self.points)}
        rows = []
        for k, pair in enumerate(self.bones):
            share, spread = BONES[pair]
            long = np.linalg.norm(at[pair[0]] - at[pair[1]], axis=1)
            rows.append((long - bones[k]) / BONE_KEEPS_CM)
            rows.append(np.array([(bones[k] / (share * self.stature) - 1) / spread]))
        if self.trunk:
            low, high = ((at[a] + at[b]) / 2 for a, b in TRUNK)
            rows.append((np.linalg.norm(high - low, axis=1) - bones[-1]) / TRUNK_KEEPS_CM)
        rows.append(np.array([(bones[-1] / (TRUNK_SHARE * self.stature) - 1) / TRUNK_SPREAD]))
        for joint, sigma in (("ankle", STANCE_DEG), ("hip", SQUARE_DEG)):
            line = (at[f"lead_{joint}"] - at[f"trail_{joint}"])[self.address]
            rows.append(np.array([np.degrees(np.arctan2(line[2], line[0])) / sigma]))
        feet = (at["lead_ankle"] + at["trail_ankle"])[self.address] / 2
        # Where the world begins: said once, or both pictures could be shifted together.
        rows.append(feet / ROOTED_CM)
        return rows

    def _believed_slopes(self, xyz: FloatArray) -> FloatArray:
        """How what is believed changes with each joint at each moment, (N, U), in the order of its rows."""
        at = {p: k for k, p in enumerate(self.points)}
        every = np.arange(self.many)
        blocks: list[FloatArray] = []

        def lengths(ends: Sequence[tuple[str, float]], keeps: float) -> None:
            # By a distance's two ends it grows along the line between them.
            made = np.zeros((self.many, *xyz.shape))
            line = sum(share * xyz[:, at[p]] for p, share in ends)
            unit = line / np.maximum(np.linalg.norm(line, axis=1), 1e-9)[:, None]
            for p, share in ends:
                made[every, every, at[p]] += share * unit / keeps
            blocks.extend((made, np.zeros((1, *xyz.shape))))

        for a, b in self.bones:
            lengths(((a, 1.0), (b, -1.0)), BONE_KEEPS_CM)
        if self.trunk:
            (a, b), (c, d) = TRUNK
            lengths(((a, -0.5), (b, -0.5), (c, 0.5), (d, 0.5)), TRUNK_KEEPS_CM)
        else:
            blocks.append(np.zeros((1, *xyz.shape)))
        for joint, sigma in (("ankle", STANCE_DEG), ("hip", SQUARE_DEG)):
            made = np.zeros((1, *xyz.shape))
            ends = at[f"lead_{joint}"], at[f"trail_{joint}"]
            line = xyz[self.address, ends[0]] - xyz[self.address, ends[1]]
            along, near = line[0], line[2]
            per = np.degrees(1.0) / sigma / max(along**2 + near**2, 1e-9)
            for end, sign in zip(ends, (1.0, -1.0), strict=True):
                made[0, self.address, end] = sign * per * np.array([-near, 0.0, along])
            blocks.append(made)
        feet = np.zeros((3, *xyz.shape))
        for side in ("lead", "trail"):
            feet[np.arange(3), self.address, at[f"{side}_ankle"], np.arange(3)] = 1 / 2 / ROOTED_CM
        return np.concatenate([*blocks, feet]).reshape(-1, xyz.size)

    def slopes(self, values: FloatArray) -> FloatArray:
        """How the residuals change with each unknown, (N, U).

        A joint at a moment is seen in two pictures alone, what it is seen off by in one: most are nothing.
        """
        cameras, _, _, _, xyz = self.split(values)
        seen_rows, bones = self.count * self.many * 2, len(self.bones) + 1
        blocks = []
        first = np.zeros((1, len(values)))
        first[0, self.ends[0]] = 1 / self.late
        blocks.append(first)
        for k, one in enumerate(self.seen):
            made = np.zeros((seen_rows + self.CAMERA + 2 * self.count, len(values)))
            block = made[:seen_rows].reshape(self.count, self.many, 2, -1)
            self._seen_slopes(block, k, self._shown_slopes(cameras[k], one.view, xyz))
            self._camera_slopes(block, k, cameras[k], xyz)
            if k == 1:
                pull = self.whiten[k] @ one.pace.reshape(-1, 2)
                block[..., self.ends[0]] = -pull.reshape(one.pace.shape)
            for j, spread in enumerate(self._camera_spreads(one)):
                made[seen_rows + j, self.CAMERA * k + j] = 1 / spread
            offs = np.arange(2 * self.count)
            made[seen_rows + self.CAMERA + offs, self.ends[1] + 2 * self.count * k + offs] = 1 / np.repeat(
                self.off, 2
            )
            blocks.append(made)
        believed = self._believed_slopes(xyz)
        made = np.zeros((len(believed), len(values)))
        made[:, self.ends[3] :] = believed
        row = 0
        for j in range(bones):
            trunk = j == bones - 1
            if not trunk or self.trunk:
                keeps = TRUNK_KEEPS_CM if trunk else BONE_KEEPS_CM
                made[row : row + self.many, self.ends[2] + j] = -1 / keeps
                row += self.many
            share, spread = (TRUNK_SHARE, TRUNK_SPREAD) if trunk else BONES[self.bones[j]]
            made[row, self.ends[2] + j] = 1 / (share * self.stature) / spread
            row += 1
        blocks.append(made)
        return np.concatenate(blocks)

    def _camera_slopes(self, block: FloatArray, which: int, camera: FloatArray, xyz: FloatArray) -> None:
        """Fill the rows of one picture by how its camera stands."""
        view = self.seen[which].view
        base = self.shown(camera, view, xyz)
        for j in range(self.CAMERA):
            moved = camera.copy()
            moved[j] += SLIGHT
            moves = (self.shown(moved, view, xyz) - base).transpose(1, 0, 2) / SLIGHT
            pull = self.whiten[which] @ moves.reshape(-1, 2)
            block[..., self.CAMERA * which + j] = -pull.reshape(moves.shape)

    def _shown_slopes(self, camera: FloatArray, view: View, xyz: FloatArray) -> FloatArray:
        """How what is shown of each joint moves with it, (K, P, axis, 2)."""
        base, found = self.shown(camera, view, xyz), []
        for axis in range(3):
            moved = xyz.copy()
            moved[..., axis] += SLIGHT
            found.append((self.shown(camera, view, moved) - base) / SLIGHT)
        return np.stack(found, axis=2)

    def _seen_slopes(self, block: FloatArray, which: int, moves: FloatArray) -> None:
        """Fill the rows of one picture, (P, K, 2, U): by each joint at each moment, and by what it is off."""
        joints = block[..., self.ends[3] :].reshape(*block.shape[:3], self.many, self.count, 3)
        offs = block[..., self.ends[1] + 2 * self.count * which :]
        whiten = self.whiten[which].reshape(self.count, self.many, self.count, self.many)
        # Which joint's place at which moment pulls at which residual.
        joints[:] = -np.einsum("piqj,jqac->picjqa", whiten, moves)
        for c in range(2):
            offs[:, :, c, c : 2 * self.count : 2] = -whiten.sum(axis=3)


def solve(
    seen: tuple[Seen, Seen],
    points: tuple[str, ...],
    moments: tuple[str, ...],
    stature_cm: float,
    late_s: float,
    near: FloatArray | None = None,
) -> Body:
    """The most probable body of what two cameras show, with its errors; looked for from ``near``, the
    solution before a little was changed, where there is one.

    >>> from kneel.motion.space.example import example_pair
    >>> from kneel.motion.space.linked import link
    >>> found = link(*example_pair(), agreed=True).body
    >>> found.xyz.shape == (len(found.moments), len(found.points), 3)
    True
    """
    problem = _Problem(seen, points, moments, stature_cm, late_s)
    values = problem.start()
    if near is not None and near.shape == values.shape:
        values = near.copy()
    cost = float(np.sum(problem.residuals(values) ** 2))
    damp = 1e-3
    normal = np.eye(len(values))
    for _ in range(ROUNDS):
        slopes, left = problem.slopes(values), problem.residuals(values)
        normal = slopes.T @ slopes
        while damp < 1e6:
            step = np.linalg.solve(normal + damp * np.diag(np.diag(normal)), -slopes.T @ left)
            tried = float(np.sum(problem.residuals(values + step) ** 2))
            if tried <= cost:
                break
            damp *= 10
        if not tried <= cost:
            break
        better = cost - tried
        values, cost, damp = np.asarray(values + step), tried, max(damp / 10, 1e-9)
        if better < 1e-6 * max(cost, 1.0):
            break
    spread = np.linalg.inv(normal)
    xyz = problem.split(values)[4]
    return Body(
        moments,
        points,
        np.asarray(xyz, dtype=np.float64),
        np.asarray(spread[problem.ends[3] :, problem.ends[3] :], dtype=np.float64),
        _pace(seen, xyz),
        cost / max(len(problem.residuals(values)) - len(values), 1),
        values=values,
        marked=partial(_marked, problem, values, np.asarray(spread, dtype=np.float64)),
    )


def _marked(
    problem: _Problem,
    values: FloatArray,
    spread: FloatArray,
    which: int,
    point: str,
    moments: Sequence[int],
    sigma_cm: float,
) -> FloatArray:
    """See :attr:`Body.marked`: the update of a linear Gaussian estimate by what a mark tells besides."""
    cameras, _, _, _, xyz = problem.split(values)
    one, p = problem.seen[which], problem.points.index(point)
    rows = np.zeros((2 * len(moments), len(values)))
    for m, k in enumerate(moments):
        block, here = rows[2 * m : 2 * m + 2], xyz[k : k + 1, p : p + 1]
        base = problem.shown(cameras[which], one.view, here)[0, 0]
        for j in range(problem.CAMERA):
            moved = cameras[which].copy()
            moved[j] += SLIGHT
            block[:, problem.CAMERA * which + j] = (
                problem.shown(moved, one.view, here)[0, 0] - base
            ) / SLIGHT
        for axis in range(3):
            there = here.copy()
            there[..., axis] += SLIGHT
            at = problem.ends[3] + 3 * (k * problem.count + p) + axis
            block[:, at] = (problem.shown(cameras[which], one.view, there)[0, 0] - base) / SLIGHT
        if which == 1:
            block[:, 2 * problem.CAMERA] = one.pace[p, k]
        off = problem.ends[1] + 2 * (problem.count * which + p)
        block[:, off : off + 2] = np.eye(2)
    across = rows @ spread
    gain = np.linalg.solve(across @ rows.T + sigma_cm**2 * np.eye(len(rows)), across)
    left = (spread - across.T @ gain)[problem.ends[3] :, problem.ends[3] :]
    return np.asarray(left, dtype=np.float64)


def _pace(seen: tuple[Seen, Seen], xyz: FloatArray) -> FloatArray:
    """How fast joints go, by what the pictures show of it, (K, P, 3) cm/s."""
    made = np.zeros_like(xyz)
    made[..., 0] = seen[0].pace[..., 0].T
    made[..., 2] = seen[1].pace[..., 0].T
    made[..., 1] = (seen[0].pace[..., 1] + seen[1].pace[..., 1]).T / 2
    return made
