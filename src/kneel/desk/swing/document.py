"""The document with its undo, and the change under way."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.model import CHECKPOINTS, History, Mark, Swing, out_of_order


class Document(QObject):
    """``changed`` follows every step there and back, ``previewed`` a change still under way; ``refused``
    says in a sentence why a step was not taken.
    """

    changed = pyqtSignal()
    previewed = pyqtSignal()
    refused = pyqtSignal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.history = History(Swing())
        self._preview: Swing | None = None

    @property
    def swing(self) -> Swing:
        """The document as shown: with the change under way, if there is one."""
        return self._preview or self.history.now

    def begin(self, swing: Swing) -> None:
        """Take up a swing just opened; told by whoever opens it."""
        self.history, self._preview = History(swing), None

    def change(self, label: str, swing: Swing) -> None:
        """Take one undoable step."""
        previewed, self._preview = self._preview is not None, None
        if self.history.push(label, swing):
            self.changed.emit()
        elif previewed:
            self.previewed.emit()

    def suppose(self, swing: Swing) -> None:
        """Take what the program has found out by itself: no step where nothing has been done yet, and then
        told by whoever found it.
        """
        if swing is self.history.now or self._preview is not None:
            return
        if self.history.undo_label is not None:
            self.change("Take view and hand from the picture", swing)
        else:
            self.begin(swing)

    def preview(self, swing: Swing) -> None:
        """Show a change that is still under way, such as a drag; not a step yet."""
        self._preview = swing
        self.previewed.emit()

    def drop_preview(self) -> None:
        if self._preview is not None:
            self._preview = None
            self.previewed.emit()

    def undo(self) -> None:
        self._preview = None
        if self.history.undo():
            self.changed.emit()

    def redo(self) -> None:
        self._preview = None
        if self.history.redo():
            self.changed.emit()

    def place(self, point: str, frame: int, x: float, y: float) -> None:
        """Set a mark by hand on a frame of the swing; ``point`` is anatomical."""
        self.change("Mark " + point.replace("_", " "), self.history.now.with_mark(Mark(point, frame, x, y)))

    def pin(self, checkpoint: str, frame: float | None) -> None:
        """Pin a checkpoint by hand, or set it free with None."""
        if checkpoint in CHECKPOINTS:
            if frame is not None and (clash := out_of_order({**self.history.now.pinned, checkpoint: frame})):
                early, late = (name.replace("_", " ") for name in clash)
                self.refused.emit(f"The {late} cannot stand on or before the {early}; nothing was changed.")
                return
            word = "Pin" if frame is not None else "Free"
            label = f"{word} {checkpoint.replace('_', ' ')}"
            self.change(label, self.history.now.with_checkpoint(checkpoint, frame))
