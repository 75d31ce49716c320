"""The Hand-out on the desk: what goes home is seen before it goes."""

from __future__ import annotations

import threading

import pypdf
from PyQt6.QtCore import Qt

from kneel.desk.places.handout.beside import page_ready
from kneel.model import Stature, UsageError
from tests.book_on_desk import CTRL, clip_of, lesson_in
from tests.desk import CLIP, PATIENCE_MS, in_step, open_clip, press
from tests.filed import MAREN


def test_the_page_is_seen_before_it_goes_and_the_lesson_knows_it_went(qtbot, window, book, today, tmp_path):
    open_clip(qtbot, window, clip_of(tmp_path))
    press(qtbot, window, Qt.Key.Key_F12)
    place = window.handout
    qtbot.waitUntil(lambda: place.made is not None, timeout=PATIENCE_MS)
    assert place.sheets.count == 1 and place.made.fault == "sway"
    place.sheets.grab()
    qtbot.keyClicks(place.academy, "Saltmarsh Links")
    place.note.setText("Slowly")
    before = place.made
    place._typed()
    qtbot.waitUntil(lambda: place.made is not before, timeout=PATIENCE_MS)
    place.buttons["save_pdf"].setFocus()
    press(qtbot, place.buttons["save_pdf"], Qt.Key.Key_P, CTRL)
    target = clip_of(tmp_path).parent / "kept" / f"{MAREN} page.pdf"
    qtbot.waitUntil(lambda: "Saved as" in window.status_bar.text(), timeout=PATIENCE_MS)
    text = pypdf.PdfReader(target).pages[0].extract_text()
    assert "Saltmarsh Links" in text and "Slowly" in text
    assert [(one.what, one.name) for one in lesson_in(book).handed] == [("page", target.name)]
    assert target.stat().st_mode & 0o077 == 0
    place._actions.choose_fault().pick("Slide")
    qtbot.waitUntil(lambda: place.made is not None and place.made.fault == "slide", timeout=PATIENCE_MS)


def test_a_page_is_saved_for_nobody_it_was_not_made_for(qtbot, window, book, today, tmp_path, monkeypatch):
    """Another name, or Stop, while a page is made: what is on show is said, and nothing goes out."""
    open_clip(qtbot, window, clip_of(tmp_path))
    in_step(qtbot, window)
    window.go_to(window.handout)
    place, real, gate = window.handout, window._context.beside.call, threading.Event()
    qtbot.waitUntil(lambda: place.made is not None, timeout=PATIENCE_MS)

    def late(*args, **more):
        gate.wait(60)
        return real(*args, **more)

    monkeypatch.setattr(window._context.beside, "call", late)
    window.on_desk.set("Name", golfer="Ebba Quill")
    assert place.made is None
    place._actions.save_pdf()
    assert not place._actions._writers.busy
    qtbot.waitUntil(lambda: place._makers.busy, timeout=PATIENCE_MS)
    assert "is being made" in place.sheets.words
    window.jobs.stop()
    assert "was not made" in place.sheets.words and not place.buttons["save_pdf"].isEnabled()
    gate.set()
    place.refresh()
    qtbot.waitUntil(lambda: place.made is not None, timeout=PATIENCE_MS)
    assert "Ebba Quill" in place.made.html and "Maren" not in place.made.html


def test_without_a_swing_the_hand_out_says_what_to_do(qtbot, window):
    press(qtbot, window, Qt.Key.Key_F12)
    qtbot.waitUntil(
        lambda: "open one on the Bench" in window.handout.sheets.accessibleName(), timeout=PATIENCE_MS
    )
    assert not window.handout.buttons["save_pdf"].isEnabled()


def test_what_lays_out_a_page_is_loaded_once_and_only_while_nobody_waits(qtbot, window, demo, monkeypatch):
    asked, loads, ready = [], {"busy": True}, window.handout.ready
    monkeypatch.setattr(window._context.beside, "call", lambda work, **more: asked.append(work))
    monkeypatch.setattr(type(window.on_desk.gathering), "busy", property(lambda self: loads["busy"]))
    ready._still.setInterval(0)
    open_clip(qtbot, window, demo / CLIP)
    qtbot.wait(50)
    assert not asked and ready._still.isActive()
    loads["busy"] = False
    qtbot.waitUntil(lambda: bool(asked), timeout=PATIENCE_MS)
    window.on_desk.set("Set scale", scale=Stature(170.0))
    qtbot.wait(50)
    assert asked == [page_ready] and not ready._still.isActive()

    def without_pango(html):
        raise UsageError("A PDF needs the system library Pango.")

    monkeypatch.setattr("kneel.handout.page.pdf_of", without_pango)
    assert page_ready() is None
