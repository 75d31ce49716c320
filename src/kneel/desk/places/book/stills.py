"""Before and after: the same moment of several lessons, on one scale, stepping together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.book import Book
from kneel.book.index.clips import find_clip
from kneel.book.repository.swings import Indexed
from kneel.compare.trend import Point, Trend
from kneel.desk.operations import Lane, Operation
from kneel.desk.records import Books, Which
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, wide, write
from kneel.desk.widgets.theme import Look, font
from kneel.footage import Clip, picture_of
from kneel.judge.numbers import SIZED_FOR_CM
from kneel.model import KneelError
from kneel.speech.practice import brief_day
from kneel.speech.words import length_words

MOST, GAP = 3, 8
HIPS_UP, UNDER, HIGH = 0.53, 0.07, 1.34
"""As shares of stature: how high the hips are, what is shown under the feet, and how high a still is."""

STEP_S = 1 / 60
FARTHEST_S = 2.0


@dataclass(frozen=True)
class Still:
    """A picture of one lesson's swing; ``middle`` and ``cm_per_px`` lay it on the common scale."""

    image: QImage
    middle: tuple[float, float] | None
    cm_per_px: float | None
    size: float


class Stills(QWidget):
    """At most three lessons side by side. ``picked`` carries the lesson of one that was clicked.

    Arrows left and right step all of them, Home goes back to the checkpoint.
    """

    picked = pyqtSignal(str)

    def __init__(self, look: Look, books: Books) -> None:
        super().__init__()
        self._look, self._books = look, books
        self._workers = Lane(self, most=2)
        self._which = Which.OWN
        self.points: tuple[Point, ...] = ()
        self.trend: Trend | None = None
        self.lesson = ""
        self.offset_s = 0.0
        self.found: dict[int, Still | str] = {}
        """By place from the left: the picture, or why there is none."""

        self.setMinimumHeight(170)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("The same moment of several lessons"))
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(600, 170)

    def show_points(self, which: Which, trend: Trend | None, lesson: str) -> None:
        """Show the lessons of a trend: the first, the last, and the one that is read or the last but one."""
        points = () if trend is None else chosen_points(trend.line, lesson)
        at, before = trend and trend.at, self.trend and self.trend.at
        fresh = (points, at) != (self.points, before)
        # Where a number alone was told anew its picture stays until it is read again.
        known = {_shown(point): self.found[k] for k, point in enumerate(self.points) if k in self.found}
        self._which, self.trend, self.lesson, self.points = which, trend, lesson, points
        if fresh:
            same = known if at == before and self.offset_s == 0.0 else {}
            self.found = {k: same[_shown(point)] for k, point in enumerate(points) if _shown(point) in same}
            self.offset_s = 0.0
            self._fetch()
        self.update()

    def close_down(self) -> None:
        """Give up what is under way."""
        self._workers.stop()

    def step(self, way: int) -> None:
        """Step all of them, a sixtieth of a second of the swing at a time."""
        self.offset_s = float(np.clip(self.offset_s + way * STEP_S, -FARTHEST_S, FARTHEST_S))
        self._fetch()
        self.update()

    def _fetch(self) -> None:
        books, which, trend = self._books, self._which, self.trend
        self._workers.stop()
        if trend is None:
            return
        for k, point in enumerate(self.points):
            one, at, offset = typical(point), trend.at, self.offset_s
            self._workers.start(
                Operation(
                    subject=lambda: (self.points, self.offset_s),
                    work=lambda _, one=one, at=at, offset=offset: _still(books.open(which), one, at, offset),
                    done=lambda still, k=k: self._take(k, still),
                    failed=lambda error, k=k: self._take(k, str(error)),
                )
            )

    def _take(self, place: int, still: Still | str) -> None:
        self.found[place] = still
        self.update()

    # Painting

    def boxes(self) -> list[QRectF]:
        """Where the stills lie."""
        count = max(len(self.points), 1)
        width = (self.width() - GAP * (count - 1)) / count
        return [QRectF(k * (width + GAP), 0, width, self.height()) for k in range(count)]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for k, (box, point) in enumerate(zip(self.boxes(), self.points, strict=False)):
            self._still(painter, box, point, self.found.get(k))

    def _still(self, painter: QPainter, box: QRectF, point: Point, still: Still | str | None) -> None:
        look = self._look
        shape = QPainterPath()
        shape.addRoundedRect(box.adjusted(1, 1, -1, -1), 6, 6)
        painter.fillPath(shape, look.colour("raised"))
        if isinstance(still, Still):
            painter.save()
            painter.setClipPath(shape)
            self._picture(painter, box, still)
            painter.restore()
        else:
            words = still if isinstance(still, str) else tr("reading the clip …")
            inner = box.adjusted(14, 40, -14, -14)
            painter.setFont(font(12))
            painter.setPen(look.colour("secondary"))
            painter.drawText(inner, int(CENTRE | Qt.TextFlag.TextWordWrap), words)
        chosen = point.swings[0].lesson == self.lesson
        if chosen or self.hasFocus():
            painter.setPen(QPen(look.colour("chosen_edge"), 2.0 if chosen else 1.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(shape)
        assert self.trend is not None
        day = brief_day(point.day, point.day)
        number = length_words(point.value, point.sigma, self.trend.unit)
        if wide(day, font(12, 600)) + wide(number, font(11.5)) + 44 > box.width():
            number = ""
        self._tag(painter, QPointF(box.left() + 8, box.top() + 8), day, number)

    def _tag(self, painter: QPainter, at: QPointF, day: str, number: str) -> None:
        first, second = wide(day, font(12, 600)), wide(number, font(11.5))
        plate = QRectF(at.x(), at.y(), first + second + 28, 24)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("ground", 0.88))
        painter.drawRoundedRect(plate, 5, 5)
        write(painter, plate.adjusted(10, 0, 0, 0), day, font(12, 600), self._look.colour("text"))
        rest = plate.adjusted(18 + first, 0, 0, 0)
        write(painter, rest, number, font(11.5), self._look.colour("secondary"))

    def _picture(self, painter: QPainter, box: QRectF, still: Still) -> None:
        """The picture on the common scale, and a plumb where the hips were at address."""
        image = still.image
        if still.middle is None or still.cm_per_px is None:
            size = image.size().scaled(box.size().toSize(), Qt.AspectRatioMode.KeepAspectRatioByExpanding)
            target = QRectF(0, 0, size.width(), size.height())
            target.moveCenter(box.center())
            painter.drawImage(target, image)
            return
        stature = max(one.size for one in self.found.values() if isinstance(one, Still)) * SIZED_FOR_CM
        per_cm = box.height() / (HIGH * stature)
        ground = box.bottom() - UNDER * stature * per_cm
        hips = QPointF(box.center().x(), ground - HIPS_UP * stature * per_cm)
        grown = per_cm * still.cm_per_px
        corner = QPointF(hips.x() - still.middle[0] * grown, hips.y() - still.middle[1] * grown)
        painter.drawImage(
            QRectF(corner.x(), corner.y(), image.width() * grown, image.height() * grown), image
        )
        for colour, width in (("halo", 3.4), ("ink", 1.4)):
            painter.setPen(QPen(self._look.colour(colour), width))
            painter.drawLine(QPointF(hips.x(), hips.y() - 0.22 * stature * per_cm), QPointF(hips.x(), ground))

    # Hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for box, point in zip(self.boxes(), self.points, strict=False):
            if box.contains(event.position()):
                self.picked.emit(point.swings[0].lesson)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event.key() in ways:
            self.step(ways[Qt.Key(event.key())])
        elif event.key() == Qt.Key.Key_Home:
            self.offset_s = 0.0
            self._fetch()
        else:
            super().keyPressEvent(event)


def chosen_points(line: Sequence[Point], lesson: str) -> tuple[Point, ...]:
    """Which points are shown as stills."""
    if len(line) <= MOST:
        return tuple(line)
    middle = next((p for p in line[1:-1] if p.swings[0].lesson == lesson), line[-2])
    return line[0], middle, line[-1]


def typical(point: Point) -> Indexed:
    """The swing of a lesson whose number lies nearest to the lesson's mean."""
    return min(point.swings, key=lambda one: abs(one.numbers[0].value - point.value))


def _shown(point: Point) -> tuple[Path, Path]:
    """What tells the swing of a still from others, though its numbers are told anew."""
    one = typical(point)
    return one.clip, one.document


def _still(book: Book, one: Indexed, at: str, offset_s: float) -> Still | str:
    """The picture of a swing a while after a checkpoint; runs in a worker thread."""
    moment = one.facts.moments.get(at, one.facts.moments.get("address", 0))
    clip = find_clip(book, one)
    if clip is None:
        name = Path(one.clip).name
        return tr("%s is not where it was. Open its lesson to point it out; its number stays.") % name
    try:
        with Clip(clip) as opened:
            # Real seconds: of a clip stored slowed down a sixtieth of a second is several frames.
            times = opened.info.real_s(one.facts.rate)
            wanted = times[min(moment, len(times) - 1)] + offset_s
            frame = int(np.argmin(np.abs(times - wanted)))
            pixels = picture_of(opened.frame(frame), opened.upright, form="bgra")
    except (KneelError, OSError) as error:
        return str(error)
    height, width = pixels.shape[:2]
    image = QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGB32).copy()
    return Still(image, one.facts.middle, one.facts.cm_per_px, one.facts.size)
