"""The stage by its hands and its layers: drawing, zoom, lines that measure, numbers beside the body."""

from __future__ import annotations

import time

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication

from kneel.desk.places import keeping
from kneel.desk.stage.drawing import drawn_at, gap_of, places_of
from kneel.desk.stage.figure import figures_at
from kneel.desk.stage.pictures import Manner, Pictures
from kneel.desk.stage.room import Room
from kneel.desk.stage.viewport import Hold, Pose, Viewport
from kneel.desk.swing.document import Document
from kneel.documents.swing_file import load_swing
from kneel.footage import Clip, FrameStore, picture_of
from kneel.footage.light import brightness_of, in_light, powers_alike
from kneel.model import Club, Drawn, Mark, Override, Swing
from kneel.model.take import SHAPES
from kneel.motion.measures import REGISTRY, Shape
from kneel.motion.measures.lines import LINES, measure_of_line
from tests.clips import make
from tests.desk import CLIP, PATIENCE_MS, open_clip, press, saved
from tests.filed import DAYS, DEMO

CTRL = Qt.KeyboardModifier.ControlModifier
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def opened(qtbot, window, demo):
    open_clip(qtbot, window, demo / CLIP)
    return window


def stroke(qtbot, stage, *places: tuple[int, int]) -> None:
    """Press at the first place, move through the others, let go at the last."""
    first, *rest = [QPoint(*place) for place in places]
    qtbot.mousePress(stage, LEFT, pos=first)
    for place in rest:
        qtbot.mouseMove(stage, place)
    qtbot.mouseRelease(stage, LEFT, pos=(rest or [first])[-1])


def draw(qtbot, window, shape: str) -> None:
    """Draw a shape in the upper right of the stage, where no point lies."""
    window.actions_by_key[f"draw_{shape}"].trigger()
    stage = window.bench.stage
    x, y = stage.width() - 160, 60
    stroke(qtbot, stage, (x, y), (x + 30, y + 20), (x + 60, y + 10))
    if shape == "angle":
        stroke(qtbot, stage, (x + 20, y + 60))
    if shape == "word":
        qtbot.keyClicks(stage.hands._word, "hips stay")
        qtbot.keyClick(stage.hands._word, Qt.Key.Key_Return)


def test_each_shape_is_drawn_moved_kept_and_taken_away(qtbot, opened):
    for shape in ("dot", "circle", "angle", "word", "prop"):
        drawn_moved_kept_and_taken_away(qtbot, opened, shape)


def drawn_moved_kept_and_taken_away(qtbot, opened, shape):
    session, stage = opened.on_desk, opened.bench.stage
    start = session.swing
    draw(qtbot, opened, shape)
    (drawn,) = session.swing.drawn
    assert drawn.shape == shape and stage.tool is None
    assert drawn.frame == (None if shape == "prop" else session.cursor.frame)
    assert len(places_of(drawn)) >= SHAPES[shape]
    bare = stage.grab().toImage()
    session.document.undo()
    assert session.swing.drawn == () and stage.grab().toImage() != bare
    session.document.redo()
    # Chosen by a click on it, moved by a drag, kept for the whole swing by K, gone by Delete.
    at = stage.view.to_widget(*places_of(drawn)[0]).toPoint()
    if shape == "circle":
        at = stage.view.to_widget(*places_of(drawn)[1]).toPoint()
    stroke(qtbot, stage, (at.x(), at.y()), (at.x() + 12, at.y() + 9))
    (there,) = session.swing.drawn
    scale = stage.view.scale
    assert there.points[0] - drawn.points[0] == pytest.approx(12 / scale, abs=0.1)
    assert there.points[1] - drawn.points[1] == pytest.approx(9 / scale, abs=0.1)
    press(qtbot, stage, Qt.Key.Key_K)
    assert session.swing.drawn[0].frame == (session.cursor.frame if shape == "prop" else None)
    saved(qtbot, session)
    assert load_swing(session.path).drawn == session.swing.drawn
    press(qtbot, stage, Qt.Key.Key_Delete)
    assert session.swing.drawn == ()
    while session.document.history.undo_label:
        session.document.undo()
    assert session.swing == start


def test_esc_gives_up_what_is_being_drawn(qtbot, opened):
    stage = opened.bench.stage
    before = opened.on_desk.swing
    for shape in SHAPES:
        opened.actions_by_key[f"draw_{shape}"].trigger()
        qtbot.mousePress(stage, LEFT, pos=QPoint(500, 80))
        qtbot.mouseMove(stage, QPoint(540, 90))
        press(qtbot, stage, Qt.Key.Key_Escape)
        qtbot.mouseRelease(stage, LEFT, pos=QPoint(560, 95))
        assert stage.tool is None and opened.on_desk.swing == before, shape


def test_esc_gives_a_dragged_point_and_a_dragged_peg_back(qtbot, opened):
    session, stage, ribbon = opened.on_desk, opened.bench.stage, opened.bench.ribbon
    before = session.swing
    hip = session.analysis.tracks["right_hip"].xy[session.cursor.frame]
    at = stage.view.to_widget(*hip.tolist()).toPoint()
    qtbot.mousePress(stage, LEFT, pos=at)
    qtbot.mouseMove(stage, at + QPoint(20, 0))
    assert session.numbers.dragging
    press(qtbot, stage, Qt.Key.Key_Escape)
    qtbot.mouseRelease(stage, LEFT, pos=at + QPoint(20, 0))
    assert session.swing == before and not session.numbers.dragging
    x = round(ribbon.x_of(session.analysis.checkpoints["top"].frame)) + 4
    qtbot.mousePress(ribbon, LEFT, pos=QPoint(x, 40))
    qtbot.mouseMove(ribbon, QPoint(x + 30, 40))
    press(qtbot, ribbon, Qt.Key.Key_Escape)
    qtbot.mouseRelease(ribbon, LEFT, pos=QPoint(x + 30, 40))
    assert session.swing == before


def boxes(least, most):
    sizes = st.floats(least, most)
    return st.builds(QRectF, st.floats(0, 340), st.floats(0, 200), sizes, sizes)


@given(taken=st.lists(boxes(10, 200), max_size=6), disc=boxes(10, 90), wide=st.floats(40, 300))
def test_a_plate_that_must_stand_free_covers_nothing_or_is_left_out(taken, disc, wide):
    """Neither another plate nor the body; and one left out leaves its place to the next."""
    discs = np.array([[disc.x(), disc.y(), disc.width()]])
    room, empty = (Room(QRectF(0, 0, 360, 220), d) for d in (discs, discs[:0]))
    for box in taken:
        room.take(box)
    size, corner = QSizeF(wide, 26), QPointF(340, 210)
    free = room.place_free(size, corner, 1, None)
    if free is not None:
        assert not any(free.intersects(box) for box in taken)
        x, y = (
            min(max(v, a), b)
            for v, a, b in ((disc.x(), free.left(), free.right()), (disc.y(), free.top(), free.bottom()))
        )
        assert np.hypot(x - disc.x(), y - disc.y()) >= disc.width() - 1e-6
        assert room.place_free(size, free.center(), 1, free.topLeft()) != free, "it is taken now"
    first = empty.place_free(size, corner, 1, None)
    assert first is not None and first.right() <= 360 - 7
    over = Room(QRectF(0, 0, 360, 220), discs[:0])
    over.take(QRectF(0, 0, 360, 220))
    assert over.place_free(size, corner, 1, None) is None and len(over._taken) == 1


def test_the_wheel_with_a_modifier_zooms_and_the_hand_keeps_it(qtbot, opened):
    stage, session = opened.bench.stage, opened.on_desk
    assert stage.view.hold is Hold.FRAMED
    fixed = QPointF(300, 200)
    under, scale = stage.view.to_picture(fixed), stage.view.scale
    wheel = QWheelEvent(
        fixed,
        fixed,
        QPoint(),
        QPoint(0, 240),
        Qt.MouseButton.NoButton,
        CTRL,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    stage.wheelEvent(wheel)
    assert stage.view.scale == pytest.approx(scale * 1.25**2)
    assert stage.view.to_picture(fixed) == pytest.approx(under, abs=1e-6)
    session.set("Set club", club=Club.WEDGE)
    qtbot.waitUntil(lambda: not session.numbers.busy, timeout=PATIENCE_MS)
    assert stage.view.hold is Hold.HAND and stage.view.scale == pytest.approx(scale * 1.25**2)
    qtbot.mousePress(stage, Qt.MouseButton.MiddleButton, pos=QPoint(300, 200))
    qtbot.mouseMove(stage, QPoint(320, 206))
    qtbot.mouseRelease(stage, Qt.MouseButton.MiddleButton, pos=QPoint(320, 206))
    assert stage.view.to_picture(fixed + QPointF(20, 6)) == pytest.approx(under, abs=0.1)
    press(qtbot, stage, Qt.Key.Key_1, CTRL)
    assert stage.view.scale == pytest.approx(1.0)
    press(qtbot, stage, Qt.Key.Key_0)
    assert stage.view.hold is Hold.WHOLE
    press(qtbot, stage, Qt.Key.Key_0)
    assert stage.view.hold is Hold.FRAMED


def test_flipping_goes_between_the_last_two_checkpoints(qtbot, opened):
    session, stage = opened.on_desk, opened.bench.stage
    press(qtbot, stage, Qt.Key.Key_4)
    press(qtbot, stage, Qt.Key.Key_7)
    seen = []
    for _ in range(3):
        press(qtbot, stage, Qt.Key.Key_A)
        seen.append(session.checkpoint)
    assert seen == ["top", "impact", "top"]


def test_numbers_stand_beside_the_body_and_each_line_measures(qtbot, opened):
    """Over every checkpoint, for every reference line of the view: the plate lies on no part of the body."""
    session, stage = opened.on_desk, opened.bench.stage
    view = session.swing.view
    lines = tuple(line for line in LINES if measure_of_line(line, view) is not None)
    assert {"trail_hip", "lead_hip", "pelvis", "head", "belt", "shoulders", "trunk"} <= set(lines)
    for name in ("address", "top", "impact"):
        session.go_to(name)
        for line in lines:
            session.look_at(lines=(line,))
            stage.grab()
            scene = stage.scene()
            measured = measure_of_line(line, view).key
            told = {figure.key: figure for figure in figures_at(session)}
            if measured not in told:
                # What has no ball and no club has no such line, and its series says why.
                assert not hasattr(session.analysis.measure(measured), "values")
                continue
            value = float(session.analysis.measure(measured).values[session.cursor.frame])
            figure = told[measured]
            assert f"{abs(value):.1f}"[:3] in figure.value or REGISTRY[measured].unit != "length"
            for key, corner in stage._places.items():
                if key.startswith("figure"):
                    # A plate is at least so large; its corner and middle lie off the body.
                    assert not scene.room.on_body(QRectF(corner, QSizeF(90, 40))), (name, line)


def test_every_measure_with_a_figure_can_be_drawn(qtbot, opened):
    """Whatever finding is chosen, its figure is made without a mishap and speaks of its measure."""
    session, stage = opened.on_desk, opened.bench.stage
    session.go_to("top")
    drawn = 0
    for finding in session.numbers.reading.findings:
        session.selection.choose(finding.key)
        stage.grab()
        measure = session.selection.measure
        if measure is None or REGISTRY[measure].figure.shape is Shape.NONE:
            continue
        (figure,) = [f for f in figures_at(session) if f.main] or [None]
        drawn += figure is not None and figure.key == measure
    assert drawn >= 15


def test_a_line_along_a_thing_tells_its_gap_to_the_body(qtbot, opened):
    """A vertical 50 px beside the trail hip: the gap is that in cm, with the error of scale and point."""
    session = opened.on_desk
    frame = session.cursor.frame
    hip = session.analysis.tracks["right_hip"]
    x, y = hip.xy[frame].tolist()
    drawn = Drawn("prop", (x - 50, y - 200, x - 50, y + 200), None, "right_hip")
    gap = gap_of(session, drawn, places_of(drawn))
    scale = session.analysis.scale
    assert float(gap.value.split()[0]) == pytest.approx(50 * scale.per_px, abs=0.06)
    sigma = np.hypot(hip.sigma[frame] * scale.per_px, 50 * scale.per_px * scale.relative)
    assert float(gap.error.split()[1]) == pytest.approx(float(sigma), abs=0.06)
    session.set("Draw", drawn=(drawn,))
    session.go_to("impact")
    ((_, _, places),) = drawn_at(session)
    moved = gap_of(session, drawn, places)
    assert moved.foot[0] == pytest.approx(x - 50) and moved.body[0] == pytest.approx(
        float(hip.xy[session.cursor.frame, 0])
    )


@pytest.mark.reads_ahead
def test_the_picture_is_copied_and_kept_without_a_dialog(qtbot, opened, demo, monkeypatch):
    monkeypatch.setattr(keeping, "SLOWER", 1.0)
    session, stage = opened.on_desk, opened.bench.stage
    qtbot.waitUntil(lambda: session.store.held == session.frames, timeout=PATIENCE_MS)
    session.go_to("top")
    press(qtbot, stage, Qt.Key.Key_C, CTRL)
    copied = QApplication.clipboard().image()
    assert copied.size() == stage.seen().size() and copied == stage.seen()
    press(qtbot, stage, Qt.Key.Key_E, CTRL)
    press(qtbot, stage, Qt.Key.Key_E, CTRL)
    names = ["maren-tolhurst-iron top 2.png", "maren-tolhurst-iron top.png"]
    qtbot.waitUntil(lambda: "top 2.png" in opened.status_bar.text(), timeout=PATIENCE_MS)
    made = sorted((demo / "kept").iterdir())
    assert [p.name for p in made] == names and {p.stat().st_mode & 0o777 for p in made} == {0o600}
    frame = session.cursor.frame
    opened.actions_by_key["slow_clip"].trigger()
    target = demo / "kept" / "maren-tolhurst-iron slow.mp4"
    qtbot.waitUntil(lambda: not opened.jobs.running and target.exists(), timeout=PATIENCE_MS)
    assert session.cursor.frame == frame
    with Clip(target) as clip:
        length = (
            session.times_s[session.numbers.shown("finish")]
            - session.times_s[session.numbers.shown("address")]
        )
        assert float(clip.info.times_s[-1]) == pytest.approx(length + 0.4, abs=0.15)
        assert (clip.info.width, clip.info.height) == (
            stage.seen().width() // 2 * 2,
            stage.seen().height() // 2 * 2,
        )
    # What is kept does not come on the rack as if it were filmed.
    opened.bench.rack.refresh()
    qtbot.wait(200)
    assert all("kept" not in str(entry.clip) for entry in opened.bench.rack.entries)


@pytest.mark.parametrize("rotation", [0, 90, 180, 270])
def test_a_part_of_a_picture_is_that_part_of_the_whole(tmp_path, rotation):
    """Cut before it is converted, in every turn, against the whole picture converted."""
    path = make(tmp_path / "turned.mp4", list(range(4)), rotation=rotation)
    with Clip(path) as clip:
        frame, upright = clip.frame(1), clip.upright
        whole = picture_of(frame, upright)
        part = (8, 12, 40, 30)
        cut = picture_of(frame, upright, part=part)
        left, top, width, height = part
        assert cut.shape == (height, width, 3)
        inner = np.s_[2:-2, 2:-2]
        off = np.abs(cut.astype(int) - whole[top : top + height, left : left + width].astype(int))[inner]
        assert np.median(off) <= 2 and np.percentile(off, 90) < 12


def test_pictures_are_made_ahead_of_the_hand(tmp_path):
    path = make(tmp_path / "many.mp4", list(range(40)))
    store = FrameStore(path)
    store.start(0)
    try:
        for _ in range(200):
            if store.held == 40:
                break
            time.sleep(0.02)
        pictures, manner = Pictures(), Manner(store, (0, 0, 160, 96), (160, 96))
        image, exact = pictures.show(manner, 10, near=(30,))
        assert exact and image.width() == 160
        for _ in range(200):
            if {11, 12, 15, 30} <= set(pictures._made):
                break
            time.sleep(0.02)
        assert {11, 12, 15, 30} <= set(pictures._made) and 35 not in pictures._made
        pictures.close()
    finally:
        store.close()


@given(
    st.lists(st.tuples(st.floats(0, 800), st.floats(0, 500), st.floats(5, 80)), max_size=20),
    st.tuples(st.floats(0, 800), st.floats(0, 500)),
    st.sampled_from([-1, 1]),
)
@settings(max_examples=60)
def test_plates_stay_inside_and_apart(discs, near, away):
    """Wherever the body is: inside the stage, never one on another, on the body only where all is taken."""
    room = Room(QRectF(0, 0, 800, 500), np.array(discs).reshape(-1, 3))
    plates = [room.place(QSizeF(140, 44), QPointF(*near), away) for _ in range(3)]
    for k, plate in enumerate(plates):
        assert QRectF(0, 0, 800, 500).contains(plate)
        assert not any(plate.intersects(other) for other in plates[:k])
    if sum(radius for *_, radius in discs) < 120:
        assert not any(room.on_body(plate) for plate in plates)


COMMANDS = st.one_of(
    st.tuples(st.just("place"), st.sampled_from(["left_hip", "head"]), st.integers(0, 9), st.floats(0, 500)),
    st.tuples(st.just("pin"), st.sampled_from(["address", "top", "impact"]), st.none() | st.integers(0, 99)),
    st.tuples(st.just("unmark"), st.sampled_from(["left_hip", "head"]), st.integers(0, 9)),
    st.tuples(st.just("draw"), st.sampled_from(["dot", "line", "word"]), st.floats(0, 500)),
    st.tuples(st.just("say"), st.sampled_from(["sway", "slide"]), st.sampled_from(["rejected", "added"])),
    st.tuples(st.just("name"), st.sampled_from(["A", "B"])),
)


@given(st.lists(COMMANDS, max_size=12))
@settings(max_examples=80)
def test_do_undo_redo_is_the_identity_for_every_command(commands):
    document = Document(None)
    document.begin(Swing())
    for command in commands:
        _do(document, *command)
    end, count, states = document.swing, 0, [document.swing]
    while document.history.undo_label is not None:
        document.undo()
        states.append(document.swing)
        count += 1
    assert document.swing == Swing()
    for state in reversed(states[:-1]):
        document.redo()
        assert document.swing == state
    assert document.swing == end and document.history.redo_label is None
    assert count <= len(commands)


def _do(document: Document, what: str, *how) -> None:
    now = document.now
    if what == "place":
        point, frame, x = how
        document.place(point, frame, x, 5.0)
    elif what == "pin":
        document.pin(*how)
    elif what == "unmark":
        document.change("Unmark", now.without_mark(*how))
    elif what == "draw":
        shape, x = how
        document.preview(now.with_mark(Mark("head", 3, x, 1.0)))
        document.change("Draw", now.given(drawn=(*now.drawn, Drawn(shape, (x, 1.0, x + 9, 4.0), 2, "w"))))
    elif what == "say":
        document.change("Say", now.given(overrides=(*now.overrides, Override(*how))))
    else:
        document.change("Name", now.given(golfer=how[0]))


@settings(deadline=None, max_examples=60)
@given(
    mirrored=st.booleans(),
    turned=st.floats(-8, 8),
    scale=st.floats(0.2, 6),
    place=st.tuples(st.floats(0, 1279), st.floats(0, 719)),
    at=st.tuples(st.floats(0, 700), st.floats(0, 500)),
)
def test_a_picture_lies_where_it_is_put_however_it_is_turned(mirrored, turned, scale, place, at):
    """There and back, as large as asked, upright by as much as it leaned; and what is seen is decoded."""
    view = Viewport()
    view.set_picture(1280, 720)
    view.set_area(QRectF(0, 0, 700, 500))
    view.set_pose(Pose(mirrored, turned))
    view.put(scale, place, QPointF(*at))
    assert view.scale == pytest.approx(scale)
    spot = view.to_widget(*place)
    assert (spot.x(), spot.y()) == pytest.approx(at, abs=1e-6)
    assert view.to_picture(spot) == pytest.approx(place, abs=1e-6)
    right, down = (view.to_widget(place[0] + dx, place[1] + dy) - spot for dx, dy in ((1, 0), (0, 1)))
    lean = np.radians(turned)
    way = -1 if mirrored else 1
    np.testing.assert_allclose(
        (right.x(), right.y()), way * scale * np.array([np.cos(lean), np.sin(lean)]), atol=1e-9
    )
    np.testing.assert_allclose(
        (down.x(), down.y()), scale * np.array([-np.sin(lean), np.cos(lean)]), atol=1e-9
    )
    left, top, width, height = view.part
    for x in (5.0, 350.0, 695.0):
        for y in (5.0, 250.0, 495.0):
            seen = view.to_picture(QPointF(x, y))
            if view.shown.contains(x, y) and 0 <= seen[0] <= 1279 and 0 <= seen[1] <= 719:
                assert left - 1 <= seen[0] <= left + width and top - 1 <= seen[1] <= top + height


def test_a_picture_in_another_light_is_lighter_in_its_middle_and_clips_nothing():
    """As bright as a brighter clip by one curve, black and white as they were."""
    clip = Clip(DEMO / DAYS[2] / CLIP)
    frame, upright = clip.frame(1), clip.info.upright
    middle = brightness_of(frame, upright)
    power, other = powers_alike(middle, min(1.3 * middle, 0.98))
    plain, light = (in_light(picture_of(frame, upright), p) for p in (1.0, power))
    assert power < 1.0 == other and powers_alike(0.5, 0.52) == (1.0, 1.0)
    told = np.median(light) / 255
    assert told == pytest.approx((np.median(plain) / 255) ** power, abs=0.01) and told > middle
    assert set(np.unique(light[plain == 0])) <= {0} and set(np.unique(light[plain == 255])) <= {255}
