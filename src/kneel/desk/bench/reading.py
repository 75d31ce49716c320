"""The reading: what was found as a chain, what to work on, its reasons, and the instructor's word."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from kneel.desk.bench.knots import Knots
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look
from kneel.desk.words import tr
from kneel.judge import Finding, Reading, Verdict, at_hand
from kneel.judge.roots import ADDED, LEFT, REJECTED
from kneel.model import Override, spoken
from kneel.motion.advice import Advice
from kneel.speech.findings import differences, done_well, place, reasons, sentence, work_on
from kneel.speech.words import number, with_unit

DIFFER = 3
"""So many differences between two schools are told."""

FLAT = "text-align: left; border: 0; padding: 0; background: transparent;"

SAYINGS = ((REJECTED, "Not so"), (ADDED, "I see it"), (LEFT, "Known, leave it"), ("", "Take it back"))


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
        self._well, self._work = QLabel(), QLabel()
        self._knots = Knots(opened, look)
        self._rest = Knots(opened, look)
        self._rest.hide()
        self._text, self._place = QLabel(), QLabel()
        self._reasons = QLabel()
        self._why = QLabel()
        self._care = QLabel()
        self._notes = QLabel()
        self._count = QPushButton()
        self._count.setFlat(True)
        self._count.setCheckable(True)
        self._count.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self._count.setAccessibleName(tr("What is clear, and what cannot be told"))
        self._count.toggled.connect(self._open_rest)
        self._say = {key: QPushButton(tr(words)) for key, words in SAYINGS}
        self._reason = QLineEdit()
        self._reason.setPlaceholderText(tr("Why? It is kept with the swing."))
        self._reason.setMaxLength(200)
        self._reason.editingFinished.connect(self._keep_reason)
        self._labels = (
            *(self._well, self._work, self._agrees, self._text, self._place),
            *(self._reasons, self._why, self._care, self._notes),
        )
        for label in self._labels:
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
        for part in (self._well, self._work, self._knots, self._text, self._reasons, self._place):
            column.addWidget(part)
        column.addLayout(self._sayings())
        column.addWidget(self._reason)
        for part in (self._why, self._care, self._count, self._rest, self._agrees, self._notes):
            column.addWidget(part)
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

    def _sayings(self) -> QHBoxLayout:
        """What the instructor can say of the chosen finding."""
        row = QHBoxLayout()
        row.setSpacing(6)
        for key, button in self._say.items():
            button.setProperty("small", True)
            button.clicked.connect(lambda _, k=key: self._override(k))
            row.addWidget(button)
        row.addStretch(1)
        return row

    def refresh(self) -> None:
        """Say what the numbers say now."""
        c = self._look.colours
        reading = self._open.numbers.reading
        if reading is None or self._open.store is None:
            self._knots.show_chain([])
            self._rest.show_chain([])
            buttons = (self._school, self._count, self._reason, *self._say.values())
            for widget in (*buttons, *self._labels[:-1]):
                widget.hide()
            self._notes.setText(tr("The reading stands here once a clip is open and its points are marked."))
            return
        self._school.show()
        self._school.setText(tr("Judged as %s ▾") % reading.school.title.lower())
        _dress(self._school, f"{FLAT} font-weight: 600;")
        self._well.setText(done_well(reading))
        _dress(self._well, f"color: {c.secondary}; font-size: 12.5px;")
        self._work.setText(work_on(reading))
        _dress(self._work, "font-size: 13px; font-weight: 600;")
        self._agrees.setText(self._agreement())
        _dress(self._agrees, f"color: {c.secondary}; font-size: 11.5px;")
        self._knots.show_chain(reading.chain or [(f, 0) for f in reading.well])
        self._explain(reading, c.secondary)
        self._tell_rest(reading, c.secondary)
        for label in self._labels:
            label.setVisible(bool(label.text()))

    def _explain(self, reading: Reading, secondary: str) -> None:
        """The chosen finding: sentence, reasons, its place in the chain, what it costs, what can be said."""
        finding = self._open.selection.finding
        self._text.setText(sentence(finding, reading.school) if finding else "")
        _dress(self._text, "font-size: 13px;")
        self._reasons.setText("\n".join(reasons(finding)) if finding else "")
        _dress(self._reasons, f"color: {secondary};")
        self._place.setText(place(finding, reading) if finding else "")
        _dress(self._place, "font-size: 12.5px;")
        at_work = finding is not None and finding.verdict.at_work
        why = f"<b>{tr('What it costs')}</b><br>{finding.fault.why}" if finding and at_work else ""
        roots = f"<br><br><b>{tr('Common roots')}</b><br>{finding.fault.roots}" if finding and at_work else ""
        self._why.setText(why + roots)
        _dress(self._why, "font-size: 12.5px;")
        self._care.setText(finding.fault.care if finding and at_work else "")
        _dress(
            self._care,
            f"QLabel {{ color: {secondary}; font-size: 11.5px; border: 0; padding-left: 8px;"
            f" border-left: 3px solid {self._look.colours.watch}; }}",
        )
        self._offer(finding)

    def _offer(self, finding: Finding | None) -> None:
        """The words that fit: a fault can be refused or left, what is clear or unknown can be seen."""
        override = finding.override if finding else None
        fit = {
            REJECTED: override is None and finding is not None and finding.verdict.at_work,
            LEFT: override is None and finding is not None and finding.verdict.at_work,
            ADDED: override is None and finding is not None and not finding.verdict.at_work,
            "": override is not None,
        }
        for key, button in self._say.items():
            button.setVisible(fit[key])
        self._reason.setVisible(override is not None)
        if override is not None and not self._reason.hasFocus():
            self._reason.setText(override.reason)

    def _override(self, verdict: str) -> None:
        """Keep what the instructor says of the chosen fault; nothing takes it back."""
        finding = self._open.selection.finding
        if finding is None:
            return
        others = tuple(one for one in self._open.swing.overrides if one.fault != finding.key)
        said = (*others, Override(finding.key, verdict)) if verdict else others
        self._open.set("Say otherwise", overrides=said)
        if verdict:
            self._reason.clear()
            self._reason.setFocus()

    def _keep_reason(self) -> None:
        finding = self._open.selection.finding
        if finding is None or finding.override is None or finding.override.reason == self._reason.text():
            return
        said = tuple(
            Override(one.fault, one.verdict, self._reason.text()) if one.fault == finding.key else one
            for one in self._open.swing.overrides
        )
        self._open.set("Give the reason", overrides=said)

    def _tell_rest(self, reading: Reading, secondary: str) -> None:
        """One quiet line for what is clear or cannot be told; it opens."""
        rest = self._not_at_work(reading)
        clear = sum(f.verdict is Verdict.CLEAR for f in rest)
        unsure = sum(f.verdict is Verdict.UNKNOWN and f.asked for f in rest)
        unseen = sum(not f.asked for f in reading.findings)
        counts = (
            (clear, tr("%d clear")),
            (unsure, tr("%d can’t be told")),
            (unseen, tr("%d not asked")),
        )
        words = " · ".join(text % count for count, text in counts if count)
        self._count.setText(f"{words} {'▴' if self._count.isChecked() else '▾'}")
        _dress(self._count, f"{FLAT} color: {secondary}; font-size: 11.5px;")
        self._count.setVisible(bool(words))
        self._rest.show_chain([(f, 0) for f in rest] if self._count.isChecked() else [])
        self._rest.setVisible(self._count.isChecked())
        notes = [*self._next_step(), *self._by_colour(), *self._open.numbers.notes]
        self._notes.setText("\n\n".join(notes))
        _dress(self._notes, f"color: {secondary}; font-size: 11.5px;")

    def _not_at_work(self, reading: Reading) -> list[Finding]:
        shown = {f.key for f, _ in reading.chain} or {f.key for f in reading.well}
        return [f for f in reading.findings if f.asked and f.key not in shown]

    def _open_rest(self, opened: bool) -> None:
        self.refresh()

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
        finding = self._open.selection.unsure
        unit = (finding.unit if finding else None) or "cm"
        other = finding is not None and finding.key != self._open.selection.fault
        about = tr("%s cannot be told yet. ") % finding.fault.title if finding and other else ""
        return about + tr("Marking the %s %s would bring ± %s down to about ± %s. Press N to set it.") % (
            advice.point.replace("_", " "),
            tr(" and ").join(self._open.numbers.frame_title(frame) for frame in advice.frames),
            number(advice.before, unit, signed=False),
            with_unit(number(advice.after, unit, signed=False), unit),
        )

    def _agreement(self) -> str:
        """How a second school sees the same swing."""
        reading, other = self._open.numbers.reading, self._open.numbers.other
        if reading is None or other is None or all(f.value is None for f in reading.findings):
            return ""
        told = differences(reading, other)
        name = other.school.title.lower()
        if not told:
            return tr("The %s school agrees.") % name
        more = len(told) - DIFFER
        tail = " " + tr("And %d more.") % more if more > 0 else ""
        return tr("The %s school sees it otherwise. %s") % (name, " ".join(told[:DIFFER])) + tail

    def _choose_school(self) -> None:
        menu = QMenu(self)
        for key, entry in at_hand()[0].schools.items():
            action = menu.addAction(entry.title)
            if action is not None:
                action.setCheckable(True)
                action.setChecked(key == self._open.swing.school)
                action.setToolTip(entry.creed)
                action.triggered.connect(lambda _, k=key: self._open.set("Change school", school=k))
        menu.setToolTipsVisible(True)
        menu.exec(self._school.mapToGlobal(self._school.rect().bottomLeft()))


def _dress(widget: QWidget, style: str) -> None:
    """Set a style where it is another; Qt works it out anew each time."""
    if widget.styleSheet() != style:
        widget.setStyleSheet(style)
