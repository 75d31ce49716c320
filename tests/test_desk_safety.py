"""The desk under hardship: two of them, full disks, things that break, answers that come late."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import threading
import time
from contextlib import contextmanager

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QApplication, QFileDialog

from kneel.desk.operations import Task, Workers
from kneel.desk.operations.threads import BROKE
from kneel.desk.shell import splitting
from kneel.desk.shell.exception_hook import MOST_ALIKE, Mishaps, log_end, log_file, start_logging
from kneel.desk.shell.help import show_log
from kneel.desk.shell.window import Window
from kneel.desk.swing import autosave, numbers, opening
from kneel.desk.swing.figures import Figures
from kneel.desk.widgets.panels import Sheet
from kneel.disk import atomic
from kneel.documents import recovery
from kneel.documents.keeper import Keeper
from kneel.documents.swing_file import disk_stamp, load_swing, save_swing
from kneel.footage import write_clip
from kneel.model import Club, FootageError, Mark
from tests.clips import ranged
from tests.desk import CLIP, PATIENCE_MS, open_clip, press, saved

pytestmark = pytest.mark.qt_log_ignore("propagateSizeHints")

DOCUMENT = CLIP.replace(".mp4", ".swing.json")
OTHER = "priya-sandell-driver.mp4"


def answer(qtbot, window, words: str) -> Sheet:
    """Press the button of the question that is open, and give that."""
    sheets: list[Sheet] = []

    def asked() -> bool:
        sheets[:] = [w for w in window.findChildren(Sheet) if w.isVisible()]
        return bool(sheets)

    qtbot.waitUntil(asked, timeout=PATIENCE_MS)
    button = next(b for b in sheets[-1].answers if words in b.text())
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    return sheets[-1]


@contextmanager
def full_disk(folder):
    """Nothing can be written in a folder."""
    real = atomic.real_target

    def target(path):
        if path.absolute().is_relative_to(folder):
            raise OSError(28, "No space left on device", str(path))
        return real(path)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(atomic, "real_target", target)
        yield


# Two desks


@pytest.mark.parametrize("choice", ["Keep both", "Replace", "Take"])
def test_what_another_desk_saved_is_never_replaced_without_asking(qtbot, window, demo, choice):
    document = demo / DOCUMENT
    open_clip(qtbot, window, demo / CLIP)
    on_desk = window.on_desk
    theirs = load_swing(document).given(golfer="Theirs")
    save_swing(document, theirs)
    on_desk.set("Set club", club=Club.WEDGE)
    on_desk.save()
    qtbot.waitUntil(lambda: "changed by another desk" in window.status_bar.text(), timeout=PATIENCE_MS)
    assert load_swing(document).golfer == "Theirs" and recovery.kept()[0].swing.club is Club.WEDGE
    answer(qtbot, window, choice)
    qtbot.waitUntil(lambda: not on_desk.autosave.dirty and not on_desk.autosave.trouble, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: not recovery.kept(), timeout=PATIENCE_MS)
    if choice == "Replace":
        assert load_swing(document).club is Club.WEDGE
        return
    assert load_swing(document).golfer == "Theirs" and load_swing(document).club is theirs.club
    if choice == "Take":
        assert on_desk.swing.golfer == "Theirs"
        on_desk.document.undo()
        assert on_desk.swing.club is Club.WEDGE
    else:
        assert on_desk.path != document and load_swing(on_desk.path).club is Club.WEDGE
        on_desk.set("Set club", club=Club.DRIVER)
        saved(qtbot, on_desk)
        assert load_swing(on_desk.path).club is Club.DRIVER


def test_a_desk_that_only_looked_writes_nothing_and_one_that_closes_keeps_both(qtbot, window, demo):
    document = demo / DOCUMENT
    open_clip(qtbot, window, demo / CLIP)
    save_swing(document, load_swing(document).given(golfer="Theirs"))
    stamp = disk_stamp(document)
    window.on_desk.cursor.go(33)
    assert window.on_desk.close() and disk_stamp(document) == stamp
    open_clip(qtbot, window, demo / CLIP)
    save_swing(document, load_swing(document).given(golfer="Theirs again"))
    window.on_desk.set("Set club", club=Club.WEDGE)
    window.close()
    assert load_swing(document).golfer == "Theirs again"
    beside = [load_swing(p) for p in demo.glob("*.desk-2.swing.json")]
    assert [s.club for s in beside] == [Club.WEDGE] and not recovery.kept()


def test_the_second_desk_is_told_on_opening(qtbot, window, demo, monkeypatch):
    monkeypatch.setattr(Keeper, "hold", lambda self: setattr(self, "alone", False) or self)
    open_clip(qtbot, window, demo / CLIP)
    assert "is open on another desk too" in window.status_bar.text()


def test_the_open_swing_opened_once_more_has_its_last_change(qtbot, window, demo):
    open_clip(qtbot, window, demo / CLIP)
    on_desk = window.on_desk
    for club in (Club.WEDGE, Club.DRIVER):
        on_desk.set("Set club", club=club)
        on_desk.cursor.go(44)
        store = on_desk.store
        window.open_path(demo / DOCUMENT)
        qtbot.waitUntil(lambda s=store: on_desk.store is not s, timeout=PATIENCE_MS)
        assert on_desk.swing.club is club and on_desk.cursor.frame == 44
        assert "another desk" not in window.status_bar.text()
        assert load_swing(demo / DOCUMENT).club is club


# What cannot be saved


def test_a_full_disk_loses_nothing(qtbot, window, demo):
    """The sentence stays, another clip may be opened, and the next start offers the work."""
    open_clip(qtbot, window, demo / CLIP)
    foot = window.status_bar
    with full_disk(demo):
        window.on_desk.set("Set club", club=Club.WEDGE)
        window.on_desk.save()
        qtbot.waitUntil(lambda: "No space left" in foot.text(), timeout=PATIENCE_MS)
        window.on_desk.failed.emit("Something else.")
        assert "No space left" in foot.text()
        window.open_path(demo / OTHER)
        qtbot.waitUntil(lambda: window.on_desk.store.info.path.name == OTHER, timeout=PATIENCE_MS)
        assert "No space left" not in foot.text()
        window.close()
    again = Window(window._look, window._settings)
    qtbot.addWidget(again)
    again.show()
    again.opener.look_for_left_over()
    answer(qtbot, again, "Open")
    qtbot.waitUntil(lambda: again.on_desk.swing.club is Club.WEDGE, timeout=PATIENCE_MS)
    saved(qtbot, again.on_desk)
    assert load_swing(demo / DOCUMENT).club is Club.WEDGE
    qtbot.waitUntil(lambda: not recovery.kept(), timeout=PATIENCE_MS)
    again.on_desk.document.undo()
    assert again.on_desk.swing.club is Club.IRON
    again.close()


def test_work_that_is_safe_nowhere_keeps_the_window_open(qtbot, window, demo, monkeypatch, tmp_path):
    for patience in ("CLOSING_S", "ASIDE_S"):
        monkeypatch.setattr(autosave, patience, 0.3)
    open_clip(qtbot, window, demo / CLIP)
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    with full_disk(tmp_path):
        window.on_desk.set("Set club", club=Club.WEDGE)
        assert not window.close() and window.isVisible()
        answer(qtbot, window, "Stay")
        window.open_path(demo / OTHER)
        answer(qtbot, window, "Stay")
        assert window.on_desk.swing.club is Club.WEDGE
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(elsewhere / "mine"), ""))
    with full_disk(demo):
        window.files.save_elsewhere()
        qtbot.waitUntil(lambda: window.on_desk.path == elsewhere / "mine.swing.json", timeout=PATIENCE_MS)
    assert load_swing(elsewhere / "mine.swing.json").club is Club.WEDGE
    assert window.close()


def test_what_is_written_late_changes_no_other_document(qtbot, window, demo, monkeypatch):
    """A disk that answers after another clip was opened: each document holds its own work."""
    open_clip(qtbot, window, demo / CLIP)
    monkeypatch.setattr(autosave, "CLOSING_S", 0.3)
    real, gate, path = Keeper.save, threading.Event(), window.on_desk.path

    def save(keeper, swing):
        if keeper.path == path:
            gate.wait(60)
        real(keeper, swing)

    monkeypatch.setattr(Keeper, "save", save)
    window.on_desk.set("Set club", club=Club.WEDGE)
    window.open_path(demo / OTHER)
    qtbot.waitUntil(lambda: window.on_desk.store.info.path.name == OTHER, timeout=PATIENCE_MS)
    assert recovery.kept()[0].swing.club is Club.WEDGE
    other, stamp = window.on_desk.path, disk_stamp(window.on_desk.path)
    gate.set()
    qtbot.waitUntil(lambda: load_swing(path).club is Club.WEDGE, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: not recovery.kept(), timeout=PATIENCE_MS)
    assert disk_stamp(other) == stamp and window.on_desk.path == other and not window.on_desk.autosave.dirty
    window.on_desk.set("Set club", club=Club.IRON)
    saved(qtbot, window.on_desk)
    assert load_swing(other).club is Club.IRON and load_swing(path).club is Club.WEDGE


def test_quick_marks_are_saved_while_they_come(qtbot, window, demo):
    open_clip(qtbot, window, demo / CLIP)
    told: list[int] = []
    window.on_desk.autosave.saved.connect(lambda: told.append(1))
    for frame in range(12):
        window.on_desk.document.place("head", frame, 600.0, 200.0)
        qtbot.wait(20)
    assert len(told) >= 2


# What breaks


def test_an_exception_ends_nothing(qtbot, window, demo):
    """In a slot, in a paint, in a thread: logged within a bound, said once, the work kept aside."""
    start_logging()
    open_clip(qtbot, window, demo / CLIP)
    mishaps = Mishaps(window.on_desk.autosave.put_aside)
    mishaps.broke.connect(window.status_bar.complain)
    window.on_desk.set("Set club", club=Club.WEDGE)
    with full_disk(demo):
        for _ in range(MOST_ALIKE + 5):
            try:
                raise ZeroDivisionError("in a paint")
            except ZeroDivisionError:
                mishaps.take(*sys.exc_info())
    assert "inside Kneel broke" in window.status_bar.text()
    assert recovery.kept()[0].swing.club is Club.WEDGE
    assert log_end().count("ZeroDivisionError: in a paint") == MOST_ALIKE
    assert log_file().stat().st_mode & 0o077 == 0 or log_file().exists()
    box = show_log(window, window._look)
    assert str(log_file()) in box.text()
    box.close()


def test_a_body_marked_on_its_legs_alone_is_drawn(qtbot, window, demo, tmp_path):
    """No point sure enough to be drawn, address pinned, one step on: the plates find their place."""
    bare = tmp_path / "bare" / CLIP
    bare.parent.mkdir()
    shutil.copy(demo / CLIP, bare)
    open_clip(qtbot, window, bare)
    on_desk = window.on_desk
    on_desk.set("Use marks alone", looked=False)
    for name, x, y in (
        ("left_hip", 600, 300),
        ("right_hip", 560, 300),
        ("left_ankle", 610, 500),
        ("right_ankle", 550, 500),
    ):
        on_desk.document.place(name, on_desk.cursor.frame, float(x), float(y))
    on_desk.document.pin("address", float(on_desk.cursor.frame))
    for step in (1, 30, 200):
        on_desk.cursor.step(step)
        window.grab()


def test_names_of_all_kinds_lie_in_a_folder(qtbot, window, demo):
    """The longest name there can be, bytes that are no text, and a folder called as a clip."""
    for name in ("b" * 251 + ".mp4", os.fsdecode(b"n\xff\x1b\n.mp4")):
        (demo / name).write_bytes((demo / CLIP).read_bytes() + b"\0\0\0\x08free" * len(name))
    (demo / "folder.mp4").mkdir()
    os.mkfifo(demo / "pipe.mp4")
    open_clip(qtbot, window, demo / CLIP)
    rack = window.bench.rack
    qtbot.waitUntil(lambda: len(rack.entries) >= 3, timeout=PATIENCE_MS)
    thumbs = rack._thumbs
    odd = next(c for c in rack.entries if b"\xff" in os.fsencode(c.clip))
    qtbot.waitUntil(lambda: thumbs.of(odd) is not None, timeout=PATIENCE_MS)
    assert all(entry.stem.isprintable() for entry in rack.entries)
    window.open_path(odd.target)
    qtbot.waitUntil(lambda: window.on_desk.store.info.path == odd.clip, timeout=PATIENCE_MS)
    window.on_desk.set("Set club", club=Club.WEDGE)
    saved(qtbot, window.on_desk)
    assert load_swing(window.on_desk.path).club is Club.WEDGE
    rack.refresh()
    window.grab()


def test_closing_waits_for_nobody(qtbot, window, demo, monkeypatch):
    """An opening that never answers keeps neither another opening nor the closing waiting."""
    open_clip(qtbot, window, demo / CLIP)
    hung, begun, real = threading.Event(), threading.Event(), opening.open_swing

    def opens(path, *rest, **more):
        if path.name == "hung.mp4":
            begun.set()
            hung.wait(60)
            raise FootageError("too late")
        return real(path, *rest, **more)

    monkeypatch.setattr("kneel.desk.shell.opener.open_swing", opens)
    window.open_path(demo / "hung.mp4")
    assert window.status_bar.stop.isVisible() and "opening hung.mp4" in window.status_bar.text()
    window.open_path(demo / OTHER)
    qtbot.waitUntil(lambda: window.on_desk.store.info.path.name == OTHER, timeout=PATIENCE_MS)
    begun.clear()
    window.open_path(demo / "hung.mp4")
    assert begun.wait(60)
    began = time.monotonic()
    assert window.close() and time.monotonic() - began < 30
    assert not Workers.all_done(0.05)
    hung.set()


HANGS = """
import sys, time
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
import kneel.desk.shell.opener as opener
from kneel.desk.shell.app import make_application, start
opener.open_swing = lambda *_, **__: time.sleep(600)
kept = make_application()
def end():
    window = next(w for w in QApplication.topLevelWidgets() if hasattr(w, "on_desk"))
    if sys.argv[1] == "breaks":
        QTimer.singleShot(0, lambda: 1 / 0)
        QTimer.singleShot(200, lambda: print(window.status_bar.text(), flush=True))
    QTimer.singleShot(400, window.close)
QTimer.singleShot(300, end)
sys.exit(start(__import__("pathlib").Path(sys.argv[2]), demo=False))
"""


@pytest.mark.parametrize("what", ["hangs", "breaks"])
def test_the_program_ends_though_something_hangs_and_lives_though_something_breaks(demo, what):
    words = [sys.executable, "-c", HANGS, what, str(demo / CLIP)]
    done = subprocess.run(words, capture_output=True, text=True, timeout=120, check=False)
    assert done.returncode == 0 and "Traceback" not in done.stderr, done.stderr
    assert ("inside Kneel broke" in done.stdout) is (what == "breaks")
    assert ("ZeroDivisionError" in log_end()) is (what == "breaks")


# Answers that come late


def test_of_two_openings_the_latest_is_shown(qtbot, window, demo, monkeypatch):
    real, gate, late = opening.open_swing, threading.Event(), []

    def opens(path, *rest, **more):
        opened = real(path, *rest, **more)
        if path.name == OTHER:
            gate.wait(60)
            late.append(opened)
        return opened

    monkeypatch.setattr("kneel.desk.shell.opener.open_swing", opens)
    window.open_path(demo / OTHER)
    qtbot.wait(50)
    open_clip(qtbot, window, demo / CLIP)
    gate.set()
    qtbot.waitUntil(lambda: bool(late) and late[0].store._closed, timeout=PATIENCE_MS)
    qtbot.wait(100)
    assert window.on_desk.store.info.path.name == CLIP


def test_a_split_of_one_clip_never_replaces_another(qtbot, window, demo, tmp_path, monkeypatch):
    """Nor does it begin again, or show, once it is stopped."""
    long = ranged(tmp_path, [3.0, 7.0, 11.5])
    real, gate = splitting.split, threading.Event()

    def split(task, *rest):
        task.progress(1, 10)
        gate.wait(60)
        return splitting.Parted((0, 40), (demo / DOCUMENT,)) if task.stopped() else real(task, *rest)

    monkeypatch.setattr("kneel.desk.shell.opener.split", split)
    open_clip(qtbot, window, long)
    qtbot.waitUntil(lambda: "looking for swings, 10 %" in window.status_bar.text(), timeout=PATIENCE_MS)
    qtbot.mouseClick(window.status_bar.stop, Qt.MouseButton.LeftButton)
    assert "looking" not in window.status_bar.text() and not window.status_bar.stop.isVisible()
    open_clip(qtbot, window, demo / OTHER)
    qtbot.waitUntil(lambda: window.on_desk.store.info.path.name == OTHER, timeout=PATIENCE_MS)
    gate.set()
    qtbot.wait(300)
    assert window.on_desk.store.info.path.name == OTHER and not list(tmp_path.glob("*.swing.json"))


def test_a_stopped_task_is_told_no_more(qtbot, window):
    """Neither its answer nor its progress, though both were sent before it was stopped."""
    told, dropped, workers = [], [], Workers(window)

    def work(task):
        task.progress(1, 2)
        return "answer"

    task = workers.start(
        Task(work, done=told.append, progressed=lambda *_: told.append(1), drop=dropped.append)
    )
    assert task.over.wait(20)
    task.stop()
    qtbot.waitUntil(lambda: dropped == ["answer"], timeout=PATIENCE_MS)
    broken: list[str] = []
    workers.start(Task(lambda _: 1 / 0, failed=lambda error: broken.append(str(error))))
    qtbot.waitUntil(lambda: broken == [BROKE], timeout=PATIENCE_MS)
    assert told == []


def test_numbers_that_come_late_are_those_of_the_latest_change(qtbot, window, demo, monkeypatch):
    open_clip(qtbot, window, demo / CLIP)
    on_desk = window.on_desk
    monkeypatch.setattr(numbers, "AT_ONCE_S", 0.0)
    renewed: list[str] = []
    on_desk.numbers.renewed.connect(lambda: renewed.append(on_desk.numbers.reading.school.key))
    for school in ("loading", "forward", "braced", "loading"):
        on_desk.set("Change school", school=school)
    assert on_desk.numbers.busy
    qtbot.waitUntil(lambda: not on_desk.numbers.busy, timeout=PATIENCE_MS)
    assert renewed == ["loading"]


def test_numbers_follow_a_hand_that_does_not_rest(qtbot, window, demo, monkeypatch):
    """Moves that come faster than they are computed: some are shown on the way, the last one at the end."""
    open_clip(qtbot, window, demo / CLIP)
    on_desk = window.on_desk
    real, seen = Figures.of, []

    def slow(swing, *rest, **more):
        time.sleep(0.1)
        return real(swing, *rest, **more)

    monkeypatch.setattr(Figures, "of", staticmethod(slow))
    on_desk.numbers.renewed.connect(lambda: seen.append(on_desk.analysis.tracks["right_hip"].xy[10, 0]))
    start = on_desk.analysis.tracks["right_hip"].xy[10]
    base = on_desk.document.now
    # One mark under the hand needs no solving: its numbers are there at once.
    for move in range(1, 6):
        at = float(start[0] + move / 9)
        on_desk.document.preview(base.with_mark(Mark("right_hip", 10, at, float(start[1]))))
        assert len(seen) == move and not on_desk.numbers.busy
        assert seen[-1] == pytest.approx(at, abs=0.3)
    on_desk.document.drop_preview()
    assert seen.pop() == pytest.approx(start[0], abs=1e-9)
    seen.clear()
    # Two at once do.
    moves = 0
    while len(seen) < 3 and moves < 3000:
        moves += 1
        mark = Mark("right_hip", 10, float(start[0] + moves / 9), float(start[1]))
        other = Mark("left_hip", 10, float(start[0] + 40 + moves / 9), float(start[1]))
        on_desk.document.preview(base.with_mark(mark).with_mark(other))
        qtbot.wait(20)
    qtbot.waitUntil(lambda: not on_desk.numbers.busy, timeout=PATIENCE_MS)
    assert 3 <= len(seen) < moves and seen == sorted(seen)
    assert seen[-1] == pytest.approx(start[0] + moves / 9, abs=0.5)
    on_desk.document.drop_preview()
    qtbot.waitUntil(lambda: not on_desk.numbers.busy, timeout=PATIENCE_MS)
    assert on_desk.analysis.tracks["right_hip"].xy[10, 0] == pytest.approx(start[0], abs=1e-9)


# Hands


def test_a_drag_belongs_to_the_frame_it_began_on(qtbot, window, demo):
    open_clip(qtbot, window, demo / CLIP)
    on_desk, stage = window.on_desk, window.bench.stage
    on_desk.cursor.go(10)
    window.bench.player.toggle()
    hip = on_desk.analysis.tracks["right_hip"].xy[10]
    at = stage.view.to_widget(*hip).toPoint()
    before = {(m.point, m.frame) for m in on_desk.swing.marks}
    qtbot.mousePress(stage, Qt.MouseButton.LeftButton, pos=at)
    assert not window.bench.player.playing
    on_desk.cursor.go(14)
    qtbot.mouseMove(stage, at + QPoint(9, 0))
    qtbot.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=at + QPoint(9, 0))
    assert {(m.point, m.frame) for m in on_desk.swing.marks} - before == {("right_hip", 10)}


def test_tab_moves_the_focus_and_arrows_nudge_what_is_held(qtbot, window, demo):
    open_clip(qtbot, window, demo / CLIP)
    on_desk, stage = window.on_desk, window.bench.stage
    on_desk.cursor.go(14)  # nothing is marked here
    window.activateWindow()
    stage.setFocus()
    press(qtbot, window, Qt.Key.Key_Tab)
    press(qtbot, stage, Qt.Key.Key_Tab)
    assert QApplication.focusWidget() is not stage
    stage.setFocus()
    stage.arm("lead_hip")
    press(qtbot, stage, Qt.Key.Key_Tab)
    assert stage.armed == "trail_hip" and QApplication.focusWidget() is stage
    stage.arm(None)
    frame = on_desk.cursor.frame
    hip = on_desk.analysis.tracks["right_hip"].xy[frame]
    at = stage.view.to_widget(*hip).toPoint()
    qtbot.mousePress(stage, Qt.MouseButton.LeftButton, pos=at)
    for _ in range(4):
        press(qtbot, stage, Qt.Key.Key_Right)
    release = QMouseEvent(
        QEvent.Type.MouseButtonRelease,
        QPointF(at),
        QPointF(at),
        *[Qt.MouseButton.LeftButton] * 2,
        Qt.KeyboardModifier.NoModifier,
    )
    QApplication.sendEvent(stage, release)
    assert on_desk.cursor.frame == frame
    mark = next(m for m in on_desk.swing.marks if (m.point, m.frame) == ("right_hip", frame))
    assert mark.x == pytest.approx(hip[0] + 1.0, abs=0.05) and mark.y == pytest.approx(hip[1], abs=0.05)
    override = QKeyEvent(QEvent.Type.ShortcutOverride, Qt.Key.Key_Right, Qt.KeyboardModifier.NoModifier)
    override.ignore()
    QApplication.sendEvent(stage, override)
    assert not override.isAccepted(), "with nothing held the arrows step"


# Clips that are not there


def test_a_clip_that_was_replaced_is_looked_for(qtbot, window, demo, monkeypatch, tmp_path):
    """Marks are never moved to another clip in silence; the right one is taken wherever it lies."""
    away = tmp_path / "away.mp4"
    shutil.move(demo / CLIP, away)
    (demo / CLIP).write_bytes((demo / OTHER).read_bytes() + b"\0\0\0\x08free")
    document = demo / DOCUMENT
    stamp = disk_stamp(document)
    window.open_path(demo / CLIP)
    qtbot.waitUntil(lambda: "was made on another clip" in window.status_bar.text(), timeout=PATIENCE_MS)
    assert window.on_desk.path != document and window.on_desk.swing.marks == ()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(away), ""))
    window.open_path(document)
    answer(qtbot, window, "Look for the clip")
    qtbot.waitUntil(lambda: window.on_desk.path == document, timeout=PATIENCE_MS)
    assert window.on_desk.store.info.path == away and len(window.on_desk.swing.marks) > 20
    assert disk_stamp(document) == stamp


def test_a_school_that_nobody_has_here_is_asked_about(qtbot, window, demo, monkeypatch, tmp_path):
    """Another desk's school: nothing is touched until another is chosen, which the document then goes by; a
    clip that is gone as well is asked for next, and what was said before still holds.
    """
    document, away = demo / DOCUMENT, tmp_path / "away.mp4"
    open_clip(qtbot, window, demo / OTHER)
    window.on_desk.document.change("Judge", window.on_desk.swing.given(school="braced"))
    content = json.loads(document.read_text())
    content["swing"]["school"] = "of-the-east"
    document.write_text(json.dumps(content))
    raw = document.read_bytes()
    window.open_path(document)
    asked = answer(qtbot, window, "Leave it")
    assert asked.words.text().count("\n\n") == 1 and "\\n" not in asked.words.text()
    assert "“of-the-east”" in window.status_bar.text() and document.read_bytes() == raw
    shutil.move(demo / CLIP, away)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(away), ""))
    window.open_path(document)
    answer(qtbot, window, "Judge it by “Braced”")
    answer(qtbot, window, "Look for the clip")
    qtbot.waitUntil(lambda: window.on_desk.path == document, timeout=PATIENCE_MS)
    assert window.on_desk.swing.school == "braced" and len(window.on_desk.swing.marks) > 20
    assert load_swing(document).school == "braced" and window.on_desk.document.history.undo_label is None


def test_a_clip_that_ended_the_program_is_not_opened_by_itself(qtbot, window, demo):
    window._settings.setValue("last", str(demo / DOCUMENT))
    window._settings.setValue("opening", str(demo / DOCUMENT))
    window.opener.reopen_last()
    assert "is not opened by itself" in window.status_bar.text() and window.on_desk.store is None
    window.opener.reopen_last()
    qtbot.waitUntil(lambda: window.on_desk.store is not None, timeout=PATIENCE_MS)


def test_a_short_clip_fits_no_document_of_a_longer_one(qtbot, window, tmp_path):
    """A document from before contents were kept is told from its clip by the number of frames."""
    import numpy as np

    from kneel.model import ClipRef, Swing

    clip = tmp_path / "x.mp4"
    write_clip(clip, np.zeros((20, 96, 160, 3), np.uint8), rate=30.0, size=(160, 96))
    known = ClipRef(str(clip), 90, 160, 96, 30.0)
    save_swing(tmp_path / "x.swing.json", Swing().given(clip=known, marks=(Mark("head", 80, 5.0, 5.0),)))
    window.open_path(tmp_path / "x.swing.json")
    answer(qtbot, window, "Leave it")
    assert "has 20 frames" in window.status_bar.text() and window.on_desk.store is None
