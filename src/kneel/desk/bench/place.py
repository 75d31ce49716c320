"""The Bench put together: rack, strip, stage, reading, ribbon."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from kneel.desk.bench.marking import Marking
from kneel.desk.bench.rack import Rack
from kneel.desk.bench.reading import ReadingPane
from kneel.desk.bench.ribbon import Ribbon
from kneel.desk.bench.stage import Stage
from kneel.desk.bench.strip import Strip
from kneel.desk.swing import OpenSwing
from kneel.desk.theme import Look


class Bench(QWidget):
    """One swing at work."""

    def __init__(self, opened: OpenSwing, look: Look) -> None:
        super().__init__()
        self.stage = Stage(opened, look)
        self.marking = Marking(opened, self.stage)
        self.strip = Strip(opened, look)
        self.ribbon = Ribbon(opened, look)
        self.reading = ReadingPane(opened, look)
        self.rack = Rack(opened, look)
        self.strip.length_wanted.connect(self.stage.arm_length)
        self.stage.skipped.connect(self.marking.advance)
        self.strip.golfer_wanted.connect(self.stage.arm_golfer)
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.strip)
        column.addWidget(self.stage, 1)
        upper = QWidget()
        row = QHBoxLayout(upper)
        row.setContentsMargins(8, 0, 12, 0)
        row.setSpacing(12)
        row.addWidget(self.rack)
        row.addWidget(middle, 1)
        row.addWidget(self.reading)
        self.splitter = QSplitter(Qt.Orientation.Vertical)
        self.splitter.addWidget(upper)
        self.splitter.addWidget(self.ribbon)
        self.splitter.setStretchFactor(0, 1)
        self.splitter.setStretchFactor(1, 0)
        self.splitter.setCollapsible(0, False)
        self.splitter.setSizes([520, 224])
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self.splitter)
