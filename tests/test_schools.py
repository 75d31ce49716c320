"""Schools of one's own: shaped, kept, shared, taken up at once; windows from good swings."""

from __future__ import annotations

import warnings
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace as replace_
from PyQt6.QtCore import QPoint, Qt
from scipy.special import ndtr

from kneel.compare.good_swings import GoodSwing, Proposed, proposed
from kneel.compare.tolerance import Group, factor, interval
from kneel.desk.places.schools.canvas import Handle
from kneel.desk.widgets.chooser import Chooser
from kneel.judge.kinds import laid
from kneel.judge.knowledge import in_use, laid_over, load, shipped
from kneel.judge.numbers import OfSwing
from kneel.judge.shaping import (
    ShapingError,
    as_text,
    copied,
    from_text,
    keep,
    own_schools,
    restored,
    shaped,
    whole_of,
)
from kneel.judge.weighing import weigh
from kneel.model import Club, Kind, KnowledgeError
from kneel.motion.example import example
from kneel.motion.failure import Failed
from kneel.motion.quantity import Single
from kneel.practice.catalogue import read_drills_anew
from tests.desk import CLIP, PATIENCE_MS, open_clip

with warnings.catch_warnings():
    # It leaves a file open where it reads its version.
    warnings.simplefilter("ignore", ResourceWarning)
    from toleranceinterval.twoside import normal_factor

CENTRED = shipped().school("centred")


def mine(title="Mine"):
    return copied(CENTRED, title, shipped().schools)


# Tolerance


@pytest.mark.parametrize(
    ("count", "content", "table"), [(10, 0.90, 2.856), (10, 0.95, 3.393), (20, 0.90, 2.319)]
)
def test_the_factor_is_that_of_the_tables(count, content, table):
    """Krishnamoorthy and Mathew 2009, table B1 (from memory), and a general-purpose library's own way."""
    assert factor(count, content) == pytest.approx(table, abs=0.001)
    assert factor(count, content) == pytest.approx(normal_factor(count, content, 0.95), rel=2e-4)


@pytest.mark.parametrize(
    ("students", "between", "error", "within", "many", "own"),
    [(8, 1.0, 0.6, 0.0, 1, 0.0), (8, 0.7, 0.4, 0.8, 3, 0.3), (14, 1.0, 0.8, 0.6, 4, 0.0)],
)
def test_nine_in_ten_good_swings_lie_inside_as_often_as_is_said(
    monkeypatch, students, between, error, within, many, own
):
    """Students who differ, swings that differ, errors of measuring that say nothing of either."""
    monkeypatch.setattr("kneel.compare.tolerance.DRAWS", 128)
    monkeypatch.setattr("kneel.compare.tolerance.STEPS", 22)
    rng = np.random.default_rng(students * many)
    held = []
    for _ in range(200):
        groups = []
        for _ in range(students):
            sigma = error * rng.uniform(0.5, 1.5)
            count = int(rng.integers(1, many + 1))
            swings = rng.normal(0, between) + rng.normal(0, np.hypot(within, own), count)
            scatter = float(((swings - swings.mean()) ** 2).sum())
            groups.append(Group(swings.mean() + rng.normal(0, sigma), sigma, count, scatter))
        found = interval(groups, own=own if many > 1 else None)
        one = np.hypot(between, within)
        held.append(ndtr(found.hi / one) - ndtr(found.lo / one) >= 0.9)
    # 95 of 100, give or take what 200 samples leave open.
    assert 0.92 <= np.mean(held) <= 0.985


@settings(max_examples=6)
@given(st.floats(-50, 50), st.floats(0.1, 20), st.integers(2, 12))
def test_a_window_moves_and_grows_with_what_it_is_made_of(shift, size, count):
    values = np.random.default_rng(count).normal(0, 1, count)
    plain = interval([Group(v, 0.3) for v in values])
    moved = interval([Group(shift + size * v, 0.3 * size) for v in values])
    assert moved.hi - moved.lo == pytest.approx(size * (plain.hi - plain.lo), rel=1e-4)
    assert moved.lo == pytest.approx(shift + size * plain.lo, abs=1e-3 * size)
    swings = [Group(v, 0.3, 3, 2.0) for v in values]
    as_they_are, measured = interval(swings, own=0.6), interval(swings)
    assert as_they_are.hi - as_they_are.lo < measured.hi - measured.lo, (
        "what measuring scattered is no swing's"
    )


class Told:
    """A swing of a student of some stature that tells one number in cm."""

    source = ("stature", 175.0)

    def __init__(self, value, sigma=0.5, size=1.0):
        self._told, self.size = Single.plain("pelvis_shift", "cm", value, sigma), size

    def cm(self, unit):
        return 1.0, 0.0

    def tell(self, measure, at):
        return self._told


class Yawed(Told):
    """One that errs by where its camera stands, and a little by itself."""

    def tell(self, measure, at):
        causes = {("yaw",): 0.6, ("place", "lead_hip"): 0.1}
        return Single.given("pelvis_shift", "cm", self._told.value, np.hypot(0.6, 0.1), causes)


def test_each_student_counts_as_one_and_bodies_are_taken_as_large():
    rng = np.random.default_rng(5)
    values = rng.normal(2.0, 1.0, 9)
    each = [GoodSwing(f"Student {k}", "a", Told(v)) for k, v in enumerate(values)]
    found = proposed(each, "pelvis_shift", "top")
    assert isinstance(found, Proposed)
    assert (found.swings, found.students, found.own) == (9, 9, "")
    assert "9 good swings of 9 students" in found.standing
    # Larger bodies that move as much more have the same window, in centimetres of a body of 1.75 m.
    large = [GoodSwing(f"Student {k}", "a", Told(1.1 * v, 0.55, 1.1)) for k, v in enumerate(values)]
    assert proposed(large, "pelvis_shift", "top").interval.lo == pytest.approx(found.interval.lo)
    # A student with many swings draws the window no nearer than one with a few more does.
    many = each + [GoodSwing("Student 0", "a", Told(values[0] + e)) for e in rng.normal(0, 0.5, 30)]
    middle = sum(vars(proposed(many, "pelvis_shift", "top").interval)[k] for k in ("lo", "hi")) / 2
    assert abs(middle - values.mean()) < 0.35
    assert isinstance(proposed(each[:7], "pelvis_shift", "top"), Failed)
    # Of one student the swings of one day say how far that day's lie apart, and no more.
    assert isinstance(
        proposed([GoodSwing("Maren", "a", Told(v)) for v in values], "pelvis_shift", "top"), Failed
    )
    days = [GoodSwing("Maren", f"day {k % 3}", Told(v)) for k, v in enumerate(values)]
    alone = proposed(days, "pelvis_shift", "top")
    assert alone.own == "Maren"
    assert "of one student" in alone.standing


def test_what_one_camera_errs_by_in_all_is_no_part_of_how_they_differ():
    """Filmed by cameras of their own it is, and goes out of the window."""
    values = np.linspace(-1.5, 1.5, 9)

    def width(places):
        some = [GoodSwing(f"Student {k}", places[k], Yawed(v)) for k, v in enumerate(values)]
        found = proposed(some, "pelvis_shift", "top").interval
        return found.hi - found.lo

    plain = proposed(
        [GoodSwing(f"{k}", "a", Told(v, 0.1)) for k, v in enumerate(values)], "pelvis_shift", "top"
    )
    assert width(["the net"] * 9) == pytest.approx(plain.interval.hi - plain.interval.lo, rel=1e-6)
    assert width([f"place {k}" for k in range(9)]) < 0.95 * width(["the net"] * 9)


@pytest.mark.parametrize(("lessons", "each"), [(3, 4), (8, 1)])
def test_one_students_window_holds_over_days(monkeypatch, lessons, each):
    """A golfer's days lie about as far apart as the swings of one day do (common practice, no source)."""
    monkeypatch.setattr("kneel.compare.tolerance.DRAWS", 128)
    monkeypatch.setattr("kneel.compare.tolerance.STEPS", 22)
    rng, held = np.random.default_rng(lessons), []
    for _ in range(200):
        of_day = rng.normal(0, 1.1, (lessons, 1)) + rng.normal(0, np.hypot(1.0, 0.4), (lessons, each))
        swings = [GoodSwing("Maren", f"day {k}", Told(v, 0.4)) for k, row in enumerate(of_day) for v in row]
        found = proposed(swings, "pelvis_shift", "top").interval
        one = np.hypot(1.1, 1.0)
        held.append(ndtr(found.hi / one) - ndtr(found.lo / one) >= 0.9)
    assert np.mean(held) >= 0.91


# Shaping


def test_a_copy_follows_what_it_stands_on_and_says_only_where_it_differs():
    own = shaped(mine(), CENTRED, "pelvis_shift", "top", lo=-3.0, hi=None)
    whole = whole_of(own, {own.key: own})
    assert whole.find("pelvis_shift", "top").lo == -3.0
    assert whole.find("pelvis_shift", "top").hi is None
    for at in ("half_back", "half_down", "impact"):
        assert whole.find("pelvis_shift", at) == CENTRED.find("pelvis_shift", at)
    assert restored(own, "pelvis_shift", "top") == mine()


def test_a_window_for_one_club_leaves_the_others_theirs():
    """Set-up lean is one window for iron and wedge, and another for driver and wood."""
    own = shaped(mine(), CENTRED, "shaft_lean", "address", Club.IRON, lo=0.0, hi=10.0)
    whole = whole_of(own, {})
    assert whole.find("shaft_lean", "address", Club.IRON).hi == 10.0
    for club in (Club.WEDGE, Club.DRIVER, Club.WOOD):
        was, now = (one.find("shaft_lean", "address", club) for one in (CENTRED, whole))
        assert (now.lo, now.hi, now.margin) == (was.lo, was.hi, was.margin)
    every = shaped(own, whole, "shaft_lean", "address", lo=1.0, hi=9.0)
    assert {whole_of(every, {}).find("shaft_lean", "address", club).hi for club in Club} == {9.0}


@pytest.mark.parametrize("limits", [(None, None), (4.0, 4.0), (5.0, -1.0)])
def test_what_would_be_no_window_is_refused(limits):
    with pytest.raises(ShapingError):
        shaped(mine(), CENTRED, "pelvis_shift", "top", lo=limits[0], hi=limits[1])


@given(
    st.text(min_size=1, max_size=40),
    st.floats(-40, 40),
    st.floats(0.1, 40),
    st.sampled_from([None, *Club]),
    st.text(max_size=30),
)
def test_a_school_written_is_the_school_read(title, lo, width, club, standing):
    own = shaped(mine(title), CENTRED, "pelvis_shift", "top", club, lo=lo, hi=lo + width, standing=standing)
    plain = "".join(c for c in own.title if ord(c) < 65536 or c.isprintable())
    again = from_text(as_text(own), "mine.toml")
    assert again.window[0].lo == own.window[0].lo
    assert again.window[0].hi == own.window[0].hi
    assert again.window[0].club == own.window[0].club
    assert again.title == plain


def test_a_file_changed_elsewhere_is_left_and_comments_stay(tmp_path):
    own = mine()
    text = keep(tmp_path, own.key, own, None)
    path = tmp_path / "schools" / "mine.toml"
    path.write_text("# argued over with Ines\n" + text)
    with pytest.raises(ShapingError, match="changed elsewhere"):
        keep(tmp_path, own.key, mine("Other"), text)
    assert path.read_text().startswith("# argued")
    was = own_schools(tmp_path)["mine"][1]
    new = shaped(own, CENTRED, "pelvis_shift", "top", lo=-2.0, hi=4.0)
    assert keep(tmp_path, own.key, new, was).startswith("# argued over with Ines\nkey")
    assert load(tmp_path).school("mine").find("pelvis_shift", "top").lo == -2.0
    assert keep(tmp_path, own.key, None, path.read_text()) is None
    assert not path.exists()


def test_a_school_on_itself_or_on_nothing_is_told(tmp_path):
    one = mine("One")
    gone = from_text(as_text(one).replace('"centred"', '"nowhere"'), "one.toml")
    with pytest.raises(ShapingError, match="not there"):
        whole_of(gone, {"one": gone})
    ring = from_text(as_text(one).replace('"centred"', '"one"'), "one.toml")
    with pytest.raises(ShapingError):
        whole_of(ring, {"one": ring})
    with pytest.raises(KnowledgeError, match="line"):
        from_text(as_text(one).replace('"one"', '"../one"', 1), "one.toml")


# The place


@pytest.fixture
def schools(qtbot, window, demo):
    """The place on show, with a swing on the desk; what is judged by is read anew afterwards."""
    open_clip(qtbot, window, demo / CLIP)
    qtbot.waitUntil(lambda: window.on_desk.numbers.reading is not None, timeout=PATIENCE_MS)
    window.go_to(window.schools)
    qtbot.waitUntil(lambda: not window.schools.shelf.busy, timeout=PATIENCE_MS)
    yield window.schools
    qtbot.waitUntil(lambda: not window.schools.shelf.busy, timeout=PATIENCE_MS)
    for path in (window.schools.shelf.folder / "schools").glob("*.toml"):
        path.unlink()
    read_drills_anew()


def file_of(schools, name="centred_mine"):
    return schools.shelf.folder / "schools" / f"{name}.toml"


def test_a_limit_is_dragged_kept_judged_by_and_taken_back(qtbot, window, schools):
    """A shipped school is copied for it; the swing on the desk is judged by the copy without a restart."""
    schools.measure = "pelvis_shift"
    schools.refresh()
    canvas = schools.canvas
    handle = Handle("top", "lo")
    spot = canvas.place_of(handle).toPoint()
    down = QPoint(spot.x(), round(canvas.y_of(-9.0)))
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=spot)
    # What is told of the swing meanwhile takes nothing out of the hand.
    window.on_desk.numbers.renewed.emit()
    qtbot.mouseMove(canvas, down)
    window.on_desk.numbers.renewed.emit()
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=down)
    qtbot.waitUntil(
        lambda: file_of(schools).exists() and "pelvis_shift" in file_of(schools).read_text(),
        timeout=PATIENCE_MS,
    )
    low = schools.school.find("pelvis_shift", "top").lo
    assert low == pytest.approx(-9.0, abs=0.3)
    assert "Centred, mine" in schools.list.currentItem().text()
    qtbot.waitUntil(lambda: "centred_mine" in in_use().schools, timeout=PATIENCE_MS)
    assert in_use().school("centred_mine").find("pelvis_shift", "top").lo == low
    qtbot.keyClick(canvas, Qt.Key.Key_Up)
    assert schools.school.find("pelvis_shift", "top").lo == round(low * 2 + 1) / 2
    # What the copy sees otherwise than what it stands on is told of the swing on the desk.
    schools.measure = "pelvis_tilt"
    schools._actions.set_limits("top", 25.0, 40.0)
    qtbot.waitUntil(lambda: "Flat turn: " in schools.two.differ.text(), timeout=PATIENCE_MS)
    assert "clear under centred (" in schools.two.differ.text()
    for _ in range(4):
        window.undo()
    qtbot.waitUntil(lambda: not file_of(schools).exists(), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: "centred_mine" not in in_use().schools, timeout=PATIENCE_MS)
    assert schools.school_key == "centred"
    window.redo()
    window.redo()
    qtbot.waitUntil(lambda: "centred_mine" in in_use().schools, timeout=PATIENCE_MS)
    assert schools.shelf.own["centred_mine"].window[0].lo == low


def test_a_limit_is_typed_opened_and_put_back_by_keys(qtbot, window, schools):
    schools.measure = "pelvis_shift"
    schools.refresh()
    canvas = schools.canvas
    canvas.chosen = Handle("top", "hi")
    canvas.setFocus()
    qtbot.keyClick(canvas, Qt.Key.Key_Return)
    chooser = window.findChild(Chooser)
    chooser.close()
    entry = schools._actions.type_limit(Handle("top", "hi"))
    entry.field.setValue(6.25)
    entry.accept()
    qtbot.waitUntil(lambda: not schools.shelf.busy, timeout=PATIENCE_MS)
    assert schools.school.find("pelvis_shift", "top").hi == 6.25
    step = schools._actions.type_margin("top")
    step.field.setValue(3.5)
    step.accept()
    assert schools.school.find("pelvis_shift", "top").margin == 3.5
    assert "3.5 cm past a limit" in schools.where.text()
    schools._actions.set_limits("top", None, 6.25)
    assert schools.school.find("pelvis_shift", "top").lo is None
    assert "at most" in schools.here.text()
    # Nothing would be left: refused, in a sentence, and nothing is changed.
    with qtbot.waitSignal(schools.failed, timeout=PATIENCE_MS):
        schools._actions.set_limits("top", None, None)
    assert schools.school.find("pelvis_shift", "top").hi == 6.25
    canvas.chosen = Handle("top", "hi")
    qtbot.keyClick(canvas, Qt.Key.Key_Delete)
    assert schools.school.find("pelvis_shift", "top") == CENTRED.find("pelvis_shift", "top")
    # From limit to limit with the arrows, columns without a window among them.
    qtbot.keyClick(canvas, Qt.Key.Key_Right)
    assert canvas.chosen == Handle("half_down", "lo")


def test_schools_are_handed_on_whole_brought_in_beside_and_taken_away(qtbot, window, schools, tmp_path):
    schools.measure = "pelvis_shift"
    schools._actions.set_limits("top", -3.0, 4.0)
    path = tmp_path / "for a friend.toml"
    schools._actions.hand_on(path)
    qtbot.waitUntil(path.exists, timeout=PATIENCE_MS)
    handed = from_text(path.read_text(), path.name)
    assert handed.based_on == ""
    assert handed.find("pelvis_shift", "top").lo == -3.0
    assert handed.find("pelvis_shift", "impact") == CENTRED.find("pelvis_shift", "impact")
    schools._actions.bring(path)
    qtbot.waitUntil(lambda: len(schools.shelf.own) == 2, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: not schools.shelf.busy, timeout=PATIENCE_MS)
    assert schools.school_key != "centred_mine"
    assert file_of(schools, schools.school_key).exists()
    schools.handlers()["school_away"]()
    qtbot.waitUntil(lambda: list(schools.shelf.own) == ["centred_mine"], timeout=PATIENCE_MS)
    # One that the swing on the desk goes by stays; one that swings of the Book go by is asked about first.
    schools.choose("centred_mine")
    window.on_desk.set("Judge by another school", school="centred_mine")
    with qtbot.waitSignal(schools.failed, timeout=PATIENCE_MS) as told:
        schools.handlers()["school_away"]()
    assert "judged by it" in told.args[0]
    window.on_desk.set("Judge by another school", school="centred")
    schools._actions._ask_away("centred_mine", 3)
    chooser = next(one for one in window.findChildren(Chooser) if one.isVisible())
    assert "3 swings in the Book" in chooser.accessibleName()
    chooser.pick("Leave it")
    assert list(schools.shelf.own) == ["centred_mine"]
    broken = tmp_path / "broken.toml"
    broken.write_text('key = "x"\ntitle = 3')
    with qtbot.waitSignal(schools.failed, timeout=PATIENCE_MS) as told:
        schools._actions.bring(broken)
    assert "broken.toml" in told.args[0]
    assert list(schools.shelf.own) == ["centred_mine"]


def test_what_another_desk_wrote_meanwhile_is_read_and_not_written_over(qtbot, window, schools):
    schools.measure = "pelvis_shift"
    schools._actions.set_limits("top", -3.0, 4.0)
    qtbot.waitUntil(lambda: not schools.shelf.busy, timeout=PATIENCE_MS)
    path = file_of(schools)
    path.write_text(path.read_text().replace("-3.0", "-4.5"))
    with qtbot.waitSignal(schools.failed, timeout=PATIENCE_MS):
        schools._actions.set_limits("top", -2.0, 4.0)
    qtbot.waitUntil(lambda: schools.school.find("pelvis_shift", "top").lo == -4.5, timeout=PATIENCE_MS)
    assert "-4.5" in path.read_text()


def test_windows_from_good_swings_are_offered_and_taken(qtbot, window, schools):
    schools.measure = "pelvis_shift"
    schools.refresh()
    swings = [GoodSwing(f"Student {k}", "a", Told(v)) for k, v in enumerate(np.linspace(-1, 3, 9))]
    found = [proposed(swings, "pelvis_shift", at) for at in ("top", "impact")]
    chooser = schools._actions.good.offer_proposed("pelvis_shift", found)
    chooser.pick("Take all of them")
    for one in found:
        window_ = schools.school.find("pelvis_shift", one.at)
        assert (window_.lo, window_.hi) == (round(one.interval.lo, 1), round(one.interval.hi, 1))
        assert "9 students" in window_.standing
    # One swing is none to make a window of, however often it is given.
    with qtbot.waitSignal(schools.failed, timeout=PATIENCE_MS) as told:
        schools._actions.good.read_swings([window.on_desk.path] * 9)
    assert "these are 1 of 1" in told.args[0]


def test_limits_of_one_fault_alone_are_shaped_too_and_leave_every_other_as_it_was(schools):
    """What a fault decides by itself is nobody's window; a school may say otherwise of it."""
    base = whole_of(mine(), {})
    own = shaped(mine(), base, "pelvis_shift", "impact", lo=None, hi=1.0, fault="unopened_shift")
    assert from_text(as_text(own), "mine.toml") == own
    whole = whole_of(own, {})
    assert whole.of_fault("pelvis_shift", "impact", Club.IRON, "unopened_shift").hi == 1.0
    assert whole.find("pelvis_shift", "impact") == base.find("pelvis_shift", "impact")
    knowledge, numbers = shipped(), OfSwing(example())
    for key in ("sway", "slide", "low_back_load"):
        assert weigh(knowledge.faults[key], numbers, whole) == weigh(knowledge.faults[key], numbers, base)
    fault = knowledge.faults["unopened_shift"]
    was, now = (
        next(
            w
            for w in weigh(fault, numbers, one).weighed
            if w.check.measure == "pelvis_shift" and w.at == "impact"
        )
        for one in (base, whole)
    )
    assert (was.limits.hi, now.limits.hi) == (10.5, 1.0)
    assert was.usual and not now.usual
    assert restored(own, "pelvis_shift", "impact", fault="unopened_shift") == mine()
    assert restored(own, "pelvis_shift", "impact") == own
    schools.measure, schools.fault = "pelvis_shift", "unopened_shift"
    schools.refresh()
    assert list(schools.canvas.shown.windows) == ["half_down", "delivery", "impact"]
    schools._actions.set_limits("impact", None, 8.0)
    assert schools.shelf.own[schools.school_key].window[0].fault == "unopened_shift"
    assert schools.canvas.shown.own == {"impact"} and schools.canvas.shown.base["impact"].hi == 10.5
    before = schools.shelf.history.now
    schools._actions.set_limits("top", None, 8.0)
    assert schools.shelf.history.now == before
    schools.canvas.chosen = Handle("impact", "hi")
    schools._actions.restore()
    assert not schools.shelf.own[schools.school_key].window


def test_a_kind_of_swing_may_have_windows_of_its_own_and_a_full_swing_keeps_its(schools):
    """Shipped, a half swing is asked a share of a full one's; a school may say itself what it asks."""
    base = whole_of(mine(), {})
    own = shaped(mine(), base, "pelvis_shift", "delivery", lo=1.0, hi=None, kind=Kind.HALF)
    own = shaped(
        own, whole_of(own, {}), "pelvis_shift", "delivery", Club.DRIVER, lo=2.0, hi=None, kind=Kind.HALF
    )
    assert from_text(as_text(own), "mine.toml") == own
    whole = whole_of(own, {})
    asked = {
        kind: laid(whole, "pelvis_shift", "delivery", Club.IRON, kind).lo
        for kind in (Kind.FULL, Kind.PUNCH, Kind.HALF)
    }
    full = base.find("pelvis_shift", "delivery").lo
    assert asked == {Kind.FULL: full, Kind.PUNCH: pytest.approx(0.82 * full), Kind.HALF: 1.0}
    assert laid(whole, "pelvis_shift", "delivery", Club.DRIVER, Kind.HALF).lo == 2.0
    half = replace(example(), setup=replace(example().setup, kind=Kind.HALF))
    no_shift = shipped().faults["no_shift"]
    limits = [
        next(w.limits.lo for w in weigh(no_shift, OfSwing(study), whole).weighed if w.at == "delivery")
        for study in (half, example())
    ]
    assert limits == [1.0, full]
    above = shaped(mine("Above"), whole, "pelvis_shift", "delivery", lo=5.0, hi=None)
    above = laid_over(replace_(above, based_on="x"), whole)
    assert above.find("pelvis_shift", "delivery").lo == 5.0
    assert laid(above, "pelvis_shift", "delivery", Club.IRON, Kind.HALF).lo == 1.0
    assert restored(own, "pelvis_shift", "delivery", kind=Kind.HALF).window == ()
    assert restored(own, "pelvis_shift", "delivery") == own
    schools.measure, schools.kind = "pelvis_shift", Kind.HALF
    schools.refresh()
    assert "top" not in schools.canvas.shown.windows
    assert schools.canvas.shown.windows["delivery"].lo == pytest.approx(0.6 * full)
    schools._actions.set_limits("delivery", 1.5, None)
    assert schools.shelf.own[schools.school_key].window[0].kind == (Kind.HALF,)
    assert schools.canvas.shown.own == {"delivery"}
    schools._actions.choose_kind().choices[0].act()
    assert schools.kind is None and schools.canvas.shown.windows["delivery"].lo == full
    assert not schools.canvas.shown.own


SPOT = st.tuples(
    st.sampled_from(["pelvis_shift", "pelvis_turn"]),
    st.sampled_from(["top", "delivery"]),
    st.sampled_from([None, Club.IRON, Club.DRIVER]),
    st.sampled_from([None, Kind.HALF, Kind.PUNCH]),
    st.sampled_from(["", "unopened_shift"]),
    st.integers(-60, 60),
)
EVERY = [
    (measure, at, club, kind, fault)
    for measure in ("pelvis_shift", "pelvis_turn")
    for at in ("top", "delivery")
    for club in (Club.IRON, Club.DRIVER, Club.WEDGE)
    for kind in (Kind.FULL, Kind.HALF, Kind.PUNCH, Kind.THREE_QUARTER)
    for fault in ("", "unopened_shift")
]


@settings(max_examples=60)
@given(st.lists(SPOT, min_size=1, max_size=5))
def test_a_window_that_is_shaped_holds_where_it_was_shaped_and_nowhere_else(spots):
    """By club, kind and fault, whatever was shaped before; and what was shaped can be put back."""
    own = mine()

    def decided():
        whole = whole_of(own, {})
        return {
            (measure, at, club, kind, fault): whole.of_fault(measure, at, club, fault, kind)
            if fault
            else whole.find(measure, at, club, kind=kind)
            for measure, at, club, kind, fault in EVERY
        }

    for measure, at, club, kind, fault, lo in spots:
        before = own
        was = decided()
        own = shaped(
            own,
            whole_of(own, {}),
            measure,
            at,
            club,
            lo=float(lo),
            hi=None,
            margin=2.0,
            fault=fault,
            kind=kind,
        )
        assert from_text(as_text(own), "mine.toml") == own
        for spot, now in decided().items():
            of = (spot[0], spot[1], spot[4])
            meant = of == (measure, at, fault) and spot[2] in ((club,) if club else spot[2:3])
            same_kind = spot[3] is kind if kind else spot[3] is Kind.FULL
            if meant and same_kind:
                assert (now.lo, now.hi) == (float(lo), None)
            elif not meant or kind or (was[spot] is not None and was[spot].kind):
                assert now == was[spot] or (now.lo, now.hi, now.club) == (
                    was[spot].lo,
                    was[spot].hi,
                    was[spot].club,
                )
        back = restored(own, measure, at, club, fault, kind)
        assert as_text(restored(back, measure, at, club, fault, kind)) == as_text(back)
        if not any(one.measure == measure for one in before.window):
            assert back == before
