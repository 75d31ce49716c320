"""What lies on the disk for the Trainer, read and written off the interface thread: swings, and answers."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations import Lane, Operation
from kneel.trainer import stock
from kneel.trainer.answers import answers_file, forget_answers, keep_answer, read_answers
from kneel.trainer.records import Answer, Settings
from kneel.trainer.stock import OnShelf


class StockShelf(QObject):
    """The swings that can be shown. ``changed`` tells of more, or fewer."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject, folder: Path | None) -> None:
        super().__init__(parent)
        self.folder = stock.stock_folder() if folder is None else folder / "stock"
        self.swings: list[OnShelf] = []
        self.answered: Callable[[], set[str]] = set
        self._readers = Lane(self)

    def read(self) -> None:
        """Read all there is, once."""
        if not self.swings:
            self._readers.start(Operation(work=lambda _: stock.listed(self.folder), done=self._take))

    def add(self, name: str) -> None:
        """One more was made."""
        work = lambda _: stock.read(self.folder / name)  # noqa: E731
        self._readers.start(Operation(work=work, done=lambda one: self._take([*self.swings, one])))

    def drop(self, one: OnShelf) -> None:
        """One cannot be shown."""
        self._take([other for other in self.swings if other is not one])

    def fitting(self, settings: Settings) -> list[OnShelf]:
        """Those that settings ask for."""
        return [one for one in self.swings if stock.fits(one.stocked, settings)]

    def make_room(self) -> bool:
        """Whether there is room for one more; takes answered ones away. Not for the interface thread."""
        return stock.make_room(self.folder, self.answered())

    def _take(self, swings: list[OnShelf]) -> None:
        self.swings = swings
        self.changed.emit()


class AnswerShelf(QObject):
    """The answers given at this desk. ``changed`` tells of more; ``failed`` carries a sentence."""

    changed = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, parent: QObject, folder: Path | None) -> None:
        super().__init__(parent)
        self.path = answers_file() if folder is None else folder / "answers.jsonl"
        self.answers: list[Answer] = []
        self._unkept: list[Answer] = []
        self._lane = Lane(self)

    def read(self) -> None:
        """Read what any desk has written since."""
        self._start(lambda: read_answers(self.path), self._take)

    def keep(self, answer: Answer) -> None:
        """Keep an answer; one of a class belongs to who gave it and stays out of these."""
        if answer.by:
            return
        self.answers.append(answer)
        self._unkept.append(answer)
        self.changed.emit()
        self._start(lambda: keep_answer(self.path, answer), lambda _: self._kept(answer))

    def _kept(self, answer: Answer) -> None:
        if answer in self._unkept:
            self._unkept.remove(answer)

    def forget(self) -> None:
        """Take all away for good."""
        self.answers, self._unkept = [], []
        self.changed.emit()
        # What is answered from now on is kept after this.
        self._start(lambda: forget_answers(self.path), lambda _: None)

    def _take(self, answers: list[Answer]) -> None:
        self.answers = [*answers, *(one for one in self._unkept if one not in answers)]
        self.changed.emit()

    def _start(self, work: Callable[[], object], done: Callable[..., None]) -> None:
        self._lane.start(
            Operation(work=lambda _: work(), done=done, failed=lambda error: self.failed.emit(str(error)))
        )

    def settle(self, seconds: float) -> bool:
        """Wait until all is written."""
        return self._lane.settle(seconds)
