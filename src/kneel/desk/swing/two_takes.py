"""Two cameras of the swing on the desk: the second clip beside the first, on one clock, in one document."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations import Jobs, Lane, Operation
from kneel.desk.swing.open_swing import OpenSwing
from kneel.desk.swing.opening import Callbacks, Opened, open_second
from kneel.desk.widgets.language import tr
from kneel.model import ClipRef, Swing, Take
from kneel.model.two_takes import second_take, with_second, without_second
from kneel.motion.measures import REGISTRY
from kneel.motion.space.linked import Linked, retold, told_by_two
from kneel.motion.study import Study


class TwoTakes(QObject):
    """Keeps a ``second`` open swing beside the ``first`` where the document has a second take.

    The one that is worked on is always ``first``; :meth:`turn` works on the other. ``changed`` tells that
    there is another second take or none, or that the desk was turned; ``failed`` carries a sentence.
    """

    changed = pyqtSignal()
    failed = pyqtSignal(str)

    def __init__(self, first: OpenSwing, jobs: Jobs) -> None:
        super().__init__(first)
        self.first, self.second = first, OpenSwing(jobs, first.document)
        self.second.setParent(first)
        self._openers = Lane(self, jobs, tr("opening the other camera’s clip"), newest=True)
        self._clip: ClipRef | None = None
        """The clip that is shown, or being opened, as the second one."""

        self._turning = self._fresh = False
        first.beside = self._told_beside
        first.opened.connect(self._on_opened)
        first.document.parting.connect(self._part)
        first.document.changed.connect(self._follow_document)
        first.cursor.moved.connect(self._follow_cursor)
        first.numbers.renewed.connect(self._follow_numbers)
        first.selection.chose.connect(self._follow_choice)
        self.second.numbers.renewed.connect(self._tell_first)
        self.second.failed.connect(self.failed)

    @property
    def shown(self) -> bool:
        """Whether a second take is on the desk."""
        return self.second.store is not None

    @property
    def linked(self) -> Linked | None:
        """The swing by both cameras, as far as it is told."""
        return self.first.numbers.figures.linked if self.shown else None

    @property
    def apart(self) -> str:
        """Why the two are not told together, in a sentence."""
        return self.first.numbers.figures.apart if self.shown else ""

    @property
    def second_clip(self) -> Path | None:
        """Where the clip lies that the document names second."""
        of = self.first if self.first.document.turned else self.second
        return of.store.info.path if of.store is not None else None

    def callbacks(self) -> Callbacks:
        """What the second clip's frame store tells."""
        return self.second.callbacks()

    # Linking

    def link(self, take: Take) -> None:
        """Take another camera's clip of this swing into its document."""
        self.first.document.replace(tr("Link the other camera"), with_second(self._whole, take))

    def unlink(self) -> Take | None:
        """Let the second camera go; its take is given back, with all that was marked on it."""
        take = second_take(self._whole)
        if take is not None:
            self.first.document.replace(tr("Unlink the other camera"), without_second(self._whole))
        return take

    def turn(self) -> None:
        """Work on the other camera's picture."""
        if not self.shown:
            return
        moment = self.first.checkpoint
        self._turning = True
        try:
            self.first.exchange(self.second)
        finally:
            self._turning = False
        if moment is not None:
            self.first.go_to(moment)
        self._follow_numbers()
        self.changed.emit()

    def close(self) -> None:
        """Let the second clip go."""
        self._openers.stop()
        self._clip = None
        if self.shown:
            self.second.close(losing=True)
            self.changed.emit()

    @property
    def _whole(self) -> Swing:
        return self.first.document.whole

    # How the second follows

    def _on_opened(self) -> None:
        """Another document is on the desk: show its second clip, or none."""
        opened = self.first.at_hand
        if opened is None or self._turning:
            return
        self.close()
        if opened.second is not None:
            self._show(opened.second)
            return
        take = second_take(self._whole)
        # It could not be opened, and that was said.
        self._clip = None if take is None else take.clip

    def _show(self, opened: Opened) -> None:
        if not self.second.take(opened):
            opened.let_go()
            return
        take = second_take(self._whole)
        self._clip = take.clip if take else None
        self._fresh = True
        opened.store.start(self.second.first)
        self._follow_numbers()
        self.changed.emit()

    def _part(self) -> None:
        """The next step leaves no second take: what the document names first is worked on again."""
        if self.first.document.turned:
            self.turn()
        self.close()

    def _follow_document(self) -> None:
        """Open the second clip where a step, there or back, linked it; judge anew where one unlinked it."""
        take, document = second_take(self._whole), self.first.path
        if take is None or take.clip is None or document is None:
            if self.first.numbers.settled.beside is not None or self.apart:
                self.first.judge_anew()
            return
        if take.clip == self._clip:
            return
        self._clip = take.clip
        whole, callbacks = self._whole, self.callbacks()

        def done(opened: Opened) -> None:
            self._show(opened)
            self.first.judge_anew()

        self._openers.start(
            Operation(
                work=lambda _: open_second(whole, document, callbacks),
                subject=lambda: (self._clip, self.first.path),
                done=done,
                failed=lambda error: self.failed.emit(str(error)),
                drop=Opened.let_go,
            )
        )

    def _told_beside(self) -> Study | None:
        return self.second.numbers.settled.own if self.shown else None

    def _tell_first(self) -> None:
        """The second camera's numbers are others: judge by both anew."""
        fault, second = self.first.selection.fault, self.second.numbers
        if not second.dragging:
            self.first.judge_anew()
            return
        beside, settled = second.analysis, self.first.numbers.settled
        if beside is not None and settled.linked is not None:
            self.first.numbers.ask(lambda: settled.beside_dragged(beside, fault) or settled, live=True)

    def _follow_choice(self) -> None:
        """Both pictures speak of one finding; the one that shows its number is worked on."""
        if self._turning or not self.shown:
            return
        finding = self.first.selection.finding
        if self.linked is not None and finding is not None and finding.measure is not None:
            views = REGISTRY[finding.measure].views
            if self.first.swing.view not in views and self.second.swing.view in views:
                self.turn()
                if finding.checkpoint is not None:
                    self.first.go_to(finding.checkpoint)
        self.second.selection.show(self.first.selection.fault)

    def second_frame(self, frame: int) -> int | None:
        """The second clip's frame at a frame of the first one; None where the clock is not known."""
        linked, mine, times = self.linked, self.first.times_s, self.second.times_s
        if linked is None or not 0 <= frame < len(mine) or not len(times):
            return None
        moment = self.first.numbers.checkpoint_at(frame)
        there = self.second.numbers.shown(moment) if moment is not None else None
        if there is not None:
            return min(there, len(times) - 1)
        return int(np.abs(times - (mine[frame] + linked.clock.offset_s)).argmin())

    def _follow_numbers(self) -> None:
        """Both pictures have one set of checkpoints and one clock."""
        linked, second = self.linked, self.second.numbers
        if linked is not None and second.figures.own is not None and second.analysis is not None:
            set_of = linked.along_at if not linked.turned else linked.across_at
            if second.analysis.checkpoints != set_of:
                second.see(told_by_two(second.figures.own, linked))
                self.second.sighted.emit()
            elif not self.first.numbers.dragging:
                second.see(retold(second.analysis, linked))
        self._follow_cursor()
        if linked is not None and self._fresh:
            # What comes first by both may be told by the other camera.
            self._fresh = False
            self._follow_choice()

    def _follow_cursor(self) -> None:
        frame = self.second_frame(self.first.cursor.frame)
        if frame is not None:
            self.second.cursor.go(frame)
