"""An open swing: its document, cursor, selection, evidence and numbers, put together.

The parts own what they hold and tell of it by signals of their own; here
stands only what one of them has to do with another. A place that shows two
swings has two of these.
"""

from __future__ import annotations

import threading

import msgspec

from kneel.desk.operations import Jobs
from kneel.desk.swing.document import Document
from kneel.desk.swing.figures import Figures
from kneel.desk.swing.opening import Callbacks, Opened
from kneel.desk.swing.shown import SwingShown
from kneel.evidence import Stretch, supposed
from kneel.model import Ball, Kind, Near, Sight, Swing


class OpenSwing(SwingShown):
    """The open swing, or none, and what is done with it.

    With a ``document`` of another it is a second take of that one's swing: what is done with it is done to
    that document, which the other one keeps.
    """

    def __init__(self, jobs: Jobs, document: Document | None = None) -> None:
        super().__init__(jobs, document)
        self.document.changed.connect(self._on_changed)
        self.document.previewed.connect(self._on_previewed)
        self.gathering.found.connect(self._on_found)
        self.gathering.failed.connect(self.failed)
        self.numbers.failed.connect(self.failed)
        self.numbers.renewed.connect(self.selection.fall_back)
        self.numbers.renewed.connect(self._show_first)

    def callbacks(self) -> Callbacks:
        """What a frame store to be opened for this swing tells it."""
        return Callbacks(self, self.picture_ready.emit, self.filling.emit, self.failed.emit)

    def take(self, opened: Opened) -> bool:
        """Show a swing that has been opened; False where the one before cannot be kept safe."""
        if not self.close():
            return False
        self._open, self.sight = opened, opened.sight or Sight()
        self._balls = ()
        self._visited = []
        self._shown_at = 0
        self.document.begin(opened.swing)
        stretch = self._renew_stretch()
        self.cursor.begin(len(stretch), self.sight.frame)
        self.numbers.begin(opened.figures)
        self.selection.begin()
        self.aim.begin()
        finding = self.selection.finding
        # It may have been written down without anybody: with others of its drop, or for a part of a clip.
        known = finding is not None and finding.decided is not None
        self._fresh = opened.keeper is not None and not known and not opened.swing.marks
        if opened.sight is None and finding is not None:
            # Seen for the first time: the picture shows what is wrong.
            self.cursor.begin(len(stretch), self._where_it_shows())
        self.gathering.begin(opened, stretch)
        if opened.keeper is not None:
            self.autosave.begin(opened.keeper, opened.swing, self._sight_now())
        self.opened.emit()
        self.gathering.ask(self.swing, stretch)
        return True

    def exchange(self, other: OpenSwing) -> None:
        """Work on the take that ``other`` shows, and let it show this one; nothing is opened anew."""
        mine, theirs = self._open, other._open
        if mine is None or theirs is None:
            return
        here, there = self.cursor.frame, other.cursor.frame
        behind = self.numbers.busy or other.numbers.busy
        mine.figures, theirs.figures = other.numbers.settled.exchanged(self.numbers.settled)
        for swing, opened in ((self, mine), (other, theirs)):
            opened.swing = swing.swing
            opened.looked, opened.followed = swing.gathering.all_found(swing.swing)
            swing.gathering.end()
        self.document.turn()
        for swing, opened, frame in ((other, mine, here), (self, theirs, there)):
            swing._stand_on(opened, frame)
        if behind:
            # What was on its way when the desk was turned is computed for where it is now.
            other.judge_anew()
            self.judge_anew()

    def _stand_on(self, opened: Opened, frame: int) -> None:
        fault = self.selection.fault
        self._open, self._stretch, self._visited = opened, None, []
        opened.callbacks.hand_over(self.picture_ready.emit, self.filling.emit, self.failed.emit)
        stretch = self._renew_stretch()
        self.cursor.begin(len(stretch), frame)
        self.numbers.begin(opened.figures)
        self.selection.show(fault)
        self.gathering.begin(opened, stretch)
        self.opened.emit()
        self.gathering.ask(self.swing, stretch)

    def save(self) -> None:
        """Have the document and the way it is looked at written where they have changed."""
        self.autosave.look(self._sight_now())
        self.autosave.save()

    def close(self, *, losing: bool = False) -> bool:
        """Save what is open and let it go, in two seconds at most.

        False, and it stays open, where its work is safe nowhere, unless
        ``losing`` it has been agreed to.
        """
        if self._open is None:
            return True
        if not losing and not self.autosave.flush():
            return False
        self.autosave.look(self._sight_now())
        self.autosave.let_go()
        self.gathering.end()
        self._open.callbacks.stop()
        # Its threads may be waiting for a disk that does not answer.
        threading.Thread(target=self._open.store.close, daemon=True).start()
        self.numbers.begin(Figures())
        self._open = self._stretch = None
        return True

    # What the user does that concerns several parts

    def go_to(self, checkpoint: str) -> bool:
        """Put the cursor on a checkpoint; False where it is not found."""
        shown = self.numbers.shown(checkpoint)
        if shown is not None:
            self.cursor.go(shown)
            self._visited = [*(name for name in self._visited if name != checkpoint), checkpoint][-2:]
        return shown is not None

    def flip(self) -> None:
        """Put the cursor on the other of the last two checkpoints gone to; on address where there is none."""
        here = self.checkpoint
        others = [name for name in reversed(self._visited) if name != here]
        for name in (*others, "address", "top"):
            if name != here and self.numbers.shown(name) is not None:
                if here is not None and here not in self._visited:
                    self._visited = [*self._visited, here][-2:]
                self.go_to(name)
                return

    def set(self, label: str, **settings: object) -> None:
        """Change settings of the swing; they are no longer guesses."""
        asked_again = "looked" in settings
        if asked_again:
            self.gathering.again()
        before = self.document.now
        self.document.change(label, before.given(**settings))
        if asked_again and self._stretch is not None and self.document.now is before:
            self.gathering.ask(self.swing, self._stretch)

    def point_out(self, x: float, y: float, frame: int) -> None:
        """Say by a click on a frame who the golfer is."""
        self.set("Point out the golfer", near=Near(x, y, frame), looked=True)

    def hold(self, pose: str) -> None:
        """Say that the frame on show is a held position, and which."""
        self.set("Say which position is held", kind=Kind.HELD, pinned={pose: float(self.cursor.frame)})

    def take_balls(self, balls: tuple[Ball, ...]) -> None:
        """Other balls of the set, which order the roots of this swing too."""
        if balls != self._balls:
            self._balls = balls
            self._recompute()

    def look_at(self, **how: object) -> None:
        """Change how the swing is looked at, which is no change of the document."""
        self.sight = msgspec.structs.replace(self.sight, **how)
        self.autosave.look(self._sight_now())
        self.sighted.emit()

    # How the parts follow each other

    def _sight_now(self) -> Sight:
        return msgspec.structs.replace(self.sight, frame=self.cursor.frame)

    def _renew_stretch(self) -> Stretch:
        assert self._open is not None
        store = self._open.store
        fresh = Stretch.of(self.swing, store.info, self._open.content, store.peek)
        if self._stretch is None or self._stretch.name != fresh.name:
            self._stretch = fresh
        return self._stretch

    def _on_changed(self) -> None:
        if self._open is None:
            return
        known = None if self.numbers.busy or self.numbers.dragging else self.numbers.settled.swing
        if known is not None and _measured(self.swing) == _measured(known):
            # What only says something changes no number.
            self.sighted.emit()
        else:
            self._recompute()
            self.gathering.ask(self.swing, self._renew_stretch())
        self.autosave.look(self._sight_now())
        self.autosave.touch(self.document.whole)

    def _on_found(self) -> None:
        self.document.suppose(supposed(self.document.now, self.looked))
        self._recompute()

    def _show_first(self) -> None:
        """Take the picture of a clip being looked at to what is wrong, as long as nobody goes anywhere."""
        finding = self.selection.finding
        if not self.fresh or self._shown_at != self.cursor.frame:
            return
        if finding is not None and finding.decided is not None:
            self.cursor.go(self._where_it_shows())
            self._shown_at = self.cursor.frame if self.gathering.busy else None

    def stay(self) -> None:
        """Somebody works on the frame on show: the picture is not taken anywhere."""
        self._shown_at = None

    def _where_it_shows(self) -> int:
        """The frame where the chosen finding shows; address where it shows at no checkpoint."""
        finding, shown = self.selection.finding, self.numbers.shown
        frame = shown(finding.checkpoint) if finding is not None and finding.checkpoint is not None else None
        return shown("address") or 0 if frame is None else frame

    def _on_previewed(self) -> None:
        """Numbers follow a mark under the hand at once; the rest is computed when the hand rests."""
        before, now = self.document.now, self.swing
        if now is before:
            if not self.numbers.settle():
                # What the hand has let go of must not come after it.
                self._recompute()
            return
        if _measured(now) == _measured(before):
            # What only says something changes no number; what is done to the other take nothing here.
            if now.take != before.take:
                self.sighted.emit()
            return
        changed = [mark for mark in now.marks if mark not in before.marks]
        if len(changed) == 1:
            mark = changed[0]
            old = next((m for m in before.marks if (m.point, m.frame) == (mark.point, mark.frame)), None)
            fault, settled = self.selection.fault, self.numbers.settled
            if settled.linked is not None:
                # Both cameras' numbers follow, which takes longer than a hand should wait.
                self.numbers.ask(lambda: settled.dragged(mark, old, fault) or settled, live=True)
                return
            if self.numbers.drag(mark, old, fault):
                return
        self._recompute(live=True)

    def judge_anew(self) -> None:
        """What it is judged by is another: windows and faults, or what a second camera tells."""
        self._recompute()

    def _recompute(self, *, live: bool = False) -> None:
        if self._open is None:
            return
        swing, stretch = self.swing, self._renew_stretch()
        evidence = self.gathering.evidence(swing, stretch)
        moving = live or swing is not self.document.now
        balls, beside = self._balls, self.beside()

        def figures() -> Figures:
            made = Figures.of(swing, stretch, evidence, balls, beside)
            return made if moving else made.ahead()

        self.numbers.ask(figures, live=moving)


def _measured(swing: Swing) -> Swing:
    """A swing without what is drawn on it, and without its other take: all that its own numbers hang on."""
    return msgspec.structs.replace(swing, takes=(swing.take.with_(drawn=(), clip=None),))
