"""Which parts of a visit to the ball are swings, by where hands and feet are."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kneel.evidence.swings import spans_of
from kneel.model import Hand, View
from kneel.sim.build import CHILD, MAN
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.legs import SIDES
from kneel.sim.routine import Routine
from kneel.sim.swing import SwingPlan
from kneel.vision.landmarks import swinging
from kneel.vision.landmarks.people import Glimpse, Person
from kneel.vision.landmarks.region import Region
from kneel.vision.landmarks.swinging import GLANCE_S, PACES, Swung, doubtful, swings_of

AT = {"shoulder": 11, "wrist": 15, "hip": 23, "knee": 25, "ankle": 27}

VISITS = {
    "a walk in, a rehearsal, a walk off": Routine(150, 0.85, looks=1, leaves=True),
    "a rehearsal as quick as the swing": Routine(0, 1.0, 1.0, settles_s=0.3),
    "half a rehearsal": Routine(200, 0.4, looks=2),
    "nothing but walking": Routine(300, leaves=True),
}


def seen_at(shoot: Shoot, moments: np.ndarray, noise_px: float = 2.0) -> np.ndarray:
    """The landmarks of somebody at some moments (N, 39, 2) px, with errors as if drawn badly by hand."""
    xy = np.random.default_rng(shoot.seed).normal(0, noise_px, (len(moments), 39, 2))
    joints = shoot.motion.pose(moments).joints
    for name, first in AT.items():
        for k, side in enumerate(SIDES):
            xy[:, first + k] += shoot.camera.project_over(joints[f"{side}_{name}"], moments)
    return xy


def glimpses(frames: np.ndarray, xy: np.ndarray, side_px: float = 500.0) -> tuple[Glimpse, ...]:
    region, colours = Region(0, 0, side_px, 0), np.zeros((2, 3))
    return tuple(Glimpse(int(f), region, at[27], True, colours, at) for f, at in zip(frames, xy, strict=True))


def glimpsed(shoot: Shoot, clock: np.ndarray, noise_px: float, pace: float = 1.0) -> Person:
    """Somebody as the body model glances at them, and closer where it is in doubt, in a film that runs
    slower than life.
    """

    def seen(frames: np.ndarray) -> tuple[Glimpse, ...]:
        return glimpses(frames, seen_at(shoot, clock[frames] / pace, noise_px)) if frames.size else ()

    person = Person(seen(np.searchsorted(clock, np.arange(0, clock[-1], GLANCE_S))))
    closer = doubtful(person, clock, pace)
    assert len(closer) < 100, "only about the ball is it looked at closely"
    return Person(tuple(sorted((*person.glimpses, *seen(closer)), key=lambda g: g.frame)))


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


def test_hands_that_come_down_and_go_up_on_feet_that_walk_are_no_swing():
    """The same hands on feet that stand are one; which foot is which may be mistaken for a glimpse."""
    times = np.arange(0, 4, 0.05)
    xy = np.zeros((len(times), 39, 2))
    xy[:, 11:13, 1], xy[:, 23:25, 1], xy[:, 27:29, 1] = 100, 200, 380
    high = ((times > 1.2) & (times < 1.6)) | (times > 1.9)
    xy[:, 15:17, 1] = np.where(high, 90, 210)[:, None]
    xy[:, 27, 0], xy[:, 28, 0] = 40, 80
    clock = np.arange(0, 4, 0.05)
    stands = xy.copy()
    stands[35, 27:29, 0] = 80, 40
    stands[times > 1.75, 28, 0] = 170
    found = swings_of(Person(glimpses(np.arange(len(times)), stands)), clock)
    assert [(round(one.away_s, 2), round(one.struck_s, 2)) for one in found] == [(1.15, 1.6)]
    xy[:, 27:29, 0] += 200 * times[:, None]
    assert swings_of(Person(glimpses(np.arange(len(times)), xy)), clock) == []


def test_whoever_comes_is_looked_for_seldom_and_followed_until_lost(monkeypatch):
    """The whole picture is gone through when somebody was lost, every fifth time while somebody is there."""
    here = range(20, 60)
    asked: list[int] = []

    def glance(networks, picture, frame, near):
        asked.append(frame)
        return list(glimpses([frame], np.zeros((1, 39, 2)))) if frame in here else []

    monkeypatch.setattr(swinging, "glance", glance)
    monkeypatch.setattr(
        swinging,
        "glimpse_in",
        lambda networks, picture, frame, region: (*glimpses([frame], np.zeros((1, 39, 2))), None)[
            frame not in here or frame == 40
        ],
    )
    stopped = iter([False] * 90 + [True] * 20)
    told: list[int] = []
    out = swinging._glances(None, lambda frame: None, range(100), told.append, lambda: next(stopped))
    assert told[-1] == len(out) == 90
    assert [k for k, seen in enumerate(out) if seen] == [*range(32, 60)], (
        "found at its second look, once lost"
    )
    assert all(len(seen) < 2 for seen in out)
    assert asked == [0, 16, 32, 37, 40, 45, 50, 55, 60, 65, 70, 75, 80, 85]


@pytest.mark.parametrize(("beside", "neighbour"), [(900, 200.0), (900, 650.0), (-100, 200.0)])
def test_of_several_who_swing_the_one_the_camera_points_at_is_meant(monkeypatch, beside, neighbour):
    """A neighbour swings as well, and earlier, at the side though larger, or in the middle, but far off; each
    is looked at again closely, and nobody else.
    """
    near, far = (Shoot(plan=SwingPlan(still_before_s=still), seed=n) for n, still in enumerate((3.0, 1.0)))
    clock = np.arange(0, 5, 1 / 60)
    sides = {500.0: near, neighbour: far}

    def one(frame: int, side: float) -> Glimpse:
        xy = seen_at(sides[side], clock[[frame]])
        xy += [0 if side == 500.0 else beside, 0]
        (seen,) = glimpses([frame], xy, side)
        return replace(seen, region=Region(float(xy[0, 23, 0]), 0, side, 0))

    def glances(networks, picture, frames, tell, stopped):
        tell(len(frames))
        return [[one(frame, side) for side in sides] for frame in frames]

    for name, put in (
        ("Networks", object),
        ("_glances", glances),
        ("glimpse_in", lambda networks, picture, frame, region: one(frame, region.side)),
    ):
        monkeypatch.setattr(swinging, name, put)
    told = []
    in_the_middle = 640 + min(beside, 0)
    asked = (lambda: lambda frame: None, clock, 2 * in_the_middle)
    found = swinging.seen_swings(*asked, progress=lambda *now: told.append(now))
    assert [one.struck_s for one in found] == pytest.approx([near.motion.checkpoints_s["impact"]], abs=0.05)
    assert told[-1][0] == told[-1][1] > 30
    monkeypatch.setattr(swinging, "_glances", lambda *_: [])
    assert swinging.seen_swings(*asked) is None


def test_a_closer_look_adds_what_is_seen_and_leaves_out_what_is_not(monkeypatch):
    def seen(networks, picture, frame, region):
        return None if frame == 12 else glimpses([frame], np.zeros((1, 39, 2)))[0]

    monkeypatch.setattr(swinging, "Networks", object)
    monkeypatch.setattr(swinging, "glimpse_in", seen)
    person = Person(glimpses(np.array([10, 20]), np.zeros((2, 39, 2))))
    stops = iter([False, False, False, True])
    closer = swinging._closer(
        person, np.array([11, 12, 13, 14]), lambda: lambda frame: None, lambda: next(stops)
    )
    assert [one.frame for one in closer.glimpses] == [10, 11, 13, 20]


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
