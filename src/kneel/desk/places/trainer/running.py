"""The round that runs: which swing is on, what has been named of it, and what was answered."""

from __future__ import annotations

from collections.abc import Sequence
from enum import Enum

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.trainer.asked import AskedFault, asked_faults, asked_in
from kneel.trainer.records import Answer, Settings, Stocked, Sure
from kneel.trainer.rounds import answer_of
from kneel.trainer.stock import OnShelf


class Phase(Enum):
    """Where a round is."""

    IDLE = "no round"
    OPENING = "the swing is being opened"
    SHOWING = "it is shown for the first time"
    ANSWERING = "it is asked about"
    ARGUED = "it is answered, and argued"
    OVER = "all have been answered"


class RunningRound(QObject):
    """One round. ``changed`` tells of anything in it, ``wanted`` asks for the swing that is on, ``answered``
    carries an answer that was given, ``laid`` tells of another size alone.
    """

    changed = pyqtSignal()
    wanted = pyqtSignal(object)
    answered = pyqtSignal(object)
    laid = pyqtSignal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.phase = Phase.IDLE
        self.settings = Settings()
        self.by = ""
        self.swings: list[OnShelf] = []
        self.answers: list[Answer] = []
        self.at = 0
        self.named: list[str] = []
        self.said: dict[str, float] = {}
        self.sized = ""
        """The fault whose size is being set."""

        self.sure: Sure | None = None
        self.nothing = False
        """Whether “nothing wrong” was chosen."""

    # What is on

    @property
    def on(self) -> OnShelf | None:
        """The swing that is asked about."""
        return self.swings[self.at] if self.at < len(self.swings) else None

    @property
    def stocked(self) -> Stocked | None:
        return self.on.stocked if self.on is not None else None

    @property
    def faults(self) -> list[AskedFault]:
        """What can be named of it."""
        return [] if self.stocked is None else asked_in(self.stocked.shot.view)

    @property
    def idle(self) -> bool:
        """Whether none runs: none was begun, or all of it is answered."""
        return self.phase in (Phase.IDLE, Phase.OVER)

    @property
    def answer(self) -> Answer | None:
        """What was answered of the swing on show."""
        return self.answers[-1] if self.phase is Phase.ARGUED else None

    @property
    def ready(self) -> bool:
        """Whether enough is said for an answer."""
        chosen = self.nothing or bool(self.named)
        return self.phase is Phase.ANSWERING and chosen and self.sure is not None

    @property
    def steps_freely(self) -> bool:
        """Whether the hand may move through the swing now."""
        argued = self.phase is Phase.ARGUED
        return argued or (self.phase is Phase.ANSWERING and self.settings.shown == "steps")

    # Its way

    def begin(self, swings: Sequence[OnShelf], settings: Settings, by: str = "") -> None:
        """Begin with the first of some swings."""
        self.swings, self.settings, self.by = list(swings), settings, by
        self.answers, self.at = [], 0
        self._open()

    def end(self) -> None:
        """No round any more; what was answered is kept."""
        self.phase = Phase.IDLE
        self.swings, self.at = [], 0
        self._forget()
        self.changed.emit()

    def opened(self) -> None:
        """The swing asked for is on the stage."""
        self.phase = Phase.SHOWING
        self.changed.emit()

    def lost(self) -> None:
        """It cannot be shown: the round goes on without it."""
        if self.on is not None:
            del self.swings[self.at]
        if self.on is None:
            self.phase = Phase.OVER if self.answers else Phase.IDLE
            self.changed.emit()
        else:
            self._open()

    def shown(self) -> None:
        """It has been shown once."""
        if self.phase is Phase.SHOWING:
            self.phase = Phase.ANSWERING
            self.changed.emit()

    def next(self) -> None:
        """On to the next swing."""
        if self.phase is not Phase.ARGUED:
            return
        self.at += 1
        if self.on is None:
            self.at = len(self.swings) - 1
            self.phase = Phase.OVER
            self.changed.emit()
        else:
            self._open()

    def _open(self) -> None:
        self._forget()
        self.phase = Phase.OPENING
        self.changed.emit()
        if self.on is not None:
            self.wanted.emit(self.on)

    def _forget(self) -> None:
        self.named, self.said, self.sized = [], {}, ""
        self.sure, self.nothing = None, False

    # What is said

    def name(self, key: str) -> None:
        """Name a fault, or take it back; as many as a swing may have, the first makes room."""
        if self.phase is not Phase.ANSWERING or key not in [one.key for one in self.faults]:
            return
        self.nothing = False
        if key in self.named:
            self.named.remove(key)
            self.said.pop(key, None)
        else:
            if len(self.named) >= self.settings.most:
                self.said.pop(self.named.pop(0), None)
            self.named.append(key)
        self.sized = self.named[-1] if self.named else ""
        self.changed.emit()

    def name_nothing(self) -> None:
        """Say that nothing is wrong, or take that back."""
        if self.phase is Phase.ANSWERING:
            self.named, self.said, self.sized = [], {}, ""
            self.nothing = not self.nothing
            self.changed.emit()

    def say_size(self, value: float) -> None:
        """Say how large the fault is that was named last."""
        if self.phase is Phase.ANSWERING and self.sized:
            asked = asked_faults()[self.sized]
            self.said[self.sized] = min(max(value, asked.low), asked.high)
            self.laid.emit()

    def say_sure(self, sure: Sure) -> None:
        """Say how sure all of it is."""
        if self.phase is Phase.ANSWERING:
            self.sure = sure
            self.changed.emit()

    def give(self) -> None:
        """Answer."""
        stocked = self.stocked
        if not self.ready or stocked is None or self.sure is None:
            return
        settings = self.settings
        answer = answer_of(
            stocked, self.named, self.sure, self.said, shown=settings.shown, size=settings.size, by=self.by
        )
        self.answers.append(answer)
        self.phase = Phase.ARGUED
        self.answered.emit(answer)
        self.changed.emit()
