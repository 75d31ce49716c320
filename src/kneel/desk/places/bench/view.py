"""The Bench: one swing at work. Its parts, how they lie, and the place the window knows."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QLineEdit, QWidget

from kneel.desk.places.bench.actions import BenchActions, BenchParts
from kneel.desk.places.bench.cameras import Cameras
from kneel.desk.places.bench.cutting import Cutting
from kneel.desk.places.bench.joining import Joining
from kneel.desk.places.bench.layout import Layout
from kneel.desk.places.bench.linking import Linking
from kneel.desk.places.bench.marking import Marking
from kneel.desk.places.bench.naming import Naming
from kneel.desk.places.bench.overlay import EmptyDesk, Transport
from kneel.desk.places.bench.question import Asking
from kneel.desk.places.bench.rack.rack import Rack
from kneel.desk.places.bench.reading.pane import ReadingPane
from kneel.desk.places.bench.strip.strip import Strip
from kneel.desk.places.bench.student import StudentView
from kneel.desk.places.bench.turned import TurnedCopy
from kneel.desk.places.context import Context
from kneel.desk.places.place import Handlers
from kneel.desk.places.undoing import Undoing
from kneel.desk.records.practice import Practice
from kneel.desk.stage.aim_bar import AimBar
from kneel.desk.stage.stage import Stage
from kneel.desk.swing.player import Player
from kneel.desk.swing.two_takes import TwoTakes
from kneel.desk.timeline.ribbon import Ribbon
from kneel.desk.widgets.chooser import Choice, Chooser
from kneel.desk.widgets.language import tr


class Bench(BenchParts):
    """Rack, strip, stage, reading and ribbon of one open swing.

    ``hinted`` tells that other keys are worth knowing, ``said`` carries a sentence.
    """

    key, title = "bench", "Bench"
    hinted = pyqtSignal()
    alone_changed = pyqtSignal(bool)
    demo_wanted = pyqtSignal()

    def __init__(self, takes: TwoTakes, context: Context, practice: Practice) -> None:
        opened = takes.first
        super().__init__(Undoing(opened, practice))
        look = context.look
        self._look = look
        self._open = opened
        self.player = Player(opened)
        self.stage = Stage(opened, look)
        self.takes, self.cameras = takes, Cameras(takes, self.stage, look, context.settings)
        self.marking = Marking(takes, self.stage)
        self.strip = Strip(opened, look)
        self.ribbon = Ribbon(opened, look)
        self.reading = ReadingPane(opened, look, practice, context.settings)
        self.asking = Asking(opened, self.stage)
        self.rack = Rack(opened, context)
        self.cutting = Cutting(opened, self.rack, self)
        self.turned = TurnedCopy(opened, self.rack, context, self)
        self.joining = Joining(opened, self.rack, self.reading, self)
        self.linking = Linking(takes, self.rack, self.reading, context)
        self.naming = Naming(opened, context, self.rack, self)
        practice.beside = self.rack.like_open
        self.lying = Layout(context.settings, self.rack, self.strip, self.cameras, self.reading, self.ribbon)
        self.student = StudentView(opened, self.stage, self.lying)
        outer = QHBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self.lying)
        self._actions = BenchActions(opened, self, context, practice)
        self.transport = Transport(opened, self.stage, self.player, look, self._actions.table())
        self.empty = EmptyDesk(opened, self.stage)
        self.aim_bar = AimBar(opened, self.stage)
        self._connect()

    def _connect(self) -> None:
        """Let the parts hear of each other."""
        self.strip.length_wanted.connect(self.stage.arm_length)
        self.strip.golfer_wanted.connect(self.stage.arm_golfer)
        for line in (*self.reading.golfer.lines.values(), self.reading.explain.reason):
            line.left.connect(self.stage.setFocus)
        self.reading.golfer.ball_wanted.connect(self._actions.note_ball)
        self.empty.clips.clicked.connect(lambda _=False: self.rack.browse.emit())
        self.empty.demo.clicked.connect(lambda _=False: self.demo_wanted.emit())
        self.stage.browse_wanted.connect(self.rack.browse)
        self.reading.mark_wanted.connect(self._actions.mark_advised)
        self.strip.ball_wanted.connect(self._actions.mark_ball)
        self.stage.skipped.connect(self.marking.advance)
        self.stage.gripped.connect(self.player.pause)
        self.ribbon.lanes_wanted.connect(self.ribbon.choose_lanes)
        self.marking.said.connect(self.said)
        self.player.changed.connect(self.hinted)
        self.stage.armed_changed.connect(self.hinted)
        self.student.changed.connect(self.alone_changed)
        self.student.changed.connect(self.cameras.show_alone)
        self.takes.changed.connect(self.player.pause)
        self.takes.changed.connect(self.hinted)
        self.rack.turn_wanted.connect(self.takes.turn)
        self.linking.said.connect(self.said)
        self.linking.failed.connect(self._open.failed)
        self.cutting.said.connect(self.said)
        self.turned.said.connect(self.said)
        self.reading.head.turn_wanted.connect(self.turned.choose)
        self.ribbon.cut_wanted.connect(self._choose_cut)
        self._open.opened.connect(self._begin)

    def name_golfer(self, then: Callable[[], object]) -> None:
        """Ask for the golfer's name, and do then what needed one."""
        self.naming.ask(then)

    def handlers(self) -> Handlers:
        return self._actions.table()

    def borrows(self) -> Sequence[str]:
        return "pair_before", "pair_with", "pair_reference"

    def picture_parts(self) -> Sequence[QWidget]:
        return self.stage, self.cameras.other, self.cameras.space, self.ribbon

    def hints(self) -> str:
        speeds = {1.0: "1", 0.5: "½", 0.25: "¼", 0.125: "⅛"}
        state = tr("pause") if self.player.playing else tr("play")
        words = tr("← → frame    1–9 checkpoint    space %s %s    M mark    P pin    F1 all keys")
        if self.takes.shown:
            words = tr("← → frame    1–9 checkpoint    space %s %s    E other camera    F1 all keys")
        return words % (state, speeds[self.player.speed])

    def undo(self) -> None:
        if self.rack.can_put_back:
            self.rack.put_back()
        elif self.cutting.label is not None:
            self.cutting.undo()
        else:
            super().undo()

    def steps(self) -> tuple[str | None, str | None]:
        back, on = super().steps()
        return tr("taking off the rack") if self.rack.can_put_back else self.cutting.label or back, on

    def enter(self) -> None:
        self.stage.setFocus()

    def leave(self) -> None:
        self.player.pause()

    def _choose_cut(self) -> None:
        """What can be cut at the place of the ribbon that was pressed."""
        cutting = self.cutting
        choices = [
            Choice(tr("The swing begins here"), cutting.begin_here),
            Choice(tr("The swing ends here"), cutting.end_here),
            Choice(tr("Split here: two swings"), cutting.split_here),
            Choice(tr("The whole clip again"), cutting.whole, enabled=self._open.swing.span is not None),
        ]
        Chooser(self, self._look, tr("Cut the clip"), choices, typing=False).open(self.ribbon)

    def opened_for_guide(self, begin: Callable[[], None]) -> None:
        """Have something done once the next swing is open."""

        def once() -> None:
            self._open.opened.disconnect(once)
            QTimer.singleShot(0, begin)

        self._open.opened.connect(once)

    def close_down(self) -> None:
        """Give up what is under way, and remember how things lie."""
        self.player.pause()
        self.lying.keep()
        self.rack.close_down()

    def _begin(self) -> None:
        store = self._open.store
        if store is not None:
            self.lying.suit(store.info.width, store.info.height)
            if not isinstance(QApplication.focusWidget(), QLineEdit):
                self.stage.setFocus()
