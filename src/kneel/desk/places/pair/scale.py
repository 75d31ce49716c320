"""Both pictures on one scale: the same centimetres on the screen, held together at one place of the body."""

from __future__ import annotations

from enum import Enum

import numpy as np
from PyQt6.QtCore import QRectF

from kneel.desk.stage.canvas import Canvas
from kneel.model import anatomical
from kneel.motion.scale import Scale
from kneel.motion.study import Study

ABOVE, BELOW = 0.80, 0.20
"""How much of what is shown lies over the place that holds them together, and under it."""

LARGEST_CM = 260.0
"""A club held high, and the feet."""


class HeldAt(Enum):
    """Where the two are held together at address."""

    LEAD_ANKLE = "lead ankle"
    TRAIL_ANKLE = "trail ankle"
    LOWER_CENTRE = "lower centre"


def anchor_of(study: Study, held: HeldAt) -> tuple[float, float] | None:
    """The place at address, px, at the height of the ankles; None where it is not known."""
    start = study.checkpoints.get("address")
    hand = study.setup.hand
    ankles = [study.tracks.get(anatomical(f"{side}_ankle", hand)) for side in ("lead", "trail")]
    if start is None or any(track is None for track in ankles):
        return None
    lead, trail = (track.xy[start.shown] for track in ankles if track is not None)
    at = {HeldAt.LEAD_ANKLE: lead, HeldAt.TRAIL_ANKLE: trail}.get(held)
    if at is None:
        hips = [study.tracks.get(anatomical(f"{side}_hip", hand)) for side in ("lead", "trail")]
        if any(track is None for track in hips):
            return None
        middle = np.mean([track.xy[start.shown] for track in hips if track is not None], axis=0)
        at = np.array([middle[0], (lead[1] + trail[1]) / 2])
    return float(at[0]), float(at[1])


def lay_alike(canvases: tuple[Canvas, Canvas], studies: tuple[Study, Study], held: HeldAt) -> str:
    """Show both on one scale, held together; gives what is in the way, empty where nothing is."""
    boxes, reach = [], LARGEST_CM
    for canvas, study in zip(canvases, studies, strict=True):
        at, scale = anchor_of(study, held), study.scale
        if at is None:
            return "the feet are not seen"
        if not isinstance(scale, Scale) or scale.unit == "stance":
            return "no stature"
        per_px = scale.per_px * scale.cm_per_unit
        picture = canvas.view.rect.height() / canvas.view.scale
        over, under = at[1] * per_px, (picture - at[1]) * per_px
        # No more is shown of either than its picture holds.
        reach = min(reach, over / ABOVE, under / BELOW)
        boxes.append((canvas, at, per_px))
    for canvas, (x, y), per_px in boxes:
        high = reach / per_px
        wide = high * canvas.width() / max(canvas.height(), 1)
        canvas.view.frame_on(QRectF(x - wide / 2, y - ABOVE * high, wide, high))
        canvas.forget_places()
        canvas.update()
    return ""
