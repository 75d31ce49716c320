"""One swing by two cameras on the Bench: linked, worked on from either side, kept in one document, parted."""

from __future__ import annotations

import json

import pytest
from PyQt6.QtCore import QPointF, Qt

from kneel.cli.main import main
from kneel.desk.places.bench import linking
from kneel.desk.places.bench.rack.rows import Card
from kneel.desk.stage import space as view_from_above
from kneel.desk.swing import numbers
from kneel.desk.widgets.chooser import Chooser
from kneel.documents.swing_file import load_swing, save_swing
from kneel.evidence.kept import kept_swing
from kneel.model import Mark
from kneel.model.two_takes import with_second
from tests.desk import PATIENCE_MS, open_clip, press, saved
from tests.test_bench import panel_of
from tests.test_desk_pair import drag
from tests.test_evidence import agree, on_the_command_line, told

FACE, LINE = "maren-tolhurst-iron.swing.json", "maren-tolhurst-iron-line.swing.json"
CTRL_SHIFT = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def linked(qtbot, window, demo, monkeypatch):
    """The demo's first swing with its other camera, as the reading proposes it."""
    monkeypatch.setattr(linking, "MOST_TRIED", 1)
    open_clip(qtbot, window, demo / FACE)
    line = window.bench.reading.camera
    qtbot.waitUntil(line.isVisible, timeout=PATIENCE_MS)
    line.button.click()
    rests(qtbot, window)
    return window


def rests(qtbot, window, *, by_both=True):
    takes = window.takes
    qtbot.waitUntil(lambda: (takes.linked is not None) is by_both, timeout=PATIENCE_MS)
    for swing in (takes.first, takes.second):
        qtbot.waitUntil(lambda s=swing: not (s.numbers.busy or s.gathering.busy), timeout=PATIENCE_MS)


def assert_named_beside_the_body(qtbot, window, monkeypatch):
    """The words for pelvis and chest stand where nothing else is drawn, at every checkpoint."""
    space, boxes, real = window.bench.cameras.space, {}, view_from_above.write

    def listens(painter, box, words, *rest):
        if words in ("pelvis", "chest"):
            boxes[words] = box.toAlignedRect()
            return 0.0
        return real(painter, box, words, *rest)

    with monkeypatch.context() as patched:
        patched.setattr(view_from_above, "write", listens)
        for name in ("address", "half_back", "top", "half_down", "impact", "follow", "finish"):
            boxes.clear()
            window.on_desk.go_to(name)
            picture = space.grab().toImage()
            assert boxes.keys() == {"pelvis", "chest"}
            assert not boxes["pelvis"].intersects(boxes["chest"])
            for box in boxes.values():
                lights = [
                    picture.pixelColor(x, y).lightness()
                    for x in range(box.left(), box.right() + 1)
                    for y in range(box.top(), box.bottom() + 1)
                ]
                assert max(lights) - min(lights) < 50, name


def test_two_clips_become_one_swing_that_is_worked_on_from_either_side(qtbot, linked, monkeypatch):
    """One clock, one set of checkpoints, one reading, one undo; marks go to the clip they are set on."""
    takes, bench, desk = linked.takes, linked.bench, linked.on_desk
    second, document = takes.second, desk.document
    assert bench.cameras.other.isVisible() and bench.cameras.space.isVisible()
    assert [take.view.value for take in document.whole.takes] == ["face-on", "down-the-line"]
    assert not bench.reading.camera.isVisible()
    for name in ("address", "top", "impact"):
        desk.go_to(name)
        assert second.checkpoint == name
        apart = second.times_s[second.cursor.frame] - desk.times_s[desk.cursor.frame]
        assert apart == pytest.approx(takes.linked.clock.offset_s, abs=1.1 / 60)
    reading = desk.numbers.reading
    assert reading.of("backswing_thrust").value is not None and reading.of("sway").value is not None
    turn = desk.analysis.at("pelvis_turn", "top")
    assert turn.value == takes.linked.numbers["pelvis_turn_3d", "top"].value and turn.sigma < 6

    assert_named_beside_the_body(qtbot, linked, monkeypatch)
    desk.selection.choose("backswing_thrust")
    assert desk.swing.view.value == "down-the-line" and desk.checkpoint == "top" == second.checkpoint
    assert desk.numbers.reading.of("sway") == reading.of("sway"), "the same verdict from either side"
    row = bench.cameras
    qtbot.waitUntil(lambda: row.other.x() < row.stage.x(), timeout=PATIENCE_MS)

    before, frame = second.swing.marks, second.cursor.frame
    place = row.other.view.to_widget(*second.analysis.tracks["left_hip"].xy[frame])
    qtbot.mousePress(row.other, Qt.MouseButton.LeftButton, pos=place.toPoint())
    drag(row.other, place + QPointF(6, 0))
    qtbot.waitUntil(lambda: desk.numbers.dragging, timeout=PATIENCE_MS)
    moved = takes.linked.numbers["pelvis_turn_3d", "top"].value
    assert moved != turn.value, "the turn follows the hand on the other picture"
    qtbot.mouseRelease(row.other, Qt.MouseButton.LeftButton, pos=(place + QPointF(6, 0)).toPoint())
    rests(qtbot, linked)
    (fresh,) = set(second.swing.marks) - set(before)
    assert fresh.point == "left_hip" and fresh in document.whole.takes[0].marks
    assert fresh not in document.whole.takes[1].marks

    press(qtbot, bench.stage, Qt.Key.Key_E)
    assert desk.swing.view.value == "face-on" and desk.checkpoint == "top"
    monkeypatch.setattr(numbers, "AT_ONCE_S", 0.0)
    desk.document.pin("top", desk.cursor.frame + 4.0)
    press(qtbot, bench.stage, Qt.Key.Key_E)
    press(qtbot, bench.stage, Qt.Key.Key_E)
    rests(qtbot, linked)
    top = desk.analysis.checkpoints["top"]
    assert top.source == "marked", "turned while it was computed, it is computed all the same"
    linked.undo()
    linked.undo()
    rests(qtbot, linked)
    assert second.store is not None and desk.swing.marks == before
    press(qtbot, bench.stage, Qt.Key.Key_E)
    linked.undo()
    rests(qtbot, linked, by_both=False)
    assert desk.swing.view.value == "face-on" and len(document.whole.takes) == 1 and not row.other.isVisible()
    alone = desk.analysis.at("pelvis_turn", "top")
    assert alone.sigma > 1.5 * turn.sigma
    desk.selection.choose("sway")
    linked.redo()
    rests(qtbot, linked)
    assert desk.analysis.at("pelvis_turn", "top").value == pytest.approx(turn.value)


def test_a_linked_swing_is_kept_whole_and_opened_again_from_either_clip(qtbot, linked, demo, capsys):
    """The desk, the disk and the command line tell the same by both; the rack shows one swing."""
    desk, takes = linked.on_desk, linked.takes
    saved(qtbot, desk)
    shown, own = told(desk), load_swing(demo / LINE)
    moments, measures = on_the_command_line(demo / FACE, capsys)
    agree(shown, (moments, {key: at for key, at in measures.items() if not key.endswith("_3d")}))
    known = kept_swing(demo / FACE)
    assert known.linked.numbers.keys() == takes.linked.numbers.keys() and known.whole
    open_clip(qtbot, linked, demo / "oona-brackley-wedge.swing.json")
    qtbot.waitUntil(lambda: desk.path.name.startswith("oona"), timeout=PATIENCE_MS)
    assert not takes.shown and not linked.bench.cameras.other.isVisible()
    linked.open_path(demo / "maren-tolhurst-iron-line.mp4")
    qtbot.waitUntil(lambda: desk.path == demo / FACE, timeout=PATIENCE_MS)
    assert takes.linked is not None, "by both as soon as it is shown"
    agree(shown, told(desk))
    rack = linked.bench.rack

    def cards():
        rows = [row for row in rack.model.rows if isinstance(row, Card)]
        return [row for row in rows if any(one.part_of == demo / FACE for one in row.entries)]

    qtbot.waitUntil(lambda: bool(cards()), timeout=PATIENCE_MS)
    (card,), index = cards(), rack.model.index_of(demo / FACE)
    places = rack._painter.places(card, rack.list.visualRect(index))
    line = next(k for k, one in enumerate(card.entries) if one.part_of == demo / FACE)
    qtbot.mouseClick(rack.list.viewport(), Qt.MouseButton.LeftButton, pos=places[line].center())
    assert desk.swing.view.value == "down-the-line" and desk.path == demo / FACE, "nothing is opened anew"

    linked.actions_by_key["unlink"].trigger()
    qtbot.waitUntil(lambda: load_swing(demo / LINE) != own or not takes.shown, timeout=PATIENCE_MS)
    saved(qtbot, desk)
    assert len(load_swing(demo / FACE).takes) == 1
    assert load_swing(demo / LINE).marks == own.marks


def test_what_is_marked_on_the_other_clip_goes_with_it_when_they_part(qtbot, linked, demo):
    takes = linked.takes
    marks = len(load_swing(demo / LINE).marks)
    takes.second.document.place("head", 3, 400.0, 200.0)
    rests(qtbot, linked)
    linked.bench.linking.unlink()
    qtbot.waitUntil(lambda: len(load_swing(demo / LINE).marks) == marks + 1, timeout=PATIENCE_MS)
    assert not takes.shown
    # It was let go on purpose, and is not proposed again.
    linked.bench.rack.refresh()
    qtbot.wait(100)
    assert not linked.bench.reading.camera.isVisible()


def test_marks_that_were_set_elsewhere_meanwhile_are_not_lost_when_they_part(qtbot, linked, demo):
    """The other clip's own document was worked on by another desk: both states stay."""
    own = load_swing(demo / LINE)
    save_swing(demo / LINE, own.with_mark(Mark("head", 7, 10.0, 20.0)))
    linked.bench.linking.unlink()
    beside = demo / LINE.replace(".swing", ".desk-2.swing")
    qtbot.waitUntil(beside.exists, timeout=PATIENCE_MS)
    assert load_swing(demo / LINE).marks != own.marks and load_swing(beside).marks == own.marks


def test_another_swing_and_another_golfer_are_refused_with_the_reason(qtbot, window, demo, monkeypatch):
    told: list[str] = []
    monkeypatch.setattr(window.status_bar, "complain", told.append)
    window.on_desk.failed.connect(told.append)
    open_clip(qtbot, window, demo / FACE)
    before = window.on_desk.document.whole
    for name, reason in (
        ("priya-sandell-driver-line.swing.json", "two golfers"),
        ("oona-brackley-wedge.swing.json", "golfers"),
    ):
        told.clear()
        window.bench.linking.link(demo / name)
        qtbot.waitUntil(lambda: bool(told), timeout=PATIENCE_MS)
        assert told[0].startswith("Not linked: ") and reason in told[0]
    stranger = load_swing(demo / "priya-sandell-driver-line.swing.json")
    save_swing(demo / "priya-sandell-driver-line.swing.json", stranger.given(golfer=before.golfer))
    told.clear()
    window.bench.linking.link(demo / "priya-sandell-driver-line.swing.json")
    qtbot.waitUntil(lambda: bool(told), timeout=PATIENCE_MS)
    assert "one swing" in told[0]
    assert window.on_desk.document.whole == before and not window.takes.shown
    press(qtbot, window.bench.stage, Qt.Key.Key_L, CTRL_SHIFT)
    line, *_ = [c for c in panel_of(window, Chooser).choices if c.detail == "Down the line"]
    assert line.title == "maren tolhurst iron line", "the likeliest first"


def test_a_swing_whose_other_clip_is_gone_opens_with_a_sentence(qtbot, linked, demo, tmp_path, capsys):
    desk = linked.on_desk
    marks = len(desk.document.whole.takes[1].marks)
    saved(qtbot, desk)
    open_clip(qtbot, linked, demo / "oona-brackley-wedge.swing.json")
    qtbot.waitUntil(lambda: desk.path.name.startswith("oona"), timeout=PATIENCE_MS)
    (demo / "maren-tolhurst-iron-line.mp4").rename(tmp_path / "elsewhere.mp4")
    linked.open_path(demo / FACE)
    qtbot.waitUntil(lambda: desk.path == demo / FACE, timeout=PATIENCE_MS)
    assert not linked.takes.shown and desk.numbers.reading.priority[0] == "sway"
    assert "marks on it are safe" in linked.status_bar.text()
    desk.document.place("head", 3, 400.0, 200.0)
    saved(qtbot, desk)
    assert len(load_swing(demo / FACE).takes[1].marks) == marks
    alone = json.loads(_analyzed(demo / FACE, capsys))
    assert "second camera is gone" in " ".join(alone["warnings"]) and alone.get("space") is None
    (tmp_path / "elsewhere.mp4").rename(demo / "maren-tolhurst-iron-line.mp4")
    assert json.loads(_analyzed(demo / FACE, capsys))["space"]["offset_s"]


def _analyzed(document, capsys):
    assert main(["analyze", str(document), "--json", "-"]) == 0
    return capsys.readouterr().out


def test_the_page_shows_the_picture_of_the_camera_that_tells_it(demo, tmp_path):
    """A page about what is seen along the line has the stills of that clip."""
    save_swing(demo / FACE, with_second(load_swing(demo / FACE), load_swing(demo / LINE).take))
    pages = {}
    for fault in ("sway", "backswing_thrust"):
        page = tmp_path / f"{fault}.html"
        words = ["handout", str(demo / FACE), "--fault", fault, "--html", str(page), "--no-book"]
        assert main(words) == 0
        pages[fault] = page.read_text("utf-8")
    assert all("data:image" in page for page in pages.values())
    known = kept_swing(demo / FACE)
    assert known.showing("pelvis_thrust").stretch.path.name == "maren-tolhurst-iron-line.mp4"
    assert known.showing("pelvis_shift") is known
