"""How to film a swing: one page, drawn, with what each mistake costs."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.panels import Sheet
from kneel.desk.widgets.text import Label
from kneel.desk.widgets.theme import Look, font

RULES = (
    (
        "Put it down",
        "A tripod or a bag. In the hand the picture moves with the golfer, and lengths get unsure.",
    ),
    (
        "Square",
        "Face-on: in front of the middle of the toes. A camera 9° off reads up to 1.6 cm of shift wrong.",
    ),
    ("Down the line", "Behind the hands, on the line of the toes, looking at the target."),
    (
        "Belt high, level",
        "Half a metre higher tilts the line of turned hips by 5°. A degree of roll is one of tilt.",
    ),
    (
        "Four metres",
        "At 2.5 m a hip that comes 10 cm closer looks 4 % larger; far off joints get small.",
    ),
    (
        "Whole body",
        "Head, both feet, the ball, and the club at the top. The golfer as tall as the picture allows.",
    ),
    ("120 frames or more", "At 30 a second the downswing has nine pictures, and impact may lie between two."),
    (
        "Something of known length",
        "A stick of 1 m along the toes gives the scale; a plumb or a post the level.",
    ),
    (
        "Be seen",
        "Tight clothes, tape on knees and hips, light from behind the camera, trousers unlike the grass.",
    ),
    (
        "Two at once",
        "Face-on and down the line: with six frames marked a turn is told to 3 to 5°, not 7 to 15°.",
    ),
    ("Be safe", "Where neither club nor ball can reach the camera, and nobody stands beside it."),
)


def show_filming(parent: QWidget, look: Look) -> Sheet:
    """The page, on a sheet over the desk."""
    page = QWidget()
    rows = QVBoxLayout(page)
    rows.setContentsMargins(0, 0, 8, 0)
    rows.setSpacing(14)
    rows.addWidget(GroundPlan(look))
    grid = QGridLayout()
    grid.setHorizontalSpacing(16)
    grid.setVerticalSpacing(7)
    for row, (title, words) in enumerate(RULES):
        name, text = Label(tr(title)), Label(tr(words))
        name.setProperty("role", "strong")
        text.setWordWrap(True)
        grid.addWidget(name, row, 0, Qt.AlignmentFlag.AlignTop)
        grid.addWidget(text, row, 1, Qt.AlignmentFlag.AlignTop)
    grid.setColumnStretch(1, 1)
    rows.addLayout(grid)
    sheet = Sheet(parent, look, tr("How to film a swing"), content=page, width=760, passing=True)
    sheet.open()
    return sheet


class GroundPlan(QWidget):
    """The ground from above: golfer, ball, target line, and where the two cameras stand."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.setFixedHeight(240)
        self.setAccessibleName(tr("Where the cameras stand, from above"))

    def sizeHint(self) -> QSize:
        return QSize(700, 240)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("panel"))
        painter.drawRoundedRect(QRectF(self.rect()), 6, 6)
        metre = min(self.width() / 11.0, self.height() / 6.2)
        centre = QPointF(self.width() * 0.56, self.height() * 0.24)

        def at(along: float, before: float) -> QPointF:
            """Metres toward the target (right) and before the golfer (down)."""
            return QPointF(centre.x() + along * metre, centre.y() + before * metre)

        self._lines(painter, at)
        self._golfer(painter, at, metre)
        self._camera(painter, at(0, 4.0), at(0, 0.2), tr("face-on, 4 m"))
        self._camera(painter, at(-4.2, 0.45), at(0, 0.45), tr("down the line, 4 m"))

    def _lines(self, painter: QPainter, at) -> None:
        painter.setPen(QPen(self._look.colour("faint"), 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(at(-4.9, 0.85), at(4.4, 0.85))
        painter.setFont(font(11.5))
        painter.setPen(self._look.colour("secondary"))
        painter.drawText(at(2.6, 0.72), tr("target line"))
        tip = at(4.5, 0.85)
        painter.setBrush(self._look.colour("secondary"))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawPolygon(QPolygonF([tip, tip + QPointF(-10, -5), tip + QPointF(-10, 5)]))

    def _golfer(self, painter: QPainter, at, metre: float) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        for along, colour in ((-0.22, "trail"), (0.22, "lead")):
            painter.setBrush(self._look.colour(colour))
            foot = at(along, 0.0)
            painter.drawEllipse(
                QRectF(foot.x() - 0.07 * metre, foot.y() - 0.04 * metre, 0.14 * metre, 0.3 * metre)
            )
        painter.setBrush(self._look.colour("secondary"))
        painter.drawEllipse(at(0, -0.05), 0.26 * metre, 0.13 * metre)
        painter.setBrush(self._look.colour("text"))
        painter.drawEllipse(at(0.05, 0.85), 3.5, 3.5)
        painter.setPen(QPen(self._look.colour("clear"), 2))
        painter.drawLine(at(-0.6, 0.28), at(0.6, 0.28))
        painter.setPen(self._look.colour("secondary"))
        painter.setFont(font(11.5))
        painter.drawText(at(0.72, 0.34), tr("stick along the toes"))

    def _camera(self, painter: QPainter, place: QPointF, aim: QPointF, words: str) -> None:
        painter.setPen(QPen(self._look.colour("ink"), 1.2, Qt.PenStyle.DotLine))
        painter.drawLine(place, aim)
        painter.setPen(QPen(self._look.colour("ink"), 1.6))
        painter.setBrush(self._look.colour("raised"))
        painter.drawRoundedRect(QRectF(place.x() - 11, place.y() - 8, 22, 16), 3, 3)
        painter.drawEllipse(place, 4, 4)
        painter.setFont(font(12, 600))
        painter.setPen(self._look.colour("text"))
        painter.drawText(place + (QPointF(-12, -14) if aim.y() == place.y() else QPointF(18, 4)), words)
