"""What the legs wear: trousers close or wide, shorts, a skirt."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from kneel.sim.cloth import banded, plain, printed
from kneel.sim.golfer import Golfer
from kneel.sim.look import Colour, Outfit
from kneel.sim.surface import Loft, tube

FloatArray = NDArray[np.float64]

SOCK: Colour = (236, 236, 232)
THIGH = np.array((0.051, 0.053, 0.049, 0.043, 0.037))
SHANK = np.array((0.037, 0.036, 0.037, 0.033, 0.028, 0.025))
"""Radii from hip to knee and from knee to ankle as shares of stature (from memory)."""

WIDE_THIGH = np.array((1.04, 1.10, 1.20, 1.32, 1.50))
WIDE_SHANK = np.array((1.50, 1.55, 1.50, 1.65, 1.90, 2.00))
"""How much wider loose trousers hang."""

SHORTS_END, SKIRT_ENDS = 0.86, 0.70
"""Where hems hang, as a share of the way from hip to knee."""

HEM_SWINGS = 1.6
"""How much more than the cloth over the hips a skirt's hem lags."""


class Dressed(Protocol):
    """One moment of a skeleton with its cloth."""

    @property
    def joint(self) -> dict[str, FloatArray]: ...

    @property
    def pelvis(self) -> FloatArray: ...

    @property
    def lag(self) -> dict[str, FloatArray]: ...

    def cloth(self, name: str) -> FloatArray: ...


def leg(g: Golfer, pose: Dressed, side: str, seed: int) -> list[Loft]:
    """One leg from hip to ankle."""
    joint, look = pose.joint, g.look
    thick = g.stature_cm * (0.35 + 0.65 * g.girth)
    ease = 1 + 0.045 * min(look.loose_cm, 3.0)
    hip, knee, ankle = pose.cloth(f"{side}_hip"), pose.cloth(f"{side}_knee"), joint[f"{side}_ankle"]
    ahead, front = joint[f"{side}_toe"] - joint[f"{side}_heel"], pose.pelvis[1]
    thigh, shank = THIGH * thick * ease, SHANK * thick
    cloth = printed(look.trousers, seed + 1, look.weave)
    if look.outfit in (Outfit.TROUSERS, Outfit.WIDE):
        if look.outfit is Outfit.WIDE:
            thigh, shank = thigh * WIDE_THIGH, shank * WIDE_SHANK
        below = tube(
            knee, ankle, tuple(shank * ease), printed(look.trousers, seed + 2, look.weave), front=ahead
        )
        return [tube(hip, knee, tuple(thigh), cloth, front=front), below]
    skin = plain(look.skin, seed + 2)
    bare = [
        tube(joint[f"{side}_hip"], joint[f"{side}_knee"], tuple(thigh * 0.88), skin, front=front),
        tube(
            joint[f"{side}_knee"],
            ankle,
            tuple(shank * 0.86),
            banded(((10.3, skin), (np.inf, plain(SOCK)))),
            front=ahead,
        ),
    ]
    if look.outfit is Outfit.SKIRT:
        return bare
    hem = hip + SHORTS_END * (knee - hip)
    return [tube(hip, hem, (*thigh[:4], thigh[3] * 1.02), cloth, front=front), *bare]


def skirt(g: Golfer, pose: Dressed) -> Loft:
    """From the waist over both thighs, its hem swinging behind the hips."""
    size = g.stature_cm * (0.35 + 0.65 * g.girth)
    hips = [pose.cloth(f"{side}_hip") for side in ("lead", "trail")]
    knees = [pose.joint[f"{side}_knee"] for side in ("lead", "trail")]
    top = sum(hips) / 2 + 0.055 * g.stature_cm * pose.pelvis[2]
    lag = HEM_SWINGS * (pose.lag["lead_hip"] + pose.lag["trail_hip"]) / 2
    ends = [hip + SKIRT_ENDS * (knee - hip) + lag for hip, knee in zip(hips, knees, strict=True)]
    hem = (ends[0] + ends[1]) / 2
    share = np.array([0.0, 0.12, 0.35, 0.6, 0.85, 1.0])[:, None]
    across = (1 - share) * pose.pelvis[0] * 0.5 * np.linalg.norm(hips[0] - hips[1]) + share * (
        ends[0] - ends[1]
    ) / 2
    apart = np.linalg.norm(across, axis=1, keepdims=True)
    way = across / apart
    down = (hem - top) / np.linalg.norm(hem - top)
    front = np.cross(way, down)
    front *= np.sign((front @ pose.pelvis[1])[:, None])
    front /= np.linalg.norm(front, axis=1, keepdims=True)
    flare = np.array([0.040, 0.052, 0.060, 0.062, 0.066, 0.070])[:, None] * size
    depth = np.array([0.052, 0.064, 0.074, 0.078, 0.082, 0.086])[:, None] * size
    return Loft(
        top + share * (hem - top),
        depth * front,
        (apart + flare) * way,
        printed(g.look.trousers, 5, g.look.weave),
    )
