"""The golfer's surface: lofted tubes around the skeleton, as faces with colours."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.sim.golfer import Golfer
from kneel.sim.pose import Skeleton

FloatArray = NDArray[np.float64]

BELT = (44, 38, 36)
SHOE = (228, 226, 220)
STEEL = (176, 180, 184)
IRON_HEAD = (70, 74, 80)
BALL = (246, 246, 244)
BALL_RADIUS_CM = 2.1335

# Torso sections from below the hips to the neck: place along lower-to-upper
# centre, half width and half depth as shares of stature (from memory).
_TORSO = (
    (-0.22, 0.062, 0.054),
    (-0.12, 0.086, 0.066),
    (0.02, 0.094, 0.068),
    (0.14, 0.090, 0.064),
    (0.20, 0.087, 0.062),
    (0.25, 0.086, 0.061),
    (0.40, 0.084, 0.060),
    (0.58, 0.090, 0.064),
    (0.76, 0.098, 0.066),
    (0.90, 0.098, 0.060),
    (0.98, 0.084, 0.050),
    (1.05, 0.045, 0.040),
)


@dataclass(frozen=True)
class Faces:
    """Quads: corners (N, 4, 3) cm, outward normals (N, 3), colours (N, 3) 0..255."""

    corners: FloatArray
    normals: FloatArray
    colours: FloatArray


def loft(
    centres: FloatArray,
    a: FloatArray,
    b: FloatArray,
    colours: FloatArray,
    *,
    sectors: int,
    weave: float = 0.0,
    seed: int = 0,
) -> Faces:
    """A closed tube through elliptic rings.

    ``centres`` (R, 3); ``a`` and ``b`` (R, 3) are the half axes of each ring;
    ``colours`` (R-1, 3) per band. ``weave`` varies the brightness of each face
    by that share, always the same for the same seed, as cloth does.
    """
    angle = np.linspace(0, 2 * np.pi, sectors, endpoint=False)
    ring = (
        centres[:, None]
        + np.cos(angle)[None, :, None] * a[:, None]
        + np.sin(angle)[None, :, None] * b[:, None]
    )
    following = np.roll(ring, -1, axis=1)
    corners = np.stack([ring[:-1], following[:-1], following[1:], ring[1:]], axis=2)
    middle = corners.mean(axis=2)
    normals = np.cross(corners[:, :, 2] - corners[:, :, 0], corners[:, :, 3] - corners[:, :, 1])
    core = (centres[:-1] + centres[1:]) / 2
    outward = ((middle - core[:, None]) * normals).sum(axis=2, keepdims=True)
    normals = np.where(outward < 0, -normals, normals)
    normals /= np.maximum(np.linalg.norm(normals, axis=2, keepdims=True), 1e-9)
    paint = np.repeat(colours[:, None].astype(float), sectors, axis=1)
    if weave:
        paint *= 1 + weave * np.random.default_rng(seed).uniform(-1, 1, paint.shape[:2])[..., None]
    return Faces(corners.reshape(-1, 4, 3), normals.reshape(-1, 3), paint.reshape(-1, 3))


def limb(
    root: FloatArray,
    end: FloatArray,
    radii: Sequence[float],
    colour: Sequence[float],
    *,
    sectors: int = 14,
    bands: int = 12,
    front: FloatArray | None = None,
    weave: float = 0.0,
    seed: int = 0,
) -> Faces:
    """A round limb between two joints with radii spread evenly along it, rounded at both ends."""
    axis = end - root
    length = float(np.linalg.norm(axis))
    axis = axis / max(length, 1e-9)
    guide = front if front is not None else np.array([0.31, 0.83, 0.12])
    a = guide - (guide @ axis) * axis
    a /= np.linalg.norm(a)
    b = np.cross(axis, a)
    share = np.linspace(0, 1, bands)
    radius = np.interp(share, np.linspace(0, 1, len(radii)), radii)
    cap = np.array([0.0, 0.55, 0.87])
    before, after = -radii[0] * np.array([1.0, 0.83, 0.5]), radii[-1] * np.array([0.5, 0.83, 1.0])
    along = np.concatenate([before, share * length, length + after])
    thick = np.concatenate([radii[0] * cap, radius, radii[-1] * cap[::-1]])
    centres = root + along[:, None] * axis
    colours = np.tile(np.asarray(colour, float), (len(along) - 1, 1))
    return loft(
        centres, thick[:, None] * a, thick[:, None] * b, colours, sectors=sectors, weave=weave, seed=seed
    )


def figure(golfer: Golfer, skeleton: Skeleton, index: int) -> Faces:
    """All faces of the golfer, club and ball at one frame."""
    joint = {name: xyz[index] for name, xyz in skeleton.joints.items()}
    size = golfer.stature_cm
    parts = [_torso(golfer, skeleton, index, joint)]
    for seed, side in enumerate(("lead", "trail")):
        parts += _leg(golfer, joint, side, size, skeleton.pelvis[index, 1], seed * 10)
        parts += _arm(golfer, joint, side, size, skeleton.chest[index, 1], seed * 10)
    parts.append(_head(golfer, joint["head"], skeleton.head[index], size))
    neck = joint["head"] - 0.5 * (joint["head"] - _upper(joint))
    parts.append(limb(_upper(joint), neck, (0.033 * size, 0.031 * size), golfer.skin, bands=4))
    parts.append(limb(joint["grip"], joint["clubhead"], (0.9, 0.55), STEEL, sectors=6, bands=16))
    parts.append(_club_head(joint))
    return Faces(
        np.concatenate([p.corners for p in parts]),
        np.concatenate([p.normals for p in parts]),
        np.concatenate([p.colours for p in parts]),
    )


def ball_faces(centre: FloatArray) -> Faces:
    """The ball."""
    return limb(centre - (0, 0, 0.1), centre + (0, 0, 0.1), (BALL_RADIUS_CM,) * 2, BALL, bands=3, sectors=12)


def _upper(joint: dict[str, FloatArray]) -> FloatArray:
    return (joint["lead_shoulder"] + joint["trail_shoulder"]) / 2


def _torso(g: Golfer, s: Skeleton, i: int, joint: dict[str, FloatArray]) -> Faces:
    lower = (joint["lead_hip"] + joint["trail_hip"]) / 2
    along = np.array([row[0] for row in _TORSO])
    blend = np.clip(along, 0, 1)[:, None]
    lead = (1 - blend) * s.pelvis[i, 0] + blend * s.chest[i, 0]
    front = (1 - blend) * s.pelvis[i, 1] + blend * s.chest[i, 1]
    lead /= np.linalg.norm(lead, axis=1, keepdims=True)
    front -= (front * lead).sum(axis=1, keepdims=True) * lead
    front /= np.linalg.norm(front, axis=1, keepdims=True)
    spine = _upper(joint) - lower
    hang = np.array([0.0, 0.0, 1.0]) * np.linalg.norm(spine)
    way = np.where(along[:, None] < 0, 0.5 * spine + 0.5 * hang, spine)
    centres = lower + along[:, None] * way - 0.012 * g.stature_cm * front
    width = np.array([row[1] for row in _TORSO]) * g.stature_cm * g.girth
    depth = np.array([row[2] for row in _TORSO]) * g.stature_cm * g.girth
    fine = np.linspace(0, len(along) - 1, 4 * len(along) - 3)

    def spread(values: FloatArray) -> FloatArray:
        whole = np.arange(len(along))
        return np.stack([np.interp(fine, whole, values[:, k]) for k in range(values.shape[1])], axis=1)

    places = np.interp(fine, np.arange(len(along)), along)[:-1]
    colours = np.where(places[:, None] < 0.20, g.trousers, np.where(places[:, None] < 0.25, BELT, g.shirt))
    return loft(
        spread(centres),
        spread(width[:, None] * lead),
        spread(depth[:, None] * front),
        colours,
        sectors=30,
        weave=0.05,
        seed=3,
    )


def _leg(
    g: Golfer, joint: dict[str, FloatArray], side: str, size: float, front: FloatArray, seed: int
) -> list[Faces]:
    hip, knee, ankle = (joint[f"{side}_{n}"] for n in ("hip", "knee", "ankle"))
    heel, toe = joint[f"{side}_heel"], joint[f"{side}_toe"]
    thick = size * g.girth
    ahead = toe - heel
    ahead = ahead / np.linalg.norm(ahead)
    side_axis = np.cross([0.0, 0.0, 1.0], ahead)
    side_axis /= np.linalg.norm(side_axis)
    up = np.cross(ahead, side_axis)
    share = np.array([0.0, 0.04, 0.15, 0.4, 0.62, 0.85, 0.97, 1.0])
    wide = np.array([0.0, 0.016, 0.021, 0.022, 0.026, 0.024, 0.014, 0.0]) * size
    tall = np.array([0.0, 0.020, 0.030, 0.032, 0.022, 0.015, 0.009, 0.0]) * size
    start, end = heel - 0.02 * size * ahead, toe + 0.03 * size * ahead
    centres = start + share[:, None] * (end - start) + (0.5 * tall - 0.4)[:, None] * up
    shoe = loft(
        centres,
        wide[:, None] * side_axis,
        tall[:, None] * up * 0.8,
        np.tile(np.asarray(SHOE, float), (7, 1)),
        sectors=14,
    )
    thigh = limb(
        hip,
        knee,
        (0.050 * thick, 0.050 * thick, 0.043 * thick, 0.036 * thick),
        g.trousers,
        sectors=20,
        bands=22,
        front=front,
        weave=0.05,
        seed=seed + 1,
    )
    shank = limb(
        knee,
        ankle,
        (0.036 * thick, 0.035 * thick, 0.031 * thick, 0.028 * thick),
        g.trousers,
        sectors=18,
        bands=20,
        front=ahead,
        weave=0.05,
        seed=seed + 2,
    )
    return [shoe, shank, thigh]


def _arm(
    g: Golfer, joint: dict[str, FloatArray], side: str, size: float, front: FloatArray, seed: int
) -> list[Faces]:
    shoulder, elbow, grip = joint[f"{side}_shoulder"], joint[f"{side}_elbow"], joint["grip"]
    thick = size * (0.5 + 0.5 * g.girth)
    cuff = shoulder + 0.62 * (elbow - shoulder)
    sleeve = limb(
        shoulder,
        cuff,
        (0.034 * thick, 0.031 * thick, 0.029 * thick),
        g.shirt,
        sectors=14,
        bands=10,
        front=front,
        weave=0.05,
        seed=seed + 3,
    )
    upper = limb(shoulder, elbow, (0.027 * thick, 0.025 * thick, 0.022 * thick), g.skin, front=front)
    fore = limb(elbow, grip, (0.022 * thick, 0.021 * thick, 0.016 * thick), g.skin, front=front)
    hand = limb(joint[f"{side}_wrist"], grip, (0.018 * size, 0.025 * size), g.skin, bands=5)
    return [sleeve, upper, fore, hand]


def _head(g: Golfer, centre: FloatArray, frame: FloatArray, size: float) -> Faces:
    share = np.cos(np.linspace(np.pi, 0, 16))
    ring = np.sqrt(1 - share**2) * (1 - 0.12 * np.clip(-share, 0, 1))
    lead, front, up = frame
    faces = loft(
        centre + (0.066 * size * share)[:, None] * up,
        (0.045 * size * ring)[:, None] * lead,
        (0.056 * size * ring)[:, None] * front,
        np.tile(np.asarray(g.skin, float), (15, 1)),
        sectors=20,
    )
    local = faces.corners.mean(axis=1) - centre
    height, ahead = local @ up / size, local @ front / size
    hair = (height > 0.028) | ((ahead < 0.004) & (height > -0.03))
    colours = np.where(hair[:, None], np.asarray(g.hair, float), faces.colours)
    return Faces(faces.corners, faces.normals, colours)


def _club_head(joint: dict[str, FloatArray]) -> Faces:
    shaft = joint["clubhead"] - joint["grip"]
    shaft = shaft / np.linalg.norm(shaft)
    out = np.array([0.0, 1.0, 0.0]) - shaft[1] * shaft
    out /= np.linalg.norm(out)
    return limb(
        joint["clubhead"] - 1.5 * out,
        joint["clubhead"] + 6.0 * out,
        (1.6, 2.4, 2.2),
        IRON_HEAD,
        sectors=8,
        bands=5,
    )
