"""What a user chooses once: light or dark, text size, centimetres or inches, and knowledge of their own."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.context import Context
from kneel.desk.records.practice import Practice
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.theme.size import KEY as SIZE_KEY
from kneel.desk.widgets.theme.size import SIZES, chosen_size
from kneel.desk.widgets.theme.size import TITLES as SIZE_TITLES
from kneel.practice import drills_in_use, read_drills_anew
from kneel.speech.units import tell_lengths_in


class Preferences(QObject):
    """Keeps choices in the desk's settings and has them taken up.

    ``told_anew`` asks for all lengths to be said again, ``again`` for the program to be started anew;
    ``said`` and ``failed`` carry sentences.
    """

    told_anew = pyqtSignal()
    again = pyqtSignal()
    said = pyqtSignal(str)
    failed = pyqtSignal(str)

    def __init__(self, window: QWidget, context: Context, on_desk: OpenSwing, practice: Practice) -> None:
        super().__init__(window)
        self._window, self._context, self._settings = window, context, context.settings
        self._on_desk, self._practice = on_desk, practice
        self._knowledge = Lane(self, newest=True)

    @property
    def inches(self) -> bool:
        """Whether lengths are told in inches."""
        return bool(self._settings.value("inches", False, type=bool))

    def take_up(self) -> None:
        """Have lengths told as was chosen before."""
        tell_lengths_in("in" if self.inches else "cm")
        self.told_anew.emit()

    def switch_look(self) -> None:
        """Dark, or light."""
        look = self._context.look
        look.choose(dark=not look.colours.dark)
        self._settings.setValue("dark", look.colours.dark)

    def switch_inches(self) -> None:
        """Lengths in inches, or centimetres, wherever they stand; nothing that is kept changes."""
        self._settings.setValue("inches", not self.inches)
        self.take_up()
        inches, metric = tr("Lengths are told in inches"), tr("Lengths are told in centimetres")
        self.said.emit(inches if self.inches else metric)

    def choose_size(self) -> Chooser:
        """Let text and all that stands beside it be larger or smaller, from the next start or at once."""
        now = chosen_size(self._settings)

        def take(size: float) -> None:
            if size != now:
                self._settings.setValue(SIZE_KEY, size)
                again = Choice(tr("Start Kneel anew now"), self.again.emit)
                later = Choice(tr("From the next start on"), lambda: None)
                title = tr("The new size holds from the next start. All is saved.")
                self._offer(title, [again, later])

        choices = [
            Choice(tr(title), lambda s=size: take(s), detail=f"{100 * size:.0f} %", checked=size == now)
            for size, title in zip(SIZES, SIZE_TITLES, strict=True)
        ]
        return self._offer(tr("Text size"), choices)

    def _offer(self, title: str, choices: list[Choice]) -> Chooser:
        chooser = Chooser(self._window, self._context.look, title, choices, typing=False)
        chooser.open(None)
        return chooser

    def read_knowledge(self, *, quiet: bool = False) -> None:
        """Take up what an instructor has written into files of their own, here and beside the desk."""
        beside = self._context.beside

        def read(_: Task) -> str:
            beside.renew()
            return read_drills_anew()

        def done(trouble: str) -> None:
            self._practice.offer.drills = drills_in_use()
            self._on_desk.judge_anew()
            self._practice.changed.emit()
            if trouble:
                self.failed.emit(trouble)
            elif not quiet:
                self.said.emit(tr("Read anew, and judged by it."))

        self._knowledge.start(Operation(work=read, done=done))
