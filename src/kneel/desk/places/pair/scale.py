"""Both pictures on one scale: the same centimetres on the screen, held together at one place of the body,
upright, and looking the same way.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

import numpy as np
from PyQt6.QtCore import QPointF, QRectF

from kneel.desk.stage.canvas import Canvas
from kneel.desk.stage.framing import swing_box
from kneel.desk.stage.viewport import Pose
from kneel.judge.numbers import body_size
from kneel.model import View, anatomical
from kneel.motion.scale import Scale
from kneel.motion.study import Study

ABOVE_M, BELOW_M, ASIDE_M = 2.1, 0.35, 0.9
"""What is shown about the place that holds them together, where a body is not found yet."""

ROOM = 0.02

LEVEL_DEG = 0.3
"""A picture that leans by less is shown as it was filmed."""


class HeldAt(Enum):
    """Where the two are held together at address."""

    LEAD_ANKLE = "lead ankle"
    TRAIL_ANKLE = "trail ankle"
    LOWER_CENTRE = "lower centre"
    BALL = "ball"


@dataclass(frozen=True)
class Laid:
    """How two pictures lie: by what they have one scale, ``lacking`` why they have none; the one beside may
    be ``mirrored``.
    """

    by: str = ""
    lacking: str = ""
    mirrored: bool = False


@dataclass(frozen=True)
class Hung:
    """Where and how large a picture hangs: its anchor, px of it, and how many of its px are one unit."""

    canvas: Canvas
    anchor: tuple[float, float]
    per_px: float


def anchor_of(study: Study, held: HeldAt) -> tuple[float, float] | None:
    """The place at address, px, at the height of the ankles or of the ball; None where it is not known."""
    start = study.checkpoints.get("address")
    if start is None:
        return None

    def at(*points: str) -> np.ndarray | None:
        tracks = [study.tracks.get(anatomical(point, study.setup.hand)) for point in points]
        known = [track.xy[start.shown] for track in tracks if track is not None]
        return np.mean(known, axis=0) if len(known) == len(points) else None

    if held is HeldAt.LOWER_CENTRE:
        hips, feet = at("lead_hip", "trail_hip"), at("lead_ankle", "trail_ankle")
        place = None if hips is None or feet is None else np.array([hips[0], feet[1]])
    else:
        place = at(held.value.replace(" ", "_"))
    return None if place is None else (float(place[0]), float(place[1]))


class ScaledBy(Enum):
    """What is as large on both pictures."""

    LENGTHS = "lengths"
    BODIES = "bodies"


def lay_alike(
    canvases: tuple[Canvas, Canvas],
    studies: tuple[Study, Study],
    held: HeldAt,
    scaled: ScaledBy = ScaledBy.LENGTHS,
) -> Laid:
    """Show both on one scale, level, held together; the first is mirrored where it swings the other way."""
    hung = _hang(canvases, studies, held, scaled)
    # Two views of one swing look two ways.
    one_view = len({study.setup.view is View.DOWN_THE_LINE for study in studies}) == 1
    mirrored = one_view and studies[0].direction != studies[1].direction
    if isinstance(hung, str):
        return Laid(lacking=hung)
    for one, study, turned in zip(hung, studies, (mirrored, False), strict=True):
        one.canvas.view.set_pose(_pose(study, mirrored=turned))
    reach = np.max([_needed(one, study) for one, study in zip(hung, studies, strict=True)], axis=0)
    left, over, right, under = reach.tolist()
    areas = [QRectF(one.canvas.rect()) for one in hung]
    per_unit = min(min(a.height() / (over + under), a.width() / (left + right)) for a in areas)
    for one, area in zip(hung, areas, strict=True):
        x = area.center().x() + (left - right) / 2 * per_unit
        y = area.center().y() + (over - under) / 2 * per_unit
        one.canvas.view.put(per_unit * one.per_px, one.anchor, QPointF(x, y))
        _renew(one.canvas)
    scale = studies[1].scale
    by = scale.source if isinstance(scale, Scale) else ""
    return Laid(by=by if scaled is ScaledBy.LENGTHS else "the body’s size", mirrored=mirrored)


def lay_like(
    canvases: tuple[Canvas, Canvas],
    studies: tuple[Study, Study],
    held: HeldAt,
    leader: int,
    scaled: ScaledBy = ScaledBy.LENGTHS,
) -> None:
    """Put the other picture as the hand has put one of them: as large, and as far from its middle."""
    hung = _hang(canvases, studies, held, scaled)
    if isinstance(hung, str):
        return
    one, other = hung[leader], hung[1 - leader]
    at = one.canvas.view.to_widget(*one.anchor) - QRectF(one.canvas.rect()).center()
    scale = one.canvas.view.scale / one.per_px * other.per_px
    other.canvas.view.put(scale, other.anchor, QRectF(other.canvas.rect()).center() + at)
    _renew(other.canvas)


def _hang(
    canvases: tuple[Canvas, Canvas], studies: tuple[Study, Study], held: HeldAt, scaled: ScaledBy
) -> tuple[Hung, Hung] | str:
    """Both with anchor and scale; a few words where something is lacking."""
    scales = [study.scale for study in studies]
    known = [scale for scale in scales if isinstance(scale, Scale)]
    if len(known) < 2 or known[0].unit != known[1].unit:
        return "no stature"
    hung = []
    for canvas, study, scale in zip(canvases, studies, known, strict=True):
        anchor = anchor_of(study, held)
        if anchor is None:
            return "no ball is seen" if held is HeldAt.BALL else "the feet are not seen"
        size = body_size(study) if scaled is ScaledBy.BODIES else 1.0
        hung.append(Hung(canvas, anchor, scale.per_px / size))
    return hung[0], hung[1]


def _needed(one: Hung, study: Study) -> tuple[float, float, float, float]:
    """How far a swing reaches from its anchor, in units: left, over, right and under it, as it is posed."""
    box = swing_box(study)
    if box is None:
        per_m = study.px_per_m * one.per_px
        return ASIDE_M * per_m, ABOVE_M * per_m, ASIDE_M * per_m, BELOW_M * per_m
    view, room = one.canvas.view, ROOM * box.height()
    whole = QRectF(0, 0, view.rect.width() / view.scale, view.rect.height() / view.scale)
    box = box.adjusted(-room, -room, room, room).intersected(whole)
    corners = [view.posed(x, y) for x in (box.left(), box.right()) for y in (box.top(), box.bottom())]
    x, y = view.posed(*one.anchor)
    across, down = ([corner[k] for corner in corners] for k in (0, 1))
    sides = (x - min(across), y - min(down), max(across) - x, max(down) - y)
    return tuple(side * one.per_px for side in sides)  # type: ignore[return-value]


def _pose(study: Study, *, mirrored: bool) -> Pose:
    """The picture without the camera's lean, as the numbers have it."""
    lean = study.stand.roll_deg
    turned = 0.0 if abs(lean) < LEVEL_DEG else (lean if mirrored else -lean)
    return Pose(mirrored, turned)


def _renew(canvas: Canvas) -> None:
    canvas.forget_places()
    canvas.update()
