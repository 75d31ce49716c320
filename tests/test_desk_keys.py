"""The desk by its keys and tokens: each key does its deed on the real window, each token says what it is."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent

from kneel.desk.swing.titles import CHECKPOINT_KEYS
from kneel.desk.timeline.pegs import ROWS, head_px
from kneel.desk.widgets.chooser import Chooser
from kneel.desk.widgets.entry import Entry
from kneel.documents.swing_file import load_swing, save_swing
from kneel.judge import Verdict, Why
from kneel.model import Club, Hand, Kind, KnownLength, NoScale, Stature, TypedScale, View
from kneel.motion.checkpoints import shown_frame
from tests.desk import CLIP, PATIENCE_MS, open_clip, press, saved

SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


@pytest.fixture
def opened(qtbot, window, demo):
    open_clip(qtbot, window, demo / CLIP)
    return window


def choose(window, key, title):
    """Click a token and take the entry of a title from the list that it opens."""
    window.bench.strip.tokens[key].click()
    (chooser,) = [c for c in window.findChildren(Chooser) if c.isVisible()]
    chooser.pick(title)


def enter(window, value):
    """Type a number into the field that is open, and take it."""
    (entry,) = [e for e in window.findChildren(Entry) if e.isVisible()]
    entry.field.setValue(value)
    entry.accept()


def test_keys_of_the_cursor(qtbot, opened):
    """One frame, ten, both ends, every checkpoint by its number, the neighbouring ones."""
    session = opened.on_desk
    press(qtbot, opened, Qt.Key.Key_Home)
    assert session.cursor.frame == 0
    press(qtbot, opened, Qt.Key.Key_Left)
    assert session.cursor.frame == 0
    press(qtbot, opened, Qt.Key.Key_Right, SHIFT)
    press(qtbot, opened, Qt.Key.Key_Period)
    press(qtbot, opened, Qt.Key.Key_Comma)
    press(qtbot, opened, Qt.Key.Key_Right)
    assert session.cursor.frame == 11
    press(qtbot, opened, Qt.Key.Key_Left, SHIFT)
    assert session.cursor.frame == 1
    press(qtbot, opened, Qt.Key.Key_End)
    press(qtbot, opened, Qt.Key.Key_Right)
    assert session.cursor.frame == session.frames - 1
    found = session.analysis.checkpoints
    assert sorted(CHECKPOINT_KEYS.values()) == list("123456789")
    for name, key in CHECKPOINT_KEYS.items():
        before = session.cursor.frame
        press(qtbot, opened, Qt.Key(Qt.Key.Key_0 + int(key)))
        if name in found:
            assert session.cursor.frame == found[name].shown == shown_frame(found[name].frame)
            assert session.numbers.frame_title(session.cursor.frame).startswith("at ")
        else:
            assert session.cursor.frame == before and "not found" in opened.status_bar.text()
    shown = sorted(c.shown for c in found.values())
    press(qtbot, opened, Qt.Key.Key_Home)
    passed = []
    for _ in range(len(shown) + 2):
        press(qtbot, opened, Qt.Key.Key_PageDown)
        passed.append(session.cursor.frame)
    assert passed == [*shown, shown[-1], shown[-1]]
    press(qtbot, opened, Qt.Key.Key_Up)
    assert session.cursor.frame == shown[-2]


def test_the_frame_of_impact_is_the_first_without_the_ball(qtbot, opened):
    """Ball marked up to a frame: impact is the next one, for its key, its pennant and the stage alike."""
    session = opened.on_desk
    for last in (179, 180):
        swing = session.swing
        for mark in [m for m in swing.marks if m.point == "ball"]:
            swing = swing.without_mark("ball", mark.frame)
        ball = session.analysis.tracks["left_toe" if "left_toe" in session.analysis.tracks else "left_ankle"]
        place = (float(ball.xy[0, 0]) + 60.0, float(ball.xy[0, 1]) + 30.0)
        for frame in range(20, last + 1, 1):
            swing = swing.with_mark(
                msgspec.structs.replace(swing.marks[0], point="ball", frame=frame, x=place[0], y=place[1])
            )
        session.document.change("Mark the ball", swing)
        session.gathering.following.cancel()
        assert session.analysis.checkpoints["impact"].frame == pytest.approx(last + 0.5, abs=0.01)
        press(qtbot, opened, Qt.Key.Key_7)
        assert session.cursor.frame == last + 1 and session.checkpoint == "impact"
        ribbon = opened.bench.ribbon
        session.cursor.go(0)
        at = QPoint(round(ribbon.x_of(last + 0.5)) + 4, 28)
        assert ribbon._peg_at(QPointF(at)) == "impact"
        qtbot.mouseClick(ribbon, Qt.MouseButton.LeftButton, pos=at)
        assert session.cursor.frame == last + 1 and "impact" not in session.swing.pinned


def test_the_lanes_keep_their_place_and_take_what_the_pennants_leave(qtbot, opened):
    """As many rows as the titles need, whichever checkpoint is current; every title is there."""
    ribbon, session = opened.bench.ribbon, opened.on_desk
    tops = set()
    for number in range(1, 8):
        press(qtbot, opened, Qt.Key(Qt.Key.Key_0 + number))
        there = ribbon.pennants.placed(ribbon.axis, ribbon.width())
        assert all(one.title for one in there)
        assert {one.row for one in there} <= set(range(ribbon.rows))
        tops.add(ribbon._boxes()[0].top())
    assert tops == {head_px(ribbon.rows)} and 1 < ribbon.rows < ROWS
    top = session.analysis.checkpoints["top"].frame
    ribbon.zoom(12.0, ribbon.x_of(top))
    assert ribbon.rows == 1 and ribbon._boxes()[0].top() == head_px(1) < min(tops)


def test_the_ribbon_scrubs_and_the_wheel_steps(qtbot, opened):
    session, ribbon = opened.on_desk, opened.bench.ribbon
    x = round(ribbon.x_of(100.0))
    qtbot.mousePress(ribbon, Qt.MouseButton.LeftButton, pos=QPoint(x, ribbon.height() - 60))
    assert session.cursor.frame == 100
    qtbot.mouseMove(ribbon, QPoint(round(ribbon.x_of(130.0)), ribbon.height() - 60))
    assert session.cursor.frame == 130
    qtbot.mouseRelease(ribbon, Qt.MouseButton.LeftButton, pos=QPoint(x, ribbon.height() - 60))
    for turn, to in ((-120, 131), (240, 129)):
        at = QPointF(x, 60.0)
        event = QWheelEvent(
            at,
            ribbon.mapToGlobal(at),
            QPoint(),
            QPoint(0, turn),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        ribbon.wheelEvent(event)
        assert session.cursor.frame == to
    assert not session.swing.pinned


def test_play_keys(qtbot, opened):
    player = opened.bench.player
    press(qtbot, opened, Qt.Key.Key_BracketLeft)
    assert player.speed == 0.125
    press(qtbot, opened, Qt.Key.Key_BracketLeft)
    assert player.speed == 0.125
    for speed in (0.25, 0.5, 1.0, 1.0):
        press(qtbot, opened, Qt.Key.Key_BracketRight)
        assert player.speed == speed
    press(qtbot, opened, Qt.Key.Key_Space)
    assert player.playing and player.mode == "through"
    press(qtbot, opened, Qt.Key.Key_T)
    assert player.playing and player.mode == "to and fro"
    press(qtbot, opened, Qt.Key.Key_L)
    assert player.mode == "loop"
    press(qtbot, opened, Qt.Key.Key_L)
    assert not player.playing
    press(qtbot, opened, Qt.Key.Key_Space)
    press(qtbot, opened, Qt.Key.Key_Right)
    assert not player.playing


def test_pins_and_unmarking(qtbot, opened):
    """P pins the checkpoint nearest to the cursor, on this frame; marks are taken away and come back."""
    session = opened.on_desk
    session.cursor.go(session.analysis.checkpoints["top"].shown + 3)
    here = session.cursor.frame
    press(qtbot, opened, Qt.Key.Key_P)
    assert session.swing.pinned == {"top": float(here)}
    assert session.analysis.checkpoints["top"].source == "marked" and session.checkpoint == "top"
    assert session.document.history.undo_label == "Pin top"
    session.document.pin("top", None)
    assert session.swing.pinned == {} and session.analysis.checkpoints["top"].source == "found"
    mark = session.swing.marks[0]
    session.cursor.go(mark.frame)
    opened.bench.stage.selected = mark.point
    press(qtbot, opened, Qt.Key.Key_Delete)
    assert mark not in session.swing.marks
    press(qtbot, opened, Qt.Key.Key_Z, CTRL)
    assert mark in session.swing.marks


def test_tokens_say_and_set_what_the_swing_is_taken_for(qtbot, opened):
    """Each menu changes its setting as one step, which is then no guess; undo gives all of it back."""
    session, tokens = opened.on_desk, opened.bench.strip.tokens
    start = session.swing
    assert "a guess" in tokens["view"].accessibleName()
    choose(opened, "view", "Down the line")
    assert session.swing.view is View.DOWN_THE_LINE and "view" not in session.swing.guessed
    assert "a guess" not in tokens["view"].accessibleName()
    assert session.numbers.reading.of("sway").why is Why.VIEW
    choose(opened, "view", "Face-on")
    assert session.numbers.reading.of("sway").verdict is Verdict.FAULT
    choose(opened, "hand", "Left-handed")
    assert session.swing.hand is Hand.LEFT and session.analysis.direction == -1
    choose(opened, "hand", "Right-handed")
    choose(opened, "club", "Driver")
    assert session.swing.club is Club.DRIVER and "Driver" in tokens["club"].accessibleName()
    choose(opened, "hand", "Right-handed, the clip is mirrored")
    assert session.swing.mirrored is True and session.analysis.direction == -1
    assert "mirrored" in tokens["hand"].accessibleName()
    choose(opened, "hand", "Find out")
    assert session.swing.mirrored is None
    choose(opened, "kind", "Half swing")
    assert session.swing.kind is Kind.HALF and "Half swing" in tokens["kind"].accessibleName()
    choose(opened, "kind", "Full swing")
    choose(opened, "scale", "The student")
    enter(opened, 180.0)
    assert session.swing.scale == Stature(180.0)
    per_px = session.analysis.scale.per_px
    choose(opened, "scale", "Centimetres per pixel")
    enter(opened, 0.5)
    assert session.swing.scale == TypedScale(0.5) and session.analysis.scale.per_px == 0.5 != per_px
    choose(opened, "scale", "None")
    assert session.swing.scale == NoScale() and session.analysis.scale.unit == "stance"
    assert "stance widths" in tokens["scale"].accessibleName()
    choose(opened, "scale", "The student")
    (entry,) = [e for e in opened.findChildren(Entry) if e.isVisible()]
    qtbot.keyClick(entry.field, Qt.Key.Key_Escape)
    assert session.swing.scale == NoScale()
    choose(opened, "lines", "Plumb at the trail hip")
    assert session.sight.lines == ("trail_hip",)
    assert tokens["lines"].accessibleName().startswith("Lines: Plumb at the trail hip")
    choose(opened, "lines", "Belt line")
    assert session.sight.lines == ("trail_hip", "belt") and "2 shown" in tokens["lines"].accessibleName()
    while session.document.history.undo_label:
        session.document.undo()
    assert session.swing == start


def test_a_known_length_is_drawn_on_the_picture(qtbot, opened):
    """From the scale's menu to a line along the ball: one step, with the ends where they were drawn."""
    session, stage = opened.on_desk, opened.bench.stage
    session.cursor.go(12)
    choose(opened, "scale", "Draw along the ball")
    ends = [stage.view.to_widget(x, 560.0).toPoint() for x in (500.0, 620.0)]
    qtbot.mousePress(stage, Qt.MouseButton.LeftButton, pos=ends[0])
    qtbot.mouseMove(stage, ends[1])
    qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=ends[1])
    scale = session.swing.scale
    assert isinstance(scale, KnownLength) and scale.frame == 12 and scale.what == "ball"
    assert scale.bx - scale.ax == pytest.approx(120.0, abs=2.0) and scale.length_cm == pytest.approx(4.267)
    assert session.analysis.scale.per_px == pytest.approx(4.267 / (scale.bx - scale.ax), rel=1e-6)


def test_the_capture_rate_changes_times_and_not_frames(qtbot, opened):
    """Slowed twice: real seconds shrink, marks and pins stay on their frames, legs are followed anew."""
    session = opened.on_desk
    session.document.pin("top", 150.0)
    length, top = session.times_s[-1], session.analysis.checkpoints["top"].time_s
    choose(opened, "capture_rate", "240 a second")
    qtbot.waitUntil(lambda: not session.gathering.following.busy, timeout=PATIENCE_MS)
    assert session.times_s[-1] == pytest.approx(length / 2, rel=1e-6)
    assert session.swing.pinned == {"top": 150.0}
    assert session.analysis.checkpoints["top"].time_s == pytest.approx(top / 2, rel=1e-6)
    assert "stored 120" in opened.bench.strip.tokens["capture_rate"].accessibleName()
    assert np.isfinite(session.analysis.tracks["left_hip"].xy).all()


def test_a_swing_within_a_clip_counts_from_its_own_first_frame(qtbot, window, demo):
    """A span from frame 30 on: the same marks, 30 frames earlier, the same numbers at the same moments."""
    document = (demo / CLIP).with_suffix(".swing.json")
    whole = load_swing(document)
    open_clip(qtbot, window, demo / CLIP)
    session = window.on_desk
    top = session.analysis.checkpoints["top"]
    value = session.analysis.at("pelvis_shift", "top").pair
    part = demo / "part.swing.json"
    kept = tuple(m for m in whole.take.marks if m.frame >= 30)
    save_swing(part, msgspec.structs.replace(whole, takes=(whole.take.with_(span=(30, 299), marks=kept),)))
    window.open_path(part)
    qtbot.waitUntil(lambda: session.path == part, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: not session.gathering.following.busy, timeout=PATIENCE_MS)
    assert (session.first, session.frames) == (30, 270)
    assert {m.frame for m in session.swing.marks} == {m.frame - 30 for m in kept}
    there = session.analysis.checkpoints["top"]
    assert there.shown == top.shown - 30
    assert session.analysis.at("pelvis_shift", "top").value == pytest.approx(value[0], abs=0.1)
    session.cursor.go(10)
    session.document.place("left_knee", session.cursor.frame, 600.0, 500.0)
    saved(qtbot, session)
    assert any((m.point, m.frame) == ("left_knee", 40) for m in load_swing(part).take.marks)
