"""The body that two cameras see together: from above, where no camera stood, and as a figure that turns."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial
from itertools import pairwise

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QTransform
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.desk.stage.room import Room
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, tip, wide, write
from kneel.desk.widgets.theme import Look, font
from kneel.motion.space.linked import Linked

Joints = dict[str, np.ndarray]

BONES = (
    ("lead", ("lead_hip", "lead_knee", "lead_ankle")),
    ("trail", ("trail_hip", "trail_knee", "trail_ankle")),
    (None, ("lead_hip", "trail_hip")),
    (None, ("lead_shoulder", "trail_shoulder")),
    (None, ("lead_shoulder", "lead_hip")),
    (None, ("trail_shoulder", "trail_hip")),
    ("lead", ("lead_shoulder", "grip")),
    ("trail", ("trail_shoulder", "grip")),
)
DOUBTFUL = ("lead_hip", "trail_hip", "lead_knee", "trail_knee")
COVERS = 2.0
STEP_DEG = 5.0
MARGIN, HEAD = 14.0, 24.0
RULE_CM = 20.0
RULE_HIGH = 20.0
BEAD_PX, THICK_PX = 6.0, 2.0
"""How far apart the discs are that stand for a line where words look for room, and how large."""


class SpaceView(QWidget):
    """Left a figure that the hand turns, right the view from above, of the frame on show."""

    def __init__(self, on_desk: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = on_desk, look
        self.linked: Linked | None = None
        self.azimuth = 35.0
        """From where the figure is seen, degrees from face-on toward the target."""

        self._grip: float | None = None
        self.setMinimumSize(QSize(360, 150))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("The body in space, by both cameras"))
        self.setToolTip(tip(tr("Drag the figure, or Ctrl+↑ ↓, to see it from elsewhere")))
        for signal in (on_desk.cursor.moved, look.changed):
            signal.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(1000, 200)

    def show_linked(self, linked: Linked | None) -> None:
        """Show another body, or none."""
        self.linked = linked
        self.setVisible(linked is not None)
        self.update()

    @property
    def first_s(self) -> float:
        """The time of the frame on show, by the clip on the desk."""
        times = self._open.times_s
        return float(times[min(self._open.cursor.frame, len(times) - 1)])

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), self._look.colour("panel"))
        if self.linked is None or not len(self._open.times_s):
            return
        now = self.linked.placed(self.first_s)
        start = self.linked.body.placed(float(self.linked.body.times_s[0]))
        half = self.width() / 2
        self._figure(painter, QRectF(0, 0, half, self.height()), now)
        self._above(painter, QRectF(half, 0, half, self.height()), now, start)

    def _title(self, painter: QPainter, box: QRectF, words: str, more: str) -> None:
        line = QRectF(box.left() + MARGIN, box.top() + 4, box.width() - 2 * MARGIN, HEAD - 4)
        taken = write(painter, line, words, font(12, 600), self._look.colour("text"))
        rest = line.adjusted(taken + 8, 0, 0, 0)
        write(painter, rest, more, font(11.5), self._look.colour("secondary"))

    def _figure(self, painter: QPainter, box: QRectF, now: Joints) -> None:
        """Bones from where the hand has turned it."""
        self._title(painter, box, tr("Figure"), tr("seen %.0f° from face-on · drag to turn") % self.azimuth)
        turn = np.radians(self.azimuth)
        room = box.adjusted(MARGIN, HEAD, -MARGIN, -MARGIN)
        ups = [xyz[1] for xyz in now.values()]
        scale = room.height() / max(max(ups) - min(ups) + 24, 1)

        def at(xyz: np.ndarray) -> QPointF:
            aside = xyz[0] * np.cos(turn) + xyz[2] * np.sin(turn)
            return QPointF(room.center().x() + aside * scale, room.bottom() - (xyz[1] - min(ups) + 4) * scale)

        self._ground(painter, at)
        shows = np.array([[np.cos(turn), 0.0, np.sin(turn)], [0.0, -1.0, 0.0]])
        self._doubts(painter, now, at, shows * scale)
        self._bones(painter, now, at, BONES)
        if "head" in now:
            painter.setPen(QPen(self._look.colour("ink"), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at(now["head"]), 10 * scale, 12 * scale)

    def _ground(self, painter: QPainter, at) -> None:
        """The target line under the feet, with its arrow."""
        ends = [at(np.array([x, -6.0, 0.0])) for x in (-45.0, 60.0)]
        painter.setPen(QPen(self._look.colour("faint"), 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(*ends)
        words = QRectF(ends[1].x() - 40, ends[1].y() - 18, 80, 16)
        write(painter, words, tr("target"), font(11), self._look.colour("secondary"), CENTRE)

    def _above(self, painter: QPainter, box: QRectF, now: Joints, start: Joints) -> None:
        """Pelvis, knees and feet from above, now and at address, each with its doubt."""
        self._title(painter, box, tr("From above"), self._turns())
        room = box.adjusted(MARGIN, HEAD, -MARGIN, -MARGIN)
        every = [xyz for joints in (now, start) for xyz in joints.values()]
        low, high = (np.array([f(v[k] for v in every) for k in (0, 2)]) for f in (min, max))
        across, deep = high - low + 24
        scale = min(room.width() / across, room.height() / deep)
        middle = (low + high) / 2

        def at(xyz: np.ndarray) -> QPointF:
            # The ball line lies at the foot of the picture, as the camera face-on has it before it.
            return room.center() + QPointF(xyz[0] - middle[0], xyz[2] - middle[1]) * scale

        self._doubts(painter, now, at, np.array([[1.0, 0.0, 0.0], [0.0, 0.0, 1.0]]) * scale)
        painter.setOpacity(0.45)
        self._bones(painter, start, at, BONES[:4], dashed=True)
        painter.setOpacity(1.0)
        self._bones(painter, now, at, BONES[:4])
        self._bones(painter, now, at, BONES[2:3], width=4.0)
        feet = {
            side: QRectF(at(foot) - QPointF(4, 4) * scale, at(foot) + QPointF(4, 16) * scale)
            for side in ("lead", "trail")
            if (foot := now.get(f"{side}_ankle")) is not None
        }
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for side, foot in feet.items():
            painter.setPen(QPen(self._look.colour(side), 1.4))
            painter.drawRoundedRect(foot, 4, 4)
        self._rule(painter, room, scale)
        self._name(painter, room.adjusted(0, 0, 0, -RULE_HIGH), (now, start), at, feet.values())

    def _name(
        self, painter: QPainter, room: QRectF, bodies: tuple[Joints, Joints], at, feet: Iterable[QRectF]
    ) -> None:
        """Say which line is the pelvis and which the chest, beside the body and not on it."""
        now, _ = bodies
        lines = [
            (at(body[a]), at(body[b]))
            for body in bodies
            for _, names in BONES[:4]
            for a, b in pairwise(names)
            if a in body and b in body
        ]
        free = Room(room, _beads(lines))
        for foot in feet:
            free.take(foot)
        ends = {
            joint: [at(now[f"{side}_{joint}"]) for side in ("lead", "trail") if f"{side}_{joint}" in now]
            for joint in ("hip", "shoulder")
        }
        for joint, other, words in (("hip", "shoulder", tr("pelvis")), ("shoulder", "hip", tr("chest"))):
            if len(ends[joint]) == 2:
                end = max(ends[joint], key=partial(_apart, ends[other]))
                size = QSizeF(wide(words, font(11)) + 2, 16)
                write(painter, free.place(size, end, 1), words, font(11), self._look.colour("text"))

    def _doubts(self, painter: QPainter, now: Joints, at, shows: np.ndarray) -> None:
        """Where hips and knees likely are; ``shows`` (2, 3) takes a way in space to one on the screen."""
        assert self.linked is not None
        time_s = self.linked.body_s(self.first_s)
        painter.setPen(Qt.PenStyle.NoPen)
        for point in DOUBTFUL:
            if point not in now:
                continue
            sizes, ways = np.linalg.eigh(shows @ self.linked.body.doubt(point, time_s) @ shows.T)
            first, second = COVERS * np.sqrt(np.maximum(sizes, 0.0))
            side = point.split("_")[0]
            painter.setBrush(self._look.colour(side, 0.22))
            here = at(now[point])
            turned = QTransform.fromTranslate(here.x(), here.y())
            turned.rotate(float(np.degrees(np.arctan2(ways[1, 0], ways[0, 0]))))
            painter.save()
            painter.setTransform(turned, combine=True)
            painter.drawEllipse(QPointF(0, 0), first, second)
            painter.restore()

    def _turns(self) -> str:
        """The turns at the checkpoint on show, with their errors."""
        assert self.linked is not None
        name = self._open.checkpoint or ""
        told = [
            (tr(word), self.linked.numbers.get((key, name)))
            for word, key in (("pelvis", "pelvis_turn_3d"), ("chest", "chest_turn_3d"))
        ]
        words = [f"{word} {one.value:+.0f} ± {one.sigma:.0f}°".replace("-", "−") for word, one in told if one]
        return " · ".join(words) or tr("turns are told at checkpoints · dashes: address · soft: likely area")

    def _rule(self, painter: QPainter, room: QRectF, scale: float) -> None:
        y = room.bottom() - 2
        painter.setPen(QPen(self._look.colour("secondary"), 1.4))
        painter.drawLine(QPointF(room.left(), y), QPointF(room.left() + RULE_CM * scale, y))
        box = QRectF(room.left(), y - 18, 80, 16)
        write(painter, box, tr("%.0f cm") % RULE_CM, font(11), self._look.colour("secondary"))
        target = QRectF(room.right() - 90, room.bottom() - 14, 90, 16)
        write(painter, target, tr("target →"), font(11), self._look.colour("secondary"), CENTRE)
        ball = QRectF(room.center().x() - 60, room.bottom() - 14, 120, 16)
        write(painter, ball, tr("ball side"), font(11), self._look.colour("secondary"), CENTRE)

    def _bones(
        self, painter: QPainter, joints: Joints, at, bones, *, dashed: bool = False, width: float = 2.2
    ) -> None:
        for side, names in bones:
            if not {*names} <= {*joints}:
                continue
            pen = QPen(self._look.colour(side) if side else self._look.colour("ink"), width)
            if dashed:
                pen = QPen(pen.color(), 1.3, Qt.PenStyle.DashLine)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            places = [at(joints[name]) for name in names]
            for a, b in pairwise(places):
                painter.drawLine(a, b)

    # The hand

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self._grip = event.position().x() if event.position().x() < self.width() / 2 else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None:
            self.turn_by((event.position().x() - self._grip) * 0.6)
            self._grip = event.position().x()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Up: STEP_DEG, Qt.Key.Key_Down: -STEP_DEG}
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier and event.key() in ways:
            self.turn_by(ways[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    def turn_by(self, degrees: float) -> None:
        """See the figure from so much further round."""
        self.azimuth = (self.azimuth + degrees + 180) % 360 - 180
        self.update()


def _apart(others: list[QPointF], place: QPointF) -> float:
    """How far a place lies from the middle of others and, which counts a bit less, to the target, px."""
    away = [np.array([place.x() - other.x(), place.y() - other.y()]) for other in others]
    return 0.8 * place.x() + (float(np.hypot(*np.mean(away, axis=0))) if away else 0.0)


def _beads(lines: Iterable[tuple[QPointF, QPointF]]) -> np.ndarray:
    """Lines as discs in a row, (N, 3): middle and radius."""
    rows = []
    for a, b in lines:
        steps = np.linspace(0, 1, 2 + int(np.hypot(b.x() - a.x(), b.y() - a.y()) / BEAD_PX))
        rows += [(a.x() + k * (b.x() - a.x()), a.y() + k * (b.y() - a.y()), THICK_PX) for k in steps]
    return np.array(rows).reshape(-1, 3)
