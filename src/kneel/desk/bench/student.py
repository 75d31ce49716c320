"""The picture alone with one plain sentence, for a student who stands two metres off."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.bench.layout import Layout
from kneel.desk.stage.stage import Stage
from kneel.desk.swing import OpenSwing
from kneel.desk.words import tr
from kneel.speech.plain import plain_sentence


class StudentView(QObject):
    """Turns the Bench into the stage alone and back; ``changed`` tells which."""

    changed = pyqtSignal(bool)

    def __init__(self, opened: OpenSwing, stage: Stage, layout: Layout) -> None:
        super().__init__(stage)
        self._open, self._stage, self._layout = opened, stage, layout
        self.on = False
        for signal in (opened.selection.chose, opened.numbers.renewed, opened.opened):
            signal.connect(self._say)

    def toggle(self) -> None:
        """Show the picture alone, or everything again."""
        self.show(not self.on)

    def show(self, on: bool) -> None:
        """Show the picture alone where ``on``."""
        if on == self.on:
            return
        self.on = self._stage.large = on
        self._layout.show_alone(on)
        self._say()
        self._stage.setFocus()
        self.changed.emit(on)

    def _say(self) -> None:
        finding = self._open.selection.finding
        words = ""
        if self.on:
            words = plain_sentence(finding, self._open.swing.hand) if finding else ""
            words = words or tr("Nothing to mend is chosen.")
        self._stage.caption = words
        self._stage.update()
