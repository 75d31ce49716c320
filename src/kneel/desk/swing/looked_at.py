"""A swing that is looked at and never worked on: in a review, and in the Trainer."""

from __future__ import annotations

from kneel.desk.swing.opening import Callbacks, Opened
from kneel.desk.swing.shown import SwingShown
from kneel.evidence import Stretch
from kneel.model import Swing


class LookedAtSwing(SwingShown):
    """One clip; nobody keeps its document, and nothing of it is saved."""

    def callbacks(self) -> Callbacks:
        """What its frame store tells it."""
        return Callbacks(self, self.picture_ready.emit, self.filling.emit, self.failed.emit)

    def take_up(self, opened: Opened, swing: Swing) -> None:
        """Show what was opened, from its first frame; ``swing`` is its document as shown."""
        self._open = opened
        self.document.begin(swing)
        store = opened.store
        self._stretch = Stretch.of(swing, store.info, opened.content, store.peek)
        self.cursor.begin(len(self._stretch), 0)
        store.start(self.first)
        self.numbers.begin(opened.figures)
        self.selection.begin()
        self.aim.begin()
        self.opened.emit()

    def let_go(self) -> None:
        """Nobody looks at it any more."""
        if self._open is not None:
            self._open.let_go()
            self._open = None
