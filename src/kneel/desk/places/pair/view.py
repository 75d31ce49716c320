"""The Pair: two swings side by side, in step and on one scale, and only those differences that are real."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from kneel.compare.difference import Difference
from kneel.compare.family import Compared
from kneel.compare.pair import Pair
from kneel.desk.places.context import Context
from kneel.desk.places.pair.actions import PairActions, PairParts
from kneel.desk.places.pair.both import Shown
from kneel.desk.places.pair.clock import PairClock
from kneel.desk.places.pair.comparing import Comparing, Offer
from kneel.desk.places.pair.lanes import PairLanes
from kneel.desk.places.pair.laying import Laying
from kneel.desk.places.pair.references import References, of_document
from kneel.desk.places.pair.sheet import PairSheet
from kneel.desk.places.pair.speaking import Speaking
from kneel.desk.places.pair.table import Differences
from kneel.desk.places.pair.tokens import PairTokens, moment_words, swing_words
from kneel.desk.places.place import Handlers
from kneel.desk.places.undoing import Undoing
from kneel.desk.records.practice import Practice
from kneel.desk.stage.aim_bar import AimBar
from kneel.desk.stage.space import SpaceView
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.model import CHECKPOINTS, View
from kneel.motion.space.linked import Linked
from kneel.speech.pair import counted_words, difference_words
from kneel.speech.space import clock_words

WALKS = ("back", "on", "back_ten", "on_ten", "play", "slower", "faster", "loop", "first", "last")
WALKS += ("aim", "reference_figure", "previous_checkpoint", "next_checkpoint")
WALKS += tuple(f"checkpoint_{name}" for name in CHECKPOINTS)
"""What the Bench does with the swing on the desk and this place lets it do here too."""

NOTHING_YET = "Choose a swing to hold beside the one on the desk (C takes the one before it)."


class PairPlace(PairParts):
    """Two swings: the one on the desk at the right, another beside it at the left. ``wanted`` asks to be
    shown, ``failed`` carries a sentence about a failure.
    """

    key, title = "pair", "Pair"
    wanted = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, context: Context, practice: Practice) -> None:
        self._open, self.other = opened, OpenSwing(context.jobs)
        super().__init__(Undoing(opened, practice, self.other))
        look = context.look
        self.other.setParent(self)
        self.clock = PairClock(opened, self.other)
        self.comparing = Comparing(opened, self.other, context, practice)
        self.offers: Callable[[], list[Offer]] = list
        self.laying = Laying(opened, self.other, look)
        self.lanes = PairLanes(opened, self.other, self.clock, look)
        self.space = SpaceView(opened, look)
        self.space.hide()
        self.table = Differences(look)
        self.speaking = Speaking(opened, self.other)
        self.sheet = PairSheet(opened, self.other, self.laying.both, self.clock)
        self.references = References(opened, context)
        self._actions = PairActions(opened, self.other, self, context)
        self.tokens = PairTokens(
            look,
            {
                "beside": self._actions.choose,
                "here": self._actions.say_where,
                "step": self._actions.hold,
                "scale": self._actions.turn_scale,
                "at": self._actions.choose_anchor,
                "way": self._actions.next_way,
            },
        )
        self._told_at = ""
        self._build()
        self._connect()

    def _build(self) -> None:
        middle = QHBoxLayout()
        middle.setSpacing(10)
        middle.addWidget(self.laying.both, 1)
        middle.addWidget(self.table)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 6)
        column.setSpacing(8)
        column.addWidget(self.tokens)
        column.addLayout(middle, 1)
        column.addWidget(self.lanes)
        column.addWidget(self.space)
        self.table.wait(tr(NOTHING_YET))

    def _connect(self) -> None:
        opened, other = self._open, self.other
        self.comparing.told.connect(self._show)
        wrong = (self.comparing.failed, self.references.failed, other.failed)
        for failed in (*wrong, other.document.refused, other.autosave.clashed):
            failed.connect(self.failed)
        self.references.said.connect(self.said)
        other.autosave.troubled.connect(lambda trouble: trouble and self.failed.emit(trouble))
        self.clock.changed.connect(self._refresh)
        self.laying.changed.connect(self._refresh)
        opened.opened.connect(self._on_opened)
        opened.cursor.moved.connect(self._on_moved)
        self.table.chosen.connect(self._go_to)
        beside, moment, here = self.laying.every
        self.aim_bar = AimBar(opened, here)
        beside.stepped.connect(self.clock.move_other)
        moment.stepped.connect(lambda by: self.hold_moment((moment.moment or 0) + by))
        here.stepped.connect(opened.cursor.step)

    # The place

    def handlers(self) -> Handlers:
        return self._actions.table()

    def borrows(self) -> Sequence[str]:
        return WALKS

    def picture_parts(self) -> Sequence[QWidget]:
        return (*self.laying.every, self.lanes, self.space)

    def hints(self) -> str:
        return tr("← → frame in step    1–9 checkpoint    V way of looking    X hold one    F1 all keys")

    def enter(self) -> None:
        self.comparing.on_show = True
        self.comparing.moved()
        if self.comparing.path is not None and self.other.store is None:
            self.comparing.open(self.comparing.path)
        if self.references.every is None:
            self.references.load(self._refresh)
        self.speaking.begin()
        self.laying.lay()
        self._refresh()
        self.laying.pictures[1].setFocus()

    def leave(self) -> None:
        self.comparing.on_show = False
        self.speaking.end()
        for canvas in self.laying.every:
            canvas.cancel()
            canvas.rest()
        self._actions.stop_keeping()
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
        self.laying.show_moment(None)
        if self.isVisible():
            self.comparing.open(path)
        else:
            # It is opened as the place comes on show.
            self.comparing.path, self.comparing.moment = path, None
            self.wanted.emit()

    def hold_moment(self, frame: int) -> None:
        frame = min(max(frame, 0), max(self._open.frames - 1, 0))
        self.comparing.hold_moment(frame)
        self.laying.show_moment(frame)
        if not self.isVisible():
            self.wanted.emit()
        self._refresh()

    def show_way(self, way: Shown) -> None:
        self.laying.both.show_way(way)
        self._refresh()

    def flip(self) -> None:
        both = self.laying.both
        if both.way is not Shown.FLIP:
            self.show_way(Shown.FLIP)
            return
        both.on_show = 1 - both.on_show
        both.lay()
        both.pictures[both.on_show].setFocus()

    # What is told

    def _on_opened(self) -> None:
        path = self._open.path
        if path is not None and path == self.comparing.path:
            # The swing beside has been taken to the desk.
            self.comparing.path = None
            self.comparing.close()
        self.comparing.moment = None
        self.laying.show_moment(None)
        self.lanes.show_measure(None)
        self.speaking.begin_anew()
        self._refresh()

    def _on_moved(self) -> None:
        self.comparing.moved()
        linked, here = self.comparing.linked, self._open.checkpoint or ""
        if linked is not None and here != self._told_at:
            self._told_at = here
            self.table.show_space(linked, here, self.comparing.by_both)

    def _show(self, found: Pair | Linked | Compared | str | None) -> None:
        linked = found if isinstance(found, Linked) else None
        self.laying.light(self.comparing.light)
        self.clock.link(linked)
        self.space.show_linked(linked)
        self.lanes.setVisible(linked is None)
        if linked is not None:
            self._told_at = self._open.checkpoint or ""
            self.sheet.said = [clock_words(linked)]
            self.table.show_space(linked, self._told_at, self.comparing.by_both)
            self._refresh()
            return
        compared = found.compared if isinstance(found, Pair) else found
        self.sheet.said = self._lines(compared)
        if isinstance(compared, Compared):
            self.table.show_compared(compared, self.speaking.verdicts() if isinstance(found, Pair) else "")
            if self.lanes.measure is None or not self.speaking.told(self.lanes.measure):
                self._choose(self.speaking.first(compared))
        else:
            self.table.wait(compared or (tr("Looking at both …") if self.comparing.path else tr(NOTHING_YET)))
        self._refresh()

    def _lines(self, compared: Compared | str | None) -> list[str]:
        """What stands under both in a picture that goes out."""
        moment = self.comparing.moment
        if moment is None:
            titles = [" · ".join(swing_words(swing)) for swing in (self.other, self._open)]
        else:
            titles = [moment_words(self._open, frame)[1] for frame in (moment, self._open.cursor.frame)]
        if not isinstance(compared, Compared):
            return [" · ".join(titles)]
        differing = [difference_words(one) for one in compared.rows if one.claimed]
        return [" → ".join(titles), counted_words(compared), *differing]

    def _choose(self, one: Difference | None) -> None:
        """Let pictures, traces and table speak of one number."""
        if one is None:
            return
        if self.speaking.told(one.measure):
            self.lanes.show_measure(one.measure)
        self.table.choose(one.measure, one.at)
        self.speaking.speak_of(one)

    def _go_to(self, one: Difference) -> None:
        """To the checkpoint of a number, with its traces."""
        self._choose(one)
        self._open.go_to(one.at)
        self.laying.pictures[1].setFocus()

    def _refresh(self) -> None:
        """Say in the tokens what is shown; while another place is on show, on coming back."""
        if self.isVisible():
            reference = of_document(self.references.every, self.other.path)
            self.comparing.shown_by_leave = reference is not None
            self.tokens.say(
                self._open, self.other, self.clock, self.laying, None if reference is None else reference.card
            )
            self.lanes.show_moment(self.comparing.moment)
