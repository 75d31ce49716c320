"""What the answers say of the eye: d′ by fault, over time, sizes, sureness, and what it takes for what."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF, QSize
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from kneel.desk.widgets.language import several, tr
from kneel.desk.widgets.text import CENTRE, LEFT, high, write, write_block
from kneel.desk.widgets.theme import Look, font
from kneel.trainer.detection import LEAST, Detection
from kneel.trainer.due import Due
from kneel.trainer.scores import Scores
from kneel.trainer.words import (
    d_words,
    lean_words,
    size_error_words,
    sure_words,
    taken_words,
    title_of,
)

NAME, BAR, TOLD = 168, 130, 128
MOST_D = 4.0
GOOD, FAIR = 2.0, 1.0
ABOUT_D = (
    "d′ is 0 where it is guessed and 2 where 84 of 100 are told with 16 false alarms; the line over it is "
    "its 95 % interval. Nothing is said before 25 swings with and 25 without it."
)
ROW = 24
HEAD = 34
"""How high the heading is, px."""


@dataclass(frozen=True)
class Shown:
    """All that the card shows. ``level`` says of what kind of swings, ``due`` what comes next."""

    scores: Scores
    level: str = ""
    due: str = ""
    course: Sequence[tuple[str, Detection]] = field(default_factory=tuple)
    dates: Due = field(default_factory=lambda: Due({}))
    """When each fault is due, for the next round."""


class Progress(QWidget):
    """Three columns on a card: what is told, over time, and what to mind."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self._look = look
        self.shown: Shown | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(QSize(420, 200))
        look.changed.connect(self.update)

    def show_scores(self, shown: Shown) -> None:
        """Show other scores."""
        self.shown = shown
        self.setAccessibleName(" ".join(self.sentences()))
        self.update()

    def sentences(self) -> list[str]:
        """What stands in words at the right."""
        shown = self.shown
        scores = shown.scores if shown is not None else None
        if shown is None or scores is None or not scores.answers:
            return [tr("Nothing has been answered yet.")]
        out = [*taken_words(scores)[:1]]
        out += [size_error_words(view, error) for (view, _), error in sorted(scores.sizes.items())]
        out += [words for words in (lean_words(scores.whole),) if words]
        sure = sure_words(scores)
        if sure:
            out.append(f"{tr('How sure:')} " + "; ".join(sure) + ("" if sure[-1].endswith(".") else "."))
        return [*out, *([shown.due] if shown.due else [])]

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        look = self._look
        painter.setPen(QPen(look.colour("panel"), 0))
        painter.setBrush(look.colour("panel"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
        inner = QRectF(self.rect()).adjusted(16, 12, -16, -10)
        shown = self.shown
        if shown is None or not shown.scores.answers:
            write(
                painter,
                inner,
                tr("Your scores stand here once you have answered."),
                font(13),
                look.colour("secondary"),
                CENTRE,
            )
            return
        scores = shown.scores
        self._paint_heading(painter, inner, shown)
        body = inner.adjusted(0, HEAD, 0, 0)
        left = QRectF(body.left(), body.top(), NAME + BAR + TOLD, body.height())
        rest = body.adjusted(left.width() + 26, 0, 0, 0)
        above = QRectF(rest.left(), rest.top(), rest.width(), min(0.42 * rest.height(), 230))
        self._paint_bars(painter, left, scores)
        self._paint_course(painter, above, shown.course)
        self._paint_words(painter, rest.adjusted(0, above.height() + 20, 0, 0))

    def _paint_heading(self, painter: QPainter, inner: QRectF, shown: Shown) -> None:
        look, scores = self._look, shown.scores
        count = len(scores.answers)
        words = several(count, "One swing", "Your %d swings")
        taken = write(
            painter, QRectF(inner.left(), inner.top(), 300, 18), words, font(13, 600), look.colour("text")
        )
        rest = QRectF(inner.left() + taken + 10, inner.top(), inner.width() - taken - 10, 18)
        told = tr("%d all right · %s · each swing counts once") % (scores.right, shown.level)
        write(painter, rest, told, font(11.5), look.colour("secondary"))

    def _paint_bars(self, painter: QPainter, area: QRectF, scores: Scores) -> None:
        look = self._look
        rows = [(tr("Anything wrong"), scores.whole), *((title_of(k), d) for k, d in _worst_first(scores))]
        for number, (name, told) in enumerate(rows[: int(area.height() // ROW)]):
            y = area.top() + number * ROW
            write(painter, QRectF(area.left(), y, NAME - 6, ROW), name, font(12), look.colour("text"))
            groove = QRectF(area.left() + NAME, y + ROW / 2 - 3, BAR, 6)
            painter.setPen(QPen(look.colour("edge"), 0))
            painter.setBrush(look.colour("raised"))
            painter.drawRoundedRect(groove, 3, 3)
            if told.enough:
                self._paint_d(painter, groove, told)
            else:
                self._paint_share(painter, groove, told)
            words = QRectF(groove.right() + 8, y, area.right() - groove.right() - 8, ROW)
            write(painter, words, d_words(told), font(11.5),
                  look.colour("text" if told.enough else "secondary"), LEFT)  # fmt: skip
        y = area.top() + len(rows) * ROW + 10
        if y + 60 < area.bottom():
            box = QRectF(area.left(), y, area.width(), 60)
            write_block(painter, box, tr(ABOUT_D), font(11), look.colour("secondary"))

    def _paint_share(self, painter: QPainter, groove: QRectF, told: Detection) -> None:
        """How many of the swings it takes are there."""
        share = min(told.total.signals, told.total.noises) / LEAST
        painter.setBrush(self._look.colour("edge"))
        painter.drawRoundedRect(QRectF(groove.left(), groove.top(), share * groove.width(), 6), 3, 3)

    def _paint_d(self, painter: QPainter, groove: QRectF, told: Detection) -> None:
        """The bar, and how sure it is as a line over it."""
        look = self._look
        low, high_ = told.d_prime_between
        role = "clear" if told.d_prime >= GOOD else "watch" if told.d_prime >= FAIR else "fault"

        def x(value: float) -> float:
            return groove.left() + groove.width() * min(max(value, 0.0), MOST_D) / MOST_D

        painter.setBrush(look.colour(role))
        painter.drawRoundedRect(
            QRectF(groove.left(), groove.top(), max(x(told.d_prime) - groove.left(), 3), 6), 3, 3
        )
        y = groove.center().y()
        painter.setPen(QPen(look.colour("text"), 1.2))
        painter.drawLine(QPointF(x(low), y), QPointF(x(high_), y))
        for end in (low, high_):
            painter.drawLine(QPointF(x(end), y - 4), QPointF(x(end), y + 4))

    def _paint_course(self, painter: QPainter, area: QRectF, every: Sequence[tuple[str, Detection]]) -> None:
        look, course = self._look, [(day, told) for day, told in every if told.enough]
        heading = QRectF(area.left(), area.top(), area.width(), 16)
        write(painter, heading, tr("d′, anything wrong, over time"), font(11.5), look.colour("secondary"))
        plot = area.adjusted(24, 30, 0, -18)
        if len(course) < 2:
            words = tr("From about 100 swings on: a point for every 20, each of the 100 before it.")
            write_block(painter, plot, words, font(11.5), look.colour("secondary"))
            return

        def at(number: int, value: float) -> QPointF:
            share = number / (len(course) - 1)
            return QPointF(
                plot.left() + share * plot.width(),
                plot.bottom() - plot.height() * min(max(value, 0.0), MOST_D) / MOST_D,
            )

        for value in range(int(MOST_D) + 1):
            y = at(0, value).y()
            painter.setPen(QPen(look.colour("edge"), 0.8))
            painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y))
            write(painter, QRectF(area.left(), y - 8, 18, 16), str(value), font(11), look.colour("secondary"))
        lows = [at(n, told.d_prime_between[0]) for n, (_, told) in enumerate(course)]
        highs = [at(n, told.d_prime_between[1]) for n, (_, told) in enumerate(course)]
        painter.setPen(QPen(look.colour("clear", 0.0), 0))
        painter.setBrush(look.colour("clear", 0.22))
        painter.drawPolygon(QPolygonF([*lows, *reversed(highs)]))
        painter.setPen(QPen(look.colour("ink"), 1.8))
        painter.drawPolyline(QPolygonF([at(n, told.d_prime) for n, (_, told) in enumerate(course)]))
        days = QRectF(plot.left(), plot.bottom() + 2, plot.width(), 16)
        write(
            painter, days, f"{course[0][0][:10]}  –  {course[-1][0][:10]}", font(11), look.colour("secondary")
        )

    def _paint_words(self, painter: QPainter, area: QRectF) -> None:
        look, y = self._look, area.top()
        write(
            painter,
            QRectF(area.left(), y, area.width(), 18),
            tr("What to mind"),
            font(13, 600),
            look.colour("text"),
        )
        y += 26
        for words in self.sentences():
            needed = high(words, font(12), area.width())
            if y + needed > area.bottom() + 2:
                break
            write_block(
                painter,
                QRectF(area.left(), y, area.width(), needed + 2),
                words,
                font(12),
                look.colour("secondary"),
            )
            y += needed + 8


def _worst_first(scores: Scores) -> list[tuple[str, Detection]]:
    """What is told worst comes first, what cannot be told yet last."""
    return sorted(
        scores.each.items(), key=lambda one: (not one[1].enough, one[1].d_prime if one[1].enough else 0.0)
    )
