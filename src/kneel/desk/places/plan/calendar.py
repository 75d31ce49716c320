"""The weeks of a plan: a cell a day, what is done on it, and what came of it."""

from __future__ import annotations

import datetime
from collections.abc import Mapping

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QAbstractButton, QGridLayout, QSizePolicy, QWidget

from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label, high, tip, write, write_block
from kneel.desk.widgets.theme import Look, font
from kneel.model import Plan
from kneel.practice import Drill, Session, sessions
from kneel.practice.dose import amount
from kneel.practice.schedule import DAY, WEEK, State, check_ins
from kneel.speech import practice as say

LEAST_HIGH = 46
HEAD_HIGH, DATE_HIGH, SPACING = 18, 20, 6
BESIDE, NARROW_BESIDE, NARROW = 33, 14, 118
"""What stands left and right of the words of a day, px; and in a cell narrower than so much."""

NO_BREAK = "\N{NO-BREAK SPACE}"
WEEKS_MOST = 7


class DayCell(QAbstractButton):
    """One day: its date, and the session or the check-in that stands on it."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.day = datetime.date.min
        self.session: Session | None = None
        self.film = False
        self._words = ""
        self._today = self._begun = False
        self.setMinimumSize(64, LEAST_HIGH)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def sizeHint(self) -> QSize:
        return QSize(120, 80)

    def show_day(
        self, day: datetime.date, session: Session | None, words: str, *, film: bool, today: bool, begun: bool
    ) -> None:
        """Show a day; ``begun`` is whether what stands on it can be noted."""
        self.day, self.session, self.film, self._words = day, session, film, words
        self._today, self._begun = today, begun
        open_ = begun and (session is not None or film)
        self.setEnabled(open_)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus if open_ else Qt.FocusPolicy.NoFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor if open_ else Qt.CursorShape.ArrowCursor)
        said = f"{say.day_words(day)}: {words or tr('nothing')}"
        self.setAccessibleName(said)
        self.setToolTip(tip(said if words else ""))
        self.update()

    def needed(self, width: int) -> int:
        """How high it has to be for all its words."""
        inner = width - (NARROW_BESIDE if width < NARROW else BESIDE)
        return round(DATE_HIGH + 9 + max(high(self._words, font(12), inner), 16))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, look = QPainter(self), self._look
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        full = self.session is not None or self.film
        lit = self._today or self.film or self.hasFocus() or (self.isEnabled() and self.underMouse())
        painter.setPen(
            QPen(look.colour("chosen_edge"), 1.8 if self.hasFocus() else 1.1) if lit else Qt.PenStyle.NoPen
        )
        painter.setBrush(look.colour("raised" if full else "panel"))
        painter.drawRoundedRect(box, 6, 6)
        date = f"{self.day.day} {say.MONTHS[self.day.month - 1][:3]}"
        longer = f"{tr('today')} · {date}" if self._today else ""
        top = QRectF(9, 3, self.width() - (28 if self.width() < NARROW else 18), DATE_HIGH)
        write(
            painter,
            top,
            date,
            font(11, 600 if self._today else 400),
            look.colour("text" if self._today else "secondary"),
            whole=longer,
        )
        if not full:
            return
        line, narrow = top.bottom() + 2, self.width() < NARROW
        # In a narrow cell the words take the whole width, and the sign stands beside the date.
        self._draw_state(painter, QPointF(self.width() - 13, 13) if narrow else QPointF(15, line + 8))
        left, beside = (9, NARROW_BESIDE) if narrow else (27, BESIDE)
        words = QRectF(left, line, self.width() - beside, self.height() - line - 3)
        write_block(painter, words, self._words, font(12), look.colour("text"))

    def _draw_state(self, painter: QPainter, centre: QPointF) -> None:
        """A tick is done, a stroke was missed, a disc is today, a ring is ahead, a broken ring a clip."""
        look, state = self._look, self.session.state if self.session else None
        if self.film:
            pen = QPen(look.colour("text"), 1.4)
            pen.setDashPattern([2.0, 1.6])
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(centre, 4.6, 4.6)
        elif state is State.DONE:
            held = self.session.log.held if self.session and self.session.log else None
            colour = "watch" if held is False else "clear"
            painter.setPen(QPen(look.colour(colour), 1.9))
            painter.drawPolyline(
                [centre + QPointF(-4, 0), centre + QPointF(-1, 3.4), centre + QPointF(5, -4)]
            )
        elif state is State.MISSED:
            painter.setPen(QPen(look.colour("secondary"), 1.6))
            painter.drawLine(centre + QPointF(-4, 0), centre + QPointF(4, 0))
        else:
            painter.setPen(QPen(look.colour("text" if state is State.TODAY else "secondary"), 1.3))
            painter.setBrush(look.colour("text") if state is State.TODAY else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(centre, 4.4, 4.4)


class Calendar(QWidget):
    """The weeks from the Monday of the first day to the last check-in. ``picked`` carries a cell."""

    picked = pyqtSignal(object)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setSpacing(SPACING)
        for k, name in enumerate(say.WEEKDAYS):
            head = Label(tr(name))
            head.setProperty("role", "caption")
            head.setFixedHeight(HEAD_HIGH)
            self.grid.addWidget(head, 0, k)
            self.grid.setColumnStretch(k, 1)
        self.cells: list[DayCell] = []
        look.changed.connect(self.update)

    def _weeks(self, count: int) -> None:
        """Have so many rows of cells."""
        while len(self.cells) < count * WEEK:
            cell = DayCell(self._look)
            cell.clicked.connect(lambda _=False, c=cell: self.picked.emit(c))
            place = len(self.cells)
            self.grid.addWidget(cell, 1 + place // WEEK, place % WEEK)
            self.cells.append(cell)
        for place, cell in enumerate(self.cells):
            cell.setVisible(place < count * WEEK)
        for row in range(WEEKS_MOST):
            self.grid.setRowStretch(1 + row, 1 if row < count else 0)

    def show_plan(
        self, plan: Plan | None, drill: Drill | None, today: datetime.date, *, begun: bool, flags: tuple
    ) -> None:
        """Show the days of a plan, running or proposed; nothing without one."""
        self.setVisible(plan is not None)
        if plan is None:
            return
        filmed = check_ins(plan)
        found = {one.date: one for one in sessions(plan, today)}
        monday = plan.start - plan.start.weekday() * DAY
        last = max([*filmed, *found], default=plan.check_in)
        weeks = min((last - monday).days // WEEK + 1, WEEKS_MOST)
        self._weeks(weeks)
        words = _words(found, plan, drill, flags)
        for k, cell in enumerate(self.cells[: weeks * WEEK]):
            day = monday + k * DAY
            film = day in filmed
            cell.show_day(
                day,
                found.get(day),
                tr("clip: did it change?") if film else words.get(day, ""),
                film=film,
                today=day == today,
                begun=begun and (day <= today or film),
            )

        self._suit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._suit()

    def _suit(self) -> None:
        """Let each week be as high as its fullest day needs."""
        width = (self.width() - SPACING * (WEEK - 1)) // WEEK
        for row in range(0, len(self.cells), WEEK):
            week = [cell for cell in self.cells[row : row + WEEK] if not cell.isHidden()]
            tall = max((cell.needed(width) for cell in week), default=0)
            self.grid.setRowMinimumHeight(1 + row // WEEK, tall)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows go from day to day."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -WEEK, Qt.Key.Key_Down: WEEK}
        step = steps.get(Qt.Key(event.key()))
        here = next((k for k, cell in enumerate(self.cells) if cell.hasFocus()), None)
        if step is None or here is None:
            super().keyPressEvent(event)
            return
        there = here + step
        while 0 <= there < len(self.cells):
            if self.cells[there].isEnabled() and self.cells[there].isVisible():
                self.cells[there].setFocus()
                return
            there += step


def _words(
    found: Mapping[datetime.date, Session], plan: Plan, drill: Drill | None, flags: tuple
) -> dict[datetime.date, str]:
    """What stands on each day."""
    told = {}
    for day, one in found.items():
        dose = say.dose_words(amount(drill, one.rung, plan.minutes, flags)) if drill else one.rung.value
        if one.state is State.MISSED:
            told[day] = tr("moved to %s") % say.WEEKDAYS[one.moved.weekday()] if one.moved else tr("missed")
        elif one.log is not None and one.log.value is not None and one.log.sigma is not None:
            value = say.length_words(one.log.value, one.log.sigma, plan.aim.unit)
            told[day] = f"{one.rung.value}: {NO_BREAK.join(value.rsplit(' ', 1))}"
        else:
            told[day] = dose
    return told
