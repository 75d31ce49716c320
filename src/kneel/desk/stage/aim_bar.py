"""The bar of the aim: what it shows in words, and the ghost's slider from “as it is” to “corrected”."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, QRectF, Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QSlider, QVBoxLayout

from kneel.desk.stage.canvas import Canvas
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.aim import Aimed
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label, tip
from kneel.motion.ghost import Ghost

WIDE, EDGE, UNDER_CAPTION = 304, 10, 42
BESIDE_CAPTION = 700
"""A picture at least so wide has room for the bar beside the caption of its frame."""


class AimBar(QFrame):
    """Lies over the right upper corner of a picture while an aim is wanted."""

    def __init__(self, opened: OpenSwing, canvas: Canvas) -> None:
        super().__init__(canvas)
        self._open, self._canvas = opened, canvas
        self.setProperty("role", "transport")
        self.title, self.note = Label(), Label()
        self.title.setProperty("role", "strong")
        self.note.setProperty("role", "secondary")
        for label in (self.title, self.note):
            label.setWordWrap(True)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, 100)
        self.slider.setPageStep(25)
        self.slider.setAccessibleName(tr("From as it is to corrected"))
        self.slider.setToolTip(tip(tr("From as it is to corrected; by keyboard with the arrows")))
        self.close_button = QPushButton("×")
        self.close_button.setProperty("small", True)
        self.close_button.setAccessibleName(tr("No longer show what to aim for"))
        self.close_button.setToolTip(tip(tr("No longer show what to aim for (Z)")))
        self.close_button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.instead, self.aside = QPushButton(tr("Reference figure")), QPushButton()
        for button in (self.instead, self.aside):
            button.setProperty("small", True)
        self.ends = [Label(tr("as it is")), Label(tr("corrected"))]
        upper, lower = QHBoxLayout(), QHBoxLayout()
        upper.addWidget(self.title, 1)
        upper.addWidget(self.close_button, 0, Qt.AlignmentFlag.AlignTop)
        lower.addWidget(self.ends[0])
        lower.addWidget(self.slider, 1)
        lower.addWidget(self.ends[1])
        buttons = QHBoxLayout()
        buttons.addWidget(self.instead)
        buttons.addWidget(self.aside)
        buttons.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 7, 8, 8)
        column.setSpacing(4)
        column.addLayout(upper)
        column.addLayout(lower)
        column.addWidget(self.note)
        column.addLayout(buttons)
        self.slider.valueChanged.connect(lambda value: opened.aim.move(value / 100))
        self.close_button.clicked.connect(lambda _=False: opened.aim.toggle(opened.aim.shown))
        self.instead.clicked.connect(lambda _=False: opened.aim.toggle(Aimed.FIGURE))
        self.aside.clicked.connect(lambda _=False: opened.aim.step_aside())
        for signal in (opened.aim.changed, opened.cursor.moved, opened.opened):
            signal.connect(self.refresh)
        canvas.installEventFilter(self)
        self.hide()

    def refresh(self) -> None:
        """Say what is shown; away while it is not wanted."""
        aim = self._open.aim
        shown = aim.wanted and self._open.store is not None
        self.setVisible(shown)
        if not shown:
            self._cover([])
            return
        title, note = aim.words(self._open.cursor.frame)
        there = isinstance(aim.ghost, Ghost)
        self.title.setText(title)
        self.note.setText(note)
        self.note.setVisible(bool(note))
        for part in (self.slider, *self.ends):
            part.setVisible(there)
        self.instead.setVisible(aim.figure_instead)
        self.aside.setVisible(aim.shown is Aimed.FIGURE)
        self.aside.setText(tr("Over the golfer") if aim.beside else tr("Beside the golfer"))
        if not self.slider.isSliderDown() and self.slider.value() != round(100 * aim.share):
            self.slider.blockSignals(True)
            self.slider.setValue(round(100 * aim.share))
            self.slider.blockSignals(False)
        self._lay()

    def _lay(self) -> None:
        whole = self._canvas.width()
        wide = min(WIDE, whole - 2 * EDGE)
        layout = self.layout()
        assert layout is not None
        layout.activate()
        # A word-wrapped label says how high it is only once it is told how wide.
        self.setFixedSize(wide, layout.totalHeightForWidth(wide))
        top = 8 if whole >= BESIDE_CAPTION else UNDER_CAPTION
        self.move(whole - wide - EDGE, top)
        self._cover([QRectF(self.geometry())])

    def _cover(self, boxes: list[QRectF]) -> None:
        if boxes != self._canvas.covered:
            self._canvas.covered = boxes
            self._canvas.forget_places()
            self._canvas.update()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() in (QEvent.Type.Resize, QEvent.Type.Show) and self.isVisible():
            self._lay()
        return False
