"""What was measured or named by hand: a plate's trace, a value typed in, a moment of the instructor's own."""

from __future__ import annotations

import re
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from kneel.desk.operations import Lane, Operation
from kneel.desk.places.context import Context
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.entry import Entry
from kneel.desk.widgets.language import tr
from kneel.documents.plate_csv import read_plate
from kneel.model import CHECKPOINTS, FileRef, OwnCheckpoint, TypedValue
from kneel.motion.checkpoints.rules import HELP, read_rule
from kneel.motion.measures import REGISTRY, Domain, Unit
from kneel.speech.words import UNITS

TYPED_SHARE = 0.03
"""How far a value that somebody typed in may be off, as a share."""


class Elsewhere(QObject):
    """The actions; ``said`` carries a sentence, ``failed`` why something could not be read."""

    said = pyqtSignal(str)
    failed = pyqtSignal(str)

    def __init__(self, opened: OpenSwing, context: Context, parent: QWidget) -> None:
        super().__init__(parent)
        self._open, self._context, self._parent = opened, context, parent
        self._readers = Lane(self, newest=True)

    # A plate

    def plate(self) -> None:
        """Ask for a plate's file; where there is one, take it away again or choose another."""
        if self._open.store is None:
            return
        if self._open.swing.take.plate is None:
            self._browse_plate()
            return
        choices = [
            Choice(tr("Another file …"), self._browse_plate),
            Choice(tr("Take the plate’s trace away"), self._take_plate_away),
        ]
        Chooser(self._parent, self._context.look, tr("Pressure plate"), choices).open(None)

    def _take_plate_away(self) -> None:
        self._open.set(tr("Take the plate away"), plate=None)

    def _browse_plate(self) -> None:
        store = self._open.store
        folder = str(store.info.path.parent) if store is not None else ""
        title, filters = tr("Read a pressure plate’s file"), f"{tr('Plate traces')} (*.csv)"
        name, _ = QFileDialog.getOpenFileName(self._parent, title, folder, filters)
        if name:
            self.read_plate(Path(name))

    def read_plate(self, path: Path) -> None:
        """Read a plate's file beside the desk; one that is none changes nothing."""

        def done(_: object) -> None:
            self._open.set("Read a pressure plate", plate=FileRef(str(path.absolute())))
            self.said.emit(tr("The plate’s pressures stand beside the numbers now."))

        self._readers.start(
            Operation(
                subject=lambda: self._open.path,
                work=lambda _: read_plate(path),
                done=done,
                failed=lambda error: self.failed.emit(str(error)),
            )
        )

    # A value

    def type_value(self) -> Chooser | None:
        """Let a number be typed in that was measured elsewhere; it outranks what the picture tells."""
        if self._open.store is None:
            return None
        typed = {one.measure for one in self._open.swing.typed}
        # What a tape or a plate tells stands first: the set-up, and what no camera sees.
        order = sorted(
            REGISTRY, key=lambda k: REGISTRY[k].domain is not Domain.SETUP and not REGISTRY[k].recorded
        )
        choices = [
            Choice(f"{tr(REGISTRY[key].title)} …", lambda k=key: self._where(k), checked=key in typed)
            for key in order
        ]
        title = tr("Which number was measured?")
        chooser = Chooser(self._parent, self._context.look, title, choices, typing=True)
        chooser.open(None)
        return chooser

    def _typed(self, key: str, at: str) -> TypedValue | None:
        return next(
            (one for one in self._open.swing.typed if (one.measure, one.checkpoint) == (key, at)), None
        )

    def _where(self, key: str) -> None:
        """At which checkpoint, where a number has several."""
        domain = REGISTRY[key].domain
        if domain is not Domain.FRAMES:
            self._ask(key, "address" if domain is Domain.SETUP else "")
            return
        places = [name for name in CHECKPOINTS if not REGISTRY[key].at or name in REGISTRY[key].at]
        choices = [
            Choice(
                tr(checkpoint_title(at)),
                lambda a=at: self._ask(key, a),
                checked=self._typed(key, at) is not None,
            )
            for at in places
        ]
        Chooser(self._parent, self._context.look, tr(REGISTRY[key].title), choices).open(None)

    def _ask(self, key: str, at: str) -> None:
        """The number itself; lengths are typed in centimetres."""
        unit = "cm" if REGISTRY[key].unit is Unit.LENGTH else REGISTRY[key].unit.value
        known = self._typed(key, at)
        title = tr(REGISTRY[key].title) + (f", {tr(checkpoint_title(at)).lower()}" if at else "")

        def take(value: object) -> None:
            number = float(str(value))
            others = tuple(
                one for one in self._open.swing.typed if (one.measure, one.checkpoint) != (key, at)
            )
            told = TypedValue(key, number, abs(number) * TYPED_SHARE, at, "typed")
            self._open.set(tr("Type in a value"), typed=(*others, told))

        Entry(
            self._parent,
            self._context.look,
            title,
            take,
            number=(known.value if known else 0.0, -1000.0, 1000.0, 1),
            unit=UNITS.get(unit, unit).strip(),
            remark=tr("Plus or minus 3 % is taken for its error. It outranks what the picture tells."),
        ).open()

    # A moment

    def own_moment(self) -> Chooser | None:
        """A moment of one's own: a new one, or what there is to go to or take away."""
        if self._open.store is None:
            return None
        own = self._open.swing.checkpoints
        choices = [Choice(tr("A new moment …"), self._ask_moment)]
        for one in own:
            choices.append(Choice(tr("Go to: %s") % one.title, lambda k=one.key: self._open.go_to(k)))
            choices.append(Choice(tr("Take away: %s") % one.title, lambda k=one.key: self._forget(k)))
        if not own:
            self._ask_moment()
            return None
        chooser = Chooser(self._parent, self._context.look, tr("Moments of your own"), choices)
        chooser.open(None)
        return chooser

    def _ask_moment(self) -> None:
        Entry(
            self._parent,
            self._context.look,
            tr("A rule, or a name for the frame on show"),
            lambda words: self.add_moment(str(words).strip()),
            most=60,
            suggestions=["60 ms before impact", "hands at hip height, down", "lead arm at 45°, back"],
            remark=tr(HELP[0].upper() + HELP[1:] + "."),
        ).open()

    def add_moment(self, words: str) -> None:
        """Keep a moment: found by its rule in any swing, or the frame on show under a name."""
        key = re.sub(r"[^a-z0-9]+", "_", words.lower()).strip("_")
        if not key:
            return
        if key in CHECKPOINTS:
            self.said.emit(tr("That is a checkpoint already: stand on its frame and press P to pin it."))
            return
        rule = read_rule(words)
        frame = None if rule else float(self._open.cursor.frame + self._open.first)
        others = tuple(one for one in self._open.swing.checkpoints if one.key != key)
        made = OwnCheckpoint(key, words, words if rule else "", frame)
        self._open.set(tr("Keep a moment of one’s own"), checkpoints=(*others, made))

    def _forget(self, key: str) -> None:
        left = tuple(one for one in self._open.swing.checkpoints if one.key != key)
        self._open.set(tr("Take a moment of one’s own away"), checkpoints=left)
