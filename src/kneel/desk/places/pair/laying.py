"""Both pictures on one scale and in one light, as long as the hand has not put them elsewhere."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QPainter

from kneel.desk.places.pair.both import BothPictures, Shown
from kneel.desk.places.pair.canvas import PairCanvas
from kneel.desk.places.pair.scale import HeldAt, Laid, ScaledBy, lay_alike, lay_like
from kneel.desk.stage.captions import paint_note
from kneel.desk.stage.outline import paint_outline, places_of
from kneel.desk.stage.scene import ON_PICTURE
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.desk.widgets.theme import Look
from kneel.motion.study import Study


class Laying(QObject):
    """Lays the pictures of two swings, or of two moments of one. ``changed`` tells that they lie anew."""

    changed = pyqtSignal()

    def __init__(self, on_desk: OpenSwing, other: OpenSwing, look: Look) -> None:
        super().__init__()
        self._on_desk, self._other = on_desk, other
        self.held_at, self.scaled_by = HeldAt.LEAD_ANKLE, ScaledBy.LENGTHS
        self.now = Laid()
        self._leader: int | None = None
        self._beside = PairCanvas(other, look, tr("the swing beside"))
        self._moment = PairCanvas(on_desk, look, tr("another moment"))
        self._here = PairCanvas(on_desk, look, tr("the swing on the desk"))
        self._moment.hide()
        self._here.over = self._paint_outline
        self.both = BothPictures(self._beside, self._here)
        self.every = self._beside, self._moment, self._here
        for canvas in self.every:
            canvas.put.connect(lambda canvas=canvas: self._follow(canvas))
        self.both.laid.connect(self.lay)
        for swing in (on_desk, other):
            swing.numbers.renewed.connect(self.lay)
            swing.opened.connect(self.fit)

    @property
    def pictures(self) -> tuple[PairCanvas, PairCanvas]:
        """That beside, and that on the desk."""
        return self.both.pictures

    @property
    def swings(self) -> tuple[OpenSwing, OpenSwing]:
        """Whose they are."""
        return (self._on_desk if self._moment.moment is not None else self._other), self._on_desk

    @property
    def in_hand(self) -> int:
        """Which of the two has the keys: that beside where it has the focus, else that on the desk."""
        return 0 if self.pictures[0].hasFocus() else 1

    def show_moment(self, frame: int | None) -> None:
        """Show a frame of the swing on the desk beside it; None for another swing."""
        fresh = (frame is None) != (self._moment.moment is None)
        self._moment.moment = frame
        self._moment.forget_places()
        if fresh:
            self._leader = None
            self.both.set_first(self._beside if frame is None else self._moment)
        self._moment.update()

    def hold_at(self, held: HeldAt) -> None:
        """Hold them together at another place of the body."""
        self.held_at = held
        self.fit()

    def scale_by(self, scaled: ScaledBy) -> None:
        """Let lengths be as large on both, or bodies."""
        self.scaled_by = scaled
        self.fit()

    def light(self, powers: tuple[float, float]) -> None:
        """Show each in a light of its own, so that both look alike."""
        for canvas, power in zip((self._beside, self._here), powers, strict=True):
            canvas.light = power
            canvas.update()

    def fit(self) -> None:
        """As large as they go, whatever the hand has done."""
        self._leader = None
        self.lay()

    def lay(self) -> None:
        """Both on one scale, where both are known and to be seen; not while another place is on show."""
        if not self.both.isVisible():
            return
        studies = self._studies()
        if studies is None:
            self.now = Laid()
        elif self._leader is not None:
            lay_like(self.pictures, studies, self.held_at, self._leader, self.scaled_by)
        else:
            self.now = lay_alike(self.pictures, studies, self.held_at, self.scaled_by)
        self.changed.emit()

    def _studies(self) -> tuple[Study, Study] | None:
        first, second = (swing.analysis for swing in self.swings)
        return None if first is None or second is None else (first, second)

    def _follow(self, canvas: PairCanvas) -> None:
        """The hand has put one of them elsewhere: the other goes along."""
        studies = self._studies()
        if canvas in self.pictures and studies is not None:
            self._leader = self.pictures.index(canvas)
            lay_like(self.pictures, studies, self.held_at, self._leader, self.scaled_by)

    def _paint_outline(self, painter: QPainter) -> None:
        """The body of the one beside over the picture on the desk."""
        swing, canvas = self.swings[0], self.pictures[0]
        study = swing.analysis
        if self.both.way is Shown.GHOST and study is not None:
            frame = swing.cursor.frame if canvas.moment is None else canvas.moment
            places = places_of(study, swing.swing.hand, frame)
            paint_outline(painter, canvas, canvas.view, places, study.px_per_m, ON_PICTURE)
            paint_note(painter, self._here.scene(), tr("outline: the swing beside"))
