"""What each action of the Pair does. One entry per key of :mod:`kneel.desk.shell.actions`."""

from __future__ import annotations

from collections.abc import Callable
from enum import Enum
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from kneel.desk.places.pair.clock import PairClock
from kneel.desk.places.pair.comparing import Comparing, Offer
from kneel.desk.places.pair.scale import HeldAt
from kneel.desk.places.place import Handlers, Place
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.theme import Look


class Shown(Enum):
    """How the two are looked at."""

    BESIDE = "side by side"
    UNDER = "over and under"
    FLIP = "one at a time"


class PairParts(Place):
    """What the actions ask of the Pair."""

    comparing: Comparing
    clock: PairClock
    held_at: HeldAt
    way: Shown
    offers: Callable[[], list[Offer]]

    def show_way(self, way: Shown) -> None:
        """Look at the two in another way."""
        raise NotImplementedError

    def hold_at(self, held: HeldAt) -> None:
        """Hold them together at another place of the body."""
        raise NotImplementedError

    def hold_beside(self, path: Path) -> None:
        """Show a swing beside the one on the desk."""
        raise NotImplementedError

    def flip(self) -> None:
        """Show the other of the two, where one is shown at a time."""
        raise NotImplementedError


class PairActions:
    """The actions on two swings."""

    def __init__(self, opened: OpenSwing, place: PairParts, look: Look) -> None:
        self._open, self._place, self._look = opened, place, look

    def table(self) -> Handlers:
        """Every key with its deed."""
        return {
            "pair_before": self.with_the_one_before,
            "pair_with": self.choose,
            "pair_hold": self.hold,
            "pair_back": lambda: self._place.clock.move_other(-1),
            "pair_on": lambda: self._place.clock.move_other(1),
            "pair_way": self.next_way,
            "pair_flip": self._place.flip,
            "pair_at": self.choose_anchor,
        }

    def with_the_one_before(self) -> None:
        """Hold the swing on the desk against the one filmed before it."""
        if self._open.path is None:
            return
        before = next((one for one in self._place.offers() if one.before), None)
        if before is None:
            self._place.said.emit(tr("No swing of this view was filmed before this one; choose another one."))
            return
        self._place.hold_beside(before.path)

    def choose(self) -> None:
        """Choose what to hold the swing on the desk against."""
        choices = [
            Choice(one.title, lambda path=one.path: self._place.hold_beside(path), one.detail)
            for one in self._place.offers()
        ]
        choices.append(Choice(tr("Another file …"), self._browse))
        Chooser(self._place.window(), self._look, tr("Hold against"), choices).open(None)

    def _browse(self) -> None:
        here = str(self._open.path.parent) if self._open.path is not None else ""
        name, _ = QFileDialog.getOpenFileName(self._place, tr("Hold against"), here)
        if name:
            self._place.hold_beside(Path(name))

    def hold(self) -> None:
        """Hold the other still, or let it follow again."""
        clock = self._place.clock
        clock.hold(not clock.held)
        self._place.said.emit(
            tr("The swing beside is held; ← → move this one alone") if clock.held else tr("In step again")
        )

    def say_where(self) -> None:
        """Where the swing on the desk is chosen."""
        self._place.said.emit(tr("The swing on the desk is chosen on the Bench (F2)"))

    def say_scale(self) -> None:
        """What puts both on one scale."""
        self._place.said.emit(
            tr("Both are shown at the same centimetres where both have a scale: a stature, or a known length")
        )

    def next_way(self) -> None:
        """The next way of looking."""
        ways = list(Shown)
        self._place.show_way(ways[(ways.index(self._place.way) + 1) % len(ways)])

    def choose_anchor(self) -> None:
        """Choose where the two are held together."""
        choices = [
            Choice(tr(one.value.capitalize()), lambda one=one: self._place.hold_at(one)) for one in HeldAt
        ]
        Chooser(self._place.window(), self._look, tr("Held together at"), choices).open(None)
