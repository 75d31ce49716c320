"""What to aim for, over the picture: this golfer's own body with the chosen number in its window, or a figure
of this build in the school's pattern.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import Enum
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from kneel.desk.operations import Task, Workers
from kneel.desk.swing.numbers import Numbers
from kneel.desk.swing.selection import Selection
from kneel.desk.widgets.language import tr
from kneel.judge import School
from kneel.judge.aiming import ghost_of
from kneel.model import Club
from kneel.motion.ghost import Ghost, NoGhost, Why
from kneel.motion.study import Study
from kneel.speech.ghost import AN_AIM, aim_words, figure_words, no_ghost_words, sunk_words

if TYPE_CHECKING:
    from kneel.references.built import ReferenceFigure

Place = tuple[float, float]
BESIDE_M = 0.95
"""How far beside the golfer the figure stands where it does not lie over them."""


class Aimed(Enum):
    """What is shown."""

    NOTHING = "nothing"
    GHOST = "the corrected ghost"
    FIGURE = "the reference figure"


def _built(study: Study, school: School, club: Club) -> ReferenceFigure:
    # The simulator is loaded when somebody asks for it, and in a worker.
    from kneel.references.built import figure_of

    return figure_of(study, school, club)


class Aim(QObject):
    """The aim of an open swing, where it is wanted. ``changed`` tells that another one is shown.

    It follows the chosen finding and the numbers; ``share`` is how far the ghost is moved, 0 as it is, 1
    corrected; ``beside`` whether the figure stands beside the golfer.
    """

    changed = pyqtSignal()

    def __init__(self, parent: QObject, numbers: Numbers, selection: Selection) -> None:
        super().__init__(parent)
        self._numbers, self._selection = numbers, selection
        self._workers = Workers(self)
        self._of: tuple[object, ...] | None = None
        self._ghost: Ghost | NoGhost | None = None
        self._built_of: tuple[object, ...] | None = None
        self._figure: ReferenceFigure | None = None
        self._wrong = ""
        self.shown, self.share, self.beside = Aimed.NOTHING, 1.0, False
        numbers.renewed.connect(self._renew)
        selection.chose.connect(self._renew)

    def begin(self) -> None:
        """Another swing is on the desk: nobody has asked for its aim yet."""
        self._workers.give_up()
        self._of = self._built_of = None
        self._ghost = self._figure = None
        self.shown, self._wrong = Aimed.NOTHING, ""

    def toggle(self, what: Aimed = Aimed.GHOST) -> None:
        """Show the one or the other, or no longer."""
        self.shown = Aimed.NOTHING if self.shown is what else what
        self.share = 1.0
        self._renew()
        if self.shown is Aimed.NOTHING:
            self.changed.emit()

    def move(self, share: float) -> None:
        """Show the ghost moved by another share."""
        self.share = min(max(share, 0.0), 1.0)
        self.changed.emit()

    def step_aside(self) -> None:
        """Let the figure stand beside the golfer, or over them again."""
        self.beside = not self.beside
        self.changed.emit()

    @property
    def wanted(self) -> bool:
        return self.shown is not Aimed.NOTHING

    @property
    def study(self) -> Study | None:
        """The numbers it is made of."""
        return self._numbers.analysis

    # The ghost

    @property
    def ghost(self) -> Ghost | NoGhost | None:
        """The ghost, or why there is none; None where none is wanted or nothing is told yet."""
        figures, measure = self._numbers.figures, self._selection.measure
        if self.shown is not Aimed.GHOST or figures.analysis is None or figures.reading is None:
            return None
        if measure is None:
            return None
        of = figures, measure, self._selection.fault
        if self._of is None or any(a is not b for a, b in zip(self._of, of, strict=True)):
            self._of = of
            self._ghost = ghost_of(
                figures.analysis,
                figures.reading.school,
                measure,
                figures.swing.club,
                self._selection.finding,
            )
        return self._ghost

    @property
    def figure_instead(self) -> bool:
        """Whether the ghost is none that one picture could show, so that the figure is worth a look."""
        return isinstance(self.ghost, NoGhost) and self.ghost.why is Why.OTHER

    # The figure

    def _renew(self) -> None:
        if self.shown is Aimed.FIGURE:
            self._ask()
        if self.wanted:
            self.changed.emit()

    def _ask(self) -> None:
        """Have the figure built for the numbers as they rest; the one before is shown meanwhile."""
        settled = self._numbers.settled
        study, reading = settled.analysis, settled.reading
        if study is None or reading is None:
            return
        of = study, reading.school, settled.swing.club
        if self._built_of is not None and all(a is b for a, b in zip(self._built_of, of, strict=True)):
            return
        self._built_of = of
        self._workers.give_up()
        self._workers.start(Task(lambda _: _built(*of), done=self._take, failed=self._fail))

    def _take(self, figure: ReferenceFigure) -> None:
        self._figure, self._wrong = figure, ""
        self.changed.emit()

    def _fail(self, error: Exception) -> None:
        self._figure, self._wrong = None, str(error)
        self.changed.emit()

    # What is painted and said

    def places(self, frame: int) -> Mapping[str, Place]:
        """Where its points lie at a frame, px of the picture by lead and trail; empty where there is none."""
        study = self._numbers.analysis
        if study is None or not 0 <= frame < len(study.times_s):
            return {}
        if self.shown is Aimed.FIGURE:
            return self._figure_places(study, frame)
        ghost = self.ghost
        if not isinstance(ghost, Ghost) or frame >= len(ghost.own):
            return {}
        moved = ghost.pixels(study, frame, self.share)
        return {name: (float(xy[0]), float(xy[1])) for name, xy in moved.items()}

    def _figure_places(self, study: Study, frame: int) -> Mapping[str, Place]:
        figure = self._figure
        if figure is None or any(len(path) != len(study.times_s) for path in figure.points.values()):
            return {}
        places = figure.pixels(study, frame)
        if not self.beside:
            return places
        # To the side on which the picture has more room.
        middle = (places["lead_hip"][0] + places["trail_hip"][0]) / 2
        wide = study.setup.width_px or 2 * middle
        aside = BESIDE_M * study.px_per_m * (1.0 if middle < wide / 2 else -1.0)
        return {name: (x + aside, y) for name, (x, y) in places.items()}

    def words(self, frame: int) -> tuple[str, str]:
        """What it shows at a frame, and what has to be said of it; or why there is none."""
        study, measure = self._numbers.analysis, self._selection.measure
        if study is None:
            return tr("There are no numbers yet."), ""
        if self.shown is Aimed.FIGURE:
            figure, reading = self._figure, self._numbers.reading
            if self._wrong:
                return self._wrong, ""
            if figure is None or reading is None:
                return tr("Building the reference figure …"), ""
            return figure_words(reading.school)
        ghost = self.ghost
        if measure is None or ghost is None:
            return tr("Choose a finding: the aim is one number in its window."), ""
        if isinstance(ghost, NoGhost):
            return no_ghost_words(ghost, measure, study), ""
        notes = (AN_AIM, sunk_words(ghost, study))
        return aim_words(ghost, study, frame, self.share), " ".join(part for part in notes if part)
