"""An open swing as it is read: its parts, and what they come to."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations import Jobs
from kneel.desk.swing.aim import Aim
from kneel.desk.swing.autosave import Autosave
from kneel.desk.swing.cursor import Cursor
from kneel.desk.swing.document import Document
from kneel.desk.swing.figures import Figures
from kneel.desk.swing.gathering import Gathering
from kneel.desk.swing.numbers import Numbers
from kneel.desk.swing.opening import Opened
from kneel.desk.swing.selection import Selection
from kneel.evidence import Stretch
from kneel.footage import FrameStore
from kneel.model import Ball, CameraPath, Sight, Swing
from kneel.motion.study import Study
from kneel.motion.viewed import Question
from kneel.vision import Looked


class SwingShown(QObject):
    """The open swing, or none. ``opened`` tells of another one, ``sighted`` of another way of looking."""

    opened = pyqtSignal()
    sighted = pyqtSignal()
    picture_ready = pyqtSignal(int)
    filling = pyqtSignal(int, int)
    failed = pyqtSignal(str)

    def __init__(self, jobs: Jobs, document: Document | None = None) -> None:
        super().__init__()
        self.jobs = jobs
        self._open: Opened | None = None
        self._visited: list[str] = []
        self._fresh = False
        self._shown_at: int | None = 0
        """Where the picture of a fresh clip stands as long as nobody has gone anywhere."""

        self._stretch: Stretch | None = None
        self._balls: tuple[Ball, ...] = ()
        self.beside: Callable[[], Study | None] = lambda: None
        """What the camera of another take of the swing tells, where there is one."""

        self.sight = Sight()
        self.cursor = Cursor(self)
        self.document = Document(self, document)
        self.numbers = Numbers(self)
        self.selection = Selection(self, self.numbers, self.cursor)
        self.aim = Aim(self, self.numbers, self.selection)
        self.gathering = Gathering(self, jobs)
        self.autosave = Autosave(self)

    # What is open

    @property
    def store(self) -> FrameStore | None:
        return self._open.store if self._open else None

    @property
    def at_hand(self) -> Opened | None:
        """What opening it gave."""
        return self._open

    @property
    def path(self) -> Path | None:
        """Where the document lies."""
        return self.autosave.path

    @property
    def swing(self) -> Swing:
        """The document as shown."""
        return self.document.swing

    @property
    def analysis(self) -> Study | None:
        return self.numbers.analysis

    def figures_of(self, measure: str) -> Figures:
        """What a measure is shown from: while a mark is under the hand the chosen one alone follows."""
        numbers = self.numbers
        return numbers.figures if measure == self.selection.measure else numbers.settled

    @property
    def first(self) -> int:
        """The clip's number of this swing's frame 0."""
        return self.swing.reach(self._open.store.info.frames)[0] if self._open else 0

    @property
    def frames(self) -> int:
        """How many frames belong to this swing."""
        return self.cursor.frames

    @property
    def stretch(self) -> Stretch | None:
        """The frames of this swing; the same object as long as they and their times are the same."""
        return self._stretch

    @property
    def times_s(self) -> np.ndarray:
        """Real seconds of every frame of this swing, (T,)."""
        return np.zeros(0) if self._stretch is None else self._stretch.times_s

    @property
    def checkpoint(self) -> str | None:
        """The checkpoint the cursor stands on, if any."""
        return self.numbers.checkpoint_at(self.cursor.frame)

    @property
    def looked(self) -> Looked:
        """What was found by itself and counts in this swing."""
        return self.gathering.looked(self.swing)

    @property
    def camera(self) -> CameraPath | None:
        """How the camera seems to have moved, whether or not that is believed."""
        return self.gathering.camera(self.swing)

    @property
    def fresh(self) -> bool:
        """Whether nothing was known of the clip when it was opened, and nothing has been done to it yet."""
        return self._fresh and self.document.history.undo_label is None

    @property
    def question(self) -> Question:
        """What must be asked of how it was filmed before its numbers, or its times, are believed."""
        analysis = self.analysis
        if analysis is None or not analysis.checkpoints:
            return Question.NONE
        return analysis.question or (Question.RATE if analysis.slowed else Question.NONE)
