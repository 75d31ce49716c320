"""What each action does. One method per key of :mod:`kneel.desk.actions`."""

from __future__ import annotations

from collections.abc import Callable

from kneel.desk.bench import Bench
from kneel.desk.player import Player
from kneel.desk.swing import OpenSwing
from kneel.model import CHECKPOINTS, anatomical
from kneel.vision import installed


class Commands:
    """The actions on the open swing. The window adds its own (open, quit, look, help)."""

    def __init__(self, opened: OpenSwing, bench: Bench, player: Player) -> None:
        self._open, self._bench, self._player = opened, bench, player

    def table(self) -> dict[str, Callable[[], None]]:
        """Every key with its deed."""
        s, stage, player = self._open, self._bench.stage, self._player
        deeds: dict[str, Callable[[], None]] = {
            "save": s.save,
            "undo": s.document.undo,
            "redo": s.document.redo,
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
            "previous_checkpoint": lambda: self._to_neighbour(-1),
            "next_checkpoint": lambda: self._to_neighbour(1),
            "mark": self._bench.marking.start,
            "advised": self._advised,
            "look": self._look,
            "golfer": self._point_out,
            "skip": self._skip,
            "unmark": self._unmark,
            "cancel": stage.cancel,
            "pin": self._pin,
            "stop_following": self._stop_following,
            "plain": self._plain,
            "fit": stage.fit,
        }
        for name in CHECKPOINTS:
            deeds[f"checkpoint_{name}"] = lambda n=name: self._to(n)
        return deeds

    def _step(self, by: int) -> None:
        self._player.pause()
        self._open.cursor.step(by)

    def _to(self, name: str) -> None:
        self._player.pause()
        if not self._open.go_to(name):
            words = name.replace("_", " ")
            self._open.failed.emit(
                f"The {words} is not found in this swing; stand on it and press P to pin it."
            )

    def _to_neighbour(self, way: int) -> None:
        analysis = self._open.analysis
        if analysis is None:
            return
        self._player.pause()
        frames = sorted(c.shown for c in analysis.checkpoints.values())
        beyond = [f for f in frames if (f - self._open.cursor.frame) * way > 0]
        if beyond:
            self._open.cursor.go(min(beyond) if way > 0 else max(beyond))

    def _advised(self) -> None:
        """Go to the frame and take up the point whose mark would tell most."""
        advice = self._open.selection.advice()
        if advice is None:
            self._open.failed.emit("No single mark would make this finding much surer.")
            return
        self._player.pause()
        swing = self._open.swing
        marked = {m.frame for m in swing.marks if m.point == anatomical(advice.point, swing.hand)}
        self._open.cursor.go(next((f for f in advice.frames if f not in marked), advice.frame))
        self._bench.stage.arm(advice.point)
        self._bench.stage.setFocus()

    def _point_out(self) -> None:
        """Let the next click on the picture say who the golfer is."""
        self._player.pause()
        self._bench.stage.arm_golfer()
        self._bench.stage.setFocus()

    def _look(self) -> None:
        """Have the body model look for the joints, or leave them to marks by hand."""
        looked = not self._open.swing.looked
        if looked and not installed():
            self._open.failed.emit(
                "The body-landmark network is not installed: mark the joints by hand, "
                "or run tools/body_model.py once."
            )
            return
        self._open.set("Look for the joints" if looked else "Use marks alone", looked=looked)

    def _stop_following(self) -> None:
        self._open.gathering.stop()

    def _skip(self) -> None:
        if self._bench.stage.armed:
            self._bench.marking.advance()

    def _unmark(self) -> None:
        point = self._bench.stage.selected
        if point:
            swing = self._open.swing.without_mark(point, self._open.cursor.frame)
            self._open.document.change(f"Unmark {point.replace('_', ' ')}", swing)

    def _pin(self) -> None:
        """Pin the checkpoint nearest to the cursor, or the first lacking one, on this frame."""
        analysis, frame = self._open.analysis, self._open.cursor.frame
        if analysis is None or self._open.store is None:
            return
        near = [(abs(c.frame - frame), n) for n, c in analysis.checkpoints.items()]
        lacking = [n for n in ("address", "top", "impact") if n not in analysis.checkpoints]
        name = lacking[0] if lacking else min(near, default=(0.0, "address"))[1]
        self._open.document.pin(name, float(frame))

    def _plain(self) -> None:
        self._bench.stage.plain = not self._bench.stage.plain
        self._bench.stage.update()
