"""Opening the other swing and comparing the two, beside the interface."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.book.index.indexing import day_of
from kneel.book.repository.search_text import same_golfer
from kneel.compare.family import asked_by
from kneel.compare.pair import Alike, Pair, paired
from kneel.desk.operations import Lane, Operation
from kneel.desk.places.context import Context
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.opening import Opened, open_swing
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.evidence import Stretch
from kneel.evidence.stood import stood_through
from kneel.judge import in_use
from kneel.judge.numbers import OfSwing
from kneel.model import KneelError, Swing
from kneel.motion.study import Study

SOON_MS = 60


@dataclass(frozen=True)
class _Side:
    swing: Swing
    study: Study
    stretch: Stretch


class Comparing(QObject):
    """The other swing, and what lies between the two; ``told`` carries the pair, or a sentence why there is
    none, ``failed`` that the other could not be opened.
    """

    told = pyqtSignal(object)
    failed = pyqtSignal(str)

    def __init__(self, on_desk: OpenSwing, other: OpenSwing, context: Context) -> None:
        super().__init__()
        self._on_desk, self._other = on_desk, other
        self.path: Path | None = None
        """What is to be held beside the swing on the desk."""

        self.pair: Pair | None = None
        self._openers = Lane(self, context.jobs, tr("opening the other swing"), newest=True)
        self._askers = Lane(self, context.jobs, tr("comparing"), newest=True)
        self._soon = QTimer(self, singleShot=True, interval=SOON_MS)
        self._soon.timeout.connect(self._ask)
        for swing in (on_desk, other):
            swing.numbers.renewed.connect(self.ask)
            swing.opened.connect(self.ask)

    def open(self, path: Path) -> None:
        """Hold a swing beside the one on the desk."""
        if path == self._on_desk.path:
            self.failed.emit(tr("That swing lies on the desk already; choose another one."))
            return
        self.path = path
        callbacks = self._other.callbacks()

        def done(opened: Opened) -> None:
            if not self._other.take(opened):
                opened.let_go()
                return
            opened.store.start(self._other.first + self._other.cursor.frame)

        def failed(error: Exception) -> None:
            self.path = None
            known = isinstance(error, KneelError | OSError)
            self.failed.emit(str(error) if known else tr("%s cannot be opened.") % shown(path.name))

        self._openers.start(
            Operation(
                work=lambda _: open_swing(path, callbacks),
                subject=lambda: self.path,
                done=done,
                failed=failed,
                drop=Opened.let_go,
            )
        )

    def close(self) -> None:
        """Let the other go, so that it can be worked on; what was held beside is remembered."""
        self._openers.stop()
        self._askers.stop()
        self._other.close()

    def ask(self) -> None:
        """Compare anew, once the numbers rest; with nothing beside it there is nothing to do."""
        if self._other.store is not None or self.pair is not None:
            self._soon.start()

    def _side(self, swing: OpenSwing) -> _Side | None:
        study, stretch = swing.analysis, swing.stretch
        if study is None or stretch is None or not study.checkpoints:
            return None
        return _Side(swing.swing, study, stretch)

    def _ask(self) -> None:
        beside, here = self._side(self._other), self._side(self._on_desk)
        if beside is None or here is None:
            self._tell(None)
            return

        def work(_: object) -> Pair:
            return _paired(beside, here)

        def failed(error: Exception) -> None:
            self._tell(str(error) if isinstance(error, KneelError) else tr("These two cannot be compared."))

        self._askers.start(
            Operation(
                work=work,
                subject=lambda: (self._other.analysis, self._on_desk.analysis),
                done=self._tell,
                failed=failed,
            )
        )

    def _tell(self, found: Pair | str | None) -> None:
        self.pair = found if isinstance(found, Pair) else None
        self.told.emit(found)


def _paired(beside: _Side, here: _Side) -> Pair:
    """The two compared; lessons are told apart by their day, as in the Book, and two golfers have two."""
    sides = OfSwing(beside.study, beside.swing.club), OfSwing(here.study, here.swing.club)
    same_day = day_of(beside.stretch.path) == day_of(here.stretch.path)
    golfer = same_golfer(beside.swing.golfer, here.swing.golfer)
    stood = same_day and stood_through([(one.stretch, one.study) for one in (beside, here)])
    knowledge = in_use()
    return paired(
        (beside.study, here.study),
        sides,
        asked_by(knowledge.school(here.swing.school), sides[1], knowledge),
        Alike(lesson=same_day and golfer, camera=stood, golfer=golfer),
    )


@dataclass(frozen=True)
class Offer:
    """A swing that can be held beside the one on the desk; ``before`` marks the one filmed just before it."""

    path: Path
    title: str
    detail: str = ""
    before: bool = False
