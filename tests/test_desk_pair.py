"""Two swings on the desk, driven by keys and mouse: in step, on one scale, compared, and let go again."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication, QFileDialog

from kneel.compare.pair import Pair
from kneel.desk.places.pair.actions import Shown
from kneel.desk.places.pair.scale import HeldAt, anchor_of
from kneel.desk.widgets.chooser import Chooser
from kneel.model import Stature, View
from tests.desk import PATIENCE_MS, open_clip, press
from tests.filed import DAYS, MAREN, lessons_in
from tests.test_bench import SIZES, cut_off, panel_of
from tests.test_desk_book import book, clip_of, today  # noqa: F401

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def both(qtbot, window, tmp_path, monkeypatch):
    """Then and now: her August swing beside that of November, opened as a file."""
    then, _, now = lessons_in(tmp_path / "range")
    open_clip(qtbot, window, now)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(then), ""))
    press(qtbot, window.bench.stage, Qt.Key.Key_C, SHIFT)
    panel_of(window, Chooser).pick("Another file")
    compared(qtbot, window)
    return window.pair


def compared(qtbot, window):
    place = window.pair
    qtbot.waitUntil(lambda: place.comparing.pair is not None, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: not place.other.gathering.busy, timeout=PATIENCE_MS)
    assert window.place is place and isinstance(place.comparing.pair, Pair)


def test_then_and_now_run_in_step_from_either_side(qtbot, window, both):
    here, there = window.on_desk, both.other
    picture = both.canvases[1]
    press(qtbot, picture, Qt.Key.Key_4)
    assert here.checkpoint == "top" == there.checkpoint
    for name in ("impact", "address"):
        here.go_to(name)
        assert there.cursor.frame == pytest.approx(there.numbers.shown(name), abs=1)
    before = here.cursor.frame, there.cursor.frame
    press(qtbot, picture, Qt.Key.Key_Right)
    assert here.cursor.frame == before[0] + 1 and there.cursor.frame > before[1] - 1
    press(qtbot, picture, Qt.Key.Key_Right, CTRL)
    went = there.cursor.frame
    middle, down, none = QPointF(9, 9), QPoint(0, -120), Qt.MouseButton.NoButton
    phase = Qt.ScrollPhase.NoScrollPhase
    turn = QWheelEvent(middle, middle, QPoint(), down, none, CTRL, phase, False)
    QApplication.sendEvent(both.canvases[0], turn)
    assert there.cursor.frame == went + 1
    assert here.cursor.frame == pytest.approx(both.clock.step.to_a(there.times_s[[went + 1]])[0] * 120, abs=1)
    press(qtbot, picture, Qt.Key.Key_X)
    held = there.cursor.frame
    press(qtbot, picture, Qt.Key.Key_5)
    assert both.clock.held and there.cursor.frame == held != there.numbers.shown("half_down")
    press(qtbot, picture, Qt.Key.Key_X)
    assert there.cursor.frame == pytest.approx(there.numbers.shown("half_down"), abs=1)
    axis = both.lanes.axis
    at = QPoint(round(axis.x_of(here.numbers.shown("top"))), both.lanes.height() // 2)
    qtbot.mouseClick(both.lanes, Qt.MouseButton.LeftButton, pos=at)
    assert here.checkpoint == "top" == there.checkpoint


def test_the_table_says_what_the_pair_says_and_leads_to_it(qtbot, window, both):
    pair, table = both.comparing.pair, both.table
    assert [row.one for row in table.rows] == sorted(pair.rows, key=lambda one: not one.claimed)
    assert f"Of {pair.asked} numbers" in table.said.text() and "Sway: fault" in table.verdicts.text()
    row = next(r for r in table.rows if (r.one.measure, r.one.at) == ("pelvis_shift", "impact"))
    qtbot.mouseClick(row, Qt.MouseButton.LeftButton)
    assert window.on_desk.checkpoint == "impact" and both.lanes.measure == "pelvis_shift" and row.isChecked()
    mine, theirs, sigma = both.lanes.traces()
    frame = window.on_desk.cursor.frame
    assert mine.values[frame] - theirs[frame] == pytest.approx(row.one.difference, abs=0.6)
    assert np.isfinite(sigma[frame])
    window.on_desk.set("Set stature", scale=Stature(190.0))
    qtbot.waitUntil(lambda: both.comparing.pair is not pair, timeout=PATIENCE_MS)


def test_both_are_shown_on_one_scale_in_several_ways(qtbot, window, both):
    """The same centimetres, held together at a place that can be chosen, in every way of looking."""
    for way in (Shown.BESIDE, Shown.UNDER, Shown.FLIP):
        assert both.way is way
        at = []
        for held in HeldAt:
            both.hold_at(held)
            per_cm = []
            for canvas, swing in zip(both.canvases, (both.other, window.on_desk), strict=True):
                if canvas.isVisible():
                    per_cm.append(canvas.view.scale / swing.analysis.scale.per_px)
                    spot = canvas.view.to_widget(*anchor_of(swing.analysis, held))
                    at.append((spot.x() - canvas.width() / 2, spot.y()))
            assert max(per_cm) / min(per_cm) < 1.01
        if way is Shown.BESIDE:
            np.testing.assert_allclose(at[::2], at[1::2], atol=4)
        press(qtbot, both.canvases[1], Qt.Key.Key_V)
    assert both.way is Shown.BESIDE
    press(qtbot, both.canvases[1], Qt.Key.Key_V, SHIFT)
    assert [canvas.isVisible() for canvas in both.canvases] == [False, True]
    both.flip()
    assert [canvas.isVisible() for canvas in both.canvases] == [True, False]
    press(qtbot, both.canvases[0], Qt.Key.Key_S)
    panel_of(window, Chooser).pick("Trail ankle")
    assert both.held_at is HeldAt.TRAIL_ANKLE


def test_one_key_holds_a_swing_against_the_one_before_and_lets_it_go(qtbot, window, tmp_path):
    """From the Bench; the other can be worked on again as soon as the place is left."""
    line, face = lessons_in(tmp_path / "range", DAYS[2:], f"{MAREN}*")
    again = face.with_name("again.swing.json")
    open_clip(qtbot, window, face)
    qtbot.waitUntil(lambda: bool(window.bench.rack.entries), timeout=PATIENCE_MS)
    press(qtbot, window.bench.stage, Qt.Key.Key_C)
    assert window.place is window.bench and "No swing of this view" in window.status_bar.text()
    again.write_bytes(face.read_bytes())
    window.bench.rack.refresh()
    qtbot.waitUntil(lambda: len(window.bench.rack.entries) > 2, timeout=PATIENCE_MS)
    last = [one.document for one in window.bench.rack.entries if one.view is View.FACE_ON][-1]
    window.open_path(last)
    qtbot.waitUntil(lambda: window.on_desk.path == last, timeout=PATIENCE_MS)
    press(qtbot, window.bench.stage, Qt.Key.Key_C)
    compared(qtbot, window)
    other = window.pair.other.path
    assert other != window.on_desk.path and not any(row.claimed for row in window.pair.comparing.pair.rows)
    press(qtbot, window, Qt.Key.Key_F2)
    assert window.pair.other.store is None
    window.open_path(other)
    qtbot.waitUntil(lambda: window.on_desk.path == other, timeout=PATIENCE_MS)
    assert "another desk" not in window.status_bar.text()
    press(qtbot, window, Qt.Key.Key_F10)
    assert window.pair.comparing.path is None, "it lies on the desk now"
    window.pair.comparing.open(other)
    assert "already" in window.status_bar.text() and window.pair.comparing.path is None
    window.pair.comparing.open(line)
    qtbot.waitUntil(lambda: "only swings of one view" in window.pair.table.said.text(), timeout=PATIENCE_MS)
    window.pair.comparing.open(tmp_path / "gone.mp4")
    qtbot.waitUntil(lambda: "There is no file" in window.status_bar.text(), timeout=PATIENCE_MS)


def test_then_and_now_from_the_book(qtbot, window, book, today, tmp_path):  # noqa: F811
    """A lesson's swing of the view on the desk, by its button; said where there is none."""
    press(qtbot, window, Qt.Key.Key_F7)
    qtbot.waitUntil(lambda: window.book.student_page.page is not None, timeout=PATIENCE_MS)
    qtbot.mouseClick(window.book.lesson.beside, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Open a swing first" in window.status_bar.text(), timeout=PATIENCE_MS)
    open_clip(qtbot, window, clip_of(tmp_path))
    press(qtbot, window, Qt.Key.Key_F7)
    page = window.book.student_page
    page.show_lesson(page.page.lessons[-1][0].id)
    qtbot.mouseClick(window.book.lesson.beside, Qt.MouseButton.LeftButton)
    compared(qtbot, window)
    assert window.pair.other.path.parent.name == DAYS[0] and window.on_desk.path.parent.name == DAYS[2]


def test_no_word_of_the_pair_is_cut_off(qtbot, window, both):
    for size in SIZES:
        window.resize(*size)
        qtbot.waitUntil(lambda: cut_off(window) == [], timeout=PATIENCE_MS)
