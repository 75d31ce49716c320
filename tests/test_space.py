"""Two cameras of one swing: one clock, one body in space, held against truth and a general solver."""

from __future__ import annotations

import json
from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from scipy.optimize import least_squares

from kneel.cli.main import main
from kneel.compare.views import judge_views
from kneel.evidence.kept import kept_swing
from kneel.judge import Verdict, known
from kneel.model import Hand, Mark, Stature, Swing, UsageError, View, anatomical
from kneel.motion.analysis import analyse
from kneel.motion.checkpoints import Moment
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.motion.space import bundle, find
from kneel.motion.space.advice import next_mark_by_two
from kneel.motion.space.body import Seen
from kneel.motion.space.clock import Clock, find_clock
from kneel.motion.space.linked import link, told_by_two
from kneel.motion.space.quantities import QUANTITIES
from kneel.practice.judging import judge_swing
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import SwingPlan
from tests.conftest import rows_seen
from tests.filed import DAYS, DEMO
from tests.test_cli import points_file

LATER_S = 0.31
MOMENTS = ("half_back", "top", "half_down", "impact", "follow", "finish")
BODY = tuple(
    f"{side}_{joint}" for side in ("lead", "trail") for joint in ("hip", "knee", "ankle", "shoulder")
)


def shoots(seed, *, rates=(120.0, 60.0), faults=None, tempo=None):
    """One swing of some body by two cameras that somebody set up, the second started later."""
    rng = np.random.default_rng([31, seed])
    hand = Hand.LEFT if seed % 3 == 0 else Hand.RIGHT
    golfer = Golfer(rng.uniform(155, 195), hand)
    tempo = rng.uniform(0.85, 1.25) if tempo is None else tempo
    plan = SwingPlan({"sway": rng.uniform(0, 6)} if faults is None else faults, tempo=tempo, seed=seed)
    made = []
    for k, view in enumerate((View.REAR if seed % 4 == 0 else View.FACE_ON, View.DOWN_THE_LINE)):
        camera = Camera(
            view,
            hand,
            distance_cm=rng.normal(430, 60),
            camera_height_cm=rng.normal(105, 18),
            yaw_deg=rng.normal(0, 3),
            roll_deg=rng.normal(0, 0.6),
        )
        made.append(Shoot(golfer, plan, camera, rates[k], start_s=LATER_S * k))
    return made


def filmed(shoot, noise, seed):
    """The points of a clip by its own clock, which begins with it."""
    rows = rows_seen(shoot, noise, seed)
    return replace(rows, times_s=rows.times_s - rows.times_s[0])


def told(shoot, *, noise=1.5, seed=0):
    """A clip analysed from its points."""
    rows, scale = filmed(shoot, noise, seed), Stature(shoot.golfer.stature_cm)
    setup = Setup(shoot.camera.view, scale=scale, hand=shoot.golfer.hand)
    return analyse(rows.times_s, from_rows(rows), setup)


@cache
def both(seed, rates=(120.0, 60.0), noise=1.5):
    """The two studies, and the truth."""
    first, second = shoots(seed, rates=rates)
    return told(first, noise=noise, seed=seed), told(second, noise=noise, seed=seed + 99), first.truth()


def hips_found(seed):
    """The second study of two with hips that nobody marked."""
    shoot, guessed = shoots(seed)[1], frozenset({"left_hip", "right_hip"})
    rows, scale = filmed(shoot, 1.5, seed + 99), Stature(shoot.golfer.stature_cm)
    setup = Setup(shoot.camera.view, scale=scale, hand=shoot.golfer.hand, guessed=guessed)
    return analyse(rows.times_s, from_rows(rows), setup)


def joints(truth, hand, name):
    """True joints at a checkpoint: x to the target, y up, z to the ball."""
    at, found = truth.checkpoints_s[name], {}
    for point in BODY:
        x, z, y = (np.interp(at, truth.times_s, axis) for axis in truth.space[anatomical(point, hand)].T)
        found[point] = np.array([x, y, z])
    return found


def off(linked, truth, hand, keys):
    """How far off the numbers are, with their errors, (N, 2)."""
    then, found = joints(truth, hand, "address"), []
    for key in keys:
        for name in MOMENTS:
            one = linked.numbers.get((key, name))
            if one is not None:
                true = QUANTITIES[key].compute(joints(truth, hand, name), then)
                error = one.value - true
                found.append(((error + 180) % 360 - 180 if one.unit == "deg" else error, one.sigma))
    return np.array(found)


@pytest.mark.parametrize("rates", [(60.0, 60.0), (120.0, 60.0), (30.0, 60.0)])
def test_the_clock_is_right_to_a_few_milliseconds_and_says_how_well(rates):
    """Clips a third of a second apart; both hands, face-on and from behind, cameras set up by eye."""
    found = []
    for seed in (1, 2, 3, 4):
        clock = find_clock(*both(seed, rates)[:2])
        assert isinstance(clock, Clock) and clock.left_cm < 3
        found.append((clock.offset_s + LATER_S, clock.sigma_s))
    errors, sigmas = np.array(found).T
    assert np.sqrt(np.mean(errors**2)) < 0.002
    assert 0.2 < np.sqrt(np.mean((errors / sigmas) ** 2)) < 1.3


def test_a_body_in_space_is_told_with_its_error():
    """Turns, shift, thrust and lift of bodies nobody drew, six moments each."""
    limits = {"pelvis_turn_3d": 4.5, "chest_turn_3d": 4.5, "pelvis_shift_3d": 0.8, "pelvis_thrust_3d": 0.8}
    limits |= {"pelvis_lift_3d": 0.6, "side_tilt_3d": 2.5, "lead_knee_flex_3d": 4.0, "knees_cross_3d": 2.0}
    linked = {seed: link(*both(seed)[:2]) for seed in (1, 2, 3, 4)}
    for key, limit in limits.items():
        every = [off(one, both(s)[2], both(s)[0].setup.hand, [key]) for s, one in linked.items()]
        errors, sigmas = np.concatenate(every).T
        assert len(errors) > 18 and np.sqrt(np.mean(errors**2)) < limit, key
        assert np.sqrt(np.mean((errors / sigmas) ** 2)) < 1.25, key
    for one in linked.values():
        for side in ("lead", "trail"):
            legs = [
                np.linalg.norm(one.body.at(f"{side}_hip", m) - one.body.at(f"{side}_knee", m))
                for m in one.body.moments
            ]
            assert np.ptp(legs) < 2.5, "a thigh keeps its length"


def test_the_bundle_finds_what_a_general_solver_finds(monkeypatch):
    """SciPy's trust-region least squares on the same residuals (M. A. Branch et al. 1999), and its errors."""
    first, second = both(1)[0], hips_found(1)
    seen = []
    real = bundle.solve

    def spied(cameras, points, moments, stature, late, *_):
        few = [0, *(k for k, name in enumerate(moments) if name in ("top", "impact"))]
        cut = tuple(
            replace(
                one,
                places=one.places[:, few],
                spread=one.spread[:, few][:, :, few],
                pace=one.pace[:, few],
                apart=tuple((lead, trail, far[few]) for lead, trail, far in one.apart),
            )
            for one in cameras
        )
        seen.append((cut, points, tuple(moments[k] for k in few), stature, late))
        return real(*seen[0])

    monkeypatch.setattr(find, "solve", spied)
    ours = find.find_body(first, second, find_clock(first, second), 175.0)
    problem = bundle._Problem(*seen[0])
    assert [len(one.apart) for one in problem.seen] == [0, 1]
    theirs = least_squares(problem.residuals, problem.start(), method="trf", x_scale="jac")
    xyz = problem.split(theirs.x)[4]
    np.testing.assert_allclose(ours.xyz, xyz, atol=0.05)
    spread = np.linalg.inv(theirs.jac.T @ theirs.jac)[problem.ends[3] :, problem.ends[3] :]
    np.testing.assert_allclose(np.sqrt(np.diag(ours.covariance)), np.sqrt(np.diag(spread)), rtol=0.05)


def test_another_swing_another_person_and_the_same_view_are_refused():
    """By the clock, the hand, the view, with the reason."""
    face, line, _ = both(1)
    with pytest.raises(UsageError, match="are face-on and face-on"):
        link(face, face)
    quick, slow = (shoots(1, faults={}, tempo=tempo) for tempo in (0.8, 1.25))
    with pytest.raises(UsageError, match="two swings"):
        link(told(quick[0]), told(slow[1], seed=3))
    with pytest.raises(UsageError, match="two people"):
        link(both(2)[0], both(3)[1])
    rows, setup = filmed(shoots(1)[0], 1.5, 7), replace(face.setup, view=View.DOWN_THE_LINE)
    with pytest.raises(UsageError, match="one body from two sides"):
        link(face, analyse(rows.times_s, from_rows(rows), setup))
    back = link(line, face)
    assert back.clock.offset_s == pytest.approx(-link(face, line).clock.offset_s)


def test_one_moment_found_wrongly_takes_no_swing_apart():
    """Two of them do: then they show two swings."""
    first, second, _ = both(1)

    def with_late(*names):
        late = {n: replace(first.checkpoints[n], time_s=first.checkpoints[n].time_s + 0.3) for n in names}
        return replace(first, checkpoints={**first.checkpoints, **late})

    offset = link(first, second).clock.offset_s
    assert link(with_late("follow"), second).clock.offset_s == pytest.approx(offset, abs=0.002)
    with pytest.raises(UsageError, match="two swings"):
        link(with_late("follow", "impact"), second)


def test_hips_that_hide_each_other_are_apart_wrongly_and_their_middle_is_as_sure_as_ever():
    """By h each and the other way, as two independent errors of h would have their distance: √2 h."""
    here = both(2)[0]
    seen, found = (link(here, there, agreed=True) for there in (both(2)[1], hips_found(2)))
    for name in ("half_down", "impact"):
        thrust, turn, thrust_found, turn_found = (
            one.numbers[key, name].sigma
            for one in (seen, found)
            for key in ("pelvis_thrust_3d", "pelvis_turn_3d")
        )
        assert thrust_found < 1.2 * thrust and turn_found > 1.5 * turn
    far = np.array([3.0, 4.0])
    one = Seen(
        View.DOWN_THE_LINE, np.zeros((2, 2, 2)), np.zeros((2, 2, 2)), np.zeros((2, 2, 2)), 0, 1, 1, 1, 1
    )
    whole = replace(one, apart=((0, 1, far),)).covariance()
    middle, apart = np.kron([[0.5, 0.5]], np.eye(2)), np.kron([[1.0, -1.0]], np.eye(2))
    np.testing.assert_allclose(middle @ whole @ middle.T, 0, atol=1e-12)
    np.testing.assert_allclose(apart @ whole @ apart.T, np.diag(2 * far**2))


def test_a_pair_whose_left_and_right_are_confused_says_nothing(monkeypatch):
    """Hips of a line clip that nobody marked, mistaken for each other before the top."""
    shoot_here, shoot_there = shoots(2, faults={}, tempo=1.0)
    first, clip = told(shoot_here, noise=2.0, seed=5), filmed(shoot_there, 2.0, 6)
    truth = shoot_there.truth()
    late = clip.times_s > truth.checkpoints_s["half_back"] - LATER_S + 0.1
    xy = dict(clip.xy)
    for one, other in (("left_hip", "right_hip"), ("right_hip", "left_hip")):
        xy[one] = np.where(late[:, None], clip.xy[other], clip.xy[one])
    rows = replace(clip, xy=xy)
    setup = Setup(
        View.DOWN_THE_LINE,
        scale=Stature(shoot_there.golfer.stature_cm),
        hand=shoot_there.golfer.hand,
        guessed=frozenset({"left_hip", "right_hip"}),
    )
    second = analyse(rows.times_s, from_rows(rows), setup)
    then = joints(shoot_here.truth(), shoot_here.golfer.hand, "address")
    now = joints(shoot_here.truth(), shoot_here.golfer.hand, "top")
    true = QUANTITIES["pelvis_turn_3d"].compute(now, then)
    said = told_by_two(first, link(first, second, agreed=True)).at("pelvis_turn", "top")
    assert abs(said.value - true) < 2 * said.sigma
    monkeypatch.setattr(find, "LEAST_KEPT", -10.0)
    taken = link(first, second, agreed=True).numbers["pelvis_turn_3d", "top"]
    assert abs(taken.value - true) > 30, "believed, it would be far off"


def test_a_wrong_guess_of_slow_motion_is_told_by_the_hands():
    """A line clip that is taken for real time though it runs four times slower."""
    face, shoot = both(1)[0], shoots(1)[1]
    rows = filmed(shoot, 1.5, 7)
    slow = replace(rows, times_s=4 * rows.times_s)
    setup = Setup(View.DOWN_THE_LINE, scale=Stature(shoot.golfer.stature_cm), hand=shoot.golfer.hand)
    with pytest.raises(UsageError, match="taken 4 times as fast"):
        link(face, analyse(slow.times_s, from_rows(slow), setup))


def test_a_strike_that_both_heard_sharpens_the_clock_unless_it_is_another():
    """Put together by their errors; one that lies far off the hands' own clock counts for nothing."""
    pair = both(2)[:2]
    plain, at = link(*pair).clock, 1.7
    heard = {}
    for late in (0.004, 0.2):
        whens = at, at + plain.offset_s + late
        setups = (replace(s.setup, strikes=(Moment(t, 0.002),)) for s, t in zip(pair, whens, strict=True))
        heard[late] = link(*(replace(s, setup=u) for s, u in zip(pair, setups, strict=True))).clock
    assert heard[0.004].sigma_s < plain.sigma_s and 0 < heard[0.004].offset_s - plain.offset_s < 0.004
    assert heard[0.2] == plain


def test_a_turn_that_one_view_guesses_becomes_a_firm_fault_by_two():
    """A pelvis that turns too little: two cameras say so, and a clean one is not accused."""
    school = known().school("centred")
    for faults, wanted in (({"short_turn": 30.0}, Verdict.FAULT), ({}, None)):
        first, second = shoots(2, faults=faults, tempo=1.0)
        study, other = told(first, seed=5), told(second, seed=6)
        linked = link(study, other)
        one, two = (judge_swing(s, school) for s in (study, told_by_two(study, linked)))
        sigma = {r: r.of("short_turn").sigma for r in (one, two)} if wanted else {}
        if wanted is not None:
            assert two.of("short_turn").verdict is wanted and sigma[two] < sigma[one]
        else:
            turned = [
                f.key for f in two.findings if f.verdict is Verdict.FAULT and "turn" in (f.measure or "")
            ]
            assert turned == []


def test_both_clips_go_by_one_set_of_checkpoints():
    """What somebody pinned in either clip counts in both; else the camera across the line says when."""
    first, second, _ = both(1)
    linked = link(first, second)
    late, sigma = linked.clock.offset_s, linked.clock.sigma_s
    one, two = (told_by_two(study, linked) for study in (first, second))
    assert {name: c.time_s for name, c in one.checkpoints.items()} == {
        name: c.time_s for name, c in first.checkpoints.items()
    }
    for name, point in two.checkpoints.items():
        assert point.time_s == pytest.approx(one.checkpoints[name].time_s + late)
        assert point.sigma_s == pytest.approx(np.hypot(one.checkpoints[name].sigma_s, sigma))
    top = second.checkpoints["top"]
    pinned = replace(top, frame=top.frame + 2, time_s=top.time_s + 2 / 60, source="marked", sigma_s=0.005)
    by_hand = link(first, replace(second, checkpoints={**second.checkpoints, "top": pinned}))
    assert by_hand.across_at["top"].time_s == pytest.approx(pinned.time_s - late, abs=1e-6)
    assert by_hand.across_at["top"].source == "marked"
    without = {name: c for name, c in first.checkpoints.items() if name != "half_back"}
    told_there = link(replace(first, checkpoints=without), second).across_at["half_back"]
    assert told_there.time_s == pytest.approx(second.checkpoints["half_back"].time_s - late, abs=1e-6)
    turned = link(second, first)
    assert [round(c.time_s, 6) for c in turned.across_at.values()] == [
        round(c.time_s, 6) for c in linked.across_at.values()
    ]


def test_the_advised_mark_tells_as_much_as_was_said():
    """Marked where it is advised a turn is as sure as was said, and surer than by the same mark elsewhere."""
    first, second = shoots(1)
    pair = [told(first, noise=3.0, seed=3), told(second, noise=9.0, seed=4)]
    truth = [shoot.truth() for shoot in (first, second)]

    def marked(pair, which, point, frames):
        made, name = list(pair), anatomical(point, first.golfer.hand)
        for frame in frames:
            x, y = truth[which].pixels[name][frame]
            made[which] = made[which].dragged(Mark(name, frame, float(x), float(y)), None)
        return made

    def turn(pair):
        linked = link(*pair, agreed=True)
        studies = [told_by_two(study, linked) for study in pair]
        advice = next_mark_by_two(linked, studies, "pelvis_turn", "top")
        return linked.numbers["pelvis_turn_3d", "top"].sigma, advice, studies

    now, advice, studies = turn(pair)
    steps = 0
    while advice is not None and steps < 6:
        (point,) = advice.points
        assert point.endswith("hip") and advice.before == pytest.approx(now)
        which = int(advice.other)
        moved = marked(pair, which, point, advice.frames)
        after, following, later = turn(moved)
        assert after == pytest.approx(advice.after, rel=0.2)
        there = {c.shown: name for name, c in studies[which].checkpoints.items()}
        frames = [studies[1 - which].checkpoints[there[frame]].shown for frame in advice.frames]
        elsewhere = turn(marked(pair, 1 - which, point, frames))[0]
        assert after < elsewhere * 1.1
        pair, now, advice, studies, steps = moved, after, following, later, steps + 1
    assert steps >= 2


def test_two_cameras_give_one_verdict():
    """What each shows is judged in one chain; of a number that both tell the surer one speaks."""
    school, (first, second, _) = known().school("centred"), both(2)
    linked = link(first, second)
    studies = [told_by_two(study, linked) for study in (first, second)]
    reading = judge_views(studies, school, Swing())
    alone = [judge_swing(study, school) for study in studies]
    for key, one in ((f.key, f) for f in reading.findings):
        told = [r.of(key) for r in alone if r.of(key).decided is not None]
        if len(told) == 1 and one.fault.need != "all":
            assert (one.verdict, one.value) == (told[0].verdict, told[0].value)
        elif (
            len(told) == 2 and told[0].measure == told[1].measure and told[0].checkpoint == told[1].checkpoint
        ):
            assert one.sigma == min(f.sigma for f in told)
    seen = {f.measure for f in reading.findings if f.decided}
    assert {"pelvis_shift", "pelvis_thrust"} <= seen


def test_marked_clips_tell_the_turn_through_pictures():
    """The demo's own clips, six frames marked in each: the clock, the turn, the shift."""
    name = "maren-tolhurst-iron"
    face, line = (kept_swing(DEMO / DAYS[2] / f"{name}{end}.swing.json").study for end in ("", "-line"))
    linked = link(face, line)
    assert linked.clock.offset_s == pytest.approx(-0.15, abs=3 * linked.clock.sigma_s)
    assert linked.clock.sigma_s < 0.005
    turn = {at: linked.numbers["pelvis_turn_3d", at] for at in ("top", "impact")}
    assert turn["top"].value == pytest.approx(-43.5, abs=4.5) and turn["top"].sigma < 6
    assert linked.numbers["pelvis_shift_3d", "top"].value == pytest.approx(
        face.at("pelvis_shift", "top").value, abs=1.0
    )


def test_the_command_line_takes_a_second_camera(tmp_path, capsys):
    first, second = shoots(1)
    files = []
    for k, shoot in enumerate((first, second)):
        files.append(str(points_file(tmp_path / f"{k}.csv", (filmed(shoot, 1.5, k), None))))
    stature = f"{first.golfer.stature_cm:.0f}"
    line = ["analyze", files[0], "--view", "face-on", "--stature", stature, "--also", files[1]]
    assert main([*line, "--also-view", "down-the-line", "--json", "-"]) == 0
    result = json.loads(capsys.readouterr().out)
    assert result["space"]["offset_s"] == pytest.approx(-LATER_S, abs=0.005)
    turn = result["measures"]["pelvis_turn_3d"]
    assert turn["unit"] == "deg" and -60 < turn["at"]["top"]["value"] < -30
    assert result["measures"]["pelvis_turn"]["at"]["top"] == turn["at"]["top"]
    assert main([*line, "--also-view", "face-on"]) == 2
    assert "one along the target line" in capsys.readouterr().err
    assert main([*line[:6], "--also-view", "face-on"]) == 2
    assert main([*line, "--also-view", "down-the-line"]) == 0
    assert "reads 0.31" in capsys.readouterr().out
