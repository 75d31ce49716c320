"""Points on the desk: marked from nothing, nudged, followed by tape, and filmed by a camera that pans."""

from __future__ import annotations

from pathlib import Path

import cv2
import msgspec
import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel

from kneel.demo.lesson import takes
from kneel.demo.place import FIRST, TODAY
from kneel.desk.stage.figure import figures_at
from kneel.documents.swing_file import load_swing, save_swing
from kneel.footage import Clip, picture_of, write_clip
from kneel.model import Club, Hand, Stature, Swing
from tests.desk import CLIP, PATIENCE_MS, open_clip, press


def test_a_new_clip_is_marked_from_nothing(qtbot, window, demo):
    """Without a document: guesses are shown as such; M walks through the body click by click."""
    (demo / "maren-tolhurst-iron.swing.json").rename(demo / "kept.json")
    known = msgspec.json.decode((demo / "kept.json").read_bytes())["swing"]["takes"][0]["marks"]
    open_clip(qtbot, window, demo / CLIP)
    session, stage = window.on_desk, window.bench.stage
    assert {"view", "hand", "scale"} <= set(session.swing.guessed)
    assert session.numbers.reading.findings[0].verdict.value == "unknown"
    for frame in sorted({m["frame"] for m in known}):
        session.cursor.go(frame)
        press(qtbot, window, Qt.Key.Key_M)
        assert stage.armed == "lead_hip"
        while stage.armed:
            point = stage.armed
            side = {"lead": "left", "trail": "right"}.get(point.split("_")[0])
            name = point if side is None else f"{side}_{point.split('_')[1]}"
            where = next(m for m in known if m["point"] == name and m["frame"] == frame)
            at = stage.view.to_widget(where["x"], where["y"]).toPoint()
            qtbot.mouseClick(stage, Qt.MouseButton.LeftButton, pos=at)
    qtbot.waitUntil(lambda: not session.gathering.following.busy, timeout=PATIENCE_MS)
    session.set("Set scale", scale=Stature(168.0))
    assert session.numbers.reading.findings[0].verdict.value == "fault"
    assert "scale" not in session.swing.guessed
    assert session.swing.hand is Hand.RIGHT


def test_marks_can_be_nudged_and_taken_away(qtbot, window, demo):
    open_clip(qtbot, window, demo / CLIP)
    session, stage = window.on_desk, window.bench.stage
    session.go_to("top")
    stage.selected = "left_knee"
    x = session.analysis.tracks["left_knee"].xy[session.cursor.frame, 0]
    stage.setFocus()
    qtbot.keyClick(stage, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    mark = next(m for m in session.swing.marks if (m.point, m.frame) == ("left_knee", session.cursor.frame))
    assert mark.x == pytest.approx(x + 0.25, abs=0.01)
    press(qtbot, window, Qt.Key.Key_Delete)
    assert not any((m.point, m.frame) == ("left_knee", session.cursor.frame) for m in session.swing.marks)


def test_a_band_under_a_mark_is_followed_and_said(qtbot, window, demo):
    """Brace and sock: marked joints follow their colour, the reading says so; without marks they do not."""
    open_clip(qtbot, window, demo / "wilma-ostrow-wedge.mp4")
    session = window.on_desk
    assert {"left_knee", "right_ankle"} <= set(session.numbers.spots)
    said = [label.text() for label in window.findChildren(QLabel) if "Followed by its colour" in label.text()]
    note = said[0].partition("Followed by its colour")[2]
    assert "trail knee" in note and "lead ankle" in note and "hip" not in note and "shoulder" not in note
    knee = session.analysis.tracks["left_knee"]
    middle = session.numbers.spots["left_knee"].xy
    seen = np.isfinite(middle[:, 0])
    assert np.median(np.linalg.norm(knee.xy[seen] - middle[seen], axis=1)) < 1.5
    placed = [m for m in session.swing.marks if m.point == "left_knee"]
    for mark in placed:
        session.document.change("Take away", session.swing.without_mark(mark.point, mark.frame))
    assert "left_knee" not in session.numbers.spots
    for _ in placed:
        session.document.undo()
    qtbot.waitUntil(lambda: not session.gathering.following.busy, timeout=PATIENCE_MS)
    assert "left_knee" in session.numbers.spots


def panned(clip: Path, swing: Swing, target: Path) -> Swing:
    """The same clip, half its size and rate, as a camera films it that pans slowly, with its marks."""
    with Clip(clip) as opened:
        size = opened.info.width // 2, opened.info.height // 2
        pictures = [
            picture_of(frame, opened.upright, size=size) for n, frame in opened.frames() if n % 2 == 0
        ]
    ways = pan(np.arange(len(pictures)) / len(pictures))
    moved = [
        cv2.warpAffine(picture, np.array([[1, 0, way], [0, 1, 0]]), size, borderMode=cv2.BORDER_REPLICATE)
        for picture, way in zip(pictures, ways, strict=True)
    ]
    write_clip(target, moved, rate=60, size=size, quality=20)
    replace = msgspec.structs.replace
    marks = tuple(
        replace(m, frame=m.frame // 2, x=m.x / 2 + float(ways[m.frame // 2]), y=m.y / 2) for m in swing.marks
    )
    reference = replace(
        swing.clip,
        path=str(target),
        width=size[0],
        height=size[1],
        frames=len(moved),
        rate_stored=60.0,
        size_bytes=0,
        content="",
    )
    return swing.given(marks=marks, clip=reference, guessed=swing.guessed)


def pan(share):
    """How far the panning camera has moved the picture, px, by the share of the clip gone."""
    return 15 * np.sin(2.2 * share)


def test_a_camera_that_pans_does_not_move_the_golfer(qtbot, window, demo):
    """Marks alone, no body model: the pan is found while they are followed; one click leaves it in."""

    def shift_at_top() -> tuple[float, float]:
        analysis = window.on_desk.analysis
        return analysis.at("pelvis_shift", "top").pair

    session, token = window.on_desk, window.bench.strip.tokens["steadied"]
    document = demo / "panned.swing.json"
    swing = load_swing((demo / CLIP).with_suffix(".swing.json"))
    save_swing(document, panned(demo / CLIP, swing, demo / "panned.mp4"))
    window.open_path(document)
    qtbot.waitUntil(lambda: session.path == document, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: session.camera is not None, timeout=PATIENCE_MS)
    assert token.isVisible() and "moved" in token.accessibleName()
    told, doubt = shift_at_top()
    (take,) = (t for t in takes() if (t.day, t.file) == (TODAY, FIRST))
    assert abs(told + take.shoot.plan.faults["sway"]) < 2 * doubt
    # The plumb stands where the trail hip stood at address, in the picture of this frame.
    session.go_to("top")
    session.look_at(lines=("trail_hip",))
    (crossing,) = [one for one in figures_at(session) if one.words.startswith("trail hip")]
    address = session.analysis.checkpoints["address"].shown
    hip = session.analysis.tracks["right_hip"].xy[address]
    way = pan(session.cursor.frame / session.frames) - pan(address / session.frames)
    assert crossing.plumbs[0][0] == pytest.approx(hip[0] + way, abs=1.0)
    session.set("Set camera", steadied=False)
    fooled, _ = shift_at_top()
    assert abs(fooled - told) > 3
    assert not any("camera moved" in note for note in session.analysis.warnings)
    session.document.undo()
    assert shift_at_top()[0] == pytest.approx(told)


def test_looking_at_a_swing_writes_no_document(qtbot, window, demo):
    """Where one left off is kept apart; a mere look leaves the document as it lies, or begins none."""
    document = (demo / CLIP).with_suffix(".swing.json")
    before = document.read_bytes()
    open_clip(qtbot, window, demo / CLIP)
    session = window.on_desk
    assert session.checkpoint == session.selection.finding.checkpoint
    session.cursor.go(33)
    session.look_at(lines=("pelvis",))
    session.close()
    assert document.read_bytes() == before
    (demo / "elsewhere").mkdir()
    bare = demo / "elsewhere" / "bare.mp4"
    bare.write_bytes((demo / CLIP).read_bytes())
    open_clip(qtbot, window, bare)
    session.close()
    qtbot.waitUntil(lambda: [p.name for p in bare.parent.iterdir()] == ["bare.mp4"], timeout=PATIENCE_MS)
    open_clip(qtbot, window, demo / CLIP)
    assert session.cursor.frame == 33 and session.sight.lines == ("pelvis",)
    session.set("Set club", club=Club.WEDGE)
    session.close()
    assert load_swing(document).club is Club.WEDGE


def test_one_click_says_who_the_golfer_is(qtbot, window, demo):
    """G, a click on the body: undoable, kept in frames of the clip, and the strip says so."""
    open_clip(qtbot, window, demo / CLIP)
    session, stage = window.on_desk, window.bench.stage
    token = window.bench.strip.tokens["near"]
    assert not token.isVisible()
    session.cursor.go(20)
    press(qtbot, window, Qt.Key.Key_G)
    at = stage.view.to_widget(640.0, 380.0).toPoint()
    qtbot.mouseClick(stage, Qt.MouseButton.LeftButton, pos=at)
    near = session.swing.near
    assert near.frame == 20 and (near.x, near.y) == pytest.approx((640.0, 380.0), abs=1.0)
    assert session.swing.looked and token.isVisible() and "pointed out" in token.accessibleName()
    assert not [m for m in session.swing.marks if m.frame == 20]
    session.document.undo()
    assert session.swing.near is None and not session.swing.looked and not token.isVisible()
    press(qtbot, window, Qt.Key.Key_G)
    stage.cancel()
    qtbot.mouseClick(stage, Qt.MouseButton.LeftButton, pos=at)
    assert session.swing.near is None
