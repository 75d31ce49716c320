"""A swing as a review shows it: looked at and never worked on."""

from __future__ import annotations

from pathlib import Path

import msgspec

from kneel.desk.operations import Jobs
from kneel.desk.swing.aim import Aimed
from kneel.desk.swing.looked_at import LookedAtSwing
from kneel.desk.swing.opening import Opened, open_to_read
from kneel.model import Sight, Swing
from kneel.model.review import Seen

AIMS = {"": Aimed.NOTHING, "ghost": Aimed.GHOST, "figure": Aimed.FIGURE}


class ReplayedSwing(LookedAtSwing):
    """One clip of a swing that a review shows; :meth:`show` puts it as it was at a moment."""

    def __init__(self, jobs: Jobs) -> None:
        super().__init__(jobs)
        self._as_kept = Swing()

    def take(self, opened: Opened, swing: Swing) -> None:
        """Show what was opened; ``swing`` is the document as this clip's camera has it."""
        self._as_kept = swing
        self.take_up(opened, swing)

    def show(self, seen: Seen) -> None:
        """Put it as it was."""
        if seen.drawn != self.swing.drawn:
            self.document.begin(self._as_kept.given(drawn=seen.drawn))
            self.document.changed.emit()
        if seen.lines != self.sight.lines:
            self.sight = msgspec.structs.replace(Sight(), lines=seen.lines)
            self.sighted.emit()
        if seen.fault != (self.selection.fault or ""):
            self.selection.show(seen.fault or None)
        wanted = AIMS.get(seen.aim, Aimed.NOTHING)
        if wanted is not self.aim.shown:
            self.aim.toggle(wanted if wanted is not Aimed.NOTHING else self.aim.shown)
        if (self.aim.share, self.aim.beside) != (seen.share, seen.beside):
            self.aim.beside = seen.beside
            self.aim.move(seen.share)
        self.cursor.go(seen.frame)


def replayed(made: tuple[ReplayedSwing, ReplayedSwing], opened: Opened) -> list[ReplayedSwing]:
    """A swing's clips as they were opened, that of its first camera first."""
    first, second = made
    first.take(opened, opened.swing)
    if opened.second is None:
        return [first]
    second.take(opened.second, opened.second.swing)
    return [first, second]


def open_replayed(document: Path, jobs: Jobs) -> list[ReplayedSwing]:
    """The same, opened at once; takes a while. Raises ``FootageError`` or ``SwingFileError``."""
    made = ReplayedSwing(jobs), ReplayedSwing(jobs)
    return replayed(made, open_to_read(document, made[0].callbacks(), made[1].callbacks()))
