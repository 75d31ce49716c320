"""How reviews go between the places: recorded on the Bench, shown in the Review, said anew on the Bench."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations import Lane, Operation
from kneel.desk.places.bench.view import Bench
from kneel.desk.places.context import Context
from kneel.desk.places.place import Handlers, Place
from kneel.desk.places.review.bar import RecordBar
from kneel.desk.places.review.recorder import Doing, Recorder
from kneel.desk.places.review.shelf import take_up_broken
from kneel.desk.places.review.view import ReviewPlace
from kneel.desk.swing.two_takes import TwoTakes
from kneel.desk.widgets.language import tr
from kneel.disk import shown
from kneel.model.review import Review
from kneel.review.file import SUFFIX


class Reviewing(QObject):
    """Recorder, its bar and the Review. ``wanted`` asks for a place, ``opens`` for a document on the desk;
    ``failed`` and ``said`` carry sentences.
    """

    wanted = pyqtSignal(object)
    opens = pyqtSignal(Path)
    failed = pyqtSignal(str)
    said = pyqtSignal(str)

    def __init__(self, takes: TwoTakes, bench: Bench, place: ReviewPlace, context: Context) -> None:
        super().__init__(bench)
        self._takes, self._bench, self._place = takes, bench, place
        self.recorder = Recorder(takes, bench.stage, context)
        self.bar = RecordBar(self.recorder, bench.stage, context)
        self._looking = Lane(self, newest=True)
        self._once: tuple[Review, Path, tuple[float, float]] | None = None
        for part in (self.recorder, place):
            part.failed.connect(self.failed)
        self.recorder.said.connect(self.said)
        self.recorder.ended.connect(self._show)
        place.again.connect(self._say_anew)
        place.wanted.connect(lambda: self.wanted.emit(place))
        takes.first.opened.connect(self._on_opened)

    def handlers(self) -> Handlers:
        """The actions that hold everywhere."""
        return {
            "to_review": lambda: self.wanted.emit(self._place),
            "record_review": self._toggle,
            "pause_review": self.recorder.pause,
            "choose_microphone": self.bar.choose_device,
        }

    def close_down(self, seconds: float) -> None:
        """The desk closes: what is being recorded is kept."""
        self.recorder.wait(seconds)

    def left(self, place: Place) -> None:
        """Another place is on show: what happens there is not what is recorded."""
        if place is not self._bench and self.recorder.doing is Doing.RECORDING:
            self.recorder.pause()

    def _toggle(self) -> None:
        if self.recorder.doing is Doing.NOTHING:
            self.wanted.emit(self._bench)
        self.recorder.toggle()

    def _show(self, document: Path) -> None:
        self.said.emit(tr("The review is kept with the swing: %s") % shown(document.name))
        self._place.shown.open(document)
        self.wanted.emit(self._place)

    def _say_anew(self, review: Review, document: Path, stretch: tuple[float, float]) -> None:
        self._once = review, document, stretch
        self.wanted.emit(self._bench)
        swing = Path(review.swings[0].document) if review.swings else None
        if swing is None or self._takes.first.path == swing:
            self._begin_anew()
        else:
            self.opens.emit(swing)

    def _begin_anew(self) -> None:
        once, self._once = self._once, None
        if once is not None:
            self.recorder.take_up(*once)

    def _on_opened(self) -> None:
        first = self._takes.first
        if self._once is not None and self._once[0].swings:
            if first.path == Path(self._once[0].swings[0].document):
                self._begin_anew()
            else:
                self._once = None
        store = first.store
        if store is None or self.recorder.doing is not Doing.NOTHING:
            return
        clip = store.info.path
        self._looking.start(
            Operation(
                work=lambda _: take_up_broken(clip),
                done=self._tell_broken,
                failed=lambda error: self.failed.emit(str(error)),
            )
        )

    def _tell_broken(self, found: list[Path]) -> None:
        for path in found:
            words = tr(
                "A review was being recorded when Kneel ended; it was kept: %s. It stands in the Review."
            )
            self.failed.emit(words % shown(path.name.removesuffix(SUFFIX)))
