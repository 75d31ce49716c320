"""What each action of the Pair does. One entry per key of :mod:`kneel.desk.shell.actions`."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QFileDialog

from kneel.book.views.last_lesson import swing_before
from kneel.desk.places.context import Context
from kneel.desk.places.keeping import Keeping
from kneel.desk.places.pair.both import Shown
from kneel.desk.places.pair.carrying import carried_over
from kneel.desk.places.pair.clock import PairClock
from kneel.desk.places.pair.comparing import Comparing, Offer
from kneel.desk.places.pair.laying import Laying
from kneel.desk.places.pair.references import References, told
from kneel.desk.places.pair.scale import HeldAt, ScaledBy
from kneel.desk.places.pair.sheet import PairSheet
from kneel.desk.places.place import Handlers, Place
from kneel.desk.stage.chosen import keep_lasting, take_away
from kneel.desk.stage.drawing import TITLES as SHAPES
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.language import tr
from kneel.judge import in_use
from kneel.model import UsageError
from kneel.references.card import LONGEST


class PairParts(Place):
    """What the actions ask of the Pair."""

    comparing: Comparing
    clock: PairClock
    laying: Laying
    sheet: PairSheet
    references: References
    offers: Callable[[], list[Offer]]

    def show_way(self, way: Shown) -> None:
        """Look at the two in another way."""
        raise NotImplementedError

    def hold_beside(self, path: Path) -> None:
        """Show a swing beside the one on the desk."""
        raise NotImplementedError

    def hold_moment(self, frame: int) -> None:
        """Show another moment of the swing on the desk beside it."""
        raise NotImplementedError

    def flip(self) -> None:
        """Show the other of the two, where one is shown at a time."""
        raise NotImplementedError


class PairActions:
    """The actions on two swings."""

    def __init__(self, opened: OpenSwing, other: OpenSwing, place: PairParts, context: Context) -> None:
        self._open, self._other, self._place, self._look = opened, other, place, context.look
        self._context = context
        self._keeping = Keeping(
            opened, place.sheet, context.records.books, place, others=lambda: (other,), kind="pair"
        )
        self._keeping.said.connect(place.said)
        other.opened.connect(self.stop_keeping)

    def table(self) -> Handlers:
        """Every key with its deed."""
        place, laying = self._place, self._place.laying
        handlers: Handlers = {
            "pair_before": self.with_the_one_before,
            "pair_with": self.choose,
            "pair_hold": self.hold,
            "pair_back": lambda: place.clock.move_other(-1),
            "pair_on": lambda: place.clock.move_other(1),
            "pair_way": self.next_way,
            "pair_flip": place.flip,
            "pair_at": self.choose_anchor,
            "pair_scale": self.turn_scale,
            "pair_same": self.draw_the_same,
            "pair_reference": self.with_reference,
            "put_on_shelf": self.put_on_shelf,
            "take_off_shelf": self.take_off_shelf,
            "unmark": self._take_away,
            "lasting": self._keep_lasting,
            "cancel": lambda: [canvas.cancel() for canvas in laying.every],
            "plain": self._plain,
            "fit": laying.fit,
            "closer": lambda: laying.pictures[laying.in_hand].zoom(1.25),
            "farther": lambda: laying.pictures[laying.in_hand].zoom(0.8),
            "copy": self._copy,
            "still": lambda: self._may_be_kept() and self._keeping.save_still(),
            "slow_clip": lambda: self._may_be_kept() and self._keeping.save_slow_clip(),
        }
        for shape in SHAPES:
            handlers[f"draw_{shape}"] = lambda what=shape: laying.pictures[laying.in_hand].draw(what)
        return handlers

    # Which two

    def with_the_one_before(self) -> None:
        """Hold the swing on the desk against the one filmed before it."""
        if self._open.path is None:
            return
        before = next((one for one in self._place.offers() if one.before), None)
        if before is None:
            self.with_the_lesson_before()
            return
        self._place.hold_beside(before.path)

    def with_the_lesson_before(self) -> None:
        """Hold the swing on the desk against what the Book has of the same golfer from before its day."""
        store, swing, records = self._open.store, self._open.swing, self._context.records
        if store is None:
            return
        clip = store.info.path

        def take(path: Path | None) -> None:
            if path is None:
                words = tr(
                    "Neither the rack nor the Book has a swing of this view before this one; choose another."
                )
                self._place.said.emit(words)
            else:
                self._place.hold_beside(path)

        records.read(
            records.books.which(clip),
            lambda book: swing_before(book, clip, swing),
            # Named or turned to another view meanwhile, it is another question.
            subject=lambda: (self._open.path, self._open.swing.golfer, self._open.swing.view),
            done=take,
        )

    def choose(self) -> None:
        """Choose what to hold the swing on the desk against."""
        choices = [
            Choice(one.title, lambda path=one.path: self._place.hold_beside(path), one.detail)
            for one in self._place.offers()
        ]
        choices.append(Choice(tr("Another file …"), self._browse))
        choices += [
            Choice(
                tr("Reference: %s") % one.card.title,
                lambda path=one.document: self._place.hold_beside(path),
                told(one),
            )
            for one in self._place.references.suited()
        ]
        study = self._open.analysis
        for name, point in study.checkpoints.items() if study is not None else ():
            title = tr("This swing, %s") % tr(checkpoint_title(name)).lower()
            choices.append(
                Choice(title, lambda frame=point.shown: self._place.hold_moment(frame), tr("another moment"))
            )
        Chooser(self._place.window(), self._look, tr("Hold against"), choices).open(None)

    def with_reference(self) -> None:
        """Hold the swing on the desk against the reference that shows what it lacks."""
        references = self._place.references
        if self._open.path is None:
            return
        if references.every is None:
            references.load(self.with_reference)
            return
        suited = references.suited()
        if not suited:
            self._place.said.emit(tr("No reference of this view lies on the shelf."))
            return
        self._place.hold_beside(suited[0].document)

    def put_on_shelf(self) -> None:
        """Put the swing on the desk on the shelf of references: by whose leave, and under what name."""
        swing, path = self._open.swing, self._open.path

        def put(title: str, leave: str) -> None:
            # Leave was given for that swing, and for no other that was opened meanwhile.
            if self._open.path == path:
                self._place.references.put_on(title, leave)

        def named(leave: str) -> None:
            title = f"{in_use().school(swing.school).title}, {swing.club.value}"
            Entry(
                self._place.window(),
                self._look,
                tr("Name of the reference"),
                lambda words: put(str(words), leave),
                words=title,
                most=LONGEST,
            ).open()

        if path is not None:
            Entry(
                self._place.window(),
                self._look,
                tr("By whose leave may it be shown to others?"),
                lambda words: str(words).strip() and named(str(words)),
                most=LONGEST,
                remark=tr(
                    "It is copied without the name, and goes where the swing or the student is deleted."
                ),
            ).open()

    def take_off_shelf(self) -> None:
        """Choose a reference to be taken off the shelf for good."""
        references = self._place.references
        if references.every is None:
            references.load(self.take_off_shelf)
            return
        choices = [
            Choice(
                one.card.title,
                lambda one=one: references.take_off(one),
                f"{one.swing.view.value} · {told(one)}",
            )
            for one in references.every
        ]
        Chooser(self._place.window(), self._look, tr("Take which off the shelf?"), choices).open(None)

    def _browse(self) -> None:
        here = str(self._open.path.parent) if self._open.path is not None else ""
        name, _ = QFileDialog.getOpenFileName(self._place, tr("Hold against"), here)
        if name:
            self._place.hold_beside(Path(name))

    # How they are shown

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

    def turn_scale(self) -> None:
        """Let lengths be as large on both pictures, or bodies."""
        laying = self._place.laying
        bodies = laying.scaled_by is ScaledBy.LENGTHS
        laying.scale_by(ScaledBy.BODIES if bodies else ScaledBy.LENGTHS)
        self._place.said.emit(
            tr("Both bodies are shown as large; the numbers are their own")
            if bodies
            else tr("Both are shown at the same lengths, by a stature or something of known length")
        )

    def next_way(self) -> None:
        """The next way of looking."""
        ways, now = list(Shown), self._place.laying.both.way
        self._place.show_way(ways[(ways.index(now) + 1) % len(ways)])

    def choose_anchor(self) -> None:
        """Choose where the two are held together."""
        choices = [
            Choice(tr(one.value.capitalize()), lambda one=one: self._place.laying.hold_at(one))
            for one in HeldAt
        ]
        Chooser(self._place.window(), self._look, tr("Held together at"), choices).open(None)

    def _plain(self) -> None:
        for canvas in self._place.laying.every:
            canvas.plain = not canvas.plain
            canvas.update()

    # What is drawn

    def draw_the_same(self) -> None:
        """Draw on the other body what is drawn on the one in hand, at the same place."""
        laying = self._place.laying
        k = laying.in_hand
        one, other = laying.swings[k], laying.swings[1 - k]
        if one is other or other.analysis is None:
            self._place.said.emit(tr("Hold another swing beside this one first."))
            return
        try:
            count = carried_over(one, other, laying.pictures[k])
        except UsageError as error:
            self._place.said.emit(str(error))
            return
        words = tr("Drawn on the other body too") if count else tr("Nothing new is drawn on this picture.")
        self._place.said.emit(words)

    def _take_away(self) -> None:
        laying = self._place.laying
        if not take_away(laying.pictures[laying.in_hand], laying.swings[laying.in_hand]):
            self._place.said.emit(tr("Nothing is chosen on the picture: click on a mark or a drawing first."))

    def _keep_lasting(self) -> None:
        laying = self._place.laying
        if not keep_lasting(laying.pictures[laying.in_hand], laying.swings[laying.in_hand]):
            self._place.said.emit(tr("Nothing drawn is chosen: click on it first."))

    # What goes out

    def stop_keeping(self) -> None:
        """The swing beside is let go: no clip of both can go on."""
        if self._keeping.stop():
            self._place.said.emit(tr("The slow clip of both was stopped; nothing of it was left behind"))

    def _copy(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setImage(self._place.sheet.seen())
            self._place.said.emit(tr("Both pictures copied"))

    def _may_be_kept(self) -> bool:
        """A picture that shows one student beside another is not put into either's folder."""
        why = self._place.comparing.not_kept
        if why:
            self._place.said.emit(why)
        return not why
