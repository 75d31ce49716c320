"""The reading on the desk: the chain on its plumb, the instructor's word, and what cannot be told."""

from __future__ import annotations

import threading
from dataclasses import replace

import numpy as np
import pytest
from PyQt6.QtCore import Qt

from kneel.desk.places.bench.rack.card import ROW, card_words
from kneel.desk.places.bench.reading.findings import Hung, Knot, hung
from kneel.desk.swing import figures
from kneel.desk.widgets.chooser import Chooser
from kneel.documents.swing_file import load_swing
from kneel.footage import write_clip
from kneel.judge import Verdict, at_hand, knowledge, known
from kneel.judge.finding import Finding
from kneel.judge.roots import ADDED
from kneel.model import Override
from kneel.motion.study import Study
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, pictures
from kneel.vision import installed
from tests.desk import CLIP, PATIENCE_MS, open_clip, saved
from tests.test_bench import panel_of


@pytest.fixture
def opened(qtbot, window, demo):
    open_clip(qtbot, window, demo / CLIP)
    return window


def fresh(qtbot, window):
    qtbot.waitUntil(lambda: not window.on_desk.numbers.busy, timeout=PATIENCE_MS)


def shown(widget):
    return [knot for knot in widget.findChildren(Knot) if not knot.isHidden()]


def say(qtbot, window, words):
    pane = window.bench.reading
    (button,) = [b for b in pane.explain.say.values() if b.text() == words]
    assert not button.isHidden()
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    fresh(qtbot, window)


def test_plumbs_run_from_a_cause_to_all_that_hangs_under_it():
    """root (a (b), c), root: the plumb of the first root runs past b down to c, and no farther."""
    fault = known().faults["sway"]
    depths = [0, 1, 2, 1, 0]
    found = hung([(Finding(fault, Verdict.FAULT), depth) for depth in depths])
    assert [one.leads for one in found] == [True, True, False, False, False]
    assert [one.through for one in found] == [(), (1,), (1,), (), ()]
    assert [one.first for one in found] == [True, False, False, False, False]


@pytest.mark.skipif(not installed(), reason="without the body model")
def test_why_nothing_can_be_told_stands_first(qtbot, window, tmp_path, monkeypatch):
    """A film that lies on its side: no fault is argued that nobody could see, and the card says so."""
    monkeypatch.setattr("kneel.desk.swing.intake.installed", lambda: True)
    upright = next(iter(pictures(Shoot(camera=Camera(width=640, height=360)))))
    clip = tmp_path / "lying.mp4"
    write_clip(clip, [np.ascontiguousarray(np.rot90(upright))] * 8, rate=30, size=(360, 640))
    window.open_path(clip)
    session, pane = window.on_desk, window.bench.reading
    qtbot.waitUntil(lambda: session.path is not None and session.gathering.looking.over, timeout=PATIENCE_MS)
    fresh(qtbot, window)
    words = pane.head.words.text()
    assert words.startswith("The golfer lies with the head to the left") and words not in pane.notes.text()
    assert pane.explain.isHidden() and not pane.notes.isHidden()
    rack = window.bench.rack
    (entry,) = rack.model.index_of(session.path).data(ROW).entries
    assert card_words(entry, "")[1].endswith("cannot be told")
    before = clip.read_bytes()
    session.set("Name the student", golfer="Ida Fenn")
    fresh(qtbot, window)
    assert not pane.head.turn.isHidden()
    pane.head.turn.click()
    (right, *_) = panel_of(window, Chooser).choices
    assert right.title == "A quarter to the right"
    right.act()
    turned = tmp_path / "lying turned.mp4"
    qtbot.waitUntil(lambda: session.store.info.path == turned, timeout=PATIENCE_MS)
    assert (session.store.info.width, session.store.info.height) == (640, 360)
    assert clip.read_bytes() == before
    assert pane.head.turn.isHidden() and session.swing.golfer == "Ida Fenn"


def test_what_the_instructor_says_is_kept_and_the_ranking_follows(qtbot, opened, demo):
    session, pane = opened.on_desk, opened.bench.reading
    session.set("See it", overrides=(Override("no_shift", ADDED, "late"),))
    fresh(qtbot, opened)
    assert pane.head.words.text() == "Work on first: sway. After that: no shift."
    assert pane.rest.well.text().startswith("Done well: ")
    session.selection.choose("sway")
    say(qtbot, opened, "Not so")
    assert pane.head.words.text() == "Work on first: no shift."
    assert (
        "Overruled: no sway." in pane.explain.sentence.text()
        and "has drifted" in pane.explain.sentence.text()
    )
    qtbot.keyClicks(pane.explain.reason, "shirt moves, not the pelvis")
    qtbot.keyClick(pane.explain.reason, Qt.Key.Key_Return)
    fresh(qtbot, opened)
    assert "Shirt moves, not the pelvis." in pane.explain.sentence.text()
    saved(qtbot, session)
    _, kept = load_swing(next(demo.glob("maren-tolhurst-iron.swing.json"))).overrides
    assert (kept.fault, kept.verdict, kept.reason) == ("sway", "rejected", "shirt moves, not the pelvis")
    say(qtbot, opened, "Take it back")
    assert pane.head.words.text().startswith("Work on first: sway.")
    say(qtbot, opened, "Known, leave it")
    assert pane.head.words.text() == "Work on first: no shift."
    assert (
        session.numbers.reading.of("sway").verdict is Verdict.FAULT
        and "Known and left" in pane.explain.place.text()
    )


def test_a_fault_the_numbers_do_not_see_can_be_added(qtbot, opened):
    session, pane = opened.on_desk, opened.bench.reading
    pane.rest.count.setChecked(True)
    assert "slide" in {knot._hung.finding.key for knot in shown(pane.rest.knots)}
    session.selection.choose("slide")
    say(qtbot, opened, "I see it")
    assert session.numbers.reading.of("slide").verdict is Verdict.FAULT
    assert "slide" in {knot._hung.finding.key for knot in shown(pane.findings)}
    session.document.undo()
    fresh(qtbot, opened)
    assert session.numbers.reading.of("slide").verdict is Verdict.CLEAR


def test_what_is_clear_or_cannot_be_told_is_one_line_that_opens(qtbot, opened):
    pane, reading = opened.bench.reading, opened.on_desk.numbers.reading
    clear = sum(f.verdict is Verdict.CLEAR for f in reading.findings)
    unsure = sum(f.verdict is Verdict.UNKNOWN and f.asked for f in reading.findings)
    assert pane.rest.count.text().startswith(f"{clear} fine · {unsure} cannot be told · ")
    assert not shown(pane.rest.knots)
    qtbot.mouseClick(pane.rest.count, Qt.MouseButton.LeftButton)
    assert len(shown(pane.rest.knots)) == clear + unsure
    qtbot.mouseClick(pane.rest.count, Qt.MouseButton.LeftButton)
    assert not shown(pane.rest.knots)


def test_the_reported_misses_stand_beside_the_root(qtbot, opened):
    opened.on_desk.selection.choose("sway")
    place = opened.bench.reading.explain.place.text()
    assert "It would explain the fat and thin shots." in place and "not explain the weak shots" in place


def test_a_broken_file_of_ones_own_is_told_and_the_swing_judged_all_the_same(
    qtbot, window, demo, tmp_path, monkeypatch
):
    own = tmp_path / "knowledge"
    (own / "faults").mkdir(parents=True)
    (own / "faults" / "mine.toml").write_text("[mine]\ntitle = 3\n")
    monkeypatch.setattr(knowledge, "own_folder", lambda: own)
    known.cache_clear()
    at_hand.cache_clear()
    try:
        open_clip(qtbot, window, demo / CLIP)
        assert window.on_desk.numbers.reading.of("sway").verdict is Verdict.FAULT
        notes = window.bench.reading.notes.text()
        assert "faults/mine.toml" in notes and "judges by what it came with" in notes
    finally:
        known.cache_clear()
        at_hand.cache_clear()


def test_a_line_used_again_tells_a_finding_without_a_number(qtbot, opened):
    """In a pane so narrow that the number before it stood a line lower."""
    found = opened.on_desk.numbers.reading.of("sway")
    knot = Knot(opened.on_desk, opened.bench.reading._look)
    qtbot.addWidget(knot)
    knot.resize(150, 46)
    for finding in (found, replace(found, decided=None, verdict=Verdict.UNKNOWN)):
        knot.show_finding(Hung(finding))
        knot.grab()
    assert knot.accessibleName() == "Sway: can’t tell"


def test_what_the_bench_asks_of_a_swing_first_is_told_beside_the_desk(qtbot, window, demo, monkeypatch):
    """Courses of lanes and of the findings shown, and the mark that would tell most: not by the window."""
    here: list[str] = []

    def watched(real, what):
        def asked(*how):
            if threading.current_thread() is threading.main_thread():
                here.append(f"{what} {how[1:]}")
            return real(*how)

        return asked

    monkeypatch.setattr(Study, "_tell", watched(Study._tell, "measure"))
    monkeypatch.setattr(figures, "next_mark", watched(figures.next_mark, "advice"))
    open_clip(qtbot, window, demo / CLIP)
    window.grab()
    session = window.on_desk
    assert session.numbers.reading.chain and session.selection.advice() is not None
    assert here == []
