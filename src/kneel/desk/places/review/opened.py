"""The review on show: read, changed with undo and saved with every change, until another takes its place."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations import Lane, Operation, Task
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.documents.swing_file import why
from kneel.model import History, KneelError
from kneel.model.review import Review
from kneel.model.take import FileRef
from kneel.review.file import SUFFIX, files_of, load_review, save_review
from kneel.review.sound import spoken
from kneel.review.voice import read_voice


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


class OpenReview(QObject):
    """``heard`` tells a review with its sound and whether it was on show before; ``changed`` that there is
    another state, of which the sound is being made; ``failed`` and ``said`` carry a sentence.
    """

    heard = pyqtSignal(object, bool)
    changed = pyqtSignal()
    failed = pyqtSignal(str)
    said = pyqtSignal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.path: Path | None = None
        self.history: History[Review] | None = None
        self._readers, self._savers = Lane(self, newest=True), Lane(self)

    @property
    def now(self) -> Review | None:
        """The review as it stands."""
        return self.history.now if self.history is not None else None

    def open(self, path: Path) -> None:
        """Show a review."""
        self._readers.start(Operation(work=lambda _: _load(path), done=self._take, failed=self._fail))

    def _take(self, loaded: Loaded) -> None:
        same = loaded.path == self.path
        self.path = loaded.path
        if not same or self.history is None:
            self.history = History(loaded.review)
        elif loaded.review != self.history.now:
            self.history.push(tr("Say a stretch anew"), loaded.review)
        self.heard.emit(loaded, same)
        for note in loaded.notes:
            self.failed.emit(note)

    def _fail(self, error: Exception) -> None:
        self.failed.emit(str(error))

    def change(self, label: str, edit: Callable[[Review], Review]) -> None:
        """Change it as one undoable step; a change that cannot be is said and changes nothing."""
        if self.history is None:
            return
        try:
            made = edit(self.history.now)
        except ValueError as error:
            self.said.emit(str(error).capitalize() + ".")
            return
        if self.history.push(label, made):
            self._save()

    def undo(self) -> None:
        if self.history is not None and self.history.undo():
            self._save()

    def redo(self) -> None:
        if self.history is not None and self.history.redo():
            self._save()

    def _save(self) -> None:
        """Another state: it is saved, and what is heard of it made anew."""
        review, path = self.now, self.path
        assert review is not None and path is not None

        def work(_: Task) -> Loaded:
            save_review(path, review)
            return Loaded(path, review, *spoken(review))

        def done(loaded: Loaded) -> None:
            if loaded.review is self.now:
                self.heard.emit(loaded, True)

        self._savers.start(Operation(work=work, done=done, failed=self._fail))
        self.changed.emit()

    def lay_under(self, sound: Path, note: Callable[[Path], object]) -> None:
        """Lay a sound file under the first take, from its beginning; ``note`` is told what is kept for it."""
        path = self.path
        if path is None:
            return
        voice = path.with_name(f"{path.name.removesuffix(SUFFIX)}.voice-1{sound.suffix.lower()}")

        def work(_: Task) -> Path:
            read_voice(sound)
            target = _copied(sound, voice)
            note(target)
            return target

        def lay(review: Review, target: Path) -> Review:
            take = replace(review.takes[0], voice=FileRef(str(target)), late_s=0.0, pace=1.0)
            return replace(review, takes=(take, *review.takes[1:]))

        def done(target: Path) -> None:
            self.change(tr("Lay a sound file under it"), lambda review: lay(review, target))

        def drop(target: Path) -> None:
            if target != sound.resolve():
                self._savers.start(Operation(work=lambda _: target.unlink(missing_ok=True)))

        self._savers.start(
            Operation(subject=lambda: self.path, work=work, done=done, drop=drop, failed=self._fail)
        )

    def close(self) -> None:
        """Show none."""
        self._readers.stop()
        self.path = self.history = None
        self.changed.emit()

    def delete(self, ended: Callable[[], None]) -> None:
        """Take the review and its voices away."""
        path, review = self.path, self.now
        if path is None or review is None:
            return
        self.close()

        def work(_: Task) -> None:
            for file in files_of(path, review):
                with contextlib.suppress(OSError):
                    file.unlink(missing_ok=True)

        self._savers.start(Operation(work=work, ended=ended))


def _copied(sound: Path, voice: Path) -> Path:
    """Keep a sound file as ``voice`` beside the review, under a name that is free."""
    target = voice
    try:
        if sound.resolve() != voice.resolve():
            number = 1
            while target.exists():
                number += 1
                target = voice.with_name(f"{voice.stem} {number}{voice.suffix}")
            target.write_bytes(sound.read_bytes())
            target.chmod(0o600)
    except OSError as error:
        raise KneelError(
            f"{shown(sound.name)} could not be kept beside the review ({why(error)}); nothing was changed."
        ) from error
    return target
