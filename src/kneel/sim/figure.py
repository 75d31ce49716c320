"""The golfer's surface: smooth lofts round the skeleton, clothed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model import Club
from kneel.sim import clothes
from kneel.sim.cloth import banded, plain, printed
from kneel.sim.face import head_lofts
from kneel.sim.golfer import Golfer
from kneel.sim.look import Appearance, Colour, Outfit
from kneel.sim.pose import TORSO_BACK, TORSO_DEEP, TORSO_WIDE, Skeleton
from kneel.sim.surface import Loft, Paint, tube

FloatArray = NDArray[np.float64]
Joints = dict[str, FloatArray]

BELT: Colour = (44, 38, 36)
GLOVE: Colour = (232, 230, 224)
STEEL: Colour = (176, 180, 184)
GRIP: Colour = (40, 42, 44)
IRON_HEAD: Colour = (70, 74, 80)
BALL: Colour = (248, 248, 246)
BALL_RADIUS_CM = 2.1335
TAPE_OUT = 0.006
BRACE = (46, 46, 52)
"""How far a patch on the hip stands before the bones' front, as a share of stature: on the cloth."""

# Torso sections from below the hips to the neck: place along lower-to-upper
# centre, half width and half depth as shares of stature (from memory).
_TORSO = (
    (-0.24, 0.030, 0.030),
    (-0.20, 0.072, 0.054),
    (-0.10, TORSO_WIDE * 0.96, TORSO_DEEP * 1.02),
    (0.02, TORSO_WIDE, TORSO_DEEP),
    (0.14, 0.090, 0.058),
    (0.22, 0.087, 0.056),
    (0.40, 0.084, 0.056),
    (0.58, 0.090, 0.061),
    (0.76, 0.097, 0.065),
    (0.90, 0.101, 0.059),
    (0.99, 0.098, 0.049),
    (1.035, 0.074, 0.040),
    (1.075, 0.044, 0.034),
    (1.10, 0.030, 0.028),
    (1.11, 0.001, 0.001),
)
_PLACES = np.array([row[0] for row in _TORSO])
HEM_AT = -0.12
"""Where a shirt that hangs out ends, along lower-to-upper centre."""

HEM_SWINGS = 0.8
"""How much more than the cloth over the hips it lags."""

_BELT_AT, _SHIRT_AT, _HEM_RING = (
    float(np.interp(x, _PLACES, np.arange(len(_PLACES)))) for x in (0.165, 0.205, HEM_AT)
)


@dataclass(frozen=True)
class Pose:
    """One moment of a skeleton: joints (3,), frames (3, 3), and how far the cloth is off hips and knees."""

    joint: Joints
    pelvis: FloatArray
    chest: FloatArray
    head: FloatArray
    lag: Joints

    @staticmethod
    def at(skeleton: Skeleton, index: int, lag: dict[str, FloatArray]) -> Pose:
        return Pose(
            {name: xyz[index] for name, xyz in skeleton.joints.items()},
            skeleton.pelvis[index],
            skeleton.chest[index],
            skeleton.head[index],
            {name: xyz[index] for name, xyz in lag.items()},
        )

    def cloth(self, name: str) -> FloatArray:
        """Where the cloth over a joint hangs."""
        return self.joint[name] + self.lag[name]


def body(golfer: Golfer, pose: Pose) -> list[Loft]:
    """Surfaces that move at a body's speed: trunk, legs, head."""
    lofts = [_torso(golfer, pose)]
    if golfer.look.outfit is Outfit.SKIRT:
        lofts.append(clothes.skirt(golfer, pose))
    for seed, side in enumerate(("lead", "trail")):
        lofts += clothes.leg(golfer, pose, side, seed * 10)
        lofts += _foot(golfer, pose.joint, side)
    lofts += head_lofts(
        golfer.look, pose.joint["head"], pose.head, _upper(pose.joint), golfer.stature_cm * golfer.build.head
    )
    return lofts + _tape(golfer, pose) + _bands(golfer, pose)


def arms_and_club(golfer: Golfer, pose: Pose) -> list[Loft]:
    """Surfaces that blur while a frame is exposed."""
    lofts = []
    for seed, side in enumerate(("lead", "trail")):
        lofts += _arm(golfer, pose, side, seed * 10)
    return lofts + _club(golfer, pose.joint)


def ball_loft(centre: FloatArray) -> Loft:
    """The ball."""
    return tube(centre - (0, 0, 0.1), centre + (0, 0, 0.1), (BALL_RADIUS_CM,) * 2, plain(BALL), bands=3)


def _upper(joint: Joints) -> FloatArray:
    return np.asarray((joint["lead_shoulder"] + joint["trail_shoulder"]) / 2)


def _torso(g: Golfer, pose: Pose) -> Loft:
    lower = (pose.cloth("lead_hip") + pose.cloth("trail_hip")) / 2
    blend = np.clip(_PLACES, 0, 1)[:, None]
    lead = (1 - blend) * pose.pelvis[0] + blend * pose.chest[0]
    front = (1 - blend) * pose.pelvis[1] + blend * pose.chest[1]
    lead /= np.linalg.norm(lead, axis=1, keepdims=True)
    front -= (front * lead).sum(axis=1, keepdims=True) * lead
    front /= np.linalg.norm(front, axis=1, keepdims=True)
    spine = _upper(pose.joint) - lower
    hang = np.array([0.0, 0.0, 1.0]) * np.linalg.norm(spine)
    way = np.where(_PLACES[:, None] < 0, 0.35 * spine + 0.65 * hang, spine)
    centres = lower + _PLACES[:, None] * way - TORSO_BACK * g.stature_cm * front
    size = g.stature_cm * g.girth
    width = np.array([row[1] for row in _TORSO])[:, None] * size
    # A heavy body carries its weight in front of the belt.
    belly = 1 + 0.9 * (g.girth - 1) * np.exp(-(((_PLACES - 0.28) / 0.2) ** 2))[:, None]
    depth = np.array([row[2] for row in _TORSO])[:, None] * size * belly
    centres += (depth - depth / belly) * front
    if g.look.untucked:
        _hang_out(pose, centres, depth, width)
    paint = _torso_paint(g.look)
    return Loft(centres, depth * front, width * lead, paint)


def _hang_out(pose: Pose, centres: FloatArray, depth: FloatArray, width: FloatArray) -> None:
    """A shirt over the belt: wider toward its hem, which swings behind the hips; arrays change in place."""
    over = (_PLACES > HEM_AT - 0.01) & (_PLACES < 0.45)
    loose = np.clip((0.45 - _PLACES) / 0.3, 0, 1)[:, None] * over[:, None]
    depth *= 1 + 0.16 * loose
    width *= 1 + 0.10 * loose
    centres += loose * HEM_SWINGS * (pose.lag["lead_hip"] + pose.lag["trail_hip"]) / 2


def _torso_paint(look: Appearance) -> Paint:
    legs = plain(look.skin) if look.outfit is Outfit.SKIRT else printed(look.trousers, 3, look.weave)
    shirt = printed(look.shirt, 4, look.weave)
    if look.untucked:
        return banded(((_HEM_RING, legs), (np.inf, shirt)))
    return banded(((_BELT_AT, legs), (_SHIRT_AT, plain(BELT)), (np.inf, shirt)))


def _foot(g: Golfer, joint: Joints, side: str) -> list[Loft]:
    size = g.stature_cm
    heel, toe = joint[f"{side}_heel"], joint[f"{side}_toe"]
    ahead = toe - heel
    ahead = ahead / np.linalg.norm(ahead)
    aside = np.cross([0.0, 0.0, 1.0], ahead)
    aside /= np.linalg.norm(aside)
    up = np.cross(ahead, aside)
    share = np.array([-0.02, 0.0, 0.05, 0.15, 0.4, 0.62, 0.85, 0.97, 1.0])
    wide = np.array([0.001, 0.012, 0.018, 0.021, 0.022, 0.026, 0.024, 0.014, 0.001])[:, None] * size
    tall = np.array([0.001, 0.016, 0.022, 0.030, 0.031, 0.022, 0.015, 0.009, 0.001])[:, None] * size
    start, end = heel - 0.02 * size * ahead, toe + 0.03 * size * ahead
    centres = start + share[:, None] * (end - start) + (0.5 * tall - 0.4) * up
    return [Loft(centres, 0.8 * tall * up, wide * aside, plain(g.look.shoes))]


def _arm(g: Golfer, pose: Pose, side: str, seed: int) -> list[Loft]:
    joint, look = pose.joint, g.look
    shoulder, elbow, grip = joint[f"{side}_shoulder"], joint[f"{side}_elbow"], joint["grip"]
    thick = g.stature_cm * (0.5 + 0.5 * g.girth)
    front = pose.chest[1]
    cuff = shoulder + 0.62 * (elbow - shoulder)
    skin = plain(look.skin, seed + 4)
    sleeve = (0.035 * thick, 0.034 * thick, 0.031 * thick, 0.030 * thick)
    hand = plain(GLOVE) if side == "lead" else skin
    wrist = joint[f"{side}_wrist"]
    along = (joint["clubhead"] - grip) / np.linalg.norm(joint["clubhead"] - grip)
    # The trail hand sits below the lead hand on the handle.
    place = grip + (-2.4 if side == "lead" else 2.8) * along
    return [
        tube(shoulder, cuff, sleeve, printed(look.shirt, seed + 3, look.weave), front=front),
        tube(shoulder, elbow, (0.027 * thick, 0.026 * thick, 0.022 * thick), skin, front=front),
        tube(elbow, wrist, (0.022 * thick, 0.023 * thick, 0.019 * thick, 0.015 * thick), skin, front=front),
        tube(wrist, place, (0.017 * thick, 0.024 * thick, 0.022 * thick), hand, bands=5),
    ]


def _club(g: Golfer, joint: Joints) -> list[Loft]:
    grip, head = joint["grip"], joint["clubhead"]
    shaft = (head - grip) / np.linalg.norm(head - grip)
    out = np.array([0.0, 1.0, 0.0]) - shaft[1] * shaft
    out /= np.linalg.norm(out)
    lofts = [
        tube(grip - 9.0 * shaft, grip + 14.0 * shaft, (1.35, 1.1), plain(GRIP), bands=5),
        tube(grip + 14.0 * shaft, head, (0.65, 0.5), plain(STEEL), bands=12),
    ]
    if g.club in (Club.DRIVER, Club.WOOD):
        lofts.append(tube(head - 2.0 * out, head + 5.5 * out, (3.2, 4.6, 3.8), plain(IRON_HEAD), bands=5))
    else:
        lofts.append(tube(head - 1.5 * out, head + 6.0 * out, (1.6, 2.4, 2.2), plain(IRON_HEAD), bands=5))
    return lofts


def tape_places(golfer: Golfer, pose: Pose) -> Joints:
    """Middles of the tape: a band round each knee, a patch on each hip in front; lead/trail names."""
    size, girth = golfer.stature_cm, golfer.girth
    out = {}
    for side, sign in (("lead", 1), ("trail", -1)):
        out[f"{side}_knee"] = pose.cloth(f"{side}_knee")
        hip = (pose.cloth("lead_hip") + pose.cloth("trail_hip")) / 2
        across = sign * 0.055 * size * girth * pose.pelvis[0]
        out[f"{side}_hip"] = hip + across + (TORSO_DEEP * 0.78 * girth + TAPE_OUT) * size * pose.pelvis[1]
    return out


def _tape(g: Golfer, pose: Pose) -> list[Loft]:
    colour = g.look.tape
    if colour is None:
        return []
    paint, places, lofts = plain(colour), tape_places(g, pose), []
    radius = 0.0385 * g.stature_cm * (0.35 + 0.65 * g.girth) * (1 + 0.045 * min(g.look.loose_cm, 3.0))
    for side in ("lead", "trail"):
        way = pose.joint[f"{side}_ankle"] - pose.joint[f"{side}_hip"]
        way = way / np.linalg.norm(way)
        knee, hip = places[f"{side}_knee"], places[f"{side}_hip"]
        lofts.append(tube(knee - 2.0 * way, knee + 2.0 * way, (radius,) * 3, paint, bands=3))
        lofts.append(tube(hip - 3.0 * pose.pelvis[1], hip, (2.6, 2.6), paint, bands=3))
    return lofts


def _bands(g: Golfer, pose: Pose) -> list[Loft]:
    """A dark brace with a bright band round the trail knee, and a bright band round the lead sock."""
    colour = g.look.band
    if colour is None:
        return []
    knee, ankle = pose.cloth("trail_knee"), pose.joint["lead_ankle"]
    leg = pose.joint["trail_ankle"] - pose.joint["trail_hip"]
    shin = pose.joint["lead_knee"] - ankle
    leg, shin = leg / np.linalg.norm(leg), shin / np.linalg.norm(shin)
    girth = 0.35 + 0.65 * g.girth
    thick, thin = 0.0385 * g.stature_cm * girth, 0.030 * g.stature_cm * girth
    return [
        tube(knee - 7.0 * leg, knee + 7.0 * leg, (thick,) * 3, plain(BRACE), bands=3),
        tube(knee - 2.0 * leg, knee + 2.0 * leg, (1.04 * thick,) * 3, plain(colour), bands=3),
        tube(ankle - 0.5 * shin, ankle + 4.0 * shin, (thin,) * 3, plain(colour), bands=3),
    ]
