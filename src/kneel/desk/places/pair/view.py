"""The Pair: two swings side by side, in step and on one scale, and only those differences that are real."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QBoxLayout, QHBoxLayout, QVBoxLayout, QWidget

from kneel.book.repository.search_text import same_golfer
from kneel.compare.difference import Difference
from kneel.compare.pair import Pair
from kneel.desk.places.context import Context
from kneel.desk.places.pair.actions import PairActions, PairParts, Shown
from kneel.desk.places.pair.canvas import PairCanvas
from kneel.desk.places.pair.clock import PairClock
from kneel.desk.places.pair.comparing import Comparing, Offer
from kneel.desk.places.pair.lanes import PairLanes
from kneel.desk.places.pair.scale import HeldAt, lay_alike
from kneel.desk.places.pair.table import Differences
from kneel.desk.places.place import Handlers
from kneel.desk.places.undoing import Undoing
from kneel.desk.records.practice import Practice
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.theme import Look
from kneel.desk.widgets.token import Token, TokenRow
from kneel.disk import shown
from kneel.documents.swing_file import SUFFIX
from kneel.judge import Reading
from kneel.model import CHECKPOINTS, View
from kneel.motion.quantity import Series
from kneel.motion.scale import Scale

WALKS = ("back", "on", "back_ten", "on_ten", "play", "slower", "faster", "loop", "first", "last")
WALKS += ("previous_checkpoint", "next_checkpoint", *(f"checkpoint_{name}" for name in CHECKPOINTS))
"""What the Bench does with the swing on the desk and this place lets it do here too."""


class PairPlace(PairParts):
    """Two swings: the one on the desk at the right, another beside it at the left. ``wanted`` asks to be
    shown, ``failed`` carries a sentence about a failure.
    """

    key, title = "pair", "Pair"
    wanted = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, context: Context, practice: Practice) -> None:
        super().__init__(Undoing(opened, practice))
        look = context.look
        self._open = opened
        self.other = OpenSwing(context.jobs)
        self.other.setParent(self)
        self.clock = PairClock(opened, self.other)
        self.comparing = Comparing(opened, self.other, context)
        self.way, self.held_at = Shown.BESIDE, HeldAt.LEAD_ANKLE
        self.offers: Callable[[], list[Offer]] = list
        self.canvases = (
            PairCanvas(self.other, look, tr("the swing beside")),
            PairCanvas(opened, look, tr("the swing on the desk")),
        )
        self.lanes = PairLanes(opened, self.other, self.clock, look)
        self.table = Differences(look)
        self._scale = ""
        self._spoken: tuple[str | None, bool] | None = None
        self._actions = PairActions(opened, self, look)
        self._build(look)
        self.comparing.told.connect(self._show)
        self.comparing.failed.connect(self.failed)
        self.clock.changed.connect(self._refresh)
        self.other.failed.connect(self.failed)
        opened.opened.connect(self._on_opened)
        self.table.chosen.connect(self._go_to)
        self.canvases[0].stepped.connect(self.clock.move_other)
        self.canvases[1].stepped.connect(opened.cursor.step)
        for canvas in self.canvases:
            canvas.laid.connect(self._lay)
        for swing in (opened, self.other):
            swing.numbers.renewed.connect(self._lay)

    def _build(self, look: Look) -> None:
        self.tokens = TokenRow()
        for key, caption, act in (
            ("beside", tr("Beside"), self._actions.choose),
            ("here", tr("On the desk"), self._actions.say_where),
            ("step", tr("In step by"), self._actions.hold),
            ("scale", tr("Same scale by"), self._actions.say_scale),
            ("at", tr("Held together at"), self._actions.choose_anchor),
            ("way", tr("Shown"), self._actions.next_way),
        ):
            token = Token(look, caption)
            token.clicked.connect(lambda _=False, act=act: act())
            self.tokens.put(key, token)
        self._both = QWidget()
        self._pictures = QBoxLayout(QBoxLayout.Direction.LeftToRight, self._both)
        self._pictures.setContentsMargins(0, 0, 0, 0)
        self._pictures.setSpacing(8)
        for canvas in self.canvases:
            self._pictures.addWidget(canvas, 1)
        middle = QHBoxLayout()
        middle.setSpacing(10)
        middle.addWidget(self._both, 1)
        middle.addWidget(self.table)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 6)
        column.setSpacing(8)
        column.addWidget(self.tokens)
        column.addLayout(middle, 1)
        column.addWidget(self.lanes)
        self.table.wait(tr("Choose a swing to hold beside the one on the desk (C takes the one before it)."))

    # The place

    def handlers(self) -> Handlers:
        return self._actions.table()

    def borrows(self) -> Sequence[str]:
        return WALKS

    def picture_parts(self) -> Sequence[QWidget]:
        return (*self.canvases, self.lanes)

    def hints(self) -> str:
        return tr("← → frame in step    1–9 checkpoint    V way of looking    X hold one    F1 all keys")

    def enter(self) -> None:
        if self.comparing.path is not None and self.other.store is None:
            self.comparing.open(self.comparing.path)
        self._spoken = self._open.selection.fault, self._open.selection.by_hand
        self._lay()
        self.canvases[1].setFocus()

    def leave(self) -> None:
        selection = self._open.selection
        if self._spoken is not None and self._spoken[0] != selection.fault:
            # What the Bench speaks of is its own.
            selection.fault, selection.by_hand = self._spoken
            selection.chose.emit()
        self._spoken = None
        # Whoever opens that swing next has to be able to work on it.
        self.comparing.close()
        self.clock.held = False

    def close_down(self) -> None:
        self.comparing.close()

    def hold_of(self, swings: Mapping[View, Path]) -> None:
        """Hold one of some swings beside that on the desk: the one of its view."""
        view = self._open.swing.view
        if self._open.store is None or view not in swings:
            self.failed.emit(tr("Open a swing first, of a view that was filmed in that lesson too."))
            return
        self.hold_beside(swings[view])

    def hold_beside(self, path: Path) -> None:
        if self.isVisible():
            self.comparing.open(path)
        else:
            # It is opened as the place comes on show.
            self.comparing.path = path
            self.wanted.emit()

    # Ways of looking

    def show_way(self, way: Shown) -> None:
        self.way = way
        under = way is Shown.UNDER
        direction = QBoxLayout.Direction.TopToBottom if under else QBoxLayout.Direction.LeftToRight
        self._pictures.setDirection(direction)
        self.canvases[0].setVisible(way is not Shown.FLIP)
        self.canvases[1].setVisible(True)
        self._refresh()

    def flip(self) -> None:
        if self.way is not Shown.FLIP:
            self.show_way(Shown.FLIP)
            return
        first = self.canvases[0].isVisibleTo(self._both)
        self.canvases[0].setVisible(not first)
        self.canvases[1].setVisible(first)

    def hold_at(self, held: HeldAt) -> None:
        self.held_at = held
        self._lay()

    def _lay(self) -> None:
        """Both on one scale, where both are known and to be seen; not while another place is on show."""
        if not self.isVisible():
            return
        one, other = self.other.analysis, self._open.analysis
        self._scale = ""
        if one is not None and other is not None:
            self._scale = lay_alike(self.canvases, (one, other), self.held_at)
        self._refresh()

    # What is told

    def _on_opened(self) -> None:
        path = self._open.path
        if path is not None and path == self.comparing.path:
            # The swing beside has been taken to the desk.
            self.comparing.path = None
            self.comparing.close()
        self.lanes.show_measure(None)
        if self._spoken is not None:
            self._spoken = self._open.selection.fault, self._open.selection.by_hand
        self._refresh()

    def _show(self, found: Pair | str | None) -> None:
        if isinstance(found, Pair):
            self.table.show_pair(found, self._verdicts())
            if self.lanes.measure is None or not self._told(self.lanes.measure):
                self._choose(self._first(found))
        else:
            waiting = tr("Choose a swing to hold beside the one on the desk (C takes the one before it).")
            self.table.wait(found or (tr("Looking at both …") if self.comparing.path else waiting))
        self._refresh()

    def _first(self, found: Pair) -> Difference | None:
        """What differs most beyond its error; else what the picture speaks of, where both tell it."""
        rows, chosen = found.rows, self._open.selection.measure
        real = (row for row in rows if row.claimed)
        spoken = (row for row in rows if row.measure == chosen)
        return next(real, next(spoken, next(iter(rows), None)))

    def _told(self, measure: str) -> bool:
        analysis = self._open.analysis
        return analysis is not None and isinstance(analysis.measure(measure), Series)

    def _verdicts(self) -> str:
        """What comes first in each."""
        words = []
        for swing in (self.other, self._open):
            reading = swing.numbers.reading
            finding = reading.first if reading is not None and reading.findings else None
            told = finding and f"{finding.fault.title}: {finding.verdict.value}"
            words.append(told or tr("nothing at work"))
        return tr("Beside: %s. On the desk: %s.") % tuple(words)

    def _choose(self, one: Difference | None) -> None:
        """Let pictures, traces and table speak of one number."""
        if one is None:
            return
        if self._told(one.measure):
            self.lanes.show_measure(one.measure)
        self.table.choose(one.measure, one.at)
        for swing in (self.other, self._open):
            fault = _resting_on(swing.numbers.reading, one)
            if fault is not None:
                here = swing.cursor.frame
                swing.selection.choose(fault)
                swing.cursor.go(here)

    def _go_to(self, one: Difference) -> None:
        """To the checkpoint of a number, with its traces."""
        self._choose(one)
        self._open.go_to(one.at)
        self.canvases[1].setFocus()

    def _refresh(self) -> None:
        """Say in the tokens what is shown; while another place is on show, on coming back."""
        if not self.isVisible():
            return
        step, tokens = self.clock.step, self.tokens.tokens
        both = (self.other, self._open)
        two_golfers = self.other.path is not None and not same_golfer(*(one.swing.golfer for one in both))
        for key, swing in zip(("beside", "here"), both, strict=True):
            path = swing.path
            name = tr("choose …") if path is None else shown(path.name.removesuffix(SUFFIX))
            golfer = swing.swing.golfer if two_golfers else ""
            day = "" if path is None else shown(path.parent.name)
            remark = " · ".join(part for part in (shown(golfer), day) if part)
            tokens[key].show_value(name, remark, guessed=False)
        by = tr("nothing yet") if step is None else tr("%d checkpoints") % len(step.beats)
        error = "" if step is None else f"± {1000 * step.typical_s:.0f} ms"
        tokens["step"].show_value(tr("held") if self.clock.held else by, error, guessed=False)
        scale = self._open.analysis.scale if self._open.analysis is not None else None
        source = scale.source if isinstance(scale, Scale) else ""
        tokens["scale"].show_value(self._scale or source or tr("nothing yet"), "", guessed=bool(self._scale))
        tokens["at"].show_value(tr(self.held_at.value), "", guessed=False)
        tokens["way"].show_value(tr(self.way.value), "", guessed=False)
        self.lanes.update()


def _resting_on(reading: Reading | None, one: Difference) -> str | None:
    """A finding that rests on a number, so that the picture shows it; None where there is none."""
    found = reading.findings if reading is not None else ()
    exact = (f.key for f in found if (f.measure, f.checkpoint) == (one.measure, one.at))
    near = (f.key for f in found if f.measure == one.measure)
    return next(exact, next(near, None))
