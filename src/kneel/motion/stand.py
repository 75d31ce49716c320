"""Where the camera stands, as far as it can be known, and what is left open.

Without a word from anybody a phone set up by eye stands within about 4° of
square and 0.8° of level, 4 m away, as high as a belt (common practice, no
source). A marked plumb tells the roll; both ankles' line tells roll and yaw
mixed, the feet's direction the yaw, no better than feet are alike (± 6°).
All is put together as one linear Gaussian update (Kalman 1960).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kneel.model import View

FloatArray = NDArray[np.float64]

YAW_SIGMA_DEG = 4.0
ROLL_SIGMA_DEG = 0.8
DISTANCE_M, DISTANCE_SHARE = 4.0, 0.25
HEIGHT_M, HEIGHT_SIGMA_M = 1.05, 0.2
"""What is believed of a camera nobody measured (common practice, no source)."""

ANKLE_M = 0.08
"""How high an ankle joint is above the ground (body tables, a usual body)."""

ANY_YAW_DEG, CLEARLY_SIGMAS = 30.0, 2.0
"""What is believed of a camera set up anyhow, and when clues alone are enough to say that it was."""

FLARE_SIGMA_DEG = 6.0
"""People's feet differ from the usual, and from each other, by so much: yaw is told no better by them."""

FLARE_APART_DEG = 10.0
"""The lead foot is turned out by so much more than the trail foot (common practice, no source)."""

STANCE_SIGMA_DEG = 3.0
"""How far a stance is from lying along the target line (common practice, no source)."""

YAW_IN_ROLL = 0.2
"""How much a degree of yaw tilts the line through both ankles (domain geometry)."""

ANKLE_LINE_SIGMA_DEG = 1.2
"""Two ankles of one height stand on ground, and are seen, level within this (common practice, no source)."""


FOOT_M, STANCE_M = 0.24, 0.44
"""A usual foot from heel to toe, and a usual stance (shares of :mod:`kneel.motion.body` of a usual body)."""

PLUMB_SIGMA_PX = 1.5


@dataclass(frozen=True)
class Stand:
    """Angles in degrees: ``yaw`` off square, + with what is nearer shifted toward the target (ball line down
    the line); ``roll`` with which the picture's content is turned clockwise. Metres for the rest.
    ``told`` names what they rest on.
    """

    yaw_deg: float = 0.0
    yaw_sigma: float = YAW_SIGMA_DEG
    roll_deg: float = 0.0
    roll_sigma: float = ROLL_SIGMA_DEG
    distance_m: float = DISTANCE_M
    height_m: float = HEIGHT_M
    height_sigma_m: float = HEIGHT_SIGMA_M
    told: tuple[str, ...] = ()


@dataclass(frozen=True)
class Clue:
    """One look at yaw and roll: ``yaw`` and ``roll`` are how much of each it shows, degrees."""

    value: float
    sigma: float
    yaw: float
    roll: float
    what: str


def believed(clues: list[Clue]) -> Stand:
    """Put clues to what is known beforehand.

    Where clues alone tell that the camera is clearly off square, they are
    believed, and not the habit of setting it up square.

    >>> plumb = Clue(2.0, 0.2, 0.0, 1.0, "a plumb")
    >>> stand = believed([plumb])
    >>> round(stand.roll_deg, 2), round(stand.roll_sigma, 2), stand.yaw_sigma
    (1.88, 0.19, 4.0)
    """
    alone = _update(clues, ANY_YAW_DEG)
    clearly = abs(alone.yaw_deg) > CLEARLY_SIGMAS * alone.yaw_sigma
    return alone if clearly else _update(clues, YAW_SIGMA_DEG)


def _update(clues: list[Clue], yaw_sigma: float) -> Stand:
    weight = np.diag([yaw_sigma**-2.0, ROLL_SIGMA_DEG**-2.0])
    pull = np.zeros(2)
    for clue in clues:
        row = np.array([clue.yaw, clue.roll])
        weight += np.outer(row, row) / clue.sigma**2
        pull += row * clue.value / clue.sigma**2
    spread = np.linalg.inv(weight)
    yaw, roll = spread @ pull
    sigmas = np.sqrt(np.diag(spread))
    return Stand(
        float(yaw), float(sigmas[0]), float(roll), float(sigmas[1]), told=tuple(c.what for c in clues)
    )


Place = Callable[[str], FloatArray | None]
"""Where a point named by lead or trail is at address, px (2,)."""


def find_stand(
    view: View,
    place: Place,
    *,
    direction: int,
    px_per_m: float,
    plumb: tuple[float, float, float, float] | None = None,
    centre_x: float | None = None,
) -> Stand:
    """Where the camera stands, from the feet at address and a marked ``plumb`` (two ends, px).

    ``direction`` is +1 where the target (down the line: the ball line) is at image right,
    ``px_per_m`` a rough scale, ``centre_x`` the picture's middle column where it is known.

    >>> plumb = (600.0, 100.0, 614.0, 500.0)
    >>> leaning = find_stand(View.FACE_ON, lambda _: None, direction=1, px_per_m=300.0, plumb=plumb)
    >>> round(abs(leaning.roll_deg), 1)
    1.8
    """
    clues = []
    if plumb is not None:
        x0, y0, x1, y1 = plumb
        up = np.array([x0 - x1, y0 - y1]) * (1 if y1 > y0 else -1)
        length = max(float(np.hypot(*up)), 1.0)
        lean = float(np.degrees(np.arctan2(up[0], -up[1])))
        clues.append(Clue(lean, float(np.degrees(PLUMB_SIGMA_PX * np.sqrt(2) / length)), 0.0, 1.0, "a plumb"))
    feet = {name: place(name) for side in ("lead", "trail") for name in (f"{side}_heel", f"{side}_toe")}
    lead, trail = place("lead_ankle"), place("trail_ankle")
    if view is View.DOWN_THE_LINE:
        clues += _stance_clue(lead, trail, direction, px_per_m, centre_x)
    else:
        clues += _ankle_clue(lead, trail, direction, px_per_m)
        clues += _foot_clue(feet, direction, px_per_m, behind=view is View.REAR)
    return believed(clues)


def _ankle_clue(
    lead: FloatArray | None, trail: FloatArray | None, direction: int, px_per_m: float
) -> list[Clue]:
    """A camera on the trail side sees the trail ankle nearer, and so lower."""
    if lead is None or trail is None:
        return []
    across = (lead - trail) * (direction, 1)
    if across[0] < 0.15 * px_per_m:
        return []
    slope = direction * float(np.degrees(np.arctan2(across[1], across[0])))
    return [Clue(slope, ANKLE_LINE_SIGMA_DEG, -direction * YAW_IN_ROLL, 1.0, "the ankles' line")]


def _foot_clue(
    feet: Mapping[str, FloatArray | None], direction: int, px_per_m: float, *, behind: bool
) -> list[Clue]:
    """Feet turned out alike point to either side of a square camera alike."""
    aside = 0.0
    for side in ("lead", "trail"):
        heel, toe = feet[f"{side}_heel"], feet[f"{side}_toe"]
        if heel is None or toe is None:
            return []
        aside += direction * float(toe[0] - heel[0]) / 2
    turned = float(np.degrees(np.arcsin(np.clip(aside / (FOOT_M * px_per_m), -0.9, 0.9))))
    yaw = turned - FLARE_APART_DEG / 2
    return [Clue(-yaw if behind else yaw, FLARE_SIGMA_DEG, 1.0, 0.0, "the feet")]


def _stance_clue(
    lead: FloatArray | None,
    trail: FloatArray | None,
    direction: int,
    px_per_m: float,
    centre_x: float | None,
) -> list[Clue]:
    """Down the line one ankle is behind the other, but for how the stance lies and what is off the middle."""
    if lead is None or trail is None:
        return []
    aside = direction * float(trail[0] - lead[0]) / px_per_m
    middle = float(lead[0] + trail[0]) / 2
    off = 0.0 if centre_x is None else direction * (middle - centre_x) / px_per_m
    yaw = float(np.degrees(aside / STANCE_M - off / DISTANCE_M))
    sigma = float(np.hypot(FLARE_SIGMA_DEG, STANCE_SIGMA_DEG))
    return [Clue(yaw, sigma, 1.0, 0.0, "the stance")]


def stand_notes(stand: Stand) -> list[str]:
    """What a camera that is clearly off square or level does to the numbers, with the size of the harm.

    >>> stand_notes(Stand(roll_deg=3.0, roll_sigma=0.4))
    ['The picture is tilted by about 3°; that is taken out of the numbers.']
    """
    notes = []
    yaw, roll = abs(stand.yaw_deg), abs(stand.roll_deg)
    if yaw >= TOLD_YAW_DEG:
        harm = 100 * MOVES_M * np.sin(np.radians(yaw))
        notes.append(
            f"The camera stands about {yaw:.0f}° off square: sideways lengths may read up to "
            f"{harm:.1f} cm wrong. Set it square to the toes next time."
        )
    if roll >= TOLD_ROLL_DEG and roll > 2 * stand.roll_sigma:
        notes.append(f"The picture is tilted by about {roll:.0f}°; that is taken out of the numbers.")
    return notes


TOLD_YAW_DEG, TOLD_ROLL_DEG = 7.0, 2.0
MOVES_M = 0.10
"""A pelvis moves by about so much along what the view does not show (domain)."""
