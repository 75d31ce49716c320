"""What to aim for, over the picture: this golfer's own body with the chosen number in its window."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.swing.numbers import Numbers
from kneel.desk.swing.selection import Selection
from kneel.desk.widgets.language import tr
from kneel.judge.aiming import ghost_of
from kneel.motion.ghost import Ghost, NoGhost
from kneel.motion.study import Study
from kneel.speech.ghost import AN_AIM, aim_words, no_ghost_words, sunk_words

Place = tuple[float, float]


class Aim(QObject):
    """The corrected ghost of an open swing, where it is wanted. ``changed`` tells that another one is shown.

    It follows the chosen finding and the numbers; ``share`` is how far it is moved, 0 as it is, 1 corrected.
    """

    changed = pyqtSignal()

    def __init__(self, parent: QObject, numbers: Numbers, selection: Selection) -> None:
        super().__init__(parent)
        self._numbers, self._selection = numbers, selection
        self._of: tuple[object, ...] | None = None
        self._ghost: Ghost | NoGhost | None = None
        self.wanted, self.share = False, 1.0
        numbers.renewed.connect(self._renew)
        selection.chose.connect(self._renew)

    def begin(self) -> None:
        """Another swing is on the desk: nobody has asked for its aim yet."""
        self.wanted, self._of, self._ghost = False, None, None

    def toggle(self) -> None:
        """Show it, or no longer."""
        self.wanted, self.share = not self.wanted, 1.0
        self.changed.emit()

    def move(self, share: float) -> None:
        """Show it moved by another share."""
        self.share = min(max(share, 0.0), 1.0)
        self.changed.emit()

    def _renew(self) -> None:
        if self.wanted:
            self.changed.emit()

    @property
    def ghost(self) -> Ghost | NoGhost | None:
        """The ghost, or why there is none; None where none is wanted or nothing is told yet."""
        figures, measure = self._numbers.figures, self._selection.measure
        if not self.wanted or figures.analysis is None or figures.reading is None or measure is None:
            return None
        of = figures, measure, self._selection.fault
        if self._of is None or any(a is not b for a, b in zip(self._of, of, strict=True)):
            self._of = of
            reading, club = figures.reading, figures.swing.club
            self._ghost = ghost_of(figures.analysis, reading.school, measure, club, self._selection.finding)
        return self._ghost

    def places(self, frame: int) -> Mapping[str, Place]:
        """Where its points lie at a frame, px of the picture by lead and trail; empty where there is none."""
        ghost, study = self.ghost, self._numbers.analysis
        if not isinstance(ghost, Ghost) or study is None or not 0 <= frame < len(ghost.own):
            return {}
        moved = ghost.pixels(study, frame, self.share)
        return {name: (float(xy[0]), float(xy[1])) for name, xy in moved.items()}

    @property
    def study(self) -> Study | None:
        """The numbers it is made of."""
        return self._numbers.analysis

    def words(self, frame: int) -> tuple[str, str]:
        """What it shows at a frame, and what has to be said of it; or why there is none."""
        ghost, study, measure = self.ghost, self._numbers.analysis, self._selection.measure
        if study is None or measure is None:
            return tr("Choose a finding: the aim is one number in its window."), ""
        if ghost is None:
            return tr("There are no numbers yet."), ""
        if isinstance(ghost, NoGhost):
            return no_ghost_words(ghost, measure, study), ""
        return (
            aim_words(ghost, study, frame, self.share),
            " ".join(part for part in (AN_AIM, sunk_words(ghost, study)) if part),
        )
