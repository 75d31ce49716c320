"""Opening the other swing and comparing the two, or two moments of one, beside the interface."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.book.index.indexing import day_of
from kneel.book.repository.search_text import same_golfer
from kneel.compare.family import AskedNumber, Compared, asked_by
from kneel.compare.pair import Alike, Pair, moments, paired
from kneel.compare.views import judge_views
from kneel.desk.operations import Lane, Operation
from kneel.desk.places.context import Context
from kneel.desk.records.practice import Practice
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.opening import Opened, open_swing
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.evidence import Stretch
from kneel.evidence.stood import stood_through
from kneel.footage import FrameStore
from kneel.footage.light import brightness_of, powers_alike
from kneel.judge import in_use
from kneel.judge.numbers import OfSwing
from kneel.model import KneelError, Swing, UsageError, View
from kneel.motion.failure import Failed
from kneel.motion.space.linked import Linked, link, told_by_two
from kneel.motion.study import Study
from kneel.speech.headline import headline

SOON_MS = 60
BETWEEN = 16
"""So many moments between the checkpoints are told of a body in space, for it to move smoothly."""


@dataclass(frozen=True)
class _Side:
    swing: Swing
    study: Study
    stretch: Stretch
    store: FrameStore


@dataclass(frozen=True)
class Found:
    """What two swings tell together: a pair, or one swing by two cameras; and by what power each picture is
    to be shown so that both lie in one light.
    """

    pair: Pair | Linked
    light: tuple[float, float]
    words: str = ""
    """What comes first of one swing by two cameras."""


class Comparing(QObject):
    """The other swing, and what lies between the two; ``told`` carries what was compared, or a sentence why
    there is nothing, ``failed`` that the other could not be opened.
    """

    told = pyqtSignal(object)
    failed = pyqtSignal(str)

    def __init__(self, on_desk: OpenSwing, other: OpenSwing, context: Context, practice: Practice) -> None:
        super().__init__()
        self._on_desk, self._other, self._practice = on_desk, other, practice
        self.path: Path | None = None
        """What is to be held beside the swing on the desk."""

        self.moment: int | None = None
        """The frame of the swing on the desk that is held beside it; None where another swing is."""

        self.on_show = False
        """Whether anybody looks: two moments are compared at every step for nobody else."""

        self.shown_by_leave = False
        """Whether the other is a reference, which may be shown to others."""

        self.pair: Pair | None = None
        self.linked: Linked | None = None
        self.by_both = ""
        """What comes first of one swing by two cameras."""

        self.light = (1.0, 1.0)
        self._lit: tuple[FrameStore, ...] = ()
        self._openers = Lane(self, context.jobs, tr("opening the other swing"), newest=True)
        self._askers = Lane(self, context.jobs, tr("comparing"), newest=True)
        self._soon = QTimer(self, singleShot=True, interval=SOON_MS)
        self._soon.timeout.connect(self._ask)
        for swing in (on_desk, other):
            swing.numbers.renewed.connect(self.ask)
            swing.opened.connect(self.ask)
        practice.changed.connect(self.ask)

    def open(self, path: Path) -> None:
        """Hold a swing beside the one on the desk."""
        if path == self._on_desk.path:
            self.failed.emit(tr("That swing lies on the desk already; choose another one."))
            return
        self.path, self.moment = path, None
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

    def hold_moment(self, frame: int) -> None:
        """Hold a frame of the swing on the desk beside it."""
        self.close()
        self.path, self.moment = None, frame
        self.moved()

    def moved(self) -> None:
        """The swing on the desk stands on another frame: its moments are two others."""
        if self.moment is not None and self.on_show:
            self._soon.start()

    @property
    def not_kept(self) -> str:
        """Why a picture of both is not put into a folder; empty where it may be."""
        golfers = self._other.swing.golfer, self._on_desk.swing.golfer
        if self._other.store is None or self.shown_by_leave or same_golfer(*golfers):
            return ""
        return tr("Two students are on this picture, so it is not saved beside a clip; it can be copied.")

    def close(self) -> None:
        """Let the other go, so that it can be worked on; what was held beside is remembered."""
        self._openers.stop()
        self._askers.stop()
        # Frames that nobody looks at are held by nobody.
        self._lit = ()
        self._other.close()

    def ask(self) -> None:
        """Compare anew, once the numbers rest; with nothing beside it there is nothing to do."""
        told = self.pair is not None or self.linked is not None
        if told or self._other.store is not None:
            self._soon.start()
        self.moved()

    def _side(self, swing: OpenSwing) -> _Side | None:
        study, stretch, store = swing.analysis, swing.stretch, swing.store
        if study is None or stretch is None or store is None or not study.checkpoints:
            return None
        return _Side(swing.swing, study, stretch, store)

    def _ask(self) -> None:
        beside, here = self._side(self._other), self._side(self._on_desk)
        if here is not None and self.moment is not None:
            self._ask_moments(here, self.moment)
            return
        if beside is None or here is None:
            self._tell(None)
            return
        prescribed, stores = self._prescribed(), (beside.store, here.store)
        # One light as long as these two are open: it must not waver while they are worked on.
        light = self.light if stores == self._lit else None

        def work(_: object) -> Found:
            alike = light or _light(beside, here)
            if _two_cameras(beside, here):
                linked = _linked(beside, here)
                return Found(linked, alike, _by_both(beside, here, linked))
            return Found(_paired(beside, here, prescribed), alike)

        def done(found: Found) -> None:
            self._lit, self.light, self.by_both = stores, found.light, found.words
            self._tell(found.pair)

        def failed(error: Exception) -> None:
            self._tell(str(error) if isinstance(error, KneelError) else tr("These two cannot be compared."))

        self._askers.start(
            Operation(
                work=work,
                subject=lambda: self._subject,
                done=done,
                failed=failed,
            )
        )

    def _ask_moments(self, here: _Side, frame: int) -> None:
        """Compare two moments, where both are checkpoints: only there numbers are told with their errors."""
        names = {point.shown: name for name, point in here.study.checkpoints.items()}
        first, second = names.get(frame), names.get(self._on_desk.cursor.frame)
        if first is None or second is None or first == second:
            self._tell(tr("Two moments of one swing. Numbers are compared from checkpoint to checkpoint."))
            return
        numbers = OfSwing(here.study, here.swing.club)
        self._askers.start(
            Operation(
                work=lambda _: moments(here.study, numbers, first, second),
                subject=lambda: (self.moment, self._on_desk.cursor.frame, self._subject),
                done=self._tell,
            )
        )

    @property
    def _subject(self) -> tuple[int, int]:
        """Which numbers are compared; the work under way holds them, so that no others can pass for them."""
        return id(self._other.analysis), id(self._on_desk.analysis)

    def _prescribed(self) -> AskedNumber | None:
        """The number of the plan that runs, where both swings are of its student."""
        plan, golfers = self._practice.plan, (self._other.swing.golfer, self._on_desk.swing.golfer)
        if plan is None or not same_golfer(*golfers):
            return None
        return AskedNumber(plan.aim.measure, plan.aim.at, plan.aim.by)

    def _tell(self, found: Pair | Linked | Compared | str | None) -> None:
        self.pair = found if isinstance(found, Pair) else None
        self.linked = found if isinstance(found, Linked) else None
        self.told.emit(found)


def _two_cameras(beside: _Side, here: _Side) -> bool:
    """Whether one looks along the target line and the other across it."""
    return len({one.study.setup.view is View.DOWN_THE_LINE for one in (beside, here)}) == 2


def _linked(beside: _Side, here: _Side) -> Linked:
    """Both as one swing by two cameras. Raises ``UsageError`` where they are not."""
    golfers = beside.swing.golfer, here.swing.golfer
    if all(golfers) and not same_golfer(*golfers):
        raise UsageError(
            tr("One is seen along the target line, the other across it, and they are two golfers.")
        )
    return link(here.study, beside.study, between=BETWEEN)


def _by_both(beside: _Side, here: _Side, linked: Linked) -> str:
    """What comes first by both cameras: the turns are those that they tell together."""
    knowledge = in_use()
    studies = [told_by_two(one.study, linked) for one in (here, beside)]
    reading = judge_views(studies, knowledge.school(here.swing.school), here.swing, knowledge)
    return tr("By both cameras: %s") % headline(reading, studies[0])


def _light(beside: _Side, here: _Side) -> tuple[float, float]:
    """By what power each is to be shown, by a frame of each that is at hand."""
    told = []
    for one in (beside, here):
        frame = one.store.nearest(one.stretch.first)
        if frame is None:
            return 1.0, 1.0
        told.append(brightness_of(frame, one.store.info.upright))
    first, second = powers_alike(*told)
    return round(first, 2), round(second, 2)


def _paired(beside: _Side, here: _Side, prescribed: AskedNumber | None) -> Pair:
    """The two compared; lessons are told apart by their day, as in the Book, and two golfers have two."""
    sides = OfSwing(beside.study, beside.swing.club), OfSwing(here.study, here.swing.club)
    same_day = day_of(beside.stretch.path) == day_of(here.stretch.path)
    golfer = same_golfer(beside.swing.golfer, here.swing.golfer)
    stood = same_day and stood_through([(one.stretch, one.study) for one in (beside, here)])
    knowledge = in_use()
    studies = beside.study, here.study
    asked = asked_by(knowledge.school(here.swing.school), sides[1], knowledge)
    alike = Alike(lesson=same_day and golfer, camera=stood, golfer=golfer)
    if prescribed is not None and any(
        isinstance(side.tell(prescribed.measure, prescribed.at), Failed) for side in sides
    ):
        # It is another view's, or not told here.
        prescribed = None
    return paired(studies, sides, asked, alike, prescribed=prescribed)


@dataclass(frozen=True)
class Offer:
    """A swing that can be held beside the one on the desk; ``before`` marks the one filmed just before it."""

    path: Path
    title: str
    detail: str = ""
    before: bool = False
