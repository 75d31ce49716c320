"""Two swings in step and compared: against truth, a general library, themselves and their mirror image."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest
from dtaidistance import dtw_ndim
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from kneel.cli.main import main
from kneel.compare.difference import ChangeWord
from kneel.compare.family import AskedNumber, asked_by
from kneel.compare.pair import NOTHING_ALIKE, Alike, AtMoment, moments, paired
from kneel.compare.place import same_place, same_point
from kneel.compare.step import LEAVES, RESTS, Beat, InStep, in_step
from kneel.judge.knowledge import shipped
from kneel.judge.numbers import OfSwing
from kneel.model import CHECKPOINTS, Hand, Stature, UsageError, View, side_of
from kneel.motion.analysis import analyse
from kneel.motion.checkpoints import Checkpoint
from kneel.motion.setup import Setup
from kneel.motion.sightings import from_rows
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot
from kneel.sim.golfer import Golfer
from kneel.sim.swing import IMPACT, TOP, SwingPlan
from tests.conftest import rows_seen
from tests.test_cli import points_file


def told(shoot, *, noise=1.5, seed=0, hand=None, flip=False):
    """A simulated swing analysed from its points."""
    rows = rows_seen(shoot, noise, seed)
    if flip:
        other = {"left": "right", "right": "left"}
        xy = {}
        for name, places in rows.xy.items():
            side, low, joint = name.partition("_")
            xy[other.get(side, side) + low + joint] = places * (-1, 1) + (1280, 0)
        rows = replace(rows, xy=xy)
    scale = Stature(shoot.golfer.stature_cm)
    setup = Setup(shoot.camera.view, scale=scale, hand=hand or shoot.golfer.hand)
    return analyse(rows.times_s, from_rows(rows), setup)


def in_truth(one, other, times_s):
    """The other's time of the same moment of its plan."""
    a, b = one.plan.knots_s, other.plan.knots_s
    return np.interp(times_s, a, b) + np.minimum(times_s - a[0], 0) + np.maximum(times_s - a[-1], 0)


def off_s(pairs, view, *, noise, ratio=False, yaw=0.0, rate=60.0):
    """How far out of step pairs of unlike tempo are between address and finish, s."""
    found = []
    for k in range(pairs):
        rng = np.random.default_rng(900 + k)
        plans = [
            SwingPlan(tempo=rng.uniform(0.8, 1.3), ratio=rng.uniform(2.3, 3.8) if ratio else None)
            for _ in range(2)
        ]
        cameras = Camera(view), Camera(view, yaw_deg=rng.normal(0, 1) * yaw)
        one, other = (
            Shoot(plan=plan, camera=camera, rate=r)
            for plan, camera, r in zip(plans, cameras, (120.0, rate), strict=True)
        )
        a, b = (told(s, noise=noise, seed=2 * k + n) for n, s in enumerate((one, other)))
        step, times = in_step(a, b), a.times_s
        inside = times[(times > one.plan.knots_s[0]) & (times < one.plan.knots_s[-1])]
        found.append(step.to_b(inside) - in_truth(one, other, inside))
    return np.abs(np.concatenate(found))


@pytest.mark.parametrize(
    ("view", "noise", "more", "most_s"),
    [
        (View.FACE_ON, 0.0, {}, 0.5 / 60),
        (View.DOWN_THE_LINE, 0.0, {}, 0.5 / 60),
        (View.FACE_ON, 1.5, {}, 0.010),
        (View.DOWN_THE_LINE, 1.5, {}, 0.020),
        (View.FACE_ON, 1.5, {"ratio": True, "yaw": 3.0}, 0.015),
        (View.DOWN_THE_LINE, 1.5, {"ratio": True, "yaw": 3.0}, 0.045),
    ],
)
def test_swings_of_unlike_tempo_and_rate_run_in_step(view, noise, more, most_s):
    """120 against 60 frames a second: nearly all of the swing within half a frame, or what noise leaves."""
    assert np.percentile(off_s(12, view, noise=noise, **more), 95) < most_s


@pytest.mark.parametrize("view", [View.FACE_ON, View.DOWN_THE_LINE])
def test_one_that_waits_at_the_top_keeps_step_before_and_after(view):
    """The other stands at its top meanwhile; the way back and down are no more out of step than ever."""
    plan, wait_s, rate = SwingPlan(tempo=1.15), 0.5, 120.0
    one, other = Shoot(camera=Camera(view)), Shoot(plan=plan, camera=Camera(view))
    rows, noise = rows_seen(other, 1.0, 3), np.random.default_rng(5)
    top = round(plan.knots_s[TOP] * rate)
    held = np.r_[: top + 1, np.full(round(wait_s * rate), top), top + 1 : len(rows.times_s)]
    xy = {
        p: at[held] + noise.normal(0, 1, (len(held), 2)) * (held == top)[:, None] for p, at in rows.xy.items()
    }
    sigma = {point: each[held] for point, each in rows.sigma.items()}
    waiting = replace(rows, xy=xy, sigma=sigma, times_s=np.arange(len(held)) / rate)
    setup = Setup(view, scale=Stature(other.golfer.stature_cm))
    a, b = told(one, noise=1.0), analyse(waiting.times_s, from_rows(waiting), setup)
    step, times, (here, there) = in_step(a, b), a.times_s, (one.plan.knots_s, plan.knots_s)
    truth = np.interp(times, here, there) + wait_s * (times > here[TOP])
    off = np.abs(step.to_b(times) - truth)
    back, down = (times > here[0]) & (times < here[TOP - 1]), (times > here[TOP + 1]) & (times < here[-1])
    limit = 0.010 if view is View.FACE_ON else 0.020
    assert np.percentile(off[back], 95) < limit > np.percentile(off[down], 95)
    assert len(step.checkpoints) == len(step.beats) - 2 and {RESTS, LEAVES} & {x.name for x in step.beats}
    waited = np.ptp(step.to_b(times[np.abs(times - here[TOP]) < 0.1]))
    assert waited > wait_s, "the wait passes while the other stands at its top"
    stands = step.to_a(np.linspace(there[TOP] + 0.1, there[TOP] + wait_s - 0.1, 9))
    assert np.ptp(stands) < 0.15 and abs(stands.mean() - here[TOP]) < 0.06


def test_a_half_swing_runs_in_step_with_a_full_one():
    """Through what both have: each at its own top at once, and at the ball."""
    full, half = (Shoot(plan=SwingPlan(length=length, tempo=t)) for length, t in ((1.0, 1.1), (0.7, 0.9)))
    step = in_step(told(full), told(half, seed=1))
    knots = full.plan.knots_s, half.plan.knots_s
    for at in (TOP, IMPACT):
        assert step.to_b(knots[0][[at]])[0] == pytest.approx(knots[1][at], abs=0.03)
    assert (np.diff(step.to_b(np.linspace(0, 2.5, 200))) >= 0).all()


def test_a_general_library_for_warping_time_finds_the_same_step():
    """Dynamic time warping of the hands' path, without checkpoints (dtaidistance, published on PyPI)."""
    one, other = (Shoot(plan=SwingPlan(tempo=tempo), rate=120.0) for tempo in (0.9, 1.2))
    a, b = told(one, noise=0.3), told(other, noise=0.3, seed=1)
    step = in_step(a, b)
    begin, end = (a.checkpoints[name].shown for name in ("takeaway", "through"))
    first, last = (b.checkpoints[name].shown for name in ("takeaway", "through"))
    paths = [
        np.ascontiguousarray(study.tracks["grip"].xy[s:e] - study.tracks["left_ankle"].xy[s:e])
        for study, s, e in ((a, begin, end), (b, first, last))
    ]
    steps = np.array(dtw_ndim.warping_path(*paths))
    apart = step.to_b(a.times_s[begin + steps[:, 0]]) - b.times_s[first + steps[:, 1]]
    # At the top the hands hardly move, and a library without a clock is free there.
    assert np.median(np.abs(apart)) < 0.5 / 120 and np.percentile(np.abs(apart), 90) < 3 / 120


times = st.lists(st.floats(0.03, 0.6), min_size=9, max_size=9).map(lambda gaps: np.cumsum([0.5, *gaps]))


@given(times, times, st.sets(st.sampled_from(CHECKPOINTS), min_size=2), st.floats(1e-4, 0.2))
def test_a_step_is_monotone_runs_both_ways_and_keeps_real_time_outside(a_s, b_s, names, sigma_s):
    a, b = (
        {n: Checkpoint(0.0, each[k], sigma_s, "found") for k, n in enumerate(CHECKPOINTS) if n in names}
        for each in (a_s, b_s)
    )
    step = InStep.of(a, b)
    fine = np.linspace(a_s[0] - 1, a_s[-1] + 1, 400)
    there = step.to_b(fine)
    assert (np.diff(there) > -1e-9).all()
    np.testing.assert_allclose(step.to_b(step.to_a(there)), there, atol=2e-3)
    np.testing.assert_allclose(np.diff(there)[[0, -1]], np.diff(fine)[[0, -1]], rtol=1e-6)
    same = InStep.of(a, a)
    np.testing.assert_allclose(same.to_b(fine), fine, atol=1e-9)


@given(times, times)
def test_the_cubic_is_the_monotone_one_of_the_handbooks(x, y):
    """SciPy's PCHIP (F. N. Fritsch and J. Butland 1984), values and slopes."""
    step = InStep(tuple(Beat(str(k), a, b, 0.01) for k, (a, b) in enumerate(zip(x, y, strict=True))), y, y)
    fine, curve = np.linspace(x[0], x[-1], 300), PchipInterpolator(x, y)
    np.testing.assert_allclose(step.to_b(fine), curve(fine), atol=1e-9)
    np.testing.assert_allclose(step.pace(fine), curve.derivative()(fine), rtol=1e-6, atol=1e-7)


def test_a_checkpoint_that_is_little_known_gives_way_to_its_neighbours():
    """Ten times as unsure, a tenth of the pull; one that only one of them has counts for nothing."""
    clean = {n: Checkpoint(0.0, 0.3 * k, 0.002, "found") for k, n in enumerate(CHECKPOINTS)}
    late = clean | {"half_back": replace(clean["half_back"], time_s=0.7)}
    vague = late | {"half_back": replace(late["half_back"], sigma_s=0.2)}
    at = np.array([clean["half_back"].time_s])
    firm, loose = (InStep.of(clean, other).to_b(at)[0] - at[0] for other in (late, vague))
    assert 0.08 < firm <= 0.1 and loose < 0.02
    fewer = {name: point for name, point in late.items() if name != "half_back"}
    assert InStep.of(clean, fewer).to_b(at)[0] == pytest.approx(at[0], abs=1e-6)
    with pytest.raises(UsageError, match="no checkpoint in common"):
        InStep.of({}, clean)


def both(one, other, alike=NOTHING_ALIKE, prescribed=None):
    sides = OfSwing(one), OfSwing(other)
    asked = asked_by(shipped().schools["centred"], sides[0])
    return paired((one, other), sides, asked, alike, prescribed=prescribed)


@pytest.mark.parametrize("view", [View.FACE_ON, View.DOWN_THE_LINE])
def test_a_swing_against_itself_and_its_mirror_image_differs_in_nothing(view):
    shoot = Shoot(plan=SwingPlan({"sway": 5.0}), camera=Camera(view))
    one = told(shoot)
    mirrored = told(shoot, hand=Hand.LEFT, flip=True)
    for other in (one, mirrored):
        pair = both(one, other)
        assert pair.asked > 15 and not any(row.claimed for row in pair.rows)
        assert max(abs(row.difference) for row in pair.rows) < 1e-6
        np.testing.assert_allclose(pair.step.to_b(one.times_s), one.times_s, atol=1e-9)


def test_only_what_exceeds_its_error_is_real_and_of_these_two_alone():
    """A planted sway is told, first in the table; swings alike differ in nothing; never of the student."""
    plans = {}, {}, {"sway": 8.0}
    plain, again, swayed = (told(Shoot(plan=SwingPlan(one)), seed=seed) for seed, one in enumerate(plans))
    assert not any(row.claimed for row in both(plain, again).rows)
    pair = both(plain, swayed, Alike(True, True, True))
    first = pair.rows[0]
    assert (first.measure, first.at, first.verdict) == ("pelvis_shift", "top", ChangeWord.DIFFER)
    assert first.difference == pytest.approx(-8.0, abs=1.96 * first.sigma)
    assert [abs(r.difference) / r.sigma for r in pair.rows] == sorted(
        (abs(r.difference) / r.sigma for r in pair.rows), reverse=True
    )
    assert first.detectable > first.detectable_alone
    asked = both(plain, swayed, prescribed=AskedNumber("head_lift", "top", 1.0))
    assert asked.rows[0].measure == "head_lift" and asked.asked == pair.asked
    with pytest.raises(UsageError, match="only swings of one view"):
        both(plain, told(Shoot(camera=Camera(View.DOWN_THE_LINE))))


def test_two_golfers_share_no_build_one_golfer_does():
    """What lies in a golfer's build goes out between two swings of one, and not of two."""
    one, other = (told(Shoot(plan=SwingPlan({"sway": s})), seed=n) for n, s in enumerate((0.0, 3.0)))
    same, two = (both(one, other, Alike(golfer=g)).rows for g in (True, False))
    errors = {(r.measure, r.at): r.sigma for r in same}
    wider = [r.sigma / errors[r.measure, r.at] for r in two]
    assert min(wider) > 0.999 and max(wider) > 1.2


@pytest.mark.parametrize("view", [View.FACE_ON, View.DOWN_THE_LINE])
def test_two_moments_of_one_swing_err_only_by_what_they_do_not_share(view):
    """What scale and camera do to both goes out: the error is smaller than of two swings, and is kept to."""
    off = []
    for seed in range(6):
        shoot = Shoot(plan=SwingPlan({"sway": float(seed)}), camera=Camera(view))
        exact, seen = told(shoot, noise=0.01), told(shoot, noise=1.5, seed=seed)
        truth = {row.measure: row.difference for row in moments(exact, OfSwing(exact), "top", "impact").rows}
        rows = moments(seen, OfSwing(seen), "top", "impact").rows
        off += [(row.difference - truth[row.measure]) / row.sigma for row in rows if row.measure in truth]
    assert (
        len(off) > 120 and 0.1 < np.sqrt(np.mean(np.square(off))) < 1.1 and np.mean(np.abs(off) > 1.96) < 0.05
    )
    again = AtMoment(OfSwing(seen), "top"), AtMoment(OfSwing(seen), "impact")
    for row in rows:
        single = [side.tell(row.measure, "once") for side in again]
        assert row.before == single[0].value and row.after == single[1].value
    shares = [r.sigma / np.hypot(*(s.tell(r.measure, "once").sigma for s in again)) for r in rows]
    assert max(shares) < 1.15 and np.median(shares) < 1 and min(shares) < 0.6
    with pytest.raises(UsageError, match="The delivery is not found"):
        moments(replace(seen, checkpoints={"top": seen.checkpoints["top"]}), OfSwing(seen), "top", "delivery")


@pytest.mark.parametrize("hand", [Hand.RIGHT, Hand.LEFT])
def test_one_place_on_two_bodies(hand):
    """What touches a joint touches it there too, by lead and trail, in the other body's size, unturned."""
    here = told(Shoot())
    there = told(
        Shoot(golfer=Golfer(205.0, hand=hand), camera=Camera(hand=hand, distance_cm=550.0)), noise=0.5
    )
    starts = [study.checkpoints["address"].shown for study in (here, there)]
    for point in ("right_knee", "left_hip", "head", "left_ankle"):
        other = same_point(point, here, there)
        assert side_of(point, here.setup.hand) == side_of(other, hand)
        at = here.tracks[point].xy[[starts[0]]]
        line = np.concatenate([at + (0, -30), at, at + (0, 40)])
        moved = same_place(here, there, line)
        np.testing.assert_allclose(
            moved[1], there.tracks[other].xy[starts[1]], atol=0.35 * 0.1 * there.px_per_m
        )
        np.testing.assert_allclose(moved[:, 0], moved[1, 0], atol=1e-9)
        grown = (moved[2, 1] - moved[0, 1]) / 70
        tall = [
            np.ptp([s.tracks[n].xy[f, 1] for n in ("head", "left_ankle")])
            for s, f in zip((here, there), starts, strict=True)
        ]
        assert grown == pytest.approx(tall[1] / tall[0], rel=0.06)
    with pytest.raises(UsageError, match="need their address"):
        same_place(here, replace(there, checkpoints={}), line)


def test_the_command_line_compares(tmp_path, simulate, capsys):
    swings = {"a": simulate(), "b": simulate(sway=8.0, rate=60.0, tempo=1.2, seed=1)}
    a, b = (str(points_file(tmp_path / f"{name}.csv", one)) for name, one in swings.items())
    line = ["compare", a, b, "--view", "face-on", "--stature", "176"]
    assert main([*line, "--json", "-"]) == 0
    found = json.loads(capsys.readouterr().out)
    real = [row for row in found["differences"] if row["real"]]
    assert real[0]["measure"] == "pelvis_shift" and real[0]["difference"] == pytest.approx(-8, abs=1.5)
    assert found["asked"] == len(found["differences"]) > 15 and found["b"]["root"] == "sway"
    top = next(one for one in found["in_step"]["checkpoints"] if one["checkpoint"] == "top")
    truths = [truth.checkpoints_s["top"] for _, truth in swings.values()]
    assert [top["a_s"], top["b_s"]] == pytest.approx(truths, abs=0.02)
    assert [found["in_step"][side]["top"] for side in "ab"] == [top["a_s"], top["b_s"]]
    frames = dict(map(tuple, found["in_step"]["frames"]))
    assert frames[round(truths[0] * 120)] == pytest.approx(truths[1] * 60, abs=1.0)
    assert main([*line[:2], a, *line[3:], "--json", "-"]) == 0
    with_itself = json.loads(capsys.readouterr().out)["in_step"]["frames"]
    assert with_itself == [[k, k] for k in range(len(swings["a"][0].times_s))]
    assert main([*line, "--measure", "pelvis_shift@top"]) == 0
    said = capsys.readouterr().out
    assert said.startswith("In step by ") and "differ by more than errors explain" in said
    assert main([*line, "--golfers", "same", "--lessons", "same", "--camera", "stood", "--json", "-"]) == 0
    near = json.loads(capsys.readouterr().out)["differences"]
    wide = {(r["measure"], r["checkpoint"]): r["sigma"] for r in found["differences"]}
    assert all(r["sigma"] <= 1.001 * wide[r["measure"], r["checkpoint"]] for r in near)
    assert main([*line, "--hand-b", "left"]) == 0
    assert main([*line[:3], "--stature", "176", "--view", "face-on", "--checkpoint-b", "top=9999"]) == 2
    assert "lies outside frames" in capsys.readouterr().err
