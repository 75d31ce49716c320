"""The guided reading: six short steps through a swing that is read already. It can be skipped at any time."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from kneel.desk.places.context import Context
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.panels import Panel
from kneel.desk.widgets.text import Label

if TYPE_CHECKING:
    from kneel.desk.places.bench.view import Bench

SEEN = "guide seen"


@dataclass(frozen=True)
class GuideStep:
    """What is said, beside which part of the Bench, and what is done first so that it can be seen."""

    title: str
    words: str
    part: str
    prepare: str = ""


STEPS = (
    GuideStep(
        "What to work on",
        "Kneel has read this swing. The findings hang on a plumb, the root on top and what it leads to "
        "under it: a filled lozenge is a fault, a half-filled one is to be watched, a ring is clear.",
        "reading",
    ),
    GuideStep(
        "The picture argues",
        "Choose a finding, by click or with F. The picture goes to where it shows, draws the line it is "
        "measured against, and writes the distance with its error beside the body.",
        "stage",
        "choose",
    ),
    GuideStep(
        "The scrubber is the measurement",
        "Drag anywhere on the ribbon to go through the swing. The trace carries its error as a band; "
        "the green gates are what the school allows at each checkpoint, and what is past them is hatched.",
        "ribbon",
    ),
    GuideStep(
        "Correct what is wrong",
        "Drag a point on the picture: the loupe shows where it lands, and the verdict follows the hand. "
        "N takes up the one mark that would tell most. Everything can be undone.",
        "stage",
    ),
    GuideStep(
        "Guesses are shown as such",
        "A broken border is a guess, a solid one a fact. One click on a token corrects it, and everything is "
        "reckoned anew. Say the student’s height: lengths get three times surer.",
        "strip",
    ),
    GuideStep(
        "Your eye outranks it",
        "“Not so” and “Known, leave it” take a finding off the list, with your reason. F11 shows the picture "
        "alone to the student, F1 lists all keys. Now drop a clip of your own.",
        "reading",
    ),
)


class Guide(QObject):
    """Walks through the steps; offered once, on the demo's first start."""

    def __init__(self, window: QWidget, context: Context, bench: Bench) -> None:
        super().__init__(window)
        self._window, self._context, self._bench = window, context, bench
        self._wanted = False
        self._at = 0
        self._away = False
        self.panel: _Sheet | None = None

    def offer(self) -> None:
        """Begin once the demo's swing is open, if it was never seen."""
        if not self._context.settings.value(SEEN, False, type=bool) and not self._wanted:
            self._wanted = True
            self._bench.opened_for_guide(self._begin)

    def _begin(self) -> None:
        if self._wanted:
            self._wanted = False
            self.start()

    def start(self) -> None:
        """Begin with the first step."""
        self._at = 0
        self._show()

    def step(self, by: int) -> None:
        """Go on, or back; after the last step it is over."""
        self._at += by
        if self._at >= len(STEPS):
            self.end()
        else:
            self._show()

    def end(self) -> None:
        """It is over, and is not offered again."""
        self._context.settings.setValue(SEEN, True)
        panel, self.panel = self.panel, None
        if panel is not None:
            panel.close()

    def put_by(self, away: bool) -> None:
        """It speaks of the Bench, and is there only while that is on show."""
        if self.panel is not None and away:
            old, self.panel = self.panel, None
            old.close()
            self._away = True
        elif self._away and not away:
            self._away = False
            self._show()

    def _show(self) -> None:
        step = STEPS[self._at]
        if step.prepare == "choose":
            self._bench.reading.step(0)
        old, self.panel = self.panel, None
        if old is not None:
            old.close()
        self.panel = _Sheet(self._window, self._context, step, self._at, self.step, self.end)
        self.panel.beside(getattr(self._bench, step.part))


class _Sheet(Panel):
    """One step, beside the part it speaks of."""

    def __init__(
        self,
        window: QWidget,
        context: Context,
        step: GuideStep,
        number: int,
        go: Callable[[int], None],
        end: Callable[[], None],
    ) -> None:
        super().__init__(window, context.look, tr(step.title), passing=False)
        self._end = end
        title, words = Label(tr(step.title)), Label(tr(step.words))
        title.setProperty("role", "title")
        words.setWordWrap(True)
        self.column.addWidget(title)
        self.column.addWidget(words)
        row = QHBoxLayout()
        count = Label(tr("%d of %d") % (number + 1, len(STEPS)))
        count.setProperty("role", "caption")
        row.addWidget(count)
        row.addStretch(1)
        skip = QPushButton(tr("Skip"))
        skip.clicked.connect(end)
        row.addWidget(skip)
        if number:
            back = QPushButton(tr("Back"))
            back.clicked.connect(lambda: go(-1))
            row.addWidget(back)
        self.on = QPushButton(tr("Next") if number + 1 < len(STEPS) else tr("Begin"))
        self.on.clicked.connect(lambda: go(1))
        row.addWidget(self.on)
        self.column.addLayout(row)
        self.setMinimumWidth(340)
        self.setMaximumWidth(340)
        skip.setVisible(number + 1 < len(STEPS))

    def focus_first(self) -> QWidget | None:
        return self.on

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self._end()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.on.click()
        else:
            event.accept()

    def beside(self, part: QWidget) -> None:
        """Lie beside a part of the Bench, over its neighbour."""
        self._part = part
        self.open()

    def place(self) -> None:
        window = self.parentWidget()
        part = getattr(self, "_part", None)
        self.adjustSize()
        layout = self.layout()
        high = layout.heightForWidth(340) if layout is not None else self.sizeHint().height()
        if part is None:
            return
        corner = part.mapTo(window, part.rect().topLeft())
        left = corner.x() - 340 - 16
        if left < 12:
            left = min(corner.x() + part.width() + 16, window.width() - 352)
        top = corner.y() + 40
        if part.height() < 120:
            left, top = corner.x(), corner.y() + part.height() + 8
        elif part.width() > window.width() * 0.8:
            left, top = corner.x() + 200, corner.y() - high - 8
        elif part.width() > 500:
            left = corner.x() + part.width() - 360
        top = min(max(top, 12), window.height() - high - 12)
        self.setGeometry(max(left, 12), top, 340, high)
