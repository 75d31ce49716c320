"""The picture alone with one plain sentence, for a student who stands two metres off."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.places.bench.layout import Layout
from kneel.desk.stage.stage import Stage
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.speech.home import plain
from kneel.speech.moments import moment_title, moment_words
from kneel.speech.plain import plain_sentence


class StudentView(QObject):
    """Turns the Bench into the stage alone and back; ``changed`` tells which."""

    changed = pyqtSignal(bool)

    def __init__(self, opened: OpenSwing, stage: Stage, layout: Layout) -> None:
        super().__init__(stage)
        self._open, self._stage, self._layout = opened, stage, layout
        self.on = False
        for signal in (opened.selection.chose, opened.numbers.renewed, opened.opened, opened.cursor.moved):
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
        self._stage.say(self._words() if self.on else "")

    def _words(self) -> str:
        """What this moment shows, at a checkpoint; between them what the swing does, as one says it."""
        finding, analysis = self._open.selection.finding, self._open.analysis
        moment, hand = self._open.checkpoint, self._open.swing.hand
        if finding is None or analysis is None:
            return tr("Nothing to mend is chosen.")
        sentence = plain(plain_sentence(finding, hand), hand)
        if moment is not None and moment != finding.checkpoint:
            shown = moment_words(finding, analysis, moment, hand)
            if shown:
                sentence = f"{moment_title(moment, hand)}: {shown}."
        return sentence or tr("Nothing to mend is chosen.")
