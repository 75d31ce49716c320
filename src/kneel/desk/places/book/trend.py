"""The trend: a number over lessons with its errors, the school's window, and what was practised between."""

from __future__ import annotations

import datetime

from PyQt6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from kneel.compare.trend import Point, PracticeSpan, Trend
from kneel.desk.places.book.axes import Axes, apart, around, free_place
from kneel.desk.places.book.words import TrendWords, counted
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, RIGHT, tip, wide, write
from kneel.desk.widgets.theme import Look, font
from kneel.desk.widgets.theme.glyphs import draw_verdict
from kneel.judge.verdict import Verdict, judge_value
from kneel.practice import Drills
from kneel.speech.practice import brief_day
from kneel.speech.units import spoken
from kneel.speech.words import length_words, number, window_words

LEFT_PX, RIGHT_PX, TOP_PX, BAR_PX = 46, 14, 34, 62
"""Room for the values, at the right, for the heading, and for practice and days under the axis."""

NEAR_PX = 18.0


class TrendChart(QWidget):
    """Paints a trend. ``picked`` carries the lesson of a point that was clicked, ``against_wanted`` that of
    one that the others shall be held against, ``measure_wanted`` asks for another number.
    """

    picked = pyqtSignal(str)
    against_wanted = pyqtSignal(str)
    measure_wanted = pyqtSignal()

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.trend: Trend | None = None
        self.lesson = ""
        self.nothing = ""
        self._drills: Drills | None = None
        self._today = datetime.date.today()
        self._band: QRectF | None = None
        self.setMinimumHeight(214)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(600, 214)

    def show_trend(
        self,
        trend: Trend | None,
        lesson: str,
        *,
        drills: Drills | None,
        today: datetime.date,
        nothing: str = "",
    ) -> None:
        """Show a trend, the point of a lesson marked; ``nothing`` is said where there is none."""
        self.trend, self.lesson, self.nothing = trend, lesson, nothing
        self._drills, self._today = drills, today
        self.setAccessibleName(self.words.all() or self.nothing)
        self.update()

    @property
    def words(self) -> TrendWords:
        """What is said of the trend on show."""
        return TrendWords(self.trend, self._today)

    # Painting

    def axes(self) -> Axes | None:
        """Where things lie now."""
        if self.trend is None:
            return None
        box = QRectF(LEFT_PX, TOP_PX, self.width() - LEFT_PX - RIGHT_PX, self.height() - TOP_PX - BAR_PX - 4)
        inner = box.adjusted(30, 0, -46, 0)
        return Axes.of(self.trend, inner, self._today)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, look = QPainter(self), self._look
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(look.colour("chosen_edge"), 1.2) if self.hasFocus() else Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("panel"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
        axes = self.axes()
        if self.trend is None or axes is None:
            write(painter, QRectF(self.rect()), self.nothing, font(12.5), look.colour("secondary"), CENTRE)
            return
        self._head(painter)
        whole = QRectF(LEFT_PX, axes.box.top(), self.width() - LEFT_PX - RIGHT_PX, axes.box.height())
        self._window(painter, axes, whole)
        self._grid(painter, axes, whole)
        self._noise(painter, axes)
        self._practised(painter, axes)
        self._check_in(painter, axes)
        for point in self.trend.points:
            self._point(painter, axes, point)
        self._labels(painter, axes)
        self._days(painter, axes)

    def _head(self, painter: QPainter) -> None:
        look = self._look
        claim, colour = self.words.claim()
        box = QRectF(14, 8, self.width() - 28, 22)
        said = write(painter, box, claim, font(12.5, 600), look.colour(colour), RIGHT) if claim else 0.0
        rest = box.adjusted(0, 0, -said - 16, 0)
        title = f"{self.words.heading()} ▾"
        taken = write(painter, rest, title, font(13, 600), look.colour("text"))
        rest = rest.adjusted(taken + 10, 1, 0, 1)
        words = next((w for w in self.words.beside() if wide(w, font(11.5)) <= rest.width()), "")
        write(painter, rest, words, font(11.5), look.colour("secondary"))

    def _window(self, painter: QPainter, axes: Axes, whole: QRectF) -> None:
        """The school's window, as far as it is in sight."""
        assert self.trend is not None
        self._band = None
        limits, look = self.trend.limits, self._look
        if limits is None:
            return
        low = axes.low if limits.lo is None else max(limits.lo, axes.low)
        high = axes.high if limits.hi is None else min(limits.hi, axes.high)
        if low >= high:
            return
        band = QRectF(QPointF(whole.left(), axes.y(high)), QPointF(whole.right(), axes.y(low)))
        painter.fillRect(band, look.colour("clear", 0.20))
        painter.setPen(QPen(look.colour("clear", 0.8), 1.0))
        for edge in (limits.lo, limits.hi):
            if edge is not None and axes.low < edge < axes.high:
                painter.drawLine(QPointF(whole.left(), axes.y(edge)), QPointF(whole.right(), axes.y(edge)))
        self._band = band

    def _grid(self, painter: QPainter, axes: Axes, whole: QRectF) -> None:
        assert self.trend is not None
        for value in axes.ticks(spoken(1.0, self.trend.unit)):
            y = axes.y(value)
            pen = QPen(self._look.colour("edge"), 1.0)
            pen.setDashPattern([1.5, 4])
            painter.setPen(pen)
            painter.drawLine(QPointF(whole.left(), y), QPointF(whole.right(), y))
            box = QRectF(0, y - 8, LEFT_PX - 8, 16)
            words = number(value, self.trend.unit) if abs(value) > 1e-9 else "0"
            write(painter, box, words, font(11), self._look.colour("secondary"), RIGHT)

    def _noise(self, painter: QPainter, axes: Axes) -> None:
        """About the lesson that the others are held against: within what they cannot be told from it; and the
        line itself.
        """
        assert self.trend is not None
        line, first = self.trend.line, self.trend.reference
        if len(line) < 2:
            return
        if first is not None:
            reach = [(p.day, found.detectable if found else 0.0) for p, found in self.trend.band]
            upper = [axes.at(day, first.value + wide) for day, wide in reach]
            lower = [axes.at(day, first.value - wide) for day, wide in reversed(reach)]
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._look.colour("faint", 0.28))
            painter.drawPolygon(QPolygonF(upper + lower))
            pen = QPen(self._look.colour("secondary"), 1.0)
            pen.setDashPattern([1.5, 3])
            painter.setPen(pen)
            painter.drawLine(axes.at(line[0].day, first.value), axes.at(line[-1].day, first.value))
        painter.setPen(QPen(self._look.colour("text"), 1.8))
        painter.drawPolyline(QPolygonF([axes.at(p.day, p.value) for p in line]))

    def _point(self, painter: QPainter, axes: Axes, point: Point) -> None:
        assert self.trend is not None
        look, at = self._look, axes.at(point.day, point.value)
        painter.setPen(QPen(look.colour("text", 0.5 if point.hollow else 0.9), 1.3))
        reach = point.sigma * 1.96
        painter.drawLine(axes.at(point.day, point.value - reach), axes.at(point.day, point.value + reach))
        if point.spread is not None:
            for edge in (point.value - point.spread, point.value + point.spread):
                y = axes.y(edge)
                painter.drawLine(QPointF(at.x() - 6, y), QPointF(at.x() + 6, y))
        chosen = self.lesson and point.lesson == self.lesson
        if chosen:
            painter.setPen(QPen(look.colour("chosen_edge"), 2.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, 11, 11)
        if point.hollow:
            pen = QPen(look.colour("secondary"), 1.6)
            pen.setDashPattern([1.6, 1.4])
            painter.setPen(pen)
            painter.setBrush(look.colour("panel"))
            painter.drawEllipse(at, 5, 5)
            return
        # A ground under the sign, so that the line of the trend does not run through it.
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("panel"))
        painter.drawEllipse(at, 7.0, 7.0)
        verdict = self.verdict(point)
        if verdict is None:
            painter.setBrush(look.colour("chosen_edge"))
            painter.drawEllipse(at, 5.5, 5.5)
        else:
            draw_verdict(painter, look, verdict.value, at, 7.5)

    def _labels(self, painter: QPainter, axes: Axes) -> None:
        """Numbers beside their points, where nothing else stands; of those that cannot be compared only what
        has room.
        """
        assert self.trend is not None
        whole = QRectF(LEFT_PX, TOP_PX - 4, self.width() - LEFT_PX - 6, self.height() - TOP_PX - BAR_PX + 4)
        taken = [around(axes.at(p.day, p.value), 8) for p in self.trend.points]
        for point in sorted(self.trend.points, key=lambda p: p.hollow):
            words = length_words(point.value, point.sigma, self.trend.unit)
            under = ", ".join(point.other) if point.hollow else counted(point, self.trend.unit)
            width = max(wide(words, font(12, 600)), wide(under, font(11))) + 4
            size = QSizeF(width, 31 if under else 16)
            at = axes.at(point.day, point.value)
            box = free_place(at, size, taken, whole, must=not point.hollow)
            if box is None:
                continue
            taken.append(box)
            colour = self._look.colour("secondary" if point.hollow else "text")
            write(painter, QRectF(box.left(), box.top(), width, 16), words, font(12, 600), colour)
            if under:
                line = QRectF(box.left(), box.top() + 16, width, 14)
                write(painter, line, under, font(11), self._look.colour("secondary"))
        self._school(painter, taken)
        self._within(painter, axes, taken)

    def _within(self, painter: QPainter, axes: Axes, taken: list[QRectF]) -> None:
        """What the band about the reference means, at its wide end where that is free."""
        assert self.trend is not None
        first = self.trend.reference
        told = [(point, found) for point, found in self.trend.band if found is not None]
        if first is None or not told:
            return
        point, found = told[-1]
        words = tr("within error of %s") % brief_day(first.day, self._today)
        size = QSizeF(wide(words, font(11)) + 2, 15)
        x = axes.x(point.day) - size.width() - 12
        ends = axes.y(first.value - found.detectable) - 17, axes.y(first.value + found.detectable) + 2
        boxes = [QRectF(QPointF(x, y), size) for y in ends]
        free = [box for box in boxes if not any(box.intersects(other) for other in taken)]
        if free and ends[0] - ends[1] > 12:
            write(painter, free[0], words, font(11), self._look.colour("secondary"))

    def _school(self, painter: QPainter, taken: list[QRectF]) -> None:
        """The window in words, in a corner of its band that is free."""
        band, trend = self._band, self.trend
        if band is None or trend is None or trend.limits is None or band.height() < 18:
            return
        words = f"{trend.school}: {window_words(trend.limits.lo, trend.limits.hi, trend.unit)}"
        size = QSizeF(wide(words, font(11)) + 2, 15)
        right, left = band.right() - size.width() - 6, band.left() + 6
        rows = (band.top() + 2, band.bottom() - 17)
        boxes = [QRectF(QPointF(x, y), size) for y in rows for x in (right, left)]
        free = [box for box in boxes if not any(box.intersects(other) for other in taken)]
        if free:
            write(painter, free[0], words, font(11), self._look.colour("secondary"))

    def verdict(self, point: Point) -> Verdict | None:
        """What a lesson's number is against the window, by the rule of the Bench; None without a window."""
        limits = self.trend.limits if self.trend else None
        if limits is None or not limits.asks("outside"):
            return None
        return judge_value(point.value, point.sigma, limits, "outside").verdict

    def _practised(self, painter: QPainter, axes: Axes) -> None:
        """Bars under the axis: which drill, from when to when."""
        assert self.trend is not None
        y = axes.box.bottom() + 26
        for one in self.trend.practised:
            if one.last < axes.first:
                continue
            left, right = axes.x(max(one.first, axes.first)), axes.x(min(one.last, axes.last))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self._look.colour("chosen_edge"))
            painter.drawRoundedRect(QRectF(left, y, max(right - left, 4), 5), 2.5, 2.5)
            words = self._drill(one)
            room = min(self.width() - 8 - left, max(right - left + 40, 60))
            if wide(words, font(11)) > room:
                words = self._short(one, room)
            write(painter, QRectF(left, y - 17, room, 15), words, font(11), self._look.colour("secondary"))

    def _drill(self, one: PracticeSpan) -> str:
        known = self._drills.all.get(one.drill) if self._drills else None
        return known.title if known else one.drill.replace("_", " ")

    def _short(self, one: PracticeSpan, room: float) -> str:
        """As many of a drill's words as have room."""
        words = self._drill(one).split()
        while len(words) > 1 and wide(" ".join(words) + " …", font(11)) > room:
            words.pop()
        return " ".join(words) + " …"

    def _check_in(self, painter: QPainter, axes: Axes) -> None:
        assert self.trend is not None
        running = [one for one in self.trend.practised if one.check_in >= self._today]
        if not running:
            return
        day = running[-1].check_in
        x = axes.x(day)
        pen = QPen(self._look.colour("secondary"), 1.1)
        pen.setDashPattern([3, 3])
        painter.setPen(pen)
        painter.drawLine(QPointF(x, axes.box.top() + 4), QPointF(x, axes.box.bottom() + 4))
        words = tr("check-in")
        width = wide(words, font(11)) + 2
        left = x + 5 if x + 5 + width < self.width() - 4 else x - 5 - width
        y = axes.box.bottom() - 30
        write(painter, QRectF(left, y, width, 14), words, font(11), self._look.colour("secondary"))

    def _days(self, painter: QPainter, axes: Axes) -> None:
        assert self.trend is not None
        days = sorted({p.day for p in self.trend.points} | {o.check_in for o in self.trend.practised[-1:]})
        days = [day for day in days if axes.first <= day <= axes.last]
        words = [brief_day(day, self._today) for day in days]
        places, widths = [axes.x(day) for day in days], [wide(one, font(11)) + 2 for one in words]
        for place, width, one, shown in zip(places, widths, words, apart(places, widths), strict=True):
            if shown:
                left = min(max(place - width / 2, 2), self.width() - width - 2)
                box = QRectF(left, axes.box.bottom() + 40, width, 16)
                write(painter, box, one, font(11), self._look.colour("secondary"))

    # Hands

    def _near(self, at: QPointF) -> Point | None:
        axes = self.axes()
        if self.trend is None or axes is None:
            return None
        far = {id(p): (axes.at(p.day, p.value) - at).manhattanLength() for p in self.trend.points}
        best = min(self.trend.points, key=lambda p: far[id(p)])
        return best if far[id(best)] < NEAR_PX else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.position().y() < TOP_PX and self.trend is not None:
            self.measure_wanted.emit()
            return
        point = self._near(event.position())
        if point is not None:
            held = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            (self.against_wanted if held else self.picked).emit(point.lesson)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = self._near(event.position())
        if point is not None and self.trend is not None:
            words = [
                brief_day(point.day, self._today),
                length_words(point.value, point.sigma, self.trend.unit),
            ]
            words += [counted(point, self.trend.unit), *point.other, self.words.apart(point)]
            QToolTip.showText(
                event.globalPosition().toPoint(), tip("\n".join(word for word in words if word)), self
            )
        heading = event.position().y() < TOP_PX and self.trend is not None
        hand = heading or point is not None
        self.setCursor(Qt.CursorShape.PointingHandCursor if hand else Qt.CursorShape.ArrowCursor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.trend is not None:
            self.measure_wanted.emit()
            return
        super().keyPressEvent(event)
