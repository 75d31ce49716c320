"""Two swings on the desk, driven by keys and mouse: in step, on one scale, compared, and let go again."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QWheelEvent
from PyQt6.QtWidgets import QApplication, QFileDialog

from kneel.book.index.indexing import file_swing
from kneel.book.index.made import noted_of
from kneel.book.maintenance.purge import KEPT
from kneel.book.views.last_lesson import swing_before
from kneel.compare.pair import Pair
from kneel.desk.places import keeping
from kneel.desk.places.pair.both import Shown
from kneel.desk.places.pair.scale import HeldAt, anchor_of
from kneel.desk.places.pair.table import SpaceRow
from kneel.desk.shell import status_bar
from kneel.desk.shell.window import SMALLEST
from kneel.desk.widgets.chooser import Chooser
from kneel.desk.widgets.entry import Entry
from kneel.documents.swing_file import load_swing, save_swing
from kneel.footage import Clip
from kneel.judge.numbers import body_size
from kneel.model import Club, Stature, View, anatomical
from kneel.speech.pair import least_words
from tests.book_on_desk import clip_of
from tests.desk import PATIENCE_MS, in_step, open_clip, press
from tests.filed import DAYS, MAREN, lessons_in
from tests.test_bench import SIZES, cut_off, panel_of

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
    picture = both.laying.pictures[1]
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
    turn = QWheelEvent(middle, middle, QPoint(), down, none, SHIFT, phase, False)
    QApplication.sendEvent(both.laying.pictures[0], turn)
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
    assert table.least.text() == least_words(row.one)
    both.comparing.ask()
    qtbot.wait(300)
    assert [r.one.measure for r in table.rows if r.isChecked()] == ["pelvis_shift"]
    mine, theirs, sigma = both.lanes.traces()
    frame = window.on_desk.cursor.frame
    assert mine.values[frame] - theirs[frame] == pytest.approx(row.one.difference, abs=0.6)
    assert np.isfinite(sigma[frame])
    window.on_desk.set("Set stature", scale=Stature(190.0))
    qtbot.waitUntil(lambda: both.comparing.pair is not pair, timeout=PATIENCE_MS)


def test_the_number_of_the_plan_is_asked_alone(qtbot, window, both):
    """First in the table, whatever it comes to, and by its own limit; of nobody else's swing."""
    qtbot.waitUntil(lambda: window.practice.offer.proposal is not None, timeout=PATIENCE_MS)
    assert both.comparing.pair.compared.prescribed is None and window.practice.begin()
    qtbot.waitUntil(lambda: both.comparing.pair.compared.prescribed is not None, timeout=PATIENCE_MS)
    pair, aim = both.comparing.pair, window.practice.plan.aim
    alone = pair.compared.prescribed
    assert (alone.measure, alone.at) == (aim.measure, aim.at) and pair.rows[0] is alone
    assert alone.detectable == alone.detectable_alone < pair.rows[1].detectable
    assert [row.one for row in both.table.rows if row.alone] == [alone]
    both.other.set("Name the student", golfer="Ida Fenn")
    qtbot.waitUntil(lambda: both.comparing.pair.compared.prescribed is None, timeout=PATIENCE_MS)


def test_both_are_shown_on_one_scale_in_every_way_of_looking(qtbot, window, both):
    """The same centimetres, held together at a place that can be chosen, in every way of looking."""
    laying, pictures = both.laying, both.laying.pictures
    for way in Shown:
        assert laying.both.way is way
        for held in HeldAt:
            laying.hold_at(held)
            if None in [anchor_of(swing.analysis, held) for swing in laying.swings]:
                assert laying.now.lacking == "no ball is seen" and held is HeldAt.BALL
                continue
            at, per_cm = [], []
            for canvas, swing in zip(pictures, (both.other, window.on_desk), strict=True):
                per_cm.append(canvas.view.scale / swing.analysis.scale.per_px)
                spot = canvas.view.to_widget(*anchor_of(swing.analysis, held))
                at.append((spot.x() - canvas.width() / 2, spot.y() - canvas.height() / 2))
            assert per_cm[0] == pytest.approx(per_cm[1], rel=1e-6)
            np.testing.assert_allclose(*at, atol=1)
        press(qtbot, pictures[1], Qt.Key.Key_V)
    assert laying.both.way is Shown.BESIDE
    press(qtbot, pictures[1], Qt.Key.Key_V, SHIFT)
    assert [canvas.isVisible() for canvas in pictures] == [False, True]
    press(qtbot, pictures[1], Qt.Key.Key_V, SHIFT)
    assert [canvas.isVisible() for canvas in pictures] == [True, False]
    press(qtbot, pictures[0], Qt.Key.Key_S)
    panel_of(window, Chooser).pick("Trail ankle")
    assert laying.held_at is HeldAt.TRAIL_ANKLE
    press(qtbot, pictures[0], Qt.Key.Key_S, SHIFT)
    sizes = [
        canvas.view.scale * swing.analysis.px_per_m * body_size(swing.analysis)
        for canvas, swing in zip(pictures, laying.swings, strict=True)
    ]
    assert sizes[0] == pytest.approx(sizes[1], rel=0.02) and "body" in laying.now.by
    press(qtbot, pictures[0], Qt.Key.Key_S, SHIFT)
    # What the hand does to one is done to both, until both are fitted again.
    before = pictures[0].view.scale, pictures[1].view.scale
    press(qtbot, pictures[0], Qt.Key.Key_Plus)
    after = pictures[0].view.scale, pictures[1].view.scale
    np.testing.assert_allclose(np.divide(after, before), 1.25, rtol=1e-6)
    press(qtbot, pictures[0], Qt.Key.Key_0)
    assert (pictures[0].view.scale, pictures[1].view.scale) == pytest.approx(before)


def test_an_edge_uncovers_one_or_the_other_and_an_outline_lies_over(qtbot, window, both):
    laying, (first, second) = both.laying, both.laying.pictures
    both.show_way(Shown.WIPE)
    window.on_desk.go_to("impact")
    alone = [canvas.seen() for canvas in (first, second)]
    edge = laying.both.edge
    drag(edge, QPointF(-laying.both.width() / 5, 40))
    assert laying.both.share == pytest.approx(0.3, abs=0.02)
    press(qtbot, edge, Qt.Key.Key_Right)
    at = edge.geometry().center().x()
    assert at == pytest.approx(laying.both.width() * (laying.both.share), abs=2)
    seen, row = window.grab(), laying.both.mapTo(window, QPoint(0, 300)).y()
    left = laying.both.mapTo(window, QPoint(0, 0)).x()
    for image, x in ((alone[0], 20), (alone[1], laying.both.width() - 20)):
        assert near(seen.toImage().pixelColor(left + x, row), image.pixelColor(x, 300))
    both.show_way(Shown.BESIDE)
    without = second.seen()
    both.show_way(Shown.GHOST)
    qtbot.waitUntil(lambda: second.exact, timeout=PATIENCE_MS)
    outlined = second.seen()
    hip = second.view.to_widget(*window.on_desk.analysis.tracks["left_hip"].xy[window.on_desk.cursor.frame])
    assert without.size() != outlined.size() and not first.isVisible() and hip.x() > 0
    second.over, over = None, second.over
    plain = second.seen()
    second.over = over
    assert plain != outlined, "the outline of the other lies over it"


def drag(widget, to):
    """Move with the left button held."""
    none, left = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton
    event = QMouseEvent(QMouseEvent.Type.MouseMove, to, QPointF(widget.mapToGlobal(to)), left, left, none)
    QApplication.sendEvent(widget, event)


def near(one, other):
    return max(abs(a - b) for a, b in zip(one.getRgb(), other.getRgb(), strict=True)) < 12


def test_what_is_drawn_on_one_is_drawn_at_the_same_place_of_the_other(qtbot, window, both):
    """Drawn in the Pair, by mouse; one key copies it, one undo takes it back, whichever swing it is of."""
    here, there = window.on_desk, both.other
    picture = both.laying.pictures[1]
    here.go_to("address")
    press(qtbot, picture, Qt.Key.Key_D)
    assert "Nothing new is drawn" in window.status_bar.text()
    window.actions_by_key["draw_circle"].trigger()
    head = picture.view.to_widget(*here.analysis.tracks["head"].xy[here.cursor.frame]).toPoint()
    qtbot.mousePress(picture, Qt.MouseButton.LeftButton, pos=head)
    drag(picture, QPointF(head + QPoint(30, 0)))
    qtbot.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=head + QPoint(30, 0))
    assert len(here.swing.drawn) == 1 and not there.swing.drawn
    press(qtbot, picture, Qt.Key.Key_D)
    (copied,) = there.swing.drawn
    frame = there.cursor.frame
    assert abs(frame - there.numbers.shown("address")) <= 1, "both are at address, to a frame of either"
    np.testing.assert_allclose(copied.points[:2], there.analysis.tracks["head"].xy[frame], atol=6)
    sizes = [abs(one.swing.drawn[0].points[2] - one.swing.drawn[0].points[0]) for one in (here, there)]
    grown = here.analysis.scale.per_px / there.analysis.scale.per_px
    assert sizes[1] / sizes[0] == pytest.approx(grown, rel=0.05) and copied.frame == frame
    press(qtbot, picture, Qt.Key.Key_D)
    assert len(there.swing.drawn) == 1, "what lies there already is not drawn twice"
    press(qtbot, window, Qt.Key.Key_Z, CTRL)
    assert not there.swing.drawn and len(here.swing.drawn) == 1
    press(qtbot, window, Qt.Key.Key_Z, CTRL)
    assert not here.swing.drawn
    press(qtbot, window, Qt.Key.Key_Y, CTRL)
    assert len(here.swing.drawn) == 1


def test_a_left_hander_is_mirrored_and_two_students_go_into_no_folder(qtbot, window, tmp_path):
    face = next(p for p in lessons_in(tmp_path / "range", DAYS[2:], "maren*") if "line" not in p.name)
    left = next(p for p in lessons_in(tmp_path / "other", DAYS[2:], "wilma*") if "line" not in p.name)
    open_clip(qtbot, window, face)
    window.pair.hold_beside(left)
    compared(qtbot, window)
    laying = window.pair.laying
    qtbot.waitUntil(lambda: laying.now.mirrored, timeout=PATIENCE_MS)
    sides = []
    for canvas, swing in zip(laying.pictures, laying.swings, strict=True):
        at = [
            canvas.view.to_widget(*swing.analysis.tracks[anatomical(f"{side}_ankle", swing.swing.hand)].xy[0])
            for side in ("lead", "trail")
        ]
        sides.append(at[0].x() - at[1].x())
    assert sides[0] > 20 < sides[1], "lead is at the same side of both"
    x, y = laying.swings[0].analysis.tracks["head"].xy[0]
    assert laying.pictures[0].view.to_picture(laying.pictures[0].view.to_widget(x, y)) == pytest.approx(
        (x, y)
    )
    assert window.pair.comparing.light[0] != window.pair.comparing.light[1], "one was filmed before a wall"
    press(qtbot, laying.pictures[1], Qt.Key.Key_E, CTRL)
    assert "Two students" in window.status_bar.text() and not (face.parent / KEPT).exists()
    press(qtbot, laying.pictures[1], Qt.Key.Key_C, CTRL)
    copied = QApplication.clipboard().image()
    assert copied.height() > laying.both.height() and copied.width() == laying.both.width()


def test_still_and_slow_clip_show_both_with_what_differs(qtbot, window, both, monkeypatch):
    """They lie beside the clip on the desk, and go with either of the two; half a clip leaves nothing."""
    monkeypatch.setattr(keeping, "SLOWER", 1.0)
    window.resize(*SMALLEST)
    picture, kept = both.laying.pictures[1], window.on_desk.path.parent / KEPT
    window.on_desk.go_to("impact")
    press(qtbot, picture, Qt.Key.Key_E, CTRL)
    qtbot.waitUntil(lambda: any(kept.glob("*impact pair.png")), timeout=PATIENCE_MS)
    press(qtbot, picture, Qt.Key.Key_E, CTRL | SHIFT)
    qtbot.wait(50)
    press(qtbot, window, Qt.Key.Key_F2)
    assert "was stopped" in window.status_bar.text()
    qtbot.waitUntil(lambda: not any(kept.glob("*.mp4")), timeout=PATIENCE_MS)
    press(qtbot, window, Qt.Key.Key_F10)
    compared(qtbot, window)
    qtbot.waitUntil(lambda: both.other.store is not None, timeout=PATIENCE_MS)
    press(qtbot, picture, Qt.Key.Key_E, CTRL | SHIFT)
    qtbot.waitUntil(lambda: any(kept.glob("*slow pair.mp4")), timeout=6 * PATIENCE_MS)
    qtbot.waitUntil(lambda: "slow pair" in window.status_bar.text(), timeout=6 * PATIENCE_MS)
    assert window.on_desk.checkpoint == "impact", "the desk stays where it is"
    (clip,) = kept.glob("*slow pair.mp4")
    info = Clip(clip).info
    assert info.width == both.laying.both.width() // 2 * 2 and info.frames > 40
    assert both.sheet.said[0].count(" → ") == 1 and any("differ" in line for line in both.sheet.said)
    of = window._context.records.books.open(window.practice.record.which)
    assert {*noted_of(of, clip)} == {window.on_desk.path, both.other.path}


def test_a_reference_that_shows_what_is_lacking_by_one_key(qtbot, window, tmp_path):
    """Of the same view and with nothing at work; it may be kept with the student, who is not on the shelf."""
    face = next(p for p in lessons_in(tmp_path / "range", DAYS[2:], "maren*") if "line" not in p.name)
    open_clip(qtbot, window, face)
    assert window.on_desk.selection.fault == "sway"
    press(qtbot, window.bench.stage, Qt.Key.Key_R, SHIFT)
    compared(qtbot, window)
    place, beside = window.pair, window.pair.tokens.tokens["beside"]
    (shown,) = [one for one in place.references.every if one.document == place.other.path]
    assert "sway" in shown.card.shows and shown.swing.view is View.FACE_ON
    qtbot.waitUntil(lambda: "simulated" in beside.accessibleName(), timeout=PATIENCE_MS)
    first = place.comparing.pair.rows[0]
    assert first.measure == "pelvis_shift" and first.claimed and not place.comparing.not_kept
    window.actions_by_key["put_on_shelf"].trigger()
    entry = panel_of(window, Entry)
    entry.field.setText("Maren Tolhurst, in writing")
    press(qtbot, entry.field, Qt.Key.Key_Return)
    press(qtbot, panel_of(window, Entry).field, Qt.Key.Key_Return)
    count = len(place.references.every)
    qtbot.waitUntil(lambda: len(place.references.every) == count + 1, timeout=PATIENCE_MS)
    (mine,) = [one for one in place.references.every if one.card.leave != "simulated"]
    assert mine.swing.golfer == "" and "sway" not in mine.card.shows
    of = window._context.records.books.open(window.practice.record.which)
    assert noted_of(of, mine.document) == [window.on_desk.path]
    window.actions_by_key["take_off_shelf"].trigger()
    panel_of(window, Chooser).pick(mine.card.title)
    qtbot.waitUntil(lambda: len(place.references.every) == count, timeout=PATIENCE_MS)
    assert not mine.document.exists()


def test_then_comes_from_the_book_where_the_rack_has_nothing_before(qtbot, window, book, tmp_path):
    """The lesson before, by the same club where it was swung: her August swing is an older one."""
    (before,) = (tmp_path / "range" / DAYS[1]).glob("*.swing.json")
    open_clip(qtbot, window, clip_of(tmp_path))
    press(qtbot, window.bench.stage, Qt.Key.Key_C)
    window.on_desk.set("Name", golfer="Ebba Quill")
    in_step(qtbot, window)
    qtbot.wait(100)
    assert window.place is window.bench, "whose swing it was is another now"
    window.on_desk.set("Name", golfer="Maren Tolhurst")
    press(qtbot, window.bench.stage, Qt.Key.Key_C)
    compared(qtbot, window)
    assert window.pair.other.path == before
    now, swing = clip_of(tmp_path), window.on_desk.swing
    first = tmp_path / "range" / DAYS[0] / before.name
    assert swing_before(book, now, swing.given(view=View.DOWN_THE_LINE)) is None
    assert swing_before(book, first.with_name(now.name), swing) is None
    driver = swing.given(club=Club.DRIVER)
    assert swing_before(book, now, driver) == before, "of another club before none"
    save_swing(first, load_swing(first).given(club=Club.DRIVER))
    assert file_swing(book, first) is not None
    assert (swing_before(book, now, driver), swing_before(book, now, swing)) == (first, before)


def test_two_cameras_of_one_swing_run_by_one_clock_and_show_the_body_in_space(qtbot, window, tmp_path):
    """Chosen as another camera; the view from above, numbers at checkpoints, a figure that the hand turns."""
    documents = lessons_in(tmp_path / "range", DAYS[2:], "maren*")
    face = next(path for path in documents if "line" not in path.name)
    open_clip(qtbot, window, face)
    qtbot.waitUntil(lambda: len(window.bench.rack.entries) > 1, timeout=PATIENCE_MS)
    window.on_desk.go_to("top")
    press(qtbot, window.bench.stage, Qt.Key.Key_C, SHIFT)
    chooser = panel_of(window, Chooser)
    (other,) = [one for one in chooser.choices if "another camera" in one.detail]
    chooser.pick(other.title)
    pair, space = window.pair, window.pair.space
    qtbot.waitUntil(lambda: pair.comparing.linked is not None, timeout=2 * PATIENCE_MS)
    clock = pair.comparing.linked.clock
    assert clock.offset_s == pytest.approx(-0.15, abs=3 * clock.sigma_s) and clock.sigma_s < 0.01
    assert space.isVisible() and not pair.lanes.isVisible() and not pair.laying.now.mirrored
    here, there = window.on_desk, pair.other
    shown = there.times_s[there.cursor.frame] - here.times_s[here.cursor.frame]
    assert shown == pytest.approx(clock.offset_s, abs=0.6 / 60), "one moment in both"
    named = lambda: {row.accessibleName().split(":")[0]: row.accessibleName() for row in space_rows(pair)}  # noqa: E731
    qtbot.waitUntil(lambda: "Pelvis turn" in named(), timeout=PATIENCE_MS)
    rows = named()
    assert "open to the target" in rows["Pelvis turn"] and len(rows) > 8
    assert pair.table.verdicts.text().startswith("By both cameras: Work on first: sway")
    picture = pair.laying.pictures[1]
    in_step(qtbot, window)
    press(qtbot, picture, Qt.Key.Key_Right)
    qtbot.waitUntil(lambda: not space_rows(pair), timeout=PATIENCE_MS)
    seen = space.grab().toImage()
    qtbot.mousePress(space, Qt.MouseButton.LeftButton, pos=QPoint(200, 100))
    drag(space, QPointF(300, 100))
    qtbot.mouseRelease(space, Qt.MouseButton.LeftButton, pos=QPoint(300, 100))
    assert space.azimuth == pytest.approx(95) and space.grab().toImage() != seen
    press(qtbot, space, Qt.Key.Key_Down, CTRL)
    assert space.azimuth == pytest.approx(90)
    pair.other.set("Name the student", golfer="Ida Fenn")
    qtbot.waitUntil(lambda: "two golfers" in pair.table.said.text(), timeout=PATIENCE_MS)
    assert not space.isVisible() and pair.lanes.isVisible()


def space_rows(pair):
    return [row for row in pair.table.findChildren(SpaceRow) if row.isVisibleTo(pair.table)]


def test_two_moments_of_one_swing(qtbot, window, tmp_path):
    """Chosen like any other swing; numbers from checkpoint to checkpoint, without what both err by alike."""
    face = next(p for p in lessons_in(tmp_path / "range", DAYS[2:], "maren*") if "line" not in p.name)
    open_clip(qtbot, window, face)
    window.on_desk.go_to("top")
    press(qtbot, window.bench.stage, Qt.Key.Key_C, SHIFT)
    panel_of(window, Chooser).pick("This swing, address")
    pair, table = window.pair, window.pair.table
    qtbot.waitUntil(lambda: bool(table.rows), timeout=PATIENCE_MS)
    row = next(r.one for r in table.rows if r.one.measure == "pelvis_shift")
    told = window.on_desk.analysis.at("pelvis_shift", "top")
    assert row.difference == pytest.approx(told.value, abs=0.05) and row.sigma < 1.3 * told.sigma
    beside = pair.laying.pictures[0]
    assert beside.moment == window.on_desk.numbers.shown("address") and beside.isVisible()
    in_step(qtbot, window)
    press(qtbot, pair.laying.pictures[1], Qt.Key.Key_Right)
    qtbot.waitUntil(lambda: "checkpoint to checkpoint" in table.said.text(), timeout=PATIENCE_MS)
    none, phase = Qt.MouseButton.NoButton, Qt.ScrollPhase.NoScrollPhase
    turn = QWheelEvent(QPointF(9, 9), QPointF(9, 9), QPoint(), QPoint(0, -120), none, SHIFT, phase, False)
    QApplication.sendEvent(beside, turn)
    assert beside.moment == window.on_desk.numbers.shown("address") + 1
    press(qtbot, window, Qt.Key.Key_F2)
    press(qtbot, window, Qt.Key.Key_F10)
    assert pair.laying.pictures[0].moment is not None
    window.pair.hold_beside(face.with_name("gone.mp4"))
    assert pair.laying.pictures[0].moment is None


def test_one_key_holds_a_swing_against_the_one_before_and_lets_it_go(qtbot, window, tmp_path, monkeypatch):
    """From the Bench; the other can be worked on again as soon as the place is left."""
    line, face = lessons_in(tmp_path / "range", DAYS[2:], f"{MAREN}*")
    again = face.with_name("again.swing.json")
    open_clip(qtbot, window, face)
    qtbot.waitUntil(lambda: bool(window.bench.rack.entries), timeout=PATIENCE_MS)
    press(qtbot, window.bench.stage, Qt.Key.Key_C)
    nothing = "Neither the rack nor the Book"
    qtbot.waitUntil(lambda: nothing in window.status_bar.text(), timeout=PATIENCE_MS)
    assert window.place is window.bench
    press(qtbot, window.bench.stage, Qt.Key.Key_F10)
    assert nothing in window.status_bar.text(), "it may not have been read yet"
    monkeypatch.setattr(status_bar, "FRESH_MS", 0)
    qtbot.wait(5)
    press(qtbot, window.pair, Qt.Key.Key_F2)
    assert nothing not in window.status_bar.text()
    press(qtbot, window, Qt.Key.Key_F10)
    press(qtbot, window.pair.laying.pictures[1], Qt.Key.Key_C, CTRL)
    assert "Both pictures copied" in window.status_bar.text(), "one of them is empty yet"
    press(qtbot, window, Qt.Key.Key_F2)
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
    qtbot.waitUntil(lambda: window.pair.comparing.linked is not None, timeout=2 * PATIENCE_MS)
    window.pair.comparing.open(tmp_path / "gone.mp4")
    qtbot.waitUntil(lambda: "There is no file" in window.status_bar.text(), timeout=PATIENCE_MS)


def test_then_and_now_from_the_book(qtbot, window, book, today, tmp_path):
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
