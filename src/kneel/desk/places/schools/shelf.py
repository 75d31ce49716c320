"""The instructor's own schools as they are shaped: every step is kept at once, and can be taken back."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations import Lane, Operation
from kneel.desk.widgets.language import tr
from kneel.judge.knowledge import own_folder, shipped
from kneel.judge.records import School
from kneel.judge.shaping import ShapingError, keep, own_schools, whole_of
from kneel.model import History

Own = tuple[School, ...]


class Shelf(QObject):
    """Own schools, oldest first. ``changed`` tells that they are others, ``kept`` that a file was written and
    all that is judged should be judged anew; ``failed`` carries a sentence.
    """

    changed = pyqtSignal()
    kept = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, parent: QObject, folder: Path | None = None) -> None:
        super().__init__(parent)
        self.folder = folder or own_folder()
        self.history: History[Own] = History(())
        self._texts: dict[str, str] = {}
        self._lane = Lane(self)
        self._read_before = False

    @property
    def own(self) -> Mapping[str, School]:
        """The own schools by key."""
        return {one.key: one for one in self.history.now}

    @property
    def busy(self) -> bool:
        """Whether something is still being kept."""
        return self._lane.busy

    def read(self, *, anew: bool = False) -> None:
        """Read the folder, once, or ``anew``."""
        if self._read_before and not anew:
            return
        self._read_before = True
        folder = self.folder
        self._lane.start(
            Operation(
                work=lambda _: own_schools(folder),
                done=self._take,
                failed=lambda error: self.failed.emit(str(error)),
            )
        )

    def _take(self, found: Mapping[str, tuple[School, str]]) -> None:
        self._texts = {key: text for key, (_, text) in found.items()}
        self.history = History(tuple(school for school, _ in found.values()))
        self.changed.emit()

    def whole(self, key: str) -> School:
        """A school with all it stands on, own or shipped. Raises :class:`ShapingError` or ``UsageError``."""
        own = self.own
        return whole_of(own[key], own) if key in own else shipped().school(key)

    def put(self, label: str, school: School) -> None:
        """Put an own school in place of the one of its key, or beside the others. Raises
        :class:`ShapingError` where it could not be read afterwards.
        """
        now = self.history.now
        new = tuple(school if one.key == school.key else one for one in now)
        self._step(label, new if school.key in self.own else (*now, school))

    def take_away(self, key: str) -> None:
        """Take an own school away. Raises :class:`ShapingError` where another stands on it."""
        held = next((one.title for one in self.history.now if one.based_on == key), "")
        if held:
            raise ShapingError(f"“{held}” stands on it. Take that away first; nothing was changed.")
        self._step(tr("Take the school away"), tuple(one for one in self.history.now if one.key != key))

    def undo(self) -> None:
        """Take the last step back."""
        before = self.history.now
        if self.history.undo():
            self._write(before)

    def redo(self) -> None:
        """Take it again."""
        before = self.history.now
        if self.history.redo():
            self._write(before)

    def _step(self, label: str, new: Own) -> None:
        before = self.history.now
        if self.history.push(label, new):
            self._write(before)

    def _write(self, before: Own) -> None:
        """Keep what differs, in the order in which it came about."""
        was, now = {one.key: one for one in before}, self.own
        folder, texts = self.folder, self._texts

        def work(_: object) -> None:
            for key in [*now, *(key for key in was if key not in now)]:
                if was.get(key) != now.get(key):
                    text = keep(folder, key, now.get(key), texts.get(key))
                    if text is None:
                        texts.pop(key, None)
                    else:
                        texts[key] = text

        self.changed.emit()
        self._lane.start(Operation(work=work, done=lambda _: self.kept.emit(), failed=self._cannot))

    def _cannot(self, error: Exception) -> None:
        self.failed.emit(str(error))
        self.read(anew=True)
