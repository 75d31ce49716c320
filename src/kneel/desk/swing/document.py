"""The document with its undo, and the change under way."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.model import CHECKPOINTS, History, Mark, Swing, out_of_order
from kneel.model.two_takes import second_take, turned, turned_back


class Document(QObject):
    """``changed`` follows every step there and back, ``previewed`` a change still under way; ``refused``
    says in a sentence why a step was not taken.

    A swing filmed twice is one document that both of its takes work on: the second one's ``beside`` the
    first's shows and changes the same, each as its own camera saw it. ``parting`` comes before a step after
    which there is no such second take any more.
    """

    changed = pyqtSignal()
    previewed = pyqtSignal()
    refused = pyqtSignal(str)
    parting = pyqtSignal()

    def __init__(self, parent: QObject, beside: Document | None = None) -> None:
        super().__init__(parent)
        self._beside = beside
        self._history: History[Swing] = History(Swing())
        self._preview: Swing | None = None
        self._turned = False
        self._seen: dict[bool, tuple[Swing, Swing]] = {}
        if beside is not None:
            beside.changed.connect(self.changed)
            beside.previewed.connect(self.previewed)

    @property
    def _owner(self) -> Document:
        return self._beside or self

    @property
    def turned(self) -> bool:
        """Whether the swing is seen from its second take."""
        return self._owner._turned != (self._beside is not None)

    def turn(self) -> None:
        """Let this one see the swing from the other take, and the other one from this."""
        self._owner._turned = not self._owner._turned

    @property
    def history(self) -> History[Swing]:
        """The steps there and back, of both takes; how the swing stands here tells :attr:`now`."""
        return self._owner._history

    @property
    def now(self) -> Swing:
        """The document as it stands, without the change under way."""
        return self._shown(self.history.now, under_way=False)

    @property
    def swing(self) -> Swing:
        """The document as shown: with the change under way, if there is one."""
        moving = self._owner._preview
        return self.now if moving is None else self._shown(moving, under_way=True)

    @property
    def whole(self) -> Swing:
        """The document as it is kept, whichever take is looked at."""
        return self.history.now

    def _shown(self, whole: Swing, *, under_way: bool) -> Swing:
        """The same object as long as the document is the same, since others ask whether it is."""
        if not self.turned:
            return whole
        known = self._seen.get(under_way)
        if known is None or known[0] is not whole:
            known = self._seen[under_way] = whole, turned(whole)
        return known[1]

    def kept(self, swing: Swing) -> Swing:
        """A swing as it is seen here, as the document would keep it."""
        return turned_back(self.history.now, swing) if self.turned else swing

    def begin(self, swing: Swing) -> None:
        """Take up a swing just opened; told by whoever opens it. A second take has its first one's."""
        if self._beside is None:
            self._history, self._preview, self._turned = History(swing), None, False

    def change(self, label: str, swing: Swing) -> None:
        """Take one undoable step."""
        self.replace(label, self.kept(swing))

    def replace(self, label: str, whole: Swing) -> None:
        """Take one undoable step to a document as it is kept, whichever take is looked at."""
        if self._beside is not None:
            self._beside.replace(label, whole)
            return
        self._part(whole)
        previewed, self._preview = self._preview is not None, None
        if self._history.push(label, whole):
            self.changed.emit()
        elif previewed:
            self.previewed.emit()

    def suppose(self, swing: Swing) -> None:
        """Take what the program has found out by itself: no step where nothing has been done yet, and then
        told by whoever found it.
        """
        if swing is self.now or self._owner._preview is not None:
            return
        if self.history.undo_label is not None:
            self.change("Take view and hand from the picture", swing)
        else:
            self._owner._history = History(self.kept(swing))

    def preview(self, swing: Swing) -> None:
        """Show a change that is still under way, such as a drag; not a step yet."""
        owner = self._owner
        owner._preview = self.kept(swing)
        owner.previewed.emit()

    def drop_preview(self) -> None:
        owner = self._owner
        if owner._preview is not None:
            owner._preview = None
            owner.previewed.emit()

    def undo(self) -> None:
        owner = self._owner
        owner._preview = None
        owner._part(owner._history.earlier)
        if owner._history.undo():
            owner.changed.emit()

    def redo(self) -> None:
        owner = self._owner
        owner._preview = None
        owner._part(owner._history.later)
        if owner._history.redo():
            owner.changed.emit()

    def _part(self, coming: Swing | None) -> None:
        mine = second_take(self._history.now)
        if coming is None or mine is None:
            return
        theirs = second_take(coming)
        if theirs is None or theirs.clip != mine.clip:
            self.parting.emit()

    def place(self, point: str, frame: int, x: float, y: float) -> None:
        """Set a mark by hand on a frame of the swing; ``point`` is anatomical."""
        self.change("Mark " + point.replace("_", " "), self.now.with_mark(Mark(point, frame, x, y)))

    def pin(self, checkpoint: str, frame: float | None) -> None:
        """Pin a checkpoint by hand, or set it free with None."""
        if checkpoint in CHECKPOINTS:
            if frame is not None and (clash := out_of_order({**self.now.pinned, checkpoint: frame})):
                early, late = (name.replace("_", " ") for name in clash)
                self.refused.emit(f"The {late} cannot stand on or before the {early}; nothing was changed.")
                return
            word = "Pin" if frame is not None else "Free"
            label = f"{word} {checkpoint.replace('_', ' ')}"
            self.change(label, self.now.with_checkpoint(checkpoint, frame))
