"""The open swing: the document with its undo, the cursor, and all that is computed from them.

One owner of the frame on show and of the document; widgets listen. Frames are
decoded and points followed in threads, whose answers arrive by signal.
"""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import msgspec
import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from kneel.book.sight_file import save_sight
from kneel.book.swing_file import save_swing
from kneel.desk.following import Following
from kneel.desk.looking import Looking
from kneel.desk.opening import Callbacks, Opened
from kneel.evidence import Evidence, Stretch, analysed
from kneel.footage import FrameStore
from kneel.footage.hearing import in_real_time
from kneel.judge import Finding, Reading, judge, school
from kneel.judge.words import checkpoint_words
from kneel.model import CHECKPOINTS, CameraPath, History, KneelError, Mark, Near, Sight, Sighting, Swing
from kneel.motion.advice import Advice, next_mark
from kneel.motion.analysis import Analysis
from kneel.motion.checkpoints import Moment
from kneel.vision import Looked, fused, on_the_body

SAVE_AFTER_MS = 400


class Session(QObject):
    """The open swing, or none. ``changed`` follows every change of document or numbers."""

    opened = pyqtSignal()
    changed = pyqtSignal()
    moved = pyqtSignal(int)
    chose = pyqtSignal()
    picture_ready = pyqtSignal(int)
    filling = pyqtSignal(int, int)
    failed = pyqtSignal(str)
    saved = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._open: Opened | None = None
        self._history = History(Swing())
        self._preview: Swing | None = None
        self.frame = 0
        self.chosen: str | None = None
        self.analysis: Analysis | None = None
        self.reading: Reading | None = None
        self.other: Reading | None = None
        self.sight = Sight()
        self.spots: Mapping[str, Sighting] = {}
        self._stretch: Stretch | None = None
        self._saved: Swing | None = None
        self.following = Following(self)
        self.following.finished.connect(self._recompute)
        self.following.failed.connect(self.failed)
        self.looking = Looking(self)
        self.looking.finished.connect(self._recompute)
        self.looking.failed.connect(self.failed)
        self._saver = QTimer(self, singleShot=True, interval=SAVE_AFTER_MS)
        self._saver.timeout.connect(self.save)

    # What is open

    @property
    def store(self) -> FrameStore | None:
        return self._open.store if self._open else None

    @property
    def document(self) -> Path | None:
        return self._open.document if self._open else None

    @property
    def swing(self) -> Swing:
        """The document as shown: with the change under way, if there is one."""
        return self._preview or self._history.now

    @property
    def history(self) -> History:
        return self._history

    @property
    def first(self) -> int:
        """The clip's number of this swing's frame 0."""
        return self.swing.reach(self._open.store.info.frames)[0] if self._open else 0

    @property
    def frames(self) -> int:
        """How many frames belong to this swing."""
        if self._open is None:
            return 0
        first, last = self.swing.reach(self._open.store.info.frames)
        return last - first + 1

    @property
    def callbacks(self) -> Callbacks:
        """What a frame store opened for this session tells it."""
        return Callbacks(self.picture_ready.emit, self.filling.emit, self.failed.emit)

    @property
    def stretch(self) -> Stretch | None:
        """The frames of this swing; the same object as long as they and their times are the same."""
        if self._open is None:
            return None
        store, swing = self._open.store, self.swing
        fresh = Stretch.of(swing, store.info, self._open.content, store.peek)
        if self._stretch is None or self._stretch.name != fresh.name:
            self._stretch = fresh
        return self._stretch

    @property
    def times_s(self) -> np.ndarray:
        """Real seconds of every frame of this swing, (T,)."""
        stretch = self.stretch
        return np.zeros(0) if stretch is None else stretch.times_s

    def take(self, opened: Opened) -> None:
        """Show a swing that has been opened; the one before is saved and closed."""
        self.close()
        self._open = opened
        self._history = History(opened.swing)
        self._preview = self._stretch = None
        # What was merely opened is not written: a document begins with the first change.
        self._saved = opened.swing
        self.sight = opened.sight or Sight()
        self.frame = min(self.sight.frame, self.frames - 1)
        self.chosen = None
        stretch = self.stretch
        if stretch is not None:
            self.following.begin(opened.shelf, stretch, opened.followed)
            self.looking.begin(opened.shelf, opened.swing, stretch, opened.looked)
        self._recompute()
        finding = self.finding
        if opened.sight is None and finding is not None and finding.checkpoint is not None:
            # Seen for the first time: the picture shows what is wrong.
            self.frame = self.analysis.checkpoints[finding.checkpoint].shown if self.analysis else 0
        self.opened.emit()
        self.moved.emit(self.frame)
        self._ask_for_points()

    def close(self) -> None:
        """Save what is open and let it go."""
        if self._open is None:
            return
        self.save()
        self.following.end()
        self.looking.end()
        self._open.store.close()
        self._open = None

    # The cursor

    def go(self, frame: int) -> None:
        """Put the cursor on a frame, as near as the clip allows."""
        frame = int(np.clip(frame, 0, max(self.frames - 1, 0)))
        if frame != self.frame:
            self.frame = frame
            self.moved.emit(frame)

    def step(self, by: int) -> None:
        self.go(self.frame + by)

    def go_to(self, checkpoint: str) -> bool:
        """Put the cursor on a checkpoint; False where it is not found."""
        if self.analysis is None or checkpoint not in self.analysis.checkpoints:
            return False
        self.go(self.analysis.checkpoints[checkpoint].shown)
        return True

    @property
    def checkpoint(self) -> str | None:
        """The checkpoint the cursor stands on, if any."""
        if self.analysis is None:
            return None
        here = [n for n, c in self.analysis.checkpoints.items() if c.shown == self.frame]
        return here[-1] if here else None

    # The document

    def change(self, label: str, swing: Swing) -> None:
        """Take one undoable step."""
        self._preview = None
        self._history.push(label, swing)
        self._after_change()

    def preview(self, swing: Swing) -> None:
        """Show a change that is still under way, such as a drag; not a step yet."""
        self._preview = swing
        self._recompute()

    def drop_preview(self) -> None:
        if self._preview is not None:
            self._preview = None
            self._recompute()

    def undo(self) -> None:
        if self._history.undo():
            self._after_change()

    def redo(self) -> None:
        if self._history.redo():
            self._after_change()

    def place(self, point: str, x: float, y: float) -> None:
        """Set a mark by hand on the frame on show; ``point`` is anatomical."""
        self.change("Mark " + point.replace("_", " "), self.swing.with_mark(Mark(point, self.frame, x, y)))

    def pin(self, checkpoint: str, frame: float | None) -> None:
        """Pin a checkpoint by hand, or set it free with None."""
        if checkpoint in CHECKPOINTS:
            word = "Pin" if frame is not None else "Free"
            self.change(
                f"{word} {checkpoint.replace('_', ' ')}", self.swing.with_checkpoint(checkpoint, frame)
            )

    def set(self, label: str, **settings: object) -> None:
        """Change settings of the swing; they are no longer guesses."""
        if "looked" in settings:
            # Asked for in so many words: what was stopped begins again.
            self.looking.again()
            self.following.again()
        self.change(label, self.swing.given(**settings))

    def look_at(self, **how: object) -> None:
        """Change how the swing is looked at, which is no change of the document."""
        self.sight = msgspec.structs.replace(self.sight, **how)
        self.changed.emit()

    def point_out(self, x: float, y: float) -> None:
        """Say by a click on the frame on show who the golfer is."""
        self.set("Point out the golfer", near=Near(x, y, self.frame), looked=True)

    def save(self) -> None:
        """Write the document where it has changed. A failure is told and nothing is lost."""
        self._saver.stop()
        if self._open is None:
            return
        save_sight(self._open.document, msgspec.structs.replace(self.sight, frame=self.frame))
        if self._history.now == self._saved:
            return
        try:
            save_swing(self._open.document, self._history.now)
        except KneelError as error:
            self.failed.emit(str(error))
        else:
            self._saved = self._history.now
            self.saved.emit()

    def _after_change(self) -> None:
        self._recompute()
        self._ask_for_points()
        self._saver.start()

    def _ask_for_points(self) -> None:
        """Have the marks followed, and the joints looked for where the swing says so."""
        stretch = self.stretch
        if stretch is None:
            return
        if self.swing.looked:
            self.looking.need(self.swing, stretch)
        else:
            self.looking.cancel()
        self.following.need(self.swing, stretch)

    def stop_gathering(self) -> None:
        """Give up what is being followed and looked for; it does not begin again by itself."""
        self.following.stop(self.swing)
        self.looking.stop()

    @property
    def looked(self) -> Looked:
        """What was found by itself and counts in this swing."""
        return self.looking.found if self.swing.looked else Looked()

    @property
    def camera(self) -> CameraPath | None:
        """How the camera seems to have moved, whether or not that is believed."""
        return self.looking.found.camera if self.swing.looked else self.following.camera

    # Findings

    def choose(self, fault: str | None) -> None:
        """Choose a finding and go to where it shows."""
        self.chosen = fault
        finding = self.finding
        if finding and finding.checkpoint:
            self.go_to(finding.checkpoint)
        self.chose.emit()

    @property
    def finding(self) -> Finding | None:
        """The chosen finding."""
        if self.reading is None:
            return None
        return next((f for f in self.reading.findings if f.fault.key == self.chosen), None)

    def frame_title(self, frame: int) -> str:
        """A frame in words: the checkpoint it is, or its number."""
        points = self.analysis.checkpoints if self.analysis else {}
        here = [name for name, c in points.items() if c.shown == frame]
        return f"at {checkpoint_words(here[0])}" if here else f"on frame {frame}"

    def advice(self) -> Advice | None:
        """The mark by hand that would tell most about the chosen finding."""
        finding, analysis = self.finding, self.analysis
        if finding is None or analysis is None or finding.measure is None or finding.checkpoint is None:
            return None
        return next_mark(analysis, finding.measure, finding.checkpoint)

    def _strikes(self) -> tuple[Moment, ...]:
        """The strikes heard, in real seconds on the clock of this swing's frames."""
        if self._open is None:
            return ()
        return in_real_time(self._open.strikes, self._open.store.info, self.swing.capture_rate)

    def _recompute(self) -> None:
        if self._open is None:
            return
        swing, stretch = self.swing, self.stretch
        if stretch is None:
            return
        followed = self.following.followed(swing, stretch)
        self.spots = on_the_body(fused(followed.spots), self.looked.sightings)
        self.analysis = analysed(swing, stretch, Evidence(self.looked, followed, self._strikes()))
        self.reading = judge(self.analysis, school(swing.school))
        second = "loading" if swing.school == "centred" else "centred"
        self.other = judge(self.analysis, school(second))
        if self.chosen is None and self.reading.findings:
            self.chosen = self.reading.findings[0].fault.key
        self.changed.emit()
