"""The Bench as a whole: a review from drop to reopening, both layouts, keys, panels, and no word cut off."""

from __future__ import annotations

import os
import subprocess
import sys
from contextlib import contextmanager, nullcontext

import pytest
from PyQt6.QtCore import QCoreApplication, QMimeData, QPointF, QSettings, Qt, QTranslator, QUrl
from PyQt6.QtGui import QDropEvent, QKeySequence
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton
from tools.upright import upright

from kneel.desk.places.bench.layout import Lie
from kneel.desk.places.bench.reading.findings import Knot
from kneel.desk.shell.actions import ACTIONS, Reach
from kneel.desk.shell.guide import SEEN, STEPS
from kneel.desk.shell.window import Window
from kneel.desk.stage.captions import sentence_height
from kneel.desk.stage.measured import words_of
from kneel.desk.widgets import text
from kneel.desk.widgets.chooser import Chooser
from kneel.desk.widgets.panels import Panel, Sheet
from kneel.documents.swing_file import load_swing
from kneel.judge import Verdict
from kneel.speech.plain import plain_sentence
from tests.desk import CLIP, LINE, PATIENCE_MS, open_clip, press, saved

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def opened(qtbot, window, demo):
    open_clip(qtbot, window, demo / CLIP)
    return window


def drop(window, *paths) -> None:
    """Let files fall on the window."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    actions, buttons, none = (
        Qt.DropAction.CopyAction,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    window.dropEvent(QDropEvent(QPointF(200, 200), actions, data, buttons, none))


def panel_of(window, kind=Panel):
    (one,) = [p for p in window.findChildren(kind) if p.isVisible()]
    return one


def test_a_whole_review(qtbot, window, demo):
    """Drop, correct two points, choose a finding, change the school, dismiss one, save, reopen."""
    drop(window, demo / CLIP)
    session, stage, pane = window.on_desk, window.bench.stage, window.bench.reading
    qtbot.waitUntil(lambda: session.store is not None, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: not session.gathering.busy, timeout=PATIENCE_MS)
    assert QApplication.focusWidget() is stage
    press(qtbot, stage, Qt.Key.Key_4)
    for point, by in (("right_hip", 6), ("left_knee", -5)):
        x, y = session.analysis.tracks[point].xy[session.cursor.frame]
        start = stage.view.to_widget(x, y).toPoint()
        end = stage.view.to_widget(x + by, y + 2).toPoint()
        qtbot.mousePress(stage, Qt.MouseButton.LeftButton, pos=start)
        qtbot.mouseMove(stage, end)
        qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=end)
    marks = {(m.point, m.frame) for m in session.swing.marks}
    assert {("right_hip", session.cursor.frame), ("left_knee", session.cursor.frame)} <= marks
    qtbot.waitUntil(lambda: not session.gathering.busy and not session.numbers.busy, timeout=PATIENCE_MS)
    knots = [k for k in pane.findings.findChildren(Knot) if not k.isHidden()]
    qtbot.mouseClick(knots[-1], Qt.MouseButton.LeftButton)
    assert session.selection.fault == knots[-1]._hung.finding.key
    press(qtbot, stage, Qt.Key.Key_J)
    panel_of(window, Chooser).pick("Loading")
    assert session.numbers.reading.school.key == "loading"
    press(qtbot, stage, Qt.Key.Key_F)
    dismissed = session.selection.fault
    press(qtbot, stage, Qt.Key.Key_D, CTRL)
    qtbot.keyClicks(pane.explain.reason, "a loose shirt")
    qtbot.keyClick(pane.explain.reason, Qt.Key.Key_Return)
    saved(qtbot, session)
    frame, swing = session.cursor.frame, session.swing
    window.close()
    again = Window(window._look, window._settings)
    qtbot.addWidget(again)
    again.show()
    again.opener.reopen_last()
    qtbot.waitUntil(lambda: again.on_desk.store is not None, timeout=PATIENCE_MS)
    assert again.on_desk.cursor.frame == frame
    (override,) = again.on_desk.swing.overrides
    assert (override.fault, override.reason) == (dismissed, "a loose shirt")
    assert again.on_desk.swing.marks == swing.marks and again.on_desk.swing.school == "loading"
    assert dismissed not in {f.key for f, _ in again.on_desk.numbers.reading.chain}
    again.close()


def test_upright_clips_lie_upright_and_the_choice_is_remembered(qtbot, window, demo, tmp_path):
    bench, settings = window.bench, window._settings
    open_clip(qtbot, window, demo / LINE)
    assert bench.lying.lie is Lie.WIDE and bench.stage.width() > bench.stage.height()
    document = upright(demo / LINE, tmp_path / "up")
    window.open_path(document)
    qtbot.waitUntil(lambda: window.on_desk.path == document, timeout=PATIENCE_MS)
    assert bench.lying.lie is Lie.UPRIGHT
    qtbot.waitUntil(lambda: bench.stage.height() > 0.85 * window.height(), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: not window.on_desk.gathering.busy, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: window.on_desk.numbers.shown("address") is not None, timeout=PATIENCE_MS)
    # The golfer fills the height: head to ankle nearly half of the window, with the club above.
    tracks, frame = window.on_desk.analysis.tracks, window.on_desk.numbers.shown("address")
    high = [bench.stage.view.to_widget(0, float(tracks[p].xy[frame, 1])).y() for p in ("head", "left_ankle")]
    assert high[1] - high[0] > 0.45 * window.height()
    press(qtbot, bench.stage, Qt.Key.Key_U)
    assert bench.lying.lie is Lie.WIDE
    window.open_path(demo / LINE)
    qtbot.waitUntil(lambda: window.on_desk.store.info.path == demo / LINE, timeout=PATIENCE_MS)
    assert bench.lying.lie is Lie.WIDE
    press(qtbot, bench.stage, Qt.Key.Key_U)
    assert bench.lying.lie is Lie.UPRIGHT
    assert settings.value("layout of wide clips") == "upright"
    assert settings.value("layout of upright clips") == "wide"


def test_every_action_stands_in_one_table(qtbot, opened):
    """Keys hold where they belong, none twice in one place, and the palette finds and does all of them."""
    seen: dict[str, Reach] = {}
    for entry in ACTIONS:
        for key in entry.keys:
            assert key not in seen and not QKeySequence(key).isEmpty(), key
            seen[key] = entry.reach
        action = opened.actions_by_key[entry.key]
        assert [s.toString() for s in action.shortcuts()] == [QKeySequence(k).toString() for k in entry.keys]
    press(qtbot, opened.bench.stage, Qt.Key.Key_K, CTRL)
    chooser = panel_of(opened, Chooser)
    assert len(chooser.choices) == len(ACTIONS) - 1
    assert "Go to top" in [c.title for c in chooser.choices if c.enabled], (
        "by its whole name, not that of a menu"
    )
    frame = opened.on_desk.cursor.frame
    qtbot.keyClicks(chooser.line, "ten frames on")
    assert opened.on_desk.cursor.frame == frame, "what is typed in a panel reaches nothing else"
    qtbot.keyClick(chooser.line, Qt.Key.Key_Return)
    assert opened.on_desk.cursor.frame == frame + 10
    assert QApplication.focusWidget() is opened.bench.stage
    press(qtbot, opened.bench.stage, Qt.Key.Key_F1)
    crib = panel_of(opened, Sheet)
    assert all(action.title in crib.text() for action in ACTIONS if action.keys)
    qtbot.keyClick(crib, Qt.Key.Key_Escape)
    assert not crib.isVisible()


def test_tab_goes_round_the_bench_and_space_presses_what_has_the_focus(qtbot, opened):
    """All of the Bench by keyboard: Tab reaches strip, stage, ribbon, reading and rack."""
    bench, reached = opened.bench, set()
    parts = {"strip": bench.strip, "reading": bench.reading, "rack": bench.rack, "stage": bench.stage}
    parts["ribbon"] = bench.ribbon
    bench.stage.setFocus()
    for _ in range(60):
        focus = QApplication.focusWidget()
        assert focus.accessibleName() or isinstance(focus, QPushButton), focus
        reached |= {name for name, part in parts.items() if part is focus or part.isAncestorOf(focus)}
        qtbot.keyClick(focus, Qt.Key.Key_Tab)
    assert reached == set(parts)
    token = bench.strip.tokens["club"]
    token.setFocus()
    qtbot.keyClick(token, Qt.Key.Key_Space)
    assert panel_of(opened, Chooser).accessibleName() == "Club" and not opened.bench.player.playing


def test_the_student_sees_the_picture_and_one_sentence(qtbot, opened):
    bench, session = opened.bench, opened.on_desk
    session.selection.choose("sway")
    press(qtbot, bench.stage, Qt.Key.Key_F11)
    assert bench.student.on and not bench.reading.isVisible() and not bench.rack.isVisible()
    words = bench.stage.caption
    assert words.startswith("The hips have drifted") and "±" not in words and "school" not in words
    # The picture lies above the sentence, and the sentence follows the moment.
    assert bench.stage.view.shown.bottom() <= bench.stage.height() - sentence_height(bench.stage.width())
    session.go_to("address")
    assert bench.stage.caption == "Set-up: here it begins."
    session.go_to("impact")
    assert bench.stage.caption.startswith("Impact: hips from the start line: ")
    assert "toward the target, as wanted" in bench.stage.caption
    session.selection.choose("sway")
    for finding in session.numbers.reading.findings:
        plain = plain_sentence(finding, session.swing.hand)
        assert "lead " not in plain and "trail " not in plain
    session.look_at(lines=("trail_hip",))
    scene = bench.stage.scene()
    assert [words_of(scene, one) for one in scene.figures] == [
        "hips from the start line",
        "right hip past the line",
    ]
    press(qtbot, bench.stage, Qt.Key.Key_Escape)
    assert not bench.student.on and bench.reading.isVisible() and bench.stage.caption == ""


def test_a_guide_comes_once_and_can_be_skipped(qtbot, window, tmp_path):
    window.open_demo()
    qtbot.waitUntil(lambda: window.guide.panel is not None, timeout=PATIENCE_MS)
    for k in range(len(STEPS) - 1):
        assert STEPS[k].title in window.guide.panel.accessibleName()
        assert window.rect().contains(window.guide.panel.geometry())
        qtbot.keyClick(window.guide.panel, Qt.Key.Key_Return)
    qtbot.keyClick(window.guide.panel, Qt.Key.Key_Escape)
    assert window.guide.panel is None and window._settings.value(SEEN, False, type=bool)
    other = Window(window._look, QSettings(window._settings.fileName(), QSettings.Format.IniFormat))
    qtbot.addWidget(other)
    other.guide.offer()
    assert not other.guide._wanted
    other.close()


class Longer(QTranslator):
    """Words as long as German ones: a third longer."""

    def translate(self, context, source, disambiguation=None, n=-1):
        return source + "n" * (len(source) // 3) if context == "Kneel" and source.strip() else source


@contextmanager
def longer_words():
    translator = Longer()
    QCoreApplication.installTranslator(translator)
    try:
        yield
    finally:
        QCoreApplication.removeTranslator(translator)


def cut_off(window) -> list[str]:
    """All words of the window that do not stand there whole."""
    with text.cuts() as found:
        for part in (window, window.bench.stage, window.bench.ribbon):
            part.grab()
    words = [one.words for one in found]
    for label in window.findChildren(QLabel):
        if not label.isVisibleTo(window) or not label.text() or label is window.status_bar.message:
            continue
        if label.wordWrap():
            whole = label.heightForWidth(label.width()) <= label.height() + 1
        else:
            whole = label.sizeHint().width() <= label.width() + 1
        if not whole:
            words.append(label.text())
    for button in window.findChildren(QPushButton):
        if button.isVisibleTo(window) and button.sizeHint().width() > button.width() + 1:
            words.append(button.text())
    return words


SIZES = ((1000, 640), (1280, 800), (1680, 1050))


@pytest.mark.parametrize("long", [False, True], ids=["english", "longer"])
def test_no_word_is_cut_off(qtbot, window, demo, long):
    """At three sizes, in both layouts, in words a third longer too; painted text as well."""
    with longer_words() if long else nullcontext():
        if long:
            other = Window(window._look, window._settings)
            qtbot.addWidget(other)
            other.show()
        else:
            other = window
        open_clip(qtbot, other, demo / CLIP)
        session = other.on_desk
        for finding, checkpoint in (("sway", "top"), ("no_shift", "impact")):
            session.selection.choose(finding)
            session.go_to(checkpoint)
            for size in SIZES:
                other.resize(*size)
                for _ in range(2):
                    # Labels that wrap take more than one turn to find their height.
                    qtbot.waitUntil(lambda: cut_off(other) == [], timeout=PATIENCE_MS)
                    other.bench.lying.turn()
        other.close()


SCALED = """
import sys
import time
sys.path.insert(0, ".")
from pathlib import Path
from PyQt6.QtCore import QSettings
from kneel.desk.shell.app import end, make_application
from kneel.desk.shell.window import Window
from tests.test_bench import cut_off
application, settings, look = make_application()
window = Window(look, settings)
window.resize(1000, 640)
window.show()
window.open_path(Path(sys.argv[1]))
on_desk = window.on_desk
for _ in range(4000):
    application.processEvents()
    if on_desk.store is not None and not on_desk.gathering.busy:
        break
end_s = time.monotonic() + 30
while time.monotonic() < end_s:
    application.processEvents()
    time.sleep(0.02)
    if on_desk.store is not None and not on_desk.gathering.busy and not cut_off(window):
        break
print(window.devicePixelRatioF(), cut_off(window))
window.close()
end(0, settings)
"""


@pytest.mark.parametrize("factor", ["1.5", "2"])
def test_no_word_is_cut_off_on_a_dense_screen(demo, factor):
    environment = os.environ | {"QT_SCALE_FACTOR": factor, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-c", SCALED, str(demo / CLIP)],
        capture_output=True,
        text=True,
        env=environment,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert done.stdout.split() == [str(float(factor)), "[]"]


def test_why_so_unsure_is_told_from_the_budget(qtbot, opened):
    session, explain = opened.on_desk, opened.bench.reading.explain
    session.selection.choose("sway")
    press(qtbot, opened.bench.stage, Qt.Key.Key_W)
    words = explain.unsure.text()
    assert words.startswith("± 0.7 cm comes from: ") and "the scale" in words and "95 times in 100" in words
    press(qtbot, opened.bench.stage, Qt.Key.Key_W)
    assert not explain.unsure.isVisible()


def test_what_the_golfer_tells_is_kept_and_weighs(qtbot, opened, demo):
    golfer, session = opened.bench.reading.golfer, opened.on_desk
    flight = golfer.lines["flight"]
    qtbot.mouseClick(golfer.row, Qt.MouseButton.LeftButton)
    flight.setFocus()
    flight.clear()
    qtbot.keyClicks(flight, "slice")
    qtbot.keyClick(flight, Qt.Key.Key_Return)
    saved(qtbot, session)
    assert load_swing(session.path).flight == "slice"
    for complaint, shown in (
        ("Long but wild, and a back that is stiff", "Long but wild, and a back… · ball: slice ▴"),
        ("x" * 80, f"{'x' * 26}… · ball: slice ▴"),
        ("", "ball: slice ▴"),
    ):
        session.set("Note what the student tells", complaint=complaint)
        assert golfer.row.text() == shown, "a word is not cut, and the ball stands whole"
        session.document.undo()
    session.document.undo()
    assert flight.text() == session.swing.flight != "slice"


def test_a_fault_is_added_by_typing(qtbot, opened):
    press(qtbot, opened.bench.stage, Qt.Key.Key_F, CTRL)
    chooser = panel_of(opened, Chooser)
    qtbot.keyClicks(chooser.line, "slide")
    chooser.pick("Slide")
    qtbot.waitUntil(lambda: not opened.on_desk.numbers.busy, timeout=PATIENCE_MS)
    assert opened.on_desk.numbers.reading.of("slide").verdict is Verdict.FAULT


def test_a_pinned_checkpoint_is_set_free_by_a_key(qtbot, opened):
    session, stage = opened.on_desk, opened.bench.stage
    press(qtbot, stage, Qt.Key.Key_4)
    top = session.cursor.frame
    press(qtbot, stage, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    press(qtbot, stage, Qt.Key.Key_P)
    assert session.swing.pinned
    press(qtbot, stage, Qt.Key.Key_P, Qt.KeyboardModifier.ShiftModifier)
    assert not session.swing.pinned and session.numbers.shown("top") == top
    press(qtbot, stage, Qt.Key.Key_P, Qt.KeyboardModifier.ShiftModifier)
    assert "No checkpoint is pinned" in opened.status_bar.text()


def test_lanes_are_chosen_by_typing_and_zoomed_in_time(qtbot, opened):
    """At most four; R opens the list, Ctrl and + zoom about the cursor, which stays in sight; all is kept."""
    session, ribbon, stage = opened.on_desk, opened.bench.ribbon, opened.bench.stage
    first = ribbon.choice.keys
    for typed in ("head shift", "side tilt", "pelvis lift"):
        press(qtbot, stage, Qt.Key.Key_R)
        chooser = panel_of(opened, Chooser)
        qtbot.keyClicks(chooser.line, typed)
        qtbot.keyClick(chooser.line, Qt.Key.Key_Return)
    assert (
        ribbon.choice.keys == (*first, "head_shift", "side_tilt", "pelvis_lift")[-4:]
        and len(ribbon.choice.lanes) == 4
    )
    assert ribbon.choice.lanes[1].told(session.cursor.frame).endswith(("cm", "°"))
    whole = ribbon.axis.shown
    session.go_to("impact")
    press(qtbot, stage, Qt.Key.Key_Plus, CTRL)
    near = ribbon.axis.shown
    assert near[1] - near[0] == pytest.approx((whole[1] - whole[0]) / 1.5)
    press(qtbot, stage, Qt.Key.Key_1)
    assert ribbon.axis.holds(ribbon.x_of(session.cursor.frame))
    unsure = ribbon.choice.lanes[0].suspected()
    sigma = session.analysis.measure(ribbon.choice.keys[0]).sigma
    assert not unsure.any() or sigma[unsure].min() > sigma[~unsure].min()
    saved(qtbot, session)
    path = session.path
    session.close()
    opened.open_path(path)
    qtbot.waitUntil(lambda: session.path == path, timeout=PATIENCE_MS)
    assert (
        ribbon.choice.keys == (*first, "head_shift", "side_tilt", "pelvis_lift")[-4:]
        and ribbon.axis.shown == whole
    )
