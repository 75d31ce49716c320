"""What each action of the Bench does. One entry per key of :mod:`kneel.desk.shell.actions`."""

from __future__ import annotations

from PyQt6.QtWidgets import QApplication

from kneel.desk.places.bench.balls import note_ball
from kneel.desk.places.bench.cameras import Cameras
from kneel.desk.places.bench.cueing import Cueing
from kneel.desk.places.bench.cutting import Cutting
from kneel.desk.places.bench.elsewhere import Elsewhere
from kneel.desk.places.bench.layout import Layout
from kneel.desk.places.bench.linking import Linking
from kneel.desk.places.bench.marking import Marking
from kneel.desk.places.bench.naming import Naming
from kneel.desk.places.bench.rack.rack import Rack
from kneel.desk.places.bench.reading.pane import ReadingPane
from kneel.desk.places.bench.strip.strip import Strip
from kneel.desk.places.bench.student import StudentView
from kneel.desk.places.bench.turned import TurnedCopy
from kneel.desk.places.context import Context
from kneel.desk.places.keeping import Keeping
from kneel.desk.places.place import Handlers, Place
from kneel.desk.records.practice import Practice
from kneel.desk.stage.chosen import keep_lasting, take_away
from kneel.desk.stage.stage import Stage
from kneel.desk.swing import OpenSwing
from kneel.desk.swing.aim import Aimed
from kneel.desk.swing.player import Player
from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.swing.two_takes import TwoTakes
from kneel.desk.timeline.ribbon import Ribbon
from kneel.desk.widgets.language import tr
from kneel.model import CHECKPOINTS
from kneel.model.take import SHAPES
from kneel.vision import installed


class BenchParts(Place):
    """What the actions ask of the Bench."""

    player: Player
    stage: Stage
    marking: Marking
    strip: Strip
    ribbon: Ribbon
    reading: ReadingPane
    rack: Rack
    cutting: Cutting
    turned: TurnedCopy
    naming: Naming
    lying: Layout
    student: StudentView
    takes: TwoTakes
    cameras: Cameras
    linking: Linking


class BenchActions:
    """The actions on the open swing. The window adds its own (open, quit, look, help)."""

    def __init__(self, opened: OpenSwing, bench: BenchParts, context: Context, practice: Practice) -> None:
        self._open, self._bench, self._look = opened, bench, context.look
        self._cueing = Cueing(opened, context, practice, bench)
        self._cueing.said.connect(bench.said)
        self.elsewhere = Elsewhere(opened, context, bench)
        self.elsewhere.said.connect(bench.said)
        self.elsewhere.failed.connect(opened.failed)
        self._keeping = Keeping(opened, bench.stage, context.records.books, bench)
        self._keeping.said.connect(bench.said)

    def table(self) -> Handlers:
        """Every key with its deed."""
        s, b = self._open, self._bench
        stage, player = b.stage, b.player
        handlers: Handlers = {
            "previous_swing": lambda: b.rack.step(-1),
            "next_swing": lambda: b.rack.step(1),
            "remove_swing": b.rack.remove,
            "name_golfer": b.naming.ask,
            "cue": self._cueing.ask,
            "back": lambda: self._step(-1),
            "on": lambda: self._step(1),
            "back_ten": lambda: self._step(-10),
            "on_ten": lambda: self._step(10),
            "first": lambda: s.cursor.go(0),
            "last": lambda: s.cursor.go(s.frames - 1),
            "play": player.toggle,
            "loop": lambda: player.run_in("loop"),
            "to_and_fro": lambda: player.run_in("to and fro"),
            "slower": lambda: player.change_speed(1),
            "faster": lambda: player.change_speed(-1),
            "flip": self._flip,
            "previous_checkpoint": lambda: self._to_neighbour(-1),
            "next_checkpoint": lambda: self._to_neighbour(1),
            "mark": b.marking.start,
            "advised": self.mark_advised,
            "look": self._have_looked,
            "golfer": self._point_out,
            "skip": self._skip,
            "unmark": self._unmark,
            "cancel": self._cancel,
            "pin": self._pin,
            "free": self._free,
            "lasting": self._lasting,
            "copy": self._copy,
            "still": self._keeping.save_still,
            "slow_clip": self._keeping.save_slow_clip,
            "next_finding": lambda: b.reading.step(1),
            "previous_finding": lambda: b.reading.step(-1),
            "add_finding": b.reading.add_finding,
            "dismiss": b.reading.dismiss,
            "school": b.reading.choose_school,
            "unsure": b.reading.ask_unsure,
            "order": b.reading.turn_order,
            "note_ball": self.note_ball,
            "plate": self.elsewhere.plate,
            "type_value": self.elsewhere.type_value,
            "own_moment": self.elsewhere.own_moment,
            "lanes": b.ribbon.choose_lanes,
            "lines": b.strip.choose_lines,
            "plain": lambda: self._toggle("plain"),
            "trail": lambda: self._toggle("trail"),
            "aim": s.aim.toggle,
            "reference_figure": lambda: s.aim.toggle(Aimed.FIGURE),
            "fit": stage.fit,
            "one_to_one": stage.one_to_one,
            "closer": lambda: stage.zoom(1.25),
            "farther": lambda: stage.zoom(0.8),
            "layout": b.lying.turn,
            "begin_here": b.cutting.begin_here,
            "end_here": b.cutting.end_here,
            "split_here": b.cutting.split_here,
            "whole_clip": b.cutting.whole,
            "upright": b.turned.choose,
            "student_view": b.student.toggle,
            "link": b.linking.choose,
            "unlink": b.linking.unlink,
            "turn": self._turn,
            "body_in_space": self._body_in_space,
            "ribbon_closer": lambda: b.ribbon.zoom(1.5),
            "ribbon_farther": lambda: b.ribbon.zoom(1 / 1.5),
        }
        for name in CHECKPOINTS:
            handlers[f"checkpoint_{name}"] = lambda n=name: self._to(n)
        for shape in SHAPES:
            handlers[f"draw_{shape}"] = lambda what=shape: stage.draw(what)
        return handlers

    def note_ball(self) -> None:
        """Let be told what the ball of this swing did."""
        note_ball(self._open, self._look, self._bench)

    # The cursor

    def _step(self, by: int) -> None:
        self._bench.player.pause()
        self._open.cursor.step(by)

    def _to(self, name: str) -> None:
        self._bench.player.pause()
        if not self._open.go_to(name):
            words = tr("The %s is not found in this swing; stand on it and press P to pin it.")
            self._bench.said.emit(words % tr(checkpoint_title(name)).lower())

    def _flip(self) -> None:
        """Between the last two checkpoints that were gone to: the eye sees a shift when pictures flip."""
        self._bench.player.pause()
        self._open.flip()

    def _to_neighbour(self, way: int) -> None:
        analysis = self._open.analysis
        if analysis is None:
            return
        self._bench.player.pause()
        frames = sorted(c.shown for c in analysis.checkpoints.values())
        beyond = [f for f in frames if (f - self._open.cursor.frame) * way > 0]
        if beyond:
            self._open.cursor.go(min(beyond) if way > 0 else max(beyond))

    # Points

    def mark_advised(self) -> None:
        """Go to the frame and take up the point whose mark would tell most."""
        self._bench.player.pause()
        if not self._bench.marking.advise():
            self._bench.said.emit(tr("No single mark would make this finding much surer."))

    def _point_out(self) -> None:
        """Let the next click on the picture say who the golfer is."""
        self._bench.player.pause()
        self._bench.stage.arm_golfer()
        self._bench.stage.setFocus()

    def mark_ball(self) -> None:
        """Let the next click say where the ball lies."""
        self._bench.player.pause()
        self._open.go_to("address")
        self._bench.stage.arm("ball")
        self._bench.stage.setFocus()

    def _have_looked(self) -> None:
        """Have the body model look for the joints, or leave them to marks by hand."""
        looked = not self._open.swing.looked
        if looked and not installed():
            self._open.failed.emit(
                tr(
                    "The body-landmark network is not installed: mark the joints by hand, "
                    "or run tools/body_model.py once."
                )
            )
            return
        self._open.set("Look for the joints" if looked else "Use marks alone", looked=looked)

    def _skip(self) -> None:
        if self._bench.stage.armed:
            self._bench.marking.advance()
        else:
            self._bench.said.emit(tr("No point is being marked: M begins."))

    def _unmark(self) -> None:
        if not take_away(self._bench.stage, self._open):
            self._bench.said.emit(tr("Nothing is chosen on the picture: click on a mark or a drawing first."))

    def _lasting(self) -> None:
        """Keep what is drawn for the whole swing, or for this frame again."""
        if not keep_lasting(self._bench.stage, self._open):
            self._bench.said.emit(tr("Nothing drawn is chosen: click on it first."))

    def _cancel(self) -> None:
        """Esc: what is under the hand first, then the student's view."""
        if self._bench.ribbon.cancel():
            return
        if self._bench.student.on and self._bench.stage.tool is None:
            self._bench.student.show(False)
            return
        self._bench.stage.cancel()

    def _pin(self) -> None:
        """Pin the checkpoint nearest to the cursor, or the first lacking one, on this frame."""
        analysis, frame = self._open.analysis, self._open.cursor.frame
        if analysis is None or self._open.store is None:
            return
        near = [(abs(c.frame - frame), n) for n, c in analysis.checkpoints.items()]
        lacking = [n for n in ("address", "top", "impact") if n not in analysis.checkpoints]
        name = lacking[0] if lacking else min(near, default=(0.0, "address"))[1]
        self._open.document.pin(name, float(frame))

    def _free(self) -> None:
        """Let the pinned checkpoint nearest to the cursor be found again."""
        frame = self._open.cursor.frame
        pinned = [(abs(at - frame), name) for name, at in self._open.swing.pinned.items()]
        if pinned:
            self._open.document.pin(min(pinned)[1], None)
        else:
            self._bench.said.emit(tr("No checkpoint is pinned in this swing."))

    # Two cameras

    def _turn(self) -> None:
        """Work on the other camera's picture."""
        if self._bench.takes.shown:
            self._bench.takes.turn()
            self._bench.stage.setFocus()
        else:
            self._bench.said.emit(tr("This swing has one camera; Ctrl+Shift+L links another one’s clip."))

    def _body_in_space(self) -> None:
        if self._bench.takes.linked is None:
            self._bench.said.emit(tr("The body in space is told by two cameras: Ctrl+Shift+L links them."))
        else:
            self._bench.cameras.toggle_space()

    # The picture

    def _toggle(self, what: str) -> None:
        stage = self._bench.stage
        setattr(stage, what, not getattr(stage, what))
        stage.update()

    def _copy(self) -> None:
        clipboard = QApplication.clipboard()
        if clipboard is not None and self._open.store is not None:
            clipboard.setImage(self._bench.stage.seen())
            self._bench.said.emit(tr("The picture is copied as it is seen"))
