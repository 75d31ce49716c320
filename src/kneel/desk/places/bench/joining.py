"""What other clips of the lesson say of the open one: their balls, and a sentence that joins two views."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer

from kneel.desk.places.bench.rack.rack import Rack
from kneel.desk.places.bench.rack.sets import Join, LessonTold
from kneel.desk.places.bench.reading.pane import ReadingPane
from kneel.desk.swing import OpenSwing
from kneel.judge import in_use
from kneel.speech.lesson import joined


class Joining(QObject):
    """Follows what the rack tells of the lesson; the sentence goes to the other clip at its place."""

    def __init__(self, opened: OpenSwing, rack: Rack, reading: ReadingPane, parent: QObject) -> None:
        super().__init__(parent)
        self._open, self._rack, self._reading = opened, rack, reading
        self._told: LessonTold | None = None
        self._join: Join | None = None
        rack.told.connect(self._take)
        opened.opened.connect(self._apply)
        reading.joined.clicked.connect(self.go)

    def _take(self, told: LessonTold) -> None:
        self._told = told
        self._apply()

    def _apply(self) -> None:
        """Say what the lesson knows of the open swing."""
        told, path = self._told, self._open.path
        if told is None or path is None or path not in told.glances:
            self._join = None
            self._reading.joined.show_words("")
            return
        self._open.take_balls(told.other_balls(path, self._open.swing.club))
        self._join = next((one for one in told.joins if one.side_of(path) is not None), None)
        self._reading.joined.show_words(self._words(path))

    def _words(self, path: object) -> str:
        join, faults = self._join, in_use().faults
        if join is None or not {join.root, join.effect} <= faults.keys():
            return ""
        here = join.views[join.side_of(path) or 0]  # type: ignore[arg-type]
        return joined(faults[join.root], faults[join.effect], *join.views, here)

    def go(self) -> None:
        """Open the other clip where it shows its part."""
        join = self._join
        side = None if join is None else join.side_of(self._open.path)
        if join is None or side is None:
            return
        other = 1 - side
        fault, checkpoint = (join.root, join.effect)[other], join.checkpoints[other]

        def arrive() -> None:
            self._open.selection.choose(fault)
            self._open.go_to(checkpoint)

        def once() -> None:
            self._open.opened.disconnect(once)
            QTimer.singleShot(0, arrive)

        self._open.opened.connect(once)
        self._rack.wanted.emit(join.typical[other])
