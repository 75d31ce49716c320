"""The Review: what was recorded, seen and heard again, cut, said anew in places, and written as a film."""

from __future__ import annotations

import contextlib
import datetime
from collections.abc import Callable
from dataclasses import dataclass
from itertools import accumulate
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QFileDialog,
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
from kneel.desk.places.review.bar import clock_words
from kneel.desk.places.review.film import titled, write_film
from kneel.desk.places.review.player import ReviewPlayer
from kneel.desk.places.review.screen import Screen
from kneel.desk.places.review.wave import Wave
from kneel.desk.places.undoing import Undoing
from kneel.desk.records.output_paths import OutputKeeper
from kneel.desk.records.practice import Practice
from kneel.desk.records.undo import Labels
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.opening import Opened, open_to_read
from kneel.desk.swing.replayed import ReplayedSwing, replayed
from kneel.desk.widgets.card import CardBackground
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.text import Label, tip
from kneel.disk import shown
from kneel.documents.swing_file import why
from kneel.model import History, KneelError
from kneel.model.review import Review
from kneel.model.take import FileRef
from kneel.review.beside import Lying, film_name, reviews_beside
from kneel.review.edits import chapters, cut, trim
from kneel.review.file import SUFFIX, files_of, load_review, save_review
from kneel.review.sound import spoken
from kneel.review.voice import read_voice
from kneel.speech.practice import brief_day

WIDE = 230
FRAME_S = 1 / 30


@dataclass(frozen=True)
class Loaded:
    """A review as it was read, with what is heard of it."""

    path: Path
    review: Review
    samples: np.ndarray
    notes: tuple[str, ...]


def _load(path: Path) -> Loaded:
    review = load_review(path)
    return Loaded(path, review, *spoken(review))


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
        self._open, self._context = opened, context
        look = context.look
        self.path: Path | None = None
        self.history: History[Review] | None = None
        self.screen, self.wave, self.player = Screen(look), Wave(look), ReviewPlayer(self)
        self.list, self.words = QListWidget(), Label()
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setFrameShape(QListWidget.Shape.NoFrame)
        self.list.setSpacing(2)
        self.list.setAccessibleName(tr("Reviews of this student"))
        self._readers = Lane(self, newest=True)
        self._listers = Lane(self, newest=True)
        self._openers = Lane(self, context.jobs, tr("opening the review’s swing"))
        self._savers = Lane(self)
        self._films = Lane(self, context.jobs, tr("writing the film of the review"))
        self.buttons: dict[str, QPushButton] = {}
        self._build()
        self._connect()

    def _build(self) -> None:
        left = CardBackground(self._context.look)
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
        return {
            "play": self.player.toggle,
            "back": lambda: self.player.go(self.player.at - FRAME_S),
            "on": lambda: self.player.go(self.player.at + FRAME_S),
            "back_ten": lambda: self.player.go(self.player.at - 1.0),
            "on_ten": lambda: self.player.go(self.player.at + 1.0),
            "first": lambda: self.player.go(0.0),
            "last": lambda: self.player.go(self.player.seconds),
            "review_play": self.player.toggle,
            "review_cut": self.cut_out,
            "review_trim": self.keep_only,
            "review_again": self.say_anew,
            "review_under": self.choose_sound,
            "review_film": self.choose_film,
            "review_delete": self.ask_to_delete,
        }

    def picture_parts(self) -> tuple[QWidget, ...]:
        return self.screen, self.wave

    def hints(self) -> str:
        return tr("space play    ← → a frame    drag over the voice to choose a stretch    F1 all keys")

    def enter(self) -> None:
        self._list()
        self.wave.setFocus()
        self._refresh()

    def leave(self) -> None:
        self.player.pause()

    def close_down(self) -> None:
        self.player.pause()
        self.screen.forget()

    def steps(self) -> Labels:
        if self.history is None:
            return super().steps()
        return self.history.undo_label, self.history.redo_label

    def undo(self) -> None:
        if self.history is not None and self.history.undo():
            self._changed()

    def redo(self) -> None:
        if self.history is not None and self.history.redo():
            self._changed()

    # Which review

    def _on_opened(self) -> None:
        if self.isVisible():
            self._list()

    def _list(self) -> None:
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
            if one.path == self.path:
                self.list.setCurrentItem(item)
        none = tr(
            "None yet. On the Bench Ctrl+R begins one: what you show and say is kept, never the screen."
        )
        self.words.setText("" if found else none)
        if self.path is None and found and found[0].review is not None:
            self.open(found[0].path)

    def _on_row(self, item: QListWidgetItem) -> None:
        self.open(Path(item.data(Qt.ItemDataRole.UserRole)))

    def open(self, path: Path) -> None:
        """Show a review."""
        self._readers.start(
            Operation(work=lambda _: _load(path), done=self._take, failed=lambda e: self.failed.emit(str(e)))
        )

    def _take(self, loaded: Loaded) -> None:
        same = loaded.path == self.path
        self.path = loaded.path
        if not same or self.history is None:
            self.history = History(loaded.review)
        elif loaded.review != self.history.now:
            self.history.push(tr("Say a stretch anew"), loaded.review)
        self._show(loaded.samples, same=same)
        for note in loaded.notes:
            self.failed.emit(note)
        if not same:
            self.player.go(0.0)

    def _show(self, samples: np.ndarray, *, same: bool) -> None:
        assert self.history is not None
        review = self.history.now
        marks = [(one.start_s, titled(one, review)) for one in chapters(review)]
        joins = list(accumulate(piece.seconds for piece in review.pieces))[:-1]
        self.screen.show_review(review, same=same)
        self.wave.show_review(review.seconds, samples, marks, joins)
        self.player.show_review(review.seconds, samples)
        self._refresh()

    def _open_swing(self, number: int) -> None:
        if self.history is None or number >= len(self.history.now.swings):
            return
        document, path = Path(self.history.now.swings[number].document), self.path
        jobs = self._context.jobs

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

        self._openers.start(Operation(subject=lambda: (path, self.path), work=work, done=done, failed=failed))

    # Edits

    def _change(self, label: str, edit: Callable[[Review], Review]) -> None:
        if self.history is None:
            return
        try:
            made = edit(self.history.now)
        except ValueError as error:
            self.said.emit(str(error).capitalize() + ".")
            return
        if self.history.push(label, made):
            self._changed()

    def _changed(self) -> None:
        """Another state: what is heard is made anew, and it is saved."""
        assert self.history is not None and self.path is not None
        review, path = self.history.now, self.path
        self.wave.chosen = None

        def work(_: Task) -> Loaded:
            save_review(path, review)
            return Loaded(path, review, *spoken(review))

        def done(loaded: Loaded) -> None:
            if self.history is not None and loaded.review is self.history.now:
                self._show(loaded.samples, same=True)

        self._savers.start(Operation(work=work, done=done, failed=lambda e: self.failed.emit(str(e))))
        self._refresh()

    def cut_out(self) -> None:
        """Take the chosen stretch out."""
        chosen = self._stretch()
        if chosen is not None:
            self._change(tr("Cut out a stretch"), lambda review: cut(review, *chosen))

    def keep_only(self) -> None:
        """Keep the chosen stretch alone."""
        chosen = self._stretch()
        if chosen is not None:
            self._change(tr("Keep a stretch alone"), lambda review: trim(review, *chosen))

    def _stretch(self) -> tuple[float, float] | None:
        if self.wave.chosen is None:
            self.said.emit(tr("Drag over the voice to choose a stretch first."))
        return self.wave.chosen

    def say_anew(self) -> None:
        """Say the chosen stretch anew, or all from here on."""
        if self.history is not None and self.path is not None:
            self.player.pause()
            stretch = self.wave.chosen or (self.player.at, self.history.now.seconds)
            self.again.emit(self.history.now, self.path, stretch)

    def choose_sound(self) -> None:
        """Ask for a sound file to be laid under the review."""
        if self.history is None:
            return
        kinds = "*.wav *.mp3 *.m4a *.flac *.ogg *.opus"
        name, _ = QFileDialog.getOpenFileName(self, tr("Lay a sound file under it"), "", kinds)
        if name:
            self.lay_under(Path(name))

    def lay_under(self, sound: Path) -> None:
        """Lay a sound file under the first take, from its beginning."""
        history, path = self.history, self.path
        if history is None or path is None:
            return
        voice = path.with_name(f"{path.name.removesuffix(SUFFIX)}.voice-1{sound.suffix.lower()}")

        def work(_: Task) -> Path:
            read_voice(sound)
            try:
                target = voice
                if sound.resolve() != voice.resolve():
                    number = 1
                    while target.exists():
                        number += 1
                        target = voice.with_name(f"{voice.stem} {number}{voice.suffix}")
                    target.write_bytes(sound.read_bytes())
                    target.chmod(0o600)
            except OSError as error:
                raise KneelError(
                    f"{shown(sound.name)} could not be kept beside the review ({why(error)}); "
                    "nothing was changed."
                ) from error
            self._keeper().note(target)
            return target

        def done(target: Path) -> None:
            take = replace(history.now.takes[0], voice=FileRef(str(target)), late_s=0.0, pace=1.0)
            self._change(
                tr("Lay a sound file under it"),
                lambda review: replace(review, takes=(take, *review.takes[1:])),
            )

        self._savers.start(Operation(work=work, done=done, failed=lambda e: self.failed.emit(str(e))))

    # Out

    def _keeper(self) -> OutputKeeper:
        assert self.history is not None
        review = self.history.now
        first, *rest = review.swings
        documents = [Path(one.document) for one in rest]
        return OutputKeeper(
            self._context.records.books, Path(first.clip.path), Path(first.document), review.golfer, documents
        )

    def choose_film(self) -> None:
        """Choose how it is written."""
        choices = [
            Choice(tr("Wide (1280 × 720)"), lambda: self.write(upright=False)),
            Choice(tr("Upright (720 × 1280)"), lambda: self.write(upright=True)),
        ]
        Chooser(self.window(), self._context.look, tr("Save as film"), choices, typing=False).open(
            self.buttons["film"]
        )

    def write(self, *, upright: bool) -> None:
        """Write the film beside the clip, in the process beside the desk."""
        if self.history is None or self.path is None or not self.history.now.swings:
            return
        path, beside, keeper = self.path, self._context.beside, self._keeper()

        def work(task: Task) -> tuple[Path, tuple[str, ...]] | None:
            out = film_name(path)
            notes = beside.call(
                write_film,
                path,
                out,
                upright=upright,
                long=True,
                progress=task.progress,
                stopped=task.stopped,
            )
            if notes is None:
                return None
            keeper.note(out)
            return out, notes

        def done(made: tuple[Path, tuple[str, ...]] | None) -> None:
            if made is not None:
                self.said.emit(" ".join((tr("Saved as %s.") % shown(f"kept/{made[0].name}"), *made[1])))

        self._films.start(Operation(work=work, done=done, failed=lambda e: self.failed.emit(str(e))))

    def ask_to_delete(self) -> None:
        """Ask whether the review on show is to go."""
        if self.path is None:
            return
        choices = [
            Choice(tr("Delete %s for good") % shown(self.path.name), self.delete),
            Choice(tr("Keep it"), lambda: None),
        ]
        Chooser(self.window(), self._context.look, tr("Delete the review?"), choices, typing=False).open(None)

    def delete(self) -> None:
        """Take the review and its voices away."""
        path, history = self.path, self.history
        if path is None or history is None:
            return
        self.player.pause()
        self.path = self.history = None
        self.screen.show_review(None, same=False)
        self.wave.show_review(0.0, np.zeros(0, np.float32), [], [])

        def work(_: Task) -> None:
            for file in files_of(path, history.now):
                with contextlib.suppress(OSError):
                    file.unlink(missing_ok=True)

        self._savers.start(Operation(work=work, ended=self._list))
        self._refresh()

    def _refresh(self) -> None:
        there, chosen = self.history is not None, self.wave.chosen is not None
        for key, button in self.buttons.items():
            button.setEnabled(there and (chosen or key not in ("cut", "trim")))
        self.buttons["play"].setText(tr("Pause") if self.player.playing else tr("Play"))
