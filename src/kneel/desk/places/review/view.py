"""The Review: what was recorded, seen and heard again, cut, said anew in places, and written as a film."""

from __future__ import annotations

import datetime
from itertools import accumulate
from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.places.context import Context
from kneel.desk.places.place import Handlers, Place
from kneel.desk.places.review.actions import ReviewActions
from kneel.desk.places.review.bar import clock_words
from kneel.desk.places.review.film import titled
from kneel.desk.places.review.opened import Loaded, OpenReview
from kneel.desk.places.review.player import ReviewPlayer
from kneel.desk.places.review.screen import Screen
from kneel.desk.places.review.wave import Wave
from kneel.desk.places.undoing import Undoing
from kneel.desk.records.practice import Practice
from kneel.desk.records.undo import Labels
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.opening import Opened, open_to_read
from kneel.desk.swing.replayed import ReplayedSwing, replayed
from kneel.desk.widgets.card import CardBackground
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label, tip
from kneel.review.beside import Lying, is_of, reviews_beside
from kneel.review.edits import chapters
from kneel.review.file import SUFFIX
from kneel.speech.practice import brief_day

WIDE = 230


class ReviewPlace(Place):
    """The reviews of the student on the desk. ``failed`` carries a sentence, ``wanted`` asks to be shown,
    ``again`` that a stretch of a review be said anew on the Bench: review, document, stretch.
    """

    key, title = "review", "Review"
    failed = pyqtSignal(str)
    wanted = pyqtSignal()
    again = pyqtSignal(object, Path, object)

    def __init__(self, opened: OpenSwing, context: Context, practice: Practice) -> None:
        super().__init__(Undoing(opened, practice))
        self._open, self.context = opened, context
        look = context.look
        self.shown = OpenReview(self)
        self.screen, self.wave, self.player = Screen(look), Wave(look), ReviewPlayer(self)
        self.list, self.words = QListWidget(), Label()
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setFrameShape(QListWidget.Shape.NoFrame)
        self.list.setSpacing(2)
        self.list.setAccessibleName(tr("Reviews of this student"))
        self._listers = Lane(self, newest=True)
        self._openers = Lane(self, context.jobs, tr("opening the review’s swing"))
        self.buttons: dict[str, QPushButton] = {}
        self._actions = ReviewActions(self)
        self._build()
        self._connect()

    def _build(self) -> None:
        left = CardBackground(self.context.look)
        left.setFixedWidth(WIDE)
        heading = Label(tr("Spoken reviews"))
        heading.setProperty("role", "title")
        self.words.setWordWrap(True)
        self.words.setProperty("role", "small")
        column = QVBoxLayout(left)
        column.setContentsMargins(14, 12, 14, 12)
        for part in (heading, self.list, self.words):
            column.addWidget(part)
        buttons = QHBoxLayout()
        for key, words, hint in (
            ("play", tr("Play"), tr("Play and pause (Space)")),
            ("cut", tr("Cut out"), tr("Take the chosen stretch out")),
            ("trim", tr("Only this"), tr("Keep the chosen stretch alone")),
            ("again", tr("Say anew …"), tr("Say the chosen stretch, or all from here on, anew on the Bench")),
            ("under", tr("Sound file …"), tr("Lay a sound file under the review as its voice")),
            ("film", tr("Save as film …"), tr("Write it as MP4 that phones play")),
        ):
            button = QPushButton(words)
            button.setToolTip(tip(hint))
            button.clicked.connect(lambda _=False, deed=key: self.handlers()[f"review_{deed}"]())
            buttons.addWidget(button)
            self.buttons[key] = button
        self.buttons["film"].setProperty("primary", "true")
        buttons.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(self.screen, 1)
        right.addWidget(self.wave)
        right.addLayout(buttons)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 12, 6)
        row.setSpacing(10)
        row.addWidget(left)
        row.addLayout(right, 1)

    def _connect(self) -> None:
        self.shown.heard.connect(self._on_heard)
        self.shown.changed.connect(self._on_changed)
        self.shown.failed.connect(self.failed)
        self.shown.said.connect(self.said)
        self.player.moved.connect(self.screen.go)
        self.player.moved.connect(self.wave.go)
        self.player.changed.connect(self._refresh)
        self.wave.sought.connect(self.player.go)
        self.wave.chose.connect(self._refresh)
        self.screen.wanted.connect(self._open_swing)
        self.list.itemClicked.connect(self._on_row)
        self.list.itemActivated.connect(self._on_row)
        self._open.opened.connect(self._on_opened)

    # The place

    def handlers(self) -> Handlers:
        return self._actions.table()

    def picture_parts(self) -> tuple[QWidget, ...]:
        return self.screen, self.wave

    def hints(self) -> str:
        return tr("space play    ← → a frame    drag over the voice to choose a stretch    F1 all keys")

    def enter(self) -> None:
        self.list_reviews()
        self.wave.setFocus()
        self._refresh()

    def leave(self) -> None:
        self.player.pause()

    def close_down(self) -> None:
        self.player.pause()
        self.screen.forget()

    def steps(self) -> Labels:
        history = self.shown.history
        return (history.undo_label, history.redo_label) if history is not None else super().steps()

    def undo(self) -> None:
        self.shown.undo()

    def redo(self) -> None:
        self.shown.redo()

    # Which review

    def _on_opened(self) -> None:
        # What is on show, or still being read, is of the student on the desk, never of who was there before.
        review, store = self.shown.now, self._open.store
        if review is None or store is None or not is_of(review, store.info.path, self._open.swing.golfer):
            self.shown.close()
            self.list.clear()
        if self.isVisible():
            self.list_reviews()

    def list_reviews(self) -> None:
        """The reviews that lie beside the clip on the desk."""
        clip = self._open.store.info.path if self._open.store is not None else None
        if clip is None:
            self.words.setText(tr("Open a swing of the student on the Bench first."))
            return
        golfer = self._open.swing.golfer
        self._listers.start(
            Operation(
                subject=lambda: (self._open.path, self._open.swing.golfer),
                work=lambda _: reviews_beside(clip, golfer),
                done=self._show_list,
            )
        )

    def _show_list(self, found: list[Lying]) -> None:
        self.list.clear()
        for one in found:
            stem = one.path.name.removesuffix(SUFFIX)
            told = tr("cannot be read")
            if one.review is not None:
                told = (
                    f"{brief_day(one.review.day, datetime.date.today())} · {clock_words(one.review.seconds)}"
                )
            words = f"{told}\n{stem.rpartition(' ')[0] or stem}"
            item = QListWidgetItem(words)
            item.setData(Qt.ItemDataRole.UserRole, str(one.path))
            item.setToolTip(tip(one.wrong or one.path.name))
            self.list.addItem(item)
        self._mark_row()
        none = tr(
            "None yet. On the Bench Ctrl+R begins one: what you show and say is kept, never the screen."
        )
        self.words.setText("" if found else none)
        readable = [one.path for one in found if one.review is not None]
        if self.shown.path not in readable:
            if self.shown.path is not None:
                self.shown.close()
            if readable:
                self.shown.open(readable[0])

    def _mark_row(self) -> None:
        """The row of the review on show stands out."""
        for row in range(self.list.count()):
            if self.list.item(row).data(Qt.ItemDataRole.UserRole) == str(self.shown.path):
                self.list.setCurrentRow(row)

    def _on_row(self, item: QListWidgetItem) -> None:
        self.shown.open(Path(item.data(Qt.ItemDataRole.UserRole)))

    def _on_heard(self, loaded: Loaded, same: bool) -> None:
        review = loaded.review
        marks = [(one.start_s, titled(one, review)) for one in chapters(review)]
        joins = list(accumulate(piece.seconds for piece in review.pieces))[:-1]
        self.screen.show_review(review, same=same)
        self.wave.show_review(review.seconds, loaded.samples, marks, joins)
        self.player.show_review(review.seconds, loaded.samples)
        self._refresh()
        self._mark_row()
        if not same:
            self.player.go(0.0)

    def _on_changed(self) -> None:
        self.wave.chosen = None
        if self.shown.now is None:
            self.player.pause()
            self.screen.show_review(None, same=False)
            self.wave.show_review(0.0, np.zeros(0, np.float32), [], [])
        self._refresh()

    def _open_swing(self, number: int) -> None:
        review = self.shown.now
        if review is None or number >= len(review.swings):
            return
        document, path = Path(review.swings[number].document), self.shown.path
        jobs = self.context.jobs

        def failed(error: Exception) -> None:
            self.screen.wrong[number] = str(error)
            self.screen.update()

        def work(_: Task) -> Opened:
            first, second = made
            return open_to_read(document, first.callbacks(), second.callbacks())

        made = ReplayedSwing(jobs), ReplayedSwing(jobs)
        self.screen.wrong[number] = tr("Opening the swing …")

        def done(opened: Opened) -> None:
            del self.screen.wrong[number]
            self.screen.have(number, replayed(made, opened))

        self._openers.start(
            Operation(subject=lambda: (path, self.shown.path), work=work, done=done, failed=failed)
        )

    def _refresh(self) -> None:
        there, chosen = self.shown.now is not None, self.wave.chosen is not None
        for key, button in self.buttons.items():
            button.setEnabled(there and (chosen or key not in ("cut", "trim")))
        self.buttons["play"].setText(tr("Pause") if self.player.playing else tr("Play"))
