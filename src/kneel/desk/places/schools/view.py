"""The Schools place: schools at the left, a measure's windows over the swing, and where two disagree."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from kneel.desk.places.context import Context
from kneel.desk.places.place import Handlers, Place
from kneel.desk.places.schools.actions import SchoolActions
from kneel.desk.places.schools.canvas import Canvas
from kneel.desk.places.schools.course import (
    Corridors,
    asked_by,
    columns_of,
    course_of,
    shapeable,
    windows_of,
)
from kneel.desk.places.schools.shelf import Shelf
from kneel.desk.places.schools.two_schools import ShortCard, TwoSchools
from kneel.desk.records.practice import Practice
from kneel.desk.records.undo import Labels
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.titles import CLUB_TITLES, KIND_TITLES
from kneel.desk.widgets.card import CardBackground, scrolled
from kneel.desk.widgets.language import several, tr
from kneel.desk.widgets.text import tip, worded
from kneel.desk.widgets.token import Token, TokenRow
from kneel.judge.kinds import ONCE
from kneel.judge.knowledge import in_use, shipped
from kneel.judge.records import School, Window
from kneel.judge.shaping import OWN
from kneel.model import Club, Kind, KneelError
from kneel.motion.measures import REGISTRY
from kneel.speech.words import capital, checkpoint_words, number, window_words, with_unit

WIDE = 226

FIRST = "centred"


class SchoolsPlace(Place):
    """``failed`` carries a sentence, ``kept`` tells that all should be judged anew."""

    key, title = "schools", "Schools"
    failed = pyqtSignal(str)
    kept = pyqtSignal()

    def __init__(
        self, opened: OpenSwing, context: Context, practice: Practice, folder: Path | None = None
    ) -> None:
        self.shelf = Shelf(opened, folder)
        super().__init__(self)
        self._open, look = opened, context.look
        self.context = context
        self.school_key, self.beside_key = FIRST, ""
        self.measure = self.fault = ""
        self.club: Club | None = None
        self.kind: Kind | None = None
        self.list, self.canvas = QListWidget(), Canvas(look)
        self.list.setFrameShape(QListWidget.Shape.NoFrame)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setSpacing(2)
        self.list.setAccessibleName(tr("Schools"))
        self.creed, self.holds = worded("secondary"), worded("small")
        self.here, self.where = worded("strong"), worded("secondary")
        self.two = TwoSchools(opened, practice, look)
        self.two.failed.connect(self.failed)
        self.buttons: dict[str, QPushButton] = {}
        self.tokens = TokenRow()
        self._actions = SchoolActions(self)
        self._build()
        self._connect()

    def _build(self) -> None:
        look = self.context.look
        left = CardBackground(look)
        left.setFixedWidth(WIDE)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(12, 12, 12, 12)
        heading = worded("title")
        heading.setText(tr("Schools"))
        column.addWidget(heading)
        column.addWidget(self.list, 1)
        for key, words, hint in (
            ("school_copy", tr("Copy …"), tr("A school of your own that stands on the one chosen")),
            ("school_bring", tr("Bring in …"), tr("A school from a TOML file")),
            ("school_hand_on", tr("Hand on …"), tr("Save the school as a TOML file for somebody else")),
            (
                "school_from_swings",
                tr("From good swings …"),
                tr("The window that nine in ten of such swings lie inside, each student counting as one"),
            ),
            ("school_away", tr("Take away"), tr("Take a school of your own away; Ctrl+Z brings it back")),
        ):
            button = QPushButton(words)
            button.setToolTip(tip(hint))
            button.clicked.connect(lambda _=False, deed=key: self.handlers()[deed]())
            self.buttons[key] = button
        rows = (("school_copy", "school_away"), ("school_bring", "school_hand_on"), ("school_from_swings",))
        for keys in rows:
            row = QHBoxLayout()
            for key in keys:
                row.addWidget(self.buttons[key])
            column.addLayout(row)
        for label in (self.creed, self.holds):
            label.setWordWrap(True)
            column.addWidget(label)
        scroll = scrolled(inner)
        frame = QVBoxLayout(left)
        frame.setContentsMargins(0, 0, 0, 0)
        frame.addWidget(scroll)
        for key, caption in (
            ("school_measure", tr("Measure")),
            ("school_club", tr("Club")),
            ("school_kind", tr("Swing")),
            ("school_beside", tr("Beside it")),
        ):
            token = Token(look, caption)
            token.clicked.connect(lambda _=False, deed=key: self.handlers()[deed]())
            self.tokens.put(key, token)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(self.tokens)
        right.addWidget(self.canvas, 1)
        below = QHBoxLayout()
        below.setSpacing(10)
        below.addWidget(ShortCard(look, self.here, self.where), 2)
        below.addWidget(self.two, 3)
        right.addLayout(below)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 12, 6)
        row.setSpacing(10)
        row.addWidget(left)
        row.addLayout(right, 1)

    def _connect(self) -> None:
        self.shelf.changed.connect(self.refresh)
        self.shelf.kept.connect(self.kept)
        self.shelf.failed.connect(self.failed)
        self.list.currentItemChanged.connect(self._on_row)
        self.canvas.picked.connect(self._tell_here)
        self.canvas.moved.connect(self._actions.move_limit)
        self.canvas.opened.connect(self._actions.choose_window)
        self.canvas.restored.connect(self._actions.restore)
        for told in (self._open.opened, self._open.numbers.renewed, self.context.look.changed):
            told.connect(self._on_swing)

    # The place

    def handlers(self) -> Handlers:
        return self._actions.table()

    def hints(self) -> str:
        return tr("drag a limit    ← → another    ↑ ↓ move it    ↵ type it    ⌫ as shipped    F1 all keys")

    def enter(self) -> None:
        self.shelf.read()
        self.refresh()
        self.canvas.setFocus()

    def steps(self) -> Labels:
        history = self.shelf.history
        return history.undo_label, history.redo_label

    def undo(self) -> None:
        self.shelf.undo()

    def redo(self) -> None:
        self.shelf.redo()

    # What is on show

    @property
    def school(self) -> School:
        """The school chosen, with all it stands on."""
        return self.shelf.whole(self.school_key)

    @property
    def base(self) -> School | None:
        """What an own school stands on; None of one that was shipped, or where that is not there."""
        mine = self.shelf.own.get(self.school_key)
        return self._whole_or_none(mine.based_on) if mine is not None else None

    @property
    def beside(self) -> School | None:
        """The second school, None where none is chosen."""
        return self._whole_or_none(self.beside_key)

    def _whole_or_none(self, key: str) -> School | None:
        try:
            return self.shelf.whole(key) if key else None
        except KneelError:
            return None

    def schools(self) -> dict[str, School]:
        """All there are, one's own first."""
        rest = {key: one for key, one in shipped().schools.items() if key not in self.shelf.own}
        return {**self.shelf.own, **rest}

    def choose(self, key: str) -> None:
        """Show a school; one that stands on what is not there is not shown, and it is said why."""
        try:
            self.shelf.whole(key)
            self.school_key = key
        except KneelError as error:
            self.failed.emit(str(error))
        self.refresh()

    def refresh(self) -> None:
        """Show all anew."""
        known = self.schools()
        if self.school_key not in known or self._whole_or_none(self.school_key) is None:
            self.school_key = FIRST if FIRST in known else next(iter(known))
        numbers = self.numbers()
        if (self.measure, self.fault) not in numbers:
            reading = self._open.numbers.reading
            first = (reading.first.measure, "") if reading is not None and reading.first is not None else None
            self.measure, self.fault = first if first in numbers else numbers[0]
        self._list_schools(known)
        self._show_windows()
        self._tell_school()
        self.two.tell(self.school, self.beside or self.base, shown=self.isVisible())

    def numbers(self) -> list[tuple[str, str]]:
        """The measures that can be shaped here, each with the fault for which alone it holds, or none."""
        return shapeable(in_use(), [one for one in (self.school, self.beside) if one is not None])

    def _list_schools(self, known: dict[str, School]) -> None:
        self.list.blockSignals(True)
        self.list.clear()
        for key, school in known.items():
            own = key in self.shelf.own
            count = sum(len(window.at) for window in school.window) if own else 0
            told = several(count, "changed in one place", "changed in %d places")
            told = told if count else tr("nothing changed yet")
            item = QListWidgetItem(f"{school.title}\n{told if own else tr('as shipped')}")
            item.setData(Qt.ItemDataRole.UserRole, key)
            self.list.addItem(item)
            if key == self.school_key:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)

    def _show_windows(self) -> None:
        club = self.club or Club.IRON
        mine = self.shelf.own.get(self.school_key)
        every = mine.window if mine else ()
        here = self.measure, self.fault, () if self.kind is None else (self.kind,)
        own = [one for one in every if (one.measure, one.fault, one.kind) == here]
        self.canvas.show_corridors(
            Corridors(
                self.measure,
                columns_of(self.measure),
                windows_of(self.school, self.measure, club, self.fault, self.kind),
                windows_of(self.base, self.measure, club, self.fault, self.kind) if own else {},
                windows_of(self.beside, self.measure, club, self.fault, self.kind),
                frozenset(at for window in own for at in window.at),
                course_of(self._open.numbers.analysis, self.measure, self._open.swing.club),
                self.fault,
                self.kind,
            )
        )
        entry = REGISTRY[self.measure]
        unit = with_unit("", self.canvas.shown.unit).strip() if self.canvas.shown else ""
        alone = tr("for %s alone") % in_use().faults[self.fault].title.lower() if self.fault else unit
        self._say("school_measure", tr(entry.title), alone)
        self._say("school_club", tr(CLUB_TITLES[club.value]) if self.club else tr("All clubs"), "")
        kind = self.kind
        self._say(
            "school_kind", tr(KIND_TITLES[kind.value if kind else "full"]), "" if kind else tr("and all else")
        )
        beside = self.beside
        self._say("school_beside", beside.title if beside else tr("none"), tr("dotted") if beside else "")
        self.tokens.fit()
        self._tell_here()

    def _say(self, key: str, value: str, remark: str) -> None:
        self.tokens.tokens[key].show_value(value, remark, guessed=False)

    def _tell_school(self) -> None:
        school = self.school
        self.creed.setText(school.creed)
        counts = Counter(_standing(window) for window in school.window for _ in window.at)
        total = several(counts.total(), "one window", "%d windows")
        lines = [total, *(f"{n} {words}" for words, n in counts.most_common())]
        self.holds.setText("\n".join(lines))
        self.buttons["school_away"].setEnabled(self.school_key in self.shelf.own)

    def _tell_here(self) -> None:
        """The window chosen: its limits, where they come from, and what they decide."""
        shown, chosen = self.canvas.shown, self.canvas.chosen
        if shown is None or chosen is None:
            self.here.setText("")
            self.where.setText(tr("Choose a limit on the picture."))
            return
        place = tr("Once a swing") if chosen.at == ONCE else capital(checkpoint_words(chosen.at))
        window = self.canvas.windows().get(chosen.at)
        if window is None:
            self.here.setText(f"{place}: {tr('nothing asked')}")
            self.where.setText(tr("Enter, or a double click, lays a window there."))
            return
        self.here.setText(f"{place}: {window_words(window.lo, window.hi, shown.unit)}")
        standing = shown.windows[chosen.at].standing if chosen.at in shown.windows else OWN
        lines = [tr("Where it comes from: %s.") % standing]
        base = shown.base.get(chosen.at) if chosen.at in shown.own else None
        if base is not None:
            lines.append(tr("As shipped %s.") % window_words(base.lo, base.hi, shown.unit))
        step = with_unit(number(window.margin, shown.unit, signed=False), shown.unit)
        lines.append(tr("%s past a limit is one step of severity.") % step)
        faults = asked_by(in_use(), shown.measure, chosen.at)
        if self.fault:
            faults = [in_use().faults[self.fault].title]
        if faults:
            lines.append(tr("It decides: %s.") % ", ".join(faults).lower())
        if shown.unit == "cm":
            lines.append(tr("For a body of 1.75 m; it grows and shrinks with stature."))
        self.where.setText(" ".join(lines))

    # What the two say to the swing

    def _on_swing(self) -> None:
        if self.isVisible():
            self.refresh()

    # Deeds

    def _on_row(self, item: QListWidgetItem | None) -> None:
        if item is not None and item.data(Qt.ItemDataRole.UserRole) != self.school_key:
            self.choose(item.data(Qt.ItemDataRole.UserRole))


def _standing(window: Window) -> str:
    """Where a window comes from, without its reasons."""
    return window.standing.split(":")[0].split(",")[0].strip()
