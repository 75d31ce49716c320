"""The head: hair, face, cap."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kneel.sim.cloth import plain, woven
from kneel.sim.look import Appearance, Colour
from kneel.sim.surface import FloatArray, Loft, Paint, tube

Wide = NDArray[np.float64]

EYE_WHITE: Colour = (236, 234, 230)
IRIS: Colour = (52, 44, 40)
MOUTH: Colour = (158, 86, 78)

RINGS = 13
_HEIGHT = np.cos(np.linspace(np.pi, 0, RINGS))
TALL, WIDE_SHARE, DEEP = 0.068, 0.046, 0.056
"""Half axes of the head as shares of stature (from memory)."""


def head_lofts(look: Appearance, centre: Wide, frame: Wide, upper: Wide, size: float) -> list[Loft]:
    """Head, neck, nose, ears, hair and cap. ``frame`` rows are lead side, front, up."""
    lead, front, up = frame
    ring = np.sqrt(np.maximum(1 - _HEIGHT**2, 0.0))
    jaw = 1 - 0.16 * np.clip(-_HEIGHT, 0, 1)
    head = Loft(
        centre
        + (TALL * size * _HEIGHT)[:, None] * up
        + (0.008 * size * np.clip(-_HEIGHT, 0, 1))[:, None] * front,
        (DEEP * size * ring * jaw)[:, None] * front,
        (WIDE_SHARE * size * ring * jaw)[:, None] * lead,
        _face(look),
    )
    skin = plain(look.skin, 7)
    nose = centre + size * (0.055 * front + 0.002 * up)
    lofts = [
        head,
        tube(
            upper + 0.004 * size * up, centre - 0.045 * size * up, (0.034 * size, 0.030 * size), skin, bands=4
        ),
        tube(
            nose, nose - 0.016 * size * up + 0.005 * size * front, (0.005 * size, 0.008 * size), skin, bands=3
        ),
    ]
    for sign in (1, -1):
        ear = centre + sign * 0.046 * size * lead - 0.004 * size * front
        lofts.append(
            tube(ear - 0.008 * size * up, ear + 0.01 * size * up, (0.008 * size, 0.010 * size), skin, bands=3)
        )
    if look.long_hair:
        knot = centre - 0.056 * size * front + 0.012 * size * up
        tail = knot - 0.085 * size * up - 0.02 * size * front
        lofts.append(tube(knot, tail, (0.018 * size, 0.02 * size, 0.008 * size), woven(look.hair, 8, 0.12)))
    if look.cap is not None:
        lofts += _cap(look.cap, centre, frame, size)
    return lofts


def _cap(colour: Colour, centre: Wide, frame: Wide, size: float) -> list[Loft]:
    lead, front, up = frame
    share = np.array([0.30, 0.45, 0.65, 0.82, 0.94, 0.999])
    ring = np.sqrt(1 - share**2)[:, None] * size * 1.06
    paint = woven(colour, 9, 0.05)
    crown = Loft(
        centre + (TALL * 1.05 * size * share)[:, None] * up,
        DEEP * ring * front,
        WIDE_SHARE * ring * lead,
        paint,
    )
    reach = np.array([0.035, 0.06, 0.085, 0.098, 0.102])[:, None] * size
    wide = np.array([0.040, 0.042, 0.036, 0.020, 0.001])[:, None] * size
    visor = Loft(
        centre + (TALL * 0.36 * size) * up + reach * front - 0.12 * reach * up,
        np.broadcast_to(0.002 * size * up, (5, 3)),
        wide * lead,
        paint,
    )
    return [crown, visor]


def _face(look: Appearance) -> Paint:
    """Skin, eyes, brows, mouth and hair by height and angle; angle 0 looks ahead."""
    skin, hair = plain(look.skin, 7), woven(look.hair, 8, 0.14)

    def paint(along: FloatArray, angle: FloatArray) -> FloatArray:
        height = np.interp(along, np.arange(RINGS), _HEIGHT)
        aside = np.abs((angle + np.pi) % (2 * np.pi) - np.pi)
        out = skin(along, angle)
        back = 1.55 if look.long_hair else 1.75
        covered = (height > 0.52 + 0.1 * np.cos(3 * aside)) | ((aside > back) & (height > -0.42))
        if look.face:
            covered |= _features(out, height, aside)
        out[covered] = hair(along[covered], angle[covered])
        return out

    return paint


def _features(out: FloatArray, height: Wide, aside: Wide) -> NDArray[np.bool_]:
    """Cheeks, eyes and mouth onto the skin (N, 3), in place; gives where the brows are, (N,)."""
    cheek = (np.abs(height + 0.18) < 0.2) & (np.abs(aside - 0.55) < 0.3)
    out[cheek] *= np.array([1.03, 0.97, 0.96], np.float32)
    socket = ((height - 0.10) / 0.16) ** 2 + ((aside - 0.42) / 0.22) ** 2 < 1
    out[socket] *= 0.9
    white = ((height - 0.10) / 0.075) ** 2 + ((aside - 0.42) / 0.14) ** 2 < 1
    out[white] = EYE_WHITE
    out[((height - 0.10) / 0.07) ** 2 + ((aside - 0.42) / 0.065) ** 2 < 1] = IRIS
    brow = (np.abs(height - 0.27 + 0.25 * (aside - 0.42) ** 2) < 0.035) & (np.abs(aside - 0.44) < 0.2)
    mouth = (np.abs(height + 0.50) < 0.035) & (aside < 0.36)
    out[mouth] = MOUTH
    return np.asarray(brow)
