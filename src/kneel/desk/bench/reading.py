"""The reading: what was found, as knots on a plumb, the root on top, with its reasons and what it costs."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from kneel.desk.glyphs import draw_verdict
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look, font
from kneel.desk.words import tr
from kneel.judge import Finding, schools
from kneel.judge.words import UNITS, checkpoint_words, number, window_words
from kneel.model import spoken
from kneel.motion.advice import Advice

VERDICT_WORDS = {"fault": "fault", "watch": "watch", "clear": "clear", "unknown": "can’t tell"}
KNOT_HEIGHT = 54


class Knot(QWidget):
    """One finding on the plumb: glyph, name, value, window. Choosing it takes the stage there."""

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self._finding: Finding | None = None
        self._first = self._last = True
        self.setFixedHeight(KNOT_HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip(tr("Show it on the picture"))

    def show_finding(self, finding: Finding, *, first: bool, last: bool) -> None:
        """Show a finding; ``first`` and ``last`` tell where the plumb begins and ends."""
        self._finding, self._first, self._last = finding, first, last
        self.setAccessibleName(f"{finding.fault.title}: {tr(VERDICT_WORDS[finding.verdict.value])}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        f = self._finding
        if f is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 2.5, -0.5, -2.5)
        if f.fault.key == self._open.selection.fault:
            painter.setPen(QPen(self._look.colour("chosen_edge"), 2 if self.hasFocus() else 1))
            painter.setBrush(self._look.colour("chosen"))
            painter.drawRoundedRect(box, 6, 6)
        elif self.hasFocus():
            painter.setPen(QPen(self._look.colour("chosen_edge"), 1))
            painter.drawRoundedRect(box, 6, 6)
        self._plumb(painter)
        draw_verdict(painter, self._look, f.verdict.value, QPointF(18, 20))
        painter.setPen(self._look.colour("text"))
        painter.setFont(font(14, 600))
        painter.drawText(QPointF(34, 25), tr(f.fault.title))
        painter.setFont(font(11.5))
        painter.setPen(self._look.colour("secondary"))
        where = f" {tr('at')} {checkpoint_words(f.checkpoint)}" if f.checkpoint else ""
        painter.drawText(QPointF(34, 42), tr(VERDICT_WORDS[f.verdict.value]) + where)
        if f.value is not None and f.sigma is not None and f.unit:
            self._numbers(painter, f, f.value, f.sigma, f.unit)

    def _plumb(self, painter: QPainter) -> None:
        painter.setPen(QPen(self._look.colour("faint"), 1.2))
        if not self._first:
            painter.drawLine(QPointF(18, 0), QPointF(18, 12))
        if not self._last:
            painter.drawLine(QPointF(18, 28), QPointF(18, self.height()))

    def _numbers(self, painter: QPainter, f: Finding, value: float, sigma: float, unit: str) -> None:
        right = self.width() - 12
        error = f" ± {number(sigma, unit, signed=False)}"
        painter.setFont(font(12.5))
        error_width = painter.fontMetrics().horizontalAdvance(error)
        painter.setPen(self._look.colour("secondary"))
        painter.drawText(QPointF(right - error_width, 25), error)
        painter.setFont(font(14, 600))
        text = f"{number(value, unit)} {UNITS[unit].replace('stance widths', 'stance')}"
        width = painter.fontMetrics().horizontalAdvance(text)
        painter.setPen(self._look.colour("text"))
        painter.drawText(QPointF(right - error_width - width, 25), text)
        if f.window:
            painter.setFont(font(11.5))
            painter.setPen(self._look.colour("secondary"))
            words = window_words(*f.window, unit)
            width = painter.fontMetrics().horizontalAdvance(words)
            painter.drawText(QPointF(right - width, 42), words)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._choose()

    def _choose(self) -> None:
        if self._finding is not None:
            self._open.selection.choose(self._finding.fault.key)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._choose()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()
        super().focusInEvent(event)


class ReadingPane(QWidget):
    """The pane at the side: school, knots, the chosen finding in words, and what to do next."""

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self._open, self._look = opened, look
        self.setObjectName("reading")
        self.setFixedWidth(304)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self._school = QPushButton()
        self._school.setFlat(True)
        self._school.setAccessibleName(tr("School the swing is judged by"))
        self._school.clicked.connect(self._choose_school)
        self._agrees = QLabel()
        self._knots = QVBoxLayout()
        self._knots.setSpacing(0)
        self._text = QLabel()
        self._reasons = QLabel()
        self._why = QLabel()
        self._care = QLabel()
        self._notes = QLabel()
        self._count = QLabel()
        parts = (self._agrees, self._text, self._reasons, self._why, self._care, self._count, self._notes)
        self._labels = parts
        for label in parts:
            label.setWordWrap(True)
            label.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
        self._build()
        opened.numbers.renewed.connect(self.refresh)
        opened.selection.chose.connect(self.refresh)
        opened.opened.connect(self.refresh)
        opened.document.changed.connect(self.refresh)
        look.changed.connect(self.refresh)
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(304, 480)

    def _build(self) -> None:
        head = QHBoxLayout()
        head.addWidget(self._school, 1)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(12, 10, 12, 12)
        column.setSpacing(10)
        column.addLayout(head)
        column.addWidget(self._agrees)
        column.addLayout(self._knots)
        for label in (self._text, self._reasons, self._why, self._care, self._count, self._notes):
            column.addWidget(label)
        column.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(inner)
        inner.setObjectName("inner")
        inner.setStyleSheet("#inner { background: transparent; }")
        area.viewport().setStyleSheet("background: transparent;")
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(area)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._look.colour("panel"))
        painter.drawRoundedRect(QRectF(self.rect()), 6, 6)

    def refresh(self) -> None:
        """Say what the numbers say now."""
        c = self._look.colours
        reading = self._open.numbers.reading
        if reading is None or self._open.store is None:
            self._show_knots([])
            for widget in (self._school, *(self._labels[:-1])):
                widget.hide()
            self._notes.setText(tr("The reading stands here once a clip is open and its points are marked."))
            return
        for widget in (self._school, self._agrees, self._count):
            widget.show()
        self._school.setText(tr("Judged as %s ▾") % reading.school.title.lower())
        self._school.setStyleSheet("text-align: left; border: 0; background: transparent; font-weight: 600;")
        self._agrees.setText(self._agreement())
        self._agrees.setStyleSheet(f"color: {c.secondary}; font-size: 11.5px;")
        self._show_knots(list(reading.findings))
        self._explain(c.secondary)

    def _explain(self, secondary: str) -> None:
        finding = self._open.selection.finding
        self._text.setText(finding.text if finding else "")
        self._text.setStyleSheet("font-size: 13px;")
        self._reasons.setText("\n".join(finding.evidence) if finding else "")
        self._reasons.setStyleSheet(f"color: {secondary};")
        at_work = finding is not None and finding.verdict.value in ("fault", "watch")
        why = f"<b>{tr('What it costs')}</b><br>{finding.fault.why}" if finding and at_work else ""
        roots = f"<br><br><b>{tr('Common roots')}</b><br>{finding.fault.roots}" if finding and at_work else ""
        self._why.setText(why + roots)
        self._why.setStyleSheet("font-size: 12.5px;")
        self._care.setText(finding.fault.care if finding and at_work else "")
        self._care.setStyleSheet(
            f"QLabel {{ color: {secondary}; font-size: 11.5px; border: 0; padding-left: 8px;"
            f" border-left: 3px solid {self._look.colours.watch}; }}"
        )
        notes = [*self._next_step(), *self._by_colour(), *self._open.numbers.notes]
        self._notes.setText("\n\n".join(notes))
        self._notes.setStyleSheet(f"color: {secondary}; font-size: 11.5px;")
        reading = self._open.numbers.reading
        unseen = sum(f.verdict.value == "unknown" for f in reading.findings) if reading else 0
        clear = sum(f.verdict.value == "clear" for f in reading.findings) if reading else 0
        counts = [(clear, tr("%d clear")), (unseen, tr("%d can’t be told here"))]
        self._count.setText(" · ".join(words % count for count, words in counts if count))
        self._count.setStyleSheet(f"color: {secondary}; font-size: 11.5px;")
        for label in self._labels:
            label.setVisible(bool(label.text()))

    def _by_colour(self) -> list[str]:
        """Which points follow a spot of tape that was marked."""
        hand = self._open.swing.hand
        names = ", ".join(spoken(point, hand) for point in sorted(self._open.numbers.spots))
        return [tr("Followed by its colour: %s.") % names] if names else []

    def _next_step(self) -> list[str]:
        """What to do where marks are still lacking."""
        advice = self._open.selection.advice()
        if advice is not None:
            return [self._advised(advice)]
        marked = {m.frame for m in self._open.swing.marks}
        if len(marked) >= 3 or self._open.looked.sightings:
            return []
        if self._open.gathering.looking.busy:
            return [tr("Kneel is looking for the joints; marks set by hand meanwhile are kept.")]
        return [
            tr(
                "Press M and click hips, knees, ankles and hands: at address, half way back, at the top, "
                "half way down and at impact. Kneel follows them in between."
            )
        ]

    def _advised(self, advice: Advice) -> str:
        """Which one mark would make the chosen finding surer, and how much."""
        finding = self._open.selection.finding
        unit = (finding.unit if finding else None) or "cm"
        return tr("Marking the %s %s would bring ± %s down to about ± %s %s. Press N to set it.") % (
            advice.point.replace("_", " "),
            tr(" and ").join(self._open.numbers.frame_title(frame) for frame in advice.frames),
            number(advice.before, unit, signed=False),
            number(advice.after, unit, signed=False),
            UNITS[unit],
        )

    def _agreement(self) -> str:
        """How a second school sees the same swing."""
        reading, other = self._open.numbers.reading, self._open.numbers.other
        if reading is None or other is None or all(f.value is None for f in reading.findings):
            return ""
        second = {f.fault.key: f.verdict for f in other.findings}
        differ = [f for f in reading.findings if second.get(f.fault.key) is not f.verdict]
        name = other.school.title.lower()
        if not differ:
            return tr("The %s school agrees.") % name
        words = ", ".join(
            tr("%s: %s") % (f.fault.title.lower(), tr(VERDICT_WORDS[second[f.fault.key].value]))
            for f in differ
        )
        return tr("The %s school sees it otherwise: %s.") % (name, words)

    def _show_knots(self, findings: list[Finding]) -> None:
        """One knot per finding; those at hand are used again."""
        while self._knots.count() > len(findings):
            item = self._knots.takeAt(self._knots.count() - 1)
            if item is not None and (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        for k, finding in enumerate(findings):
            if k >= self._knots.count():
                self._knots.addWidget(Knot(self._open, self._look))
            knot = self._knots.itemAt(k).widget()
            knot.show_finding(finding, first=k == 0, last=k == len(findings) - 1)

    def _choose_school(self) -> None:
        menu = QMenu(self)
        for key, entry in schools().items():
            action = menu.addAction(entry.title)
            if action is not None:
                action.setCheckable(True)
                action.setChecked(key == self._open.swing.school)
                action.setToolTip(entry.creed)
                action.triggered.connect(lambda _, k=key: self._open.set("Change school", school=k))
        menu.setToolTipsVisible(True)
        menu.exec(self._school.mapToGlobal(self._school.rect().bottomLeft()))
