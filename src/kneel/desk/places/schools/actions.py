"""What can be done with schools: copied, brought in, handed on, taken away, each window set or restored."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtWidgets import QFileDialog

from kneel.desk.operations import Lane, Operation
from kneel.desk.places.place import Handlers
from kneel.desk.places.schools.canvas import Handle
from kneel.desk.places.schools.good import GoodWindows
from kneel.desk.swing.titles import CLUB_TITLES, KIND_TITLES
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.language import several, tr
from kneel.disk import shown as safely
from kneel.disk import write_text
from kneel.judge.kinds import ONCE
from kneel.judge.knowledge import in_use
from kneel.judge.records import School
from kneel.judge.shaping import as_text, copied, fault_window, read_school, restored, shaped
from kneel.model import Club, Kind, KneelError
from kneel.motion.measures import REGISTRY
from kneel.speech.units import spoken
from kneel.speech.words import checkpoint_words, with_unit

if TYPE_CHECKING:
    from kneel.desk.places.schools.view import SchoolsPlace

FARTHEST = 1000.0
FILTER = "TOML (*.toml)"


SHAPED_KINDS = (Kind.THREE_QUARTER, Kind.PUNCH, Kind.HALF, Kind.BACKSWING)
"""Kinds of swing that may have windows of their own."""


class SchoolActions:
    """The deeds of the Schools."""

    def __init__(self, place: SchoolsPlace) -> None:
        self._place = place
        self._files = Lane(place)
        self.good = GoodWindows(self, place)

    def table(self) -> Handlers:
        """Every key with its deed."""
        return {
            "school_copy": self.ask_copy,
            "school_bring": self.choose_file,
            "school_hand_on": self.choose_target,
            "school_away": self.take_away,
            "school_measure": self.choose_measure,
            "school_club": self.choose_club,
            "school_kind": self.choose_kind,
            "school_beside": self.choose_beside,
            "school_window": self.choose_window,
            "school_restore": self.restore,
            "school_from_swings": self.good.choose_swings,
        }

    # Windows

    def set_limits(self, at: str, lo: float | None, hi: float | None, margin: float | None = None) -> None:
        """Set both limits of the measure on show at a checkpoint, and one step of severity where it is given;
        a shipped school is copied for it.
        """
        place, fault = self._place, self._place.fault
        if fault and fault_window(place.school, fault, place.measure, at, place.club, place.kind) is None:
            place.said.emit(tr("%s is not asked there") % in_use().faults[fault].title)
            return
        label = tr("Change %s") % tr(REGISTRY[place.measure].title).lower()

        def shape() -> None:
            mine, club = self.mine(), place.club
            new = shaped(
                mine,
                place.school,
                place.measure,
                at,
                club,
                lo=lo,
                hi=hi,
                margin=margin,
                fault=fault,
                kind=place.kind,
            )
            place.shelf.put(label, new)

        self.attempt(shape)

    def move_limit(self, handle: Handle, value: float) -> None:
        """Set one limit where the window has it."""
        window = self._place.canvas.shown.windows.get(handle.at) if self._place.canvas.shown else None
        if window is not None:
            new = replace(window, **{handle.side: value})
            self.set_limits(handle.at, new.lo, new.hi)

    def restore(self) -> None:
        """The window chosen as what the school stands on has it."""
        place, chosen = self._place, self._place.canvas.chosen
        mine = place.shelf.own.get(place.school_key)
        if mine is None or chosen is None:
            place.said.emit(tr("It is as shipped already"))
            return
        new = restored(mine, place.measure, chosen.at, place.club, place.fault, place.kind)
        if new == mine:
            place.said.emit(tr("It is as shipped already"))
        self.attempt(lambda: place.shelf.put(tr("As shipped again"), new))

    def mine(self) -> School:
        """The school chosen where it is one's own, else a copy of it, which is chosen from now on."""
        place = self._place
        mine = place.shelf.own.get(place.school_key)
        if mine is not None:
            return mine
        base = place.school
        made = copied(base, tr("%s, mine") % base.title, place.schools())
        place.school_key = made.key
        place.shelf.put(tr("Copy the school"), made)
        place.said.emit(tr("What was shipped stays as it is: this is a copy, “%s”") % made.title)
        return made

    def choose_window(self) -> Chooser | None:
        """All that can be done with the window chosen."""
        place, chosen = self._place, self._place.canvas.chosen
        if chosen is None or place.canvas.shown is None:
            return None
        window = place.canvas.shown.windows.get(chosen.at)
        lo, hi = (window.lo, window.hi) if window else (None, None)
        at = chosen.at
        choices = [
            Choice(tr("Lower limit …"), lambda: self.type_limit(Handle(at, "lo")), detail=self._said(lo)),
            Choice(tr("Upper limit …"), lambda: self.type_limit(Handle(at, "hi")), detail=self._said(hi)),
        ]
        if lo is not None and hi is not None:
            choices += [
                Choice(tr("Open below"), lambda: self.set_limits(at, None, hi)),
                Choice(tr("Open above"), lambda: self.set_limits(at, lo, None)),
            ]
        if window is not None:
            step = tr("One step of severity …")
            choices.append(Choice(step, lambda: self.type_margin(at), detail=self._said(window.margin)))
        if at in place.canvas.shown.own:
            choices.append(Choice(tr("As shipped"), self.restore, keys=tr("Del")))
        name = tr("once a swing") if at == ONCE else checkpoint_words(at)
        title = tr("Window at %s") % name
        return self.offer(title, choices)

    def _said(self, value: float | None) -> str:
        shown = self._place.canvas.shown
        assert shown is not None
        if value is None:
            return tr("open")
        return with_unit(f"{spoken(value, shown.unit):.3g}".replace("-", "−"), shown.unit)

    def type_limit(self, handle: Handle) -> Entry | None:
        """Type a limit."""
        place, shown = self._place, self._place.canvas.shown
        if shown is None:
            return None
        window = shown.windows.get(handle.at)
        limits = {"lo": window.lo if window else None, "hi": window.hi if window else None}
        per = spoken(1.0, shown.unit)
        now = limits[handle.side]

        def take(value: object) -> None:
            new = {**limits, handle.side: round(float(str(value)) / per, 6)}
            self.set_limits(handle.at, new["lo"], new["hi"])

        entry = Entry(
            place,
            place.context.look,
            tr("Lower limit") if handle.side == "lo" else tr("Upper limit"),
            take,
            number=((now or 0.0) * per, -FARTHEST, FARTHEST, 2),
            unit=with_unit("", shown.unit).strip(),
        )
        entry.open(None)
        return entry

    def type_margin(self, at: str) -> Entry | None:
        """Type how far past a limit is one step of severity."""
        place, shown = self._place, self._place.canvas.shown
        window = shown.windows.get(at) if shown is not None else None
        if shown is None or window is None:
            return None
        per = spoken(1.0, shown.unit)
        entry = Entry(
            place,
            place.context.look,
            tr("One step of severity"),
            lambda value: self.set_limits(at, window.lo, window.hi, round(float(str(value)) / per, 6)),
            number=(window.margin * per, 0.01, FARTHEST, 2),
            unit=with_unit("", shown.unit).strip(),
        )
        entry.open(None)
        return entry

    # What is on show

    def choose_measure(self) -> Chooser:
        """Which number."""
        place = self._place

        def take(key: str, fault: str) -> None:
            place.measure, place.fault = key, fault
            place.refresh()

        def choice(key: str, fault: str) -> Choice:
            of_fault = tr("for %s alone") % in_use().faults[fault].title.lower() if fault else ""
            return Choice(
                tr(REGISTRY[key].title),
                lambda: take(key, fault),
                detail=of_fault or tr(REGISTRY[key].positive),
                checked=(key, fault) == (place.measure, place.fault),
            )

        choices = [choice(*one) for one in place.numbers()]
        return self.offer(tr("Measure"), choices, typing=True)

    def choose_club(self) -> Chooser:
        """For which club the windows are shown and changed."""
        place = self._place

        def take(club: Club | None) -> None:
            place.club = club
            place.refresh()

        choices = [Choice(tr("All clubs"), lambda: take(None), checked=place.club is None)]
        choices += [
            Choice(tr(CLUB_TITLES[one.value]), lambda c=one: take(c), checked=one is place.club)
            for one in Club
            if one.value in CLUB_TITLES
        ]
        return self.offer(tr("Club"), choices)

    def choose_kind(self) -> Chooser:
        """For which kind of swing the windows are shown and changed."""
        place = self._place

        def take(kind: Kind | None) -> None:
            place.kind = kind
            place.refresh()

        full = tr("a full swing's, and by share what others are asked")
        choices = [Choice(tr(KIND_TITLES["full"]), lambda: take(None), full, checked=place.kind is None)]
        choices += [
            Choice(tr(KIND_TITLES[one.value]), lambda k=one: take(k), checked=one is place.kind)
            for one in SHAPED_KINDS
        ]
        return self.offer(tr("Swing"), choices)

    def choose_beside(self) -> Chooser:
        """Which school stands beside it."""
        place = self._place

        def take(key: str) -> None:
            place.beside_key = key
            place.refresh()

        choices = [Choice(tr("None"), lambda: take(""), checked=not place.beside_key)]
        choices += [
            Choice(school.title, lambda k=key: take(k), checked=key == place.beside_key)
            for key, school in place.schools().items()
            if key != place.school_key
        ]
        return self.offer(tr("Beside it"), choices)

    def offer(self, title: str, choices: list[Choice], *, typing: bool = False) -> Chooser:
        chooser = Chooser(self._place, self._place.context.look, title, choices, typing=typing)
        chooser.open(None)
        return chooser

    # Whole schools

    def ask_copy(self) -> Entry:
        """A school of one's own, by a name."""
        place = self._place
        base = place.school

        def take(words: object) -> None:
            made = copied(base, str(words), place.schools())

            def put() -> None:
                place.shelf.put(tr("Copy the school"), made)
                place.choose(made.key)

            self.attempt(put)

        entry = Entry(
            place,
            place.context.look,
            tr("What is your copy of %s called?") % base.title.lower(),
            take,
            words=tr("%s, mine") % base.title,
            most=60,
        )
        entry.open(None)
        return entry

    def take_away(self) -> None:
        """Take an own school away."""
        place = self._place
        key = place.school_key
        if key not in place.shelf.own:
            place.said.emit(tr("What was shipped stays; only a school of your own can be taken away"))
            return
        if place.two.judges_desk(key):
            place.failed.emit(
                tr(
                    "The swing on the desk is judged by it: choose another school (J) first. "
                    "Nothing was changed."
                )
            )
            return
        place.two.count_judged(key, lambda count: self._ask_away(key, count))

    def _ask_away(self, key: str, count: int) -> None:
        """Take a school away at once where no swing in the Book needs it, else once that was read."""

        def take() -> None:
            self.attempt(lambda: self._place.shelf.take_away(key))

        if not count:
            take()
            return
        title = several(
            count,
            "One swing in the Book is judged by it. Opened without it, it asks for another school.",
            "%d swings in the Book are judged by it. Opened without it, each asks for another school.",
        )
        leave = Choice(tr("Leave it"), lambda: None)
        self.offer(title, [leave, Choice(tr("Take it away"), take, detail=tr("Ctrl+Z brings it back"))])

    def choose_file(self) -> None:
        """Bring a school in from a file."""
        name, _ = QFileDialog.getOpenFileName(self._place, tr("Bring in a school"), "", FILTER)
        if name:
            self.bring(Path(name))

    def bring(self, path: Path) -> None:
        """Bring a school in; one whose key is taken comes beside the other under a key of its own."""

        def done(school: School) -> None:
            place = self._place
            known, whole = place.schools(), school
            if school.key in known:
                whole = replace(school, key=copied(school, school.title, known).key)

            def put() -> None:
                place.shelf.put(tr("Bring in a school"), whole)
                place.shelf.whole(whole.key)
                place.choose(whole.key)

            self.attempt(put)

        self._files.start(
            Operation(
                work=lambda _: read_school(path),
                done=done,
                failed=lambda error: self._place.failed.emit(str(error)),
            )
        )

    def choose_target(self) -> None:
        """Hand the school on as a file."""
        suggested = f"{self._place.school_key}.toml"
        name, _ = QFileDialog.getSaveFileName(self._place, tr("Hand the school on"), suggested, FILTER)
        if name:
            self.hand_on(Path(name))

    def hand_on(self, path: Path) -> None:
        """Write the school whole: with all it stands on, so that it holds on any desk."""
        text = as_text(replace(self._place.school, based_on=""))
        said = tr("Handed on as %s") % safely(path.name)
        cannot = tr("%s cannot be written (%s). Nothing else is changed.")

        def failed(error: Exception) -> None:
            why = getattr(error, "strerror", None) or str(error)
            self._place.failed.emit(cannot % (safely(path.name), why))

        self._files.start(
            Operation(
                work=lambda _: write_text(path, text),
                done=lambda _: self._place.said.emit(said),
                failed=failed,
            )
        )

    def attempt(self, deed: Callable[[], object]) -> None:
        """Do something that may be refused; then all is as it was, and it is said why."""
        try:
            deed()
        except KneelError as error:
            self._place.failed.emit(str(error))
            self._place.refresh()
