"""A stocked swing on the Trainer's stage: looked at, and after the answer argued as on the Bench."""

from __future__ import annotations

import msgspec

from kneel.desk.operations import Jobs
from kneel.desk.swing.figures import Figures
from kneel.desk.swing.intake import clip_ref
from kneel.desk.swing.looked_at import LookedAtSwing
from kneel.desk.swing.opening import Callbacks, Opened
from kneel.evidence import Shelf, Stretch
from kneel.footage import FrameStore
from kneel.footage.content import content_of
from kneel.model import Sight, Swing
from kneel.trainer.argued import document_of, reading_of, study_of
from kneel.trainer.asked import asked_faults
from kneel.trainer.records import Stocked
from kneel.trainer.stock import OnShelf


class TrainedSwing(LookedAtSwing):
    """The swing that is asked about, or none."""

    def __init__(self, jobs: Jobs) -> None:
        super().__init__(jobs)
        self.stocked: Stocked | None = None

    def take(self, opened: Opened, stocked: Stocked) -> None:
        """Show what was opened in place of what was there."""
        self.let_go()
        self.stocked, self.sight = stocked, Sight()
        self.take_up(opened, opened.swing)

    def argue(self, fault: str) -> None:
        """Go to where a fault's size was asked, with its line drawn and the finding chosen."""
        asked = asked_faults()[fault]
        self.sight = msgspec.structs.replace(self.sight, lines=(asked.measure,))
        self.sighted.emit()
        self.selection.choose(fault)
        frame = self.numbers.shown(asked.at)
        if frame is not None:
            self.cursor.go(frame)


def open_trained(one: OnShelf, callbacks: Callbacks) -> Opened:
    """Open a stocked swing with the numbers of its exact points; takes half a second, in a worker.

    Raises ``FootageError``, or ``ValueError`` where clip and points are not of one swing.
    """
    stocked = one.stocked
    store = FrameStore(
        one.clip, on_ready=callbacks.ready, on_progress=callbacks.filling, on_error=callbacks.failed
    )
    try:
        info, content = store.info, content_of(one.clip)
        swing: Swing = document_of(stocked).given(clip=clip_ref(one.clip, info, content))
        stretch = Stretch.of(swing, info, content, store.peek)
        if len(stretch) != len(next(iter(stocked.points.values()))[0]):
            raise ValueError(f"the clip of {stocked.id} is not of its points")
        study = study_of(stocked, stretch.times_s)
        figures = Figures(swing=swing, own=study, analysis=study, reading=reading_of(stocked, study))
        return Opened(store, callbacks, swing, None, None, content, Shelf(one.clip), figures=figures)
    except BaseException:
        store.close()
        raise
