"""How the Bench's parts lie: a wide stage over the ribbon, or one as high as the window with all else beside
it.
"""

from __future__ import annotations

from enum import Enum

from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout, QWidget

MARGIN, SPACING = 8, 10
UPRIGHT_FROM = 1.05
"""A picture this many times as high as it is wide was filmed upright."""


class Lie(Enum):
    """The two ways of lying."""

    WIDE = "wide"
    UPRIGHT = "upright"


class Layout(QWidget):
    """Holds the parts and lays them one way or the other; which one is remembered for each kind of clip."""

    def __init__(
        self,
        settings: QSettings,
        rack: QWidget,
        strip: QWidget,
        stage: QWidget,
        reading: QWidget,
        ribbon: QWidget,
    ) -> None:
        super().__init__()
        self._settings = settings
        self._rack, self._strip, self._stage = rack, strip, stage
        self._reading, self._ribbon = reading, ribbon
        self._upright_clip = False
        self.lie: Lie | None = None
        self.alone = False
        self._split: QSplitter | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        self._take(Lie.WIDE)

    def suit(self, width: int, height: int) -> None:
        """Lie as suits a clip of this size, or as was chosen for such clips."""
        self._upright_clip = height > UPRIGHT_FROM * width
        self._take(self._remembered())

    def turn(self) -> None:
        """Lie the other way, and so for all clips of this kind from now on."""
        other = Lie.UPRIGHT if self.lie is Lie.WIDE else Lie.WIDE
        self._settings.setValue(self._key, other.value)
        self._take(other)

    def show_alone(self, alone: bool) -> None:
        """The stage alone, or everything again."""
        self.alone = alone
        for row in self.findChildren(QHBoxLayout):
            if row.indexOf(self._rack) >= 0:
                row.setContentsMargins(*((0, 0, 0, 0) if alone else (MARGIN, 0, MARGIN + 4, 0)))
        for part in (self._rack, self._strip, self._reading, self._ribbon):
            part.setVisible(not alone)

    def keep(self) -> None:
        """Remember where the splitter stands."""
        if self._split is not None and self.lie is not None:
            self._settings.setValue(f"splitter {self.lie.value}", self._split.saveState())

    @property
    def _key(self) -> str:
        return "layout of upright clips" if self._upright_clip else "layout of wide clips"

    def _remembered(self) -> Lie:
        usual = Lie.UPRIGHT if self._upright_clip else Lie.WIDE
        try:
            return Lie(str(self._settings.value(self._key, usual.value)))
        except ValueError:
            return usual

    def _take(self, lie: Lie) -> None:
        if lie is self.lie:
            return
        self.keep()
        self.lie = lie
        for part in (self._rack, self._strip, self._stage, self._reading, self._ribbon):
            part.setParent(self)
        layout = self.layout()
        assert layout is not None
        while layout.count():
            item = layout.takeAt(0)
            if item is not None and (old := item.widget()) is not None:
                old.deleteLater()
        self._split = QSplitter(Qt.Orientation.Vertical)
        self._split.setChildrenCollapsible(False)
        self._split.setHandleWidth(SPACING)
        layout.addWidget(self._upright() if lie is Lie.UPRIGHT else self._wide())
        for part in (self._rack, self._strip, self._stage, self._reading, self._ribbon):
            part.show()
        state = self._settings.value(f"splitter {lie.value}")
        if state:
            self._split.restoreState(state)
        if self.alone:
            self.show_alone(True)

    def _wide(self) -> QWidget:
        self._reading.lie(beside=False)
        self._rack.lie(upright=False)
        right, lower, upper = QWidget(), QWidget(), QWidget()
        row = _row(lower)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self._stage, 1)
        row.addWidget(self._reading)
        column = _column(right)
        column.addWidget(self._strip)
        column.addWidget(lower, 1)
        row = _row(upper)
        row.addWidget(self._rack)
        row.addWidget(right, 1)
        assert self._split is not None
        self._split.addWidget(upper)
        self._split.addWidget(self._ribbon)
        self._split.setStretchFactor(0, 1)
        self._split.setStretchFactor(1, 0)
        self._split.setSizes([520, 224])
        return self._split

    def _upright(self) -> QWidget:
        self._reading.lie(beside=True)
        self._rack.lie(upright=True)
        whole, side = QWidget(), QWidget()
        assert self._split is not None
        self._split.addWidget(self._reading)
        self._split.addWidget(self._ribbon)
        self._split.setStretchFactor(0, 1)
        self._split.setStretchFactor(1, 1)
        self._split.setSizes([360, 320])
        column = _column(side)
        column.addWidget(self._strip)
        column.addWidget(self._split, 1)
        row = _row(whole)
        row.addWidget(self._rack)
        row.addWidget(self._stage, 5)
        row.addWidget(side, 7)
        return whole


def _column(widget: QWidget) -> QVBoxLayout:
    column = QVBoxLayout(widget)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(SPACING)
    return column


def _row(widget: QWidget) -> QHBoxLayout:
    row = QHBoxLayout(widget)
    row.setContentsMargins(MARGIN, 0, MARGIN + 4, 0)
    row.setSpacing(SPACING)
    return row
