"""A whole visit to the ball as a phone films it: which part of it is the swing."""

from __future__ import annotations

import json
import os
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import Qt

from kneel.cli.main import main
from kneel.documents.swing_file import load_swing
from kneel.evidence import swings
from kneel.evidence.swings import spans_of
from kneel.model import Hand, View
from kneel.sim.build import CHILD, MAN
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, film
from kneel.sim.golfer import Golfer
from kneel.sim.routine import Routine
from kneel.sim.swing import SwingPlan
from kneel.sim.truth import find_truth
from kneel.vision import installed
from kneel.vision.landmarks.people import Glimpse, Person
from kneel.vision.landmarks.region import Region
from kneel.vision.landmarks.swinging import GLANCE_S, PACES, Swung, doubtful, swings_of
from tests.desk import PATIENCE_MS, press, saved
from tests.test_desk_safety import full_disk

pytestmark = pytest.mark.qt_log_ignore("propagateSizeHints")
needs_model = pytest.mark.skipif(not installed(), reason="without the body model")

AT = {"shoulder": 11, "wrist": 15, "hip": 23, "knee": 25, "ankle": 27}

VISITS = {
    "a walk in, a rehearsal, a walk off": Routine(150, 0.85, looks=1, leaves=True),
    "a rehearsal as quick as the swing": Routine(0, 1.0, 1.0, settles_s=0.3),
    "half a rehearsal": Routine(200, 0.4, looks=2),
    "nothing but walking": Routine(300, leaves=True),
}


def glimpsed(shoot: Shoot, clock: np.ndarray, noise_px: float, pace: float = 1.0) -> Person:
    """Somebody as the body model glances at them, and closer where it is in doubt, in a film that runs
    slower than life.
    """
    start = shoot.times_s[0]
    lots = np.random.default_rng(shoot.seed)

    def seen(frames: np.ndarray) -> tuple[Glimpse, ...]:
        truth = find_truth(shoot.motion, shoot.camera, start + clock[frames] / pace)
        xy = lots.normal(0, noise_px, (len(frames), 39, 2))
        for name, first in AT.items():
            for k, side in enumerate(("left", "right")):
                xy[:, first + k] += truth.pixels[f"{side}_{name}"]
        region, colours = Region(0, 0, 500, 0), np.zeros((2, 3))
        return tuple(
            Glimpse(int(f), region, at[27], True, colours, at) for f, at in zip(frames, xy, strict=True)
        )

    person = Person(seen(np.searchsorted(clock, np.arange(0, clock[-1], GLANCE_S))))
    closer = doubtful(person, clock, pace)
    assert len(closer) < 100, "only about the ball is it looked at closely"
    more = seen(closer) if closer.size else ()
    return Person(tuple(sorted((*person.glimpses, *more), key=lambda g: g.frame)))


@pytest.mark.parametrize("view", list(View))
@pytest.mark.parametrize("visit", VISITS)
def test_swings_are_told_from_all_else_somebody_does(visit, view):
    """Every swing to a glance, a whole rehearsal with it, and nothing else, whoever it is."""
    for seed, (golfer, tempo) in enumerate(
        (
            (Golfer(), 1.0),
            (Golfer(128.0, Hand.LEFT, girth=1.2, build=CHILD), 0.8),
            (Golfer(197.0, build=MAN), 1.4),
        )
    ):
        plan = SwingPlan(tempo=tempo, waggle=bool(seed), still_before_s=1.0, routine=VISITS[visit])
        shoot = Shoot(golfer, plan, Camera(view, golfer.hand, yaw_deg=4.0 * seed), seed=seed)
        clock = np.arange(0, plan.length_s, 1 / 60)
        found = swings_of(glimpsed(shoot, clock, noise_px=4.0), clock)
        at = shoot.motion.checkpoints_s
        expected = [at["impact"]]
        if plan.routine.rehearsal > 0.5:
            acts = {act.name: act for act in plan.routine.acts(plan.knots_s[-1] - plan.knots_s[0])}
            since = at["impact"] - plan.knots_s[0]
            expected.insert(0, acts["rehearsal"].start_s + plan.routine.rehearsal_times * since)
        assert len(found) == len(expected), (seed, found)
        for one, time in zip(found, expected, strict=True):
            assert abs(one.struck_s - time) < 0.1
        assert abs(found[-1].away_s - at["takeaway"]) < 0.35


@pytest.mark.parametrize("pace", [1.0, 3.0, 8.0])
def test_a_film_that_runs_slower_than_life_is_told_by_how_slowly_it_swings(pace):
    plan = SwingPlan(routine=VISITS["half a rehearsal"])
    shoot = Shoot(plan=plan)
    clock = np.arange(0, pace * plan.length_s, 1 / 60)
    person = glimpsed(shoot, clock, 2.0, pace)
    first = next(found for one in PACES if (found := swings_of(person, clock, one)))
    at = shoot.motion.checkpoints_s
    assert [round(one.struck_s / pace - at["impact"], 1) for one in first] == [0.0]
    (span,) = spans_of(first, clock)
    assert clock[span.first] < pace * at["address"] < pace * at["follow"] < clock[span.last]


@given(
    st.lists(st.tuples(st.floats(0.3, 8), st.floats(0.4, 2.5)), min_size=1, max_size=6), st.floats(20, 240)
)
def test_no_frame_is_of_two_swings_and_each_has_its_own(waits, rate):
    clock, now, found = 0.0, 0.0, []
    for wait, lasts in waits:
        found.append(Swung(now + wait, now + wait + lasts))
        now += wait + lasts
    clock = np.arange(0, now + 0.5, 1 / rate)
    spans = spans_of(found, clock)
    for one, span in zip(found, spans, strict=True):
        assert 0 <= span.first < span.last < len(clock)
        assert clock[span.first] <= one.away_s + 1 / rate
        assert clock[span.last] >= one.struck_s - 1 / rate
    assert all(a.last < b.first for a, b in pairwise(spans))


@pytest.fixture(scope="module")
def visit(kept, tmp_path_factory):
    """The clip of a whole visit, and when its swing is."""
    plan = SwingPlan({"sway": 8.0}, routine=Routine(rehearsal=0.85, rehearsal_times=1.0, leaves=True))
    shoot = Shoot(plan=plan, camera=Camera(width=640, height=360), rate=24.0)
    clip = kept / "visit.mp4"
    if not clip.exists():
        made = kept / f"visit-{os.getpid()}.mp4"
        film(shoot, made)
        made.replace(clip)
    return clip, shoot.motion.checkpoints_s


@needs_model
def test_the_command_line_reads_the_swing_of_a_long_clip(visit, tmp_path, capsys, monkeypatch):
    """The rehearsal, that struck nothing, is not taken for it; what was found is not looked for again."""
    clip, at = visit
    told = tmp_path / "probe.json"
    assert main(["probe", str(clip), "--json", str(told)]) == 0
    (swing,) = json.loads(told.read_text())["swings"]
    assert swing["first"] / 24 < at["address"] < at["finish"] < swing["last"] / 24
    assert swing["last"] - swing["first"] < 24 * 4.5
    monkeypatch.setattr(swings, "seen_swings", None)
    out = tmp_path / "a.json"
    assert main(["analyze", str(clip), "--view", "face-on", "--stature", "176", "--json", str(out)]) == 0
    result = json.loads(out.read_text())
    assert any("one swing" in note for note in result["warnings"])
    assert result["checkpoints"]["top"]["time_s"] == pytest.approx(at["top"], abs=0.06)
    capsys.readouterr()


@needs_model
def test_the_desk_looks_at_the_swing_of_a_long_clip_and_gives_the_whole_back(
    qtbot, window, visit, tmp_path, monkeypatch
):
    """It is looked at alone; an undo takes the whole clip, and leaves it so when it is opened again."""
    monkeypatch.setattr("kneel.desk.swing.intake.installed", lambda: True)
    clip, at = visit
    own = tmp_path / "visit.mp4"
    own.symlink_to(clip)
    window.open_path(own)
    session = window.on_desk
    qtbot.waitUntil(lambda: session.swing.span is not None, timeout=PATIENCE_MS)
    first, last = session.swing.span
    assert first / 24 < at["address"] < at["finish"] < last / 24 and session.frames == last - first + 1
    qtbot.waitUntil(lambda: "one swing" in window.status_bar.text(), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: "top" in session.analysis.checkpoints, timeout=PATIENCE_MS)
    top = session.analysis.checkpoints["top"].time_s
    assert top == pytest.approx(at["top"], abs=0.06)

    press(qtbot, window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    whole = 24 * 9
    qtbot.waitUntil(lambda: session.frames > whole, timeout=PATIENCE_MS)
    saved(qtbot, session)
    before = session.store
    window.open_path(session.path)
    qtbot.waitUntil(lambda: session.store not in (None, before), timeout=PATIENCE_MS)
    assert window.opener._splitting is None
    assert session.swing.span == (0, session.frames - 1) and session.frames > whole
    session.gathering.stop()


@needs_model
def test_what_somebody_has_worked_on_stays_whole(qtbot, window, visit, tmp_path):
    clip, _ = visit
    own = tmp_path / "visit.mp4"
    own.symlink_to(clip)
    window.open_path(own)
    session = window.on_desk
    qtbot.waitUntil(lambda: session.store is not None, timeout=PATIENCE_MS)
    session.document.place("head", 3, 30.0, 20.0)
    saved(qtbot, session)
    qtbot.waitUntil(lambda: not session.gathering._held, timeout=PATIENCE_MS)
    assert load_swing(session.path).span is None and session.frames > 24 * 9
    session.gathering.stop()


@needs_model
def test_a_part_that_cannot_be_saved_leaves_the_whole_to_be_looked_at(
    qtbot, window, visit, tmp_path, monkeypatch
):
    monkeypatch.setattr("kneel.desk.swing.intake.installed", lambda: True)
    clip, _ = visit
    folder = tmp_path / "full"
    folder.mkdir()
    (folder / "visit.mp4").symlink_to(clip)
    session = window.on_desk
    with full_disk(folder):
        window.open_path(folder / "visit.mp4")
        qtbot.waitUntil(lambda: "saved" in window.status_bar.text(), timeout=PATIENCE_MS)
        qtbot.waitUntil(lambda: not session.gathering._held, timeout=PATIENCE_MS)
        assert session.swing.span is None and session.frames > 24 * 9
        session.gathering.stop()
    saved(qtbot, session)
