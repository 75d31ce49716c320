"""Recording a review: what happens on the Bench is written down as it happens, with the voice beside it.

Every go, from a beginning or a pause to the next pause, is a take of its own with its own voice and clock; so
nothing between them can go out of step. The disk is written to in a thread of the recorder's own.
"""

from __future__ import annotations

import contextlib
import datetime
import queue
import threading
import uuid
from collections.abc import Callable
from enum import Enum
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QElapsedTimer, QEvent, QObject, QPointF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QMouseEvent

from kneel.desk.operations import Lane, Operation
from kneel.desk.operations.microphone import Microphone, microphone
from kneel.desk.operations.threads import send
from kneel.desk.places.context import Context
from kneel.desk.records.output_paths import OutputKeeper, free_name
from kneel.desk.stage.stage import Stage
from kneel.desk.swing.replayed import AIMS
from kneel.desk.swing.two_takes import TwoTakes
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.documents.swing_file import save_swing, why
from kneel.model import KneelError, Swing
from kneel.model.review import Change, Review, ReviewedSwing, Seen
from kneel.model.take import FileRef
from kneel.review.file import SUFFIX
from kneel.review.journal import Head, Journal, part_of, read_journal, settled

TICK_MS = 33
CHOSEN = "review/microphone"
LEVEL_FALLS = 0.8
AIM_NAMES = {shown_: name for name, shown_ in AIMS.items()}


class Doing(Enum):
    """What the recorder does."""

    NOTHING = "nothing"
    RECORDING = "recording"
    PAUSED = "paused"


class _Writer(threading.Thread):
    """Writes a journal in the order in which things come."""

    def __init__(self, head: Head, failed: Callable[[str], None]) -> None:
        super().__init__(daemon=True, name="review writer")
        self._head, self._failed = head, failed
        self._todo: queue.Queue[Callable[[Journal], None] | None] = queue.Queue()
        self.over = threading.Event()

    def put(self, what: Callable[[Journal], None] | None) -> None:
        """Have something written; None ends it."""
        self._todo.put(what)

    def run(self) -> None:
        journal: Journal | None = None
        try:
            journal = Journal(self._head)
            while (what := self._todo.get()) is not None:
                what(journal)
        except OSError as error:
            words = tr("Recording stopped: %s. What was recorded until then is safe.") % why(error)
            send(lambda: self._failed(words))
        finally:
            if journal is not None:
                journal.close()
            self.over.set()


def _written_down(path: Path, swing: Swing) -> None:
    """A swing that is shown has a document."""
    with contextlib.suppress(KneelError):
        if not path.exists():
            save_swing(path, swing)


class Recorder(QObject):
    """Records what is done on the Bench. ``changed`` tells of another state, ``level`` how loud the voice is,
    ``ended`` where a review lies that was just made; ``failed`` and ``said`` carry sentences.
    """

    changed = pyqtSignal()
    level = pyqtSignal(float)
    ended = pyqtSignal(Path)
    failed = pyqtSignal(str)
    said = pyqtSignal(str)

    def __init__(self, takes: TwoTakes, stage: Stage, context: Context) -> None:
        super().__init__(stage)
        self._takes, self._stage, self._context = takes, stage, context
        self.doing = Doing.NOTHING
        self.review: Review | None = None
        """What is recorded so far, without the take under way."""

        self.document: Path | None = None
        self._keeper: OutputKeeper | None = None
        self._mic: Microphone | None = None
        self._writer: _Writer | None = None
        self._seen: Seen | None = None
        self._hand: tuple[float, float] | None = None
        self._down = False
        self._loud = 0.0
        self._clock = QElapsedTimer()
        self._tick = QTimer(self, interval=TICK_MS)
        self._tick.timeout.connect(self._note)
        self._settling = Lane(self, context.jobs, tr("keeping the review"))
        self._once = False
        """Whether a stretch is said anew, after which the recording is over."""

        stage.installEventFilter(self)
        takes.first.cursor.moved.connect(self._note)

    # What is asked of it

    @property
    def seconds(self) -> float:
        """How long what is recorded is by now."""
        before = self.review.seconds if self.review is not None else 0.0
        return before + (self._clock.elapsed() / 1000.0 if self.doing is Doing.RECORDING else 0.0)

    @property
    def silent(self) -> bool:
        """Whether no voice is heard: there is no microphone."""
        return self._mic is None

    def toggle(self) -> None:
        """Begin to record, or end it."""
        if self.doing is Doing.NOTHING:
            self.begin()
        else:
            self.stop()

    def begin(self) -> None:
        """Begin a review of the swing on the desk."""
        opened = self._takes.first
        if opened.store is None or opened.path is None or self._settling.busy:
            return
        keeper = OutputKeeper.of(opened, self._context.records.books)
        clip, swing, path = opened.store.info.path, opened.document.whole, opened.path

        def work(_: object) -> Path:
            if not path.exists():
                save_swing(path, swing)
            return free_name(clip, f"{datetime.date.today()}", SUFFIX, swing.golfer)

        def go(document: Path) -> None:
            self.document, self._keeper = document, keeper
            self.review = Review((), (), (), uuid.uuid4().hex, "", swing.golfer, datetime.date.today())
            self._go_on(None)

        opened.save()
        self._settling.start(
            Operation(
                subject=lambda: opened.path,
                work=work,
                done=go,
                failed=lambda _: self.failed.emit(
                    tr("No review can be kept beside %s; nothing was recorded.") % shown(clip.name)
                ),
            )
        )

    def take_up(self, review: Review, document: Path, replaces: tuple[float, float]) -> None:
        """Say a stretch of a review anew that was made before."""
        if self.doing is not Doing.NOTHING or not review.swings:
            return
        first, *rest = review.swings
        documents = [Path(one.document) for one in rest]
        books = self._context.records.books
        self._keeper = OutputKeeper(
            books, Path(first.clip.path), Path(first.document), review.golfer, documents
        )
        self.review, self.document, self._once = review, document, True
        self._go_on(replaces)

    def pause(self) -> None:
        """Hold it, or go on."""
        if self.doing is Doing.RECORDING:
            self._end_take(self._ended if self._once else self._paused)
        elif self.doing is Doing.PAUSED:
            self._go_on(None)

    def again_from(self, t: float) -> None:
        """Say it anew from a time on: what came after it is left out."""
        if self.doing is Doing.PAUSED and self.review is not None:
            self._go_on((t, self.review.seconds))

    def stop(self) -> None:
        """End it: the review is kept with the swing."""
        if self.doing is Doing.RECORDING:
            self._end_take(self._ended)
        elif self.doing is Doing.PAUSED:
            self._ended()

    def wait(self, seconds: float) -> bool:
        """The desk closes: what is under way is kept; False where that takes longer."""
        if self.doing is not Doing.NOTHING:
            self.stop()
        return self._settling.settle(seconds)

    # A take

    def _go_on(self, replaces: tuple[float, float] | None) -> None:
        assert self.review is not None and self.document is not None
        chosen = str(self._context.settings.value(CHOSEN, ""))
        self._mic = microphone(self, chosen)
        voice = self.document.with_name(
            f"{self.document.name.removesuffix(SUFFIX)}.voice-{len(self.review.takes) + 1}.wav"
        )
        head = Head(
            1,
            self.review,
            str(self.document),
            str(voice) if self._mic is not None else "",
            self._mic.rate if self._mic is not None else 0,
            replaces,
        )
        self._writer = _Writer(head, self._broke)
        self._writer.start()
        self._seen, self._down = None, False
        self.doing = Doing.RECORDING
        self._clock.start()
        if self._mic is not None:
            self._mic.heard.connect(self._hear)
            self._mic.failed.connect(self._fell_silent)
            self._mic.start()
        else:
            self.said.emit(
                tr("No microphone: the review is silent. A sound file can be laid under it later.")
            )
        self._note()
        self._tick.start()
        self.changed.emit()

    def _end_take(self, then: Callable[[], None]) -> None:
        self._note()
        seconds = self._clock.nsecsElapsed() / 1e9
        self._tick.stop()
        if self._mic is not None:
            self._mic.stop()
        writer, document = self._writer, self.document
        assert writer is not None and document is not None
        writer.put(None)
        self.doing = Doing.PAUSED

        def work(_: object) -> Review:
            writer.over.wait()
            part = part_of(document)
            return settled(read_journal(part, seconds), part)

        def done(review: Review) -> None:
            self.review = review
            then()

        def failed(error: Exception) -> None:
            self.doing = Doing.NOTHING
            self.failed.emit(str(error))
            self.changed.emit()

        self._settling.start(Operation(work=work, done=done, failed=failed))
        self.changed.emit()

    def _paused(self) -> None:
        self._keep()
        self.changed.emit()

    def _ended(self) -> None:
        self._keep()
        document, self.doing, self._once = self.document, Doing.NOTHING, False
        self._mic = self._writer = None
        self.changed.emit()
        if document is not None:
            self.ended.emit(document)

    def _keep(self) -> None:
        """Have the Book know of the files, so that they go where the swing is deleted."""
        keeper, review, document = self._keeper, self.review, self.document
        if keeper is None or review is None or document is None:
            return
        files = [document, *(Path(take.voice.path) for take in review.takes if take.voice is not None)]
        documents = [Path(one.document) for one in review.swings]

        def note(_: object) -> None:
            for file in files:
                keeper.note(file, documents)

        self._settling.start(Operation(work=note))

    def _broke(self, words: str) -> None:
        """The disk can take no more: what was written is a review all the same."""
        if self.doing is Doing.RECORDING:
            self._end_take(self._ended)
        self.failed.emit(words)

    def _fell_silent(self, words: str) -> None:
        self.failed.emit(words)

    # What happens

    def _hear(self, samples: np.ndarray) -> None:
        if self.doing is not Doing.RECORDING or self._writer is None:
            return
        t = self._clock.nsecsElapsed() / 1e9
        self._writer.put(lambda journal: journal.hear(t, samples))
        loud = float(np.abs(samples.astype(np.float32)).max()) / 32768 if len(samples) else 0.0
        self._loud = max(loud, self._loud * LEVEL_FALLS)
        self.level.emit(self._loud)

    def _note(self) -> None:
        """Write down what became otherwise."""
        if self.doing is not Doing.RECORDING or self._writer is None:
            return
        now, before = self._now(), self._seen
        if now is None:
            return
        t = self._clock.nsecsElapsed() / 1e9
        change = (
            Change(t, **{**vars(now), "part": now.part or (0.0, 0.0, 1.0, 1.0)})
            if before is None
            else before.change_to(now, t)
        )
        self._seen = now
        if change is not None:
            self._writer.put(lambda journal: journal.note(change))

    def _now(self) -> Seen | None:
        opened, stage = self._takes.first, self._stage
        if opened.store is None or opened.path is None:
            return self._seen
        left, top, wide, high = stage.view.part
        under_way = stage.drawing()
        drawn = (*opened.swing.drawn, *((under_way,) if under_way is not None else ()))
        return Seen(
            self._number_of_swing(),
            1 if opened.document.turned else 0,
            opened.cursor.frame,
            opened.checkpoint or "",
            (float(left), float(top), float(wide), float(high)),
            self._hand,
            self._down,
            opened.selection.fault or "",
            opened.sight.lines,
            drawn,
            AIM_NAMES[opened.aim.shown],
            opened.aim.share,
            opened.aim.beside,
            stage.plain,
            stage.trail,
        )

    def _number_of_swing(self) -> int:
        """Which of the review's swings is on the desk; one that was not shown yet is written down."""
        opened, review = self._takes.first, self.review
        assert review is not None and opened.path is not None and opened.store is not None
        paths = [one.document for one in review.swings]
        if str(opened.path) in paths:
            return paths.index(str(opened.path))
        info, whole = opened.store.info, opened.document.whole
        content = whole.clip.content if whole.clip is not None else ""
        clip = FileRef(str(info.path), 0, content)
        title = opened.path.name.removesuffix(".swing.json").replace("-", " ")
        made = ReviewedSwing(str(opened.path), clip, whole.id, title)
        self.review = replace(review, swings=(*review.swings, made))
        known, path = self.review, opened.path
        if self._writer is not None:
            self._writer.put(lambda journal: journal.also(known))
            self._writer.put(lambda _: _written_down(path, whole))
        return len(paths)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is None or watched is not self._stage:
            return False
        kind = event.type()
        if kind is QEvent.Type.Leave:
            self._hand = None
        elif isinstance(event, QMouseEvent):
            self._hand = self._place(event.position())
            if event.button() is Qt.MouseButton.LeftButton and kind in (
                QEvent.Type.MouseButtonPress,
                QEvent.Type.MouseButtonRelease,
            ):
                self._down = kind is QEvent.Type.MouseButtonPress
                self._note()
        return False

    def _place(self, at: QPointF) -> tuple[float, float] | None:
        view = self._stage.view
        if not view.shown.contains(at):
            return None
        x, y = view.to_picture(at)
        return round(x, 1), round(y, 1)
