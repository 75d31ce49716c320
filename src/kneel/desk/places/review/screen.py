"""The picture of a review: the stage as it was, with the hand on it, at any time."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.desk.places.review.film import TITLE_S, titled
from kneel.desk.stage.replay import ReplayCanvas, paint_hand, paint_title
from kneel.desk.swing.replayed import ReplayedSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import CENTRE, write
from kneel.desk.widgets.theme import Look, font
from kneel.model.review import Review
from kneel.review.edits import Course, chapters

NOTHING = "No review is open. Ctrl+R on the Bench begins one; those of this student stand at the left."


class Screen(QWidget):
    """Shows a review at a time. ``wanted`` tells which swing it needs and does not have."""

    wanted = pyqtSignal(int)

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self._course: Course | None = None
        self._titles: list[tuple[float, str]] = []
        self._swings: dict[int, list[ReplayedSwing]] = {}
        self._canvases: dict[tuple[int, int], ReplayCanvas] = {}
        self.wrong: dict[int, str] = {}
        self.at = 0.0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(QSize(260, 200))
        self.setAccessibleName(tr("Picture of the review"))
        look.changed.connect(self.update)

    def show_review(self, review: Review | None, *, same: bool) -> None:
        """Show another review, or the ``same`` one otherwise."""
        if not same:
            self.forget()
        self._course = Course(review) if review is not None and review.pieces else None
        self._titles = [] if review is None else [(c.start_s, titled(c, review)) for c in chapters(review)]
        self.update()

    def have(self, number: int, swings: list[ReplayedSwing]) -> None:
        """A swing of it has been opened."""
        self._swings[number] = swings
        for one in swings:
            one.picture_ready.connect(self.update)
        self.update()

    def forget(self) -> None:
        """Let go of all swings."""
        for canvas in self._canvases.values():
            canvas.deleteLater()
        for swings in self._swings.values():
            for one in swings:
                one.let_go()
        self._canvases, self._swings, self.wrong = {}, {}, {}

    def go(self, t: float) -> None:
        """Show another time."""
        self.at = t
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        for canvas in self._canvases.values():
            canvas.lie_on(self.size())
        super().resizeEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), self._look.colour("panel"))
        if self._course is None:
            self._say(painter, tr(NOTHING))
            return
        seen, click = self._course.at(self.at)
        canvas = self._canvas(seen.swing, seen.take)
        if canvas is None:
            self._say(painter, self.wrong.get(seen.swing, tr("Opening the swing …")))
            return
        canvas.put(seen)
        canvas.paint(painter)
        title = next((w for start, w in reversed(self._titles) if 0 <= self.at - start < TITLE_S), "")
        if title:
            paint_title(painter, QRectF(self.rect()), title)
        if seen.hand is not None:
            paint_hand(painter, canvas.view.to_widget(*seen.hand), click)

    def _say(self, painter: QPainter, words: str) -> None:
        box = QRectF(self.rect()).adjusted(20, 0, -20, 0)
        write(painter, box, words, font(12.5), self._look.colour("secondary"), CENTRE)

    def _canvas(self, swing: int, take: int) -> ReplayCanvas | None:
        key = swing, take
        if key not in self._canvases:
            swings = self._swings.get(swing)
            if not swings:
                if swing not in self._swings and swing not in self.wrong:
                    self.wanted.emit(swing)
                return None
            one = swings[min(take, len(swings) - 1)]
            self._canvases[key] = ReplayCanvas(one, self._look, self.size(), self.devicePixelRatioF())
            self._canvases[key].lie_on(self.size())
        return self._canvases[key]
