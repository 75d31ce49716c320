"""One propagation of errors: against the GUM, the ``uncertainties`` package, SciPy and draws."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from benchmarks.study import marked_points, truth_of_bench
from benchmarks.swings import case
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import approx_fprime
from uncertainties import correlated_values, ufloat, umath

from kneel.model import Mark, Stature, View
from kneel.motion.analysis import analyse
from kneel.motion.draws import DRAWS, drawn_points, on_draws
from kneel.motion.measures import REGISTRY, Domain, Way
from kneel.motion.measures.geometry import both
from kneel.motion.sample import Alike, Causes, Lens, Sample
from kneel.motion.setup import Setup
from kneel.motion.stand import Clue, Stand, believed
from kneel.motion.together import covariance
from kneel.motion.uncertain import differentiated, tell
from tests.numbers import looked

SURE = Stand(0.0, 0.0, 0.0, 0.0, height_sigma_m=0.0)
TRUNK = (*both("hip"), *both("shoulder"))


def sample(now, *, then=None, sigma=0.0, sigma_then=0.0, across=0.0, alike=None, causes=None, per_m=100.0):
    """One frame of points of which only where they are seen is unsure, and the ``causes`` laid down."""
    rows = {p: np.array([xy], dtype=float) for p, xy in now.items()}
    rest = {p: np.array(xy, dtype=float) for p, xy in (then or now).items()}
    every = {**rows, **rest}
    made = Sample(
        rows,
        rest,
        dict.fromkeys(every, np.array([sigma])),
        dict.fromkeys(every, sigma_then),
        dict.fromkeys(every, np.array([across])),
        dict.fromkeys(every, np.empty((1, 0))),
        dict.fromkeys(every, np.empty(0)),
        dict.fromkeys(every, np.zeros((1, 2))),
        dict.fromkeys(every, np.zeros(2)),
        Lens(View.FACE_ON, SURE, per_m, np.zeros(2)),
        0.0,
        0.0,
        np.zeros(1),
        {},
        {},
        alike or {},
    )
    none = Causes((), np.zeros((0, 1, 2)), np.zeros((0, 2)))
    made.__dict__["causes"] = {p: (causes or {}).get(p, none) for p in every}
    return made


def alike_by(share):
    """Errors across that hang together by ``share``, those up not at all; and each with itself."""
    return Alike(np.array([[share, 0.0]]), np.array([share, 0.0]), np.zeros((1, 2)))


def look(compute, needs, then=(), *, bends=False):
    return Way(frozenset(View), tuple(needs), tuple(then), compute, bends=bends)


def test_correlated_inputs_as_in_the_guide():
    """GUM (JCGM 100:2008) H.2: resistance, reactance and impedance from correlated V, I and phase."""
    volts = [5.007, 4.994, 5.005, 4.990, 4.999]
    amps = [0.019663, 0.019639, 0.019640, 0.019685, 0.019678]
    phases = [1.0456, 1.0438, 1.0468, 1.0428, 1.0433]
    table = np.array([volts, amps, phases])
    means, spread = table.mean(axis=1), np.cov(table) / 5
    # Three correlated inputs are three independent causes: the columns of a root of their covariance.
    root = np.linalg.cholesky(spread)
    keys = (("one",), ("two",), ("three",))
    zero = np.zeros(3)

    def laid(x, y):
        return Causes(keys, np.stack([x, y], axis=1)[:, None], np.zeros((3, 2)))

    seen = sample(
        {"a": (means[0], means[1] * 100), "b": (means[2], 0.0)},
        causes={"a": laid(root[0], root[1] * 100), "b": laid(root[2], zero)},
        per_m=0.01,
    )
    functions = {
        "R": lambda p, _: p["a"][..., 0] / (p["a"][..., 1] / 100) * np.cos(p["b"][..., 0]),
        "X": lambda p, _: p["a"][..., 0] / (p["a"][..., 1] / 100) * np.sin(p["b"][..., 0]),
        "Z": lambda p, _: p["a"][..., 0] / (p["a"][..., 1] / 100),
    }
    told = {name: tell(look(f, ("a", "b")), seen) for name, f in functions.items()}
    printed = {"R": (127.732, 0.071), "X": (219.847, 0.295), "Z": (254.260, 0.236)}
    for name, (value, sigma) in printed.items():
        assert told[name].values[0] == pytest.approx(value, abs=5e-4)
        assert told[name].sigma[0] == pytest.approx(sigma, abs=1e-3)

    def correlation(a, b):
        both_ = sum(told[a].causes[k][0] * told[b].causes[k][0] for k in keys)
        return both_ / told[a].sigma[0] / told[b].sigma[0]

    assert correlation("R", "X") == pytest.approx(-0.588, abs=2e-3)
    assert correlation("R", "Z") == pytest.approx(-0.485, abs=2e-3)
    assert correlation("X", "Z") == pytest.approx(0.993, abs=2e-3)


PLACES = st.tuples(st.floats(-40, 40), st.floats(-40, 20))


@given(
    PLACES,
    st.tuples(st.floats(-40, 40), st.floats(0, 40)),
    st.floats(0.1, 2),
    st.floats(0.1, 2),
    st.floats(-0.95, 0.95),
)
def test_an_angle_and_a_shift_as_the_uncertainties_package_has_them(lower, upper, now, then, r):
    """First order with the covariance of now and then (GUM 5.2.2)."""
    points = {"lead_hip": (lower[0] + 8, lower[1] + 90), "trail_hip": (lower[0] - 8, lower[1] + 92)}
    points |= {
        "lead_shoulder": (upper[0] + 18, upper[1] + 160),
        "trail_shoulder": (upper[0] - 18, upper[1] + 150),
    }
    rest = {n: (x + 3.0, y - 2.0) for n, (x, y) in points.items()}
    across = r * now * then
    seen = sample(points, then=rest, sigma=now, sigma_then=then, across=across)

    def known(name, axis):
        table = [[now**2, across], [across, then**2]]
        return correlated_values([points[name][axis], rest[name][axis]], table)

    u = {(n, axis): known(n, axis) for n in points for axis in (0, 1)}
    moved = sum(u[n, 0][0] - u[n, 0][1] for n in both("hip")) / 2
    shift = tell(REGISTRY["pelvis_shift"].looks[0], seen)
    assert (shift.values[0], shift.sigma[0]) == pytest.approx((moved.n, moved.s), rel=1e-6, abs=1e-9)
    x, y = (
        sum(u[n, k][0] for n in both("shoulder")) / 2 - sum(u[n, k][0] for n in both("hip")) / 2
        for k in (0, 1)
    )
    lean = umath.degrees(umath.atan2(-x, y))
    tilt = tell(REGISTRY["side_tilt"].looks[0], seen)
    assert (tilt.values[0], tilt.sigma[0]) == pytest.approx((lean.n, lean.s), rel=1e-4)


def test_errors_shared_by_a_pair_do_not_average_out():
    """Two hips that err together err in their middle as one does; apart, by the root of two less."""
    points = {"lead_hip": (8.0, 90.0), "trail_hip": (-8.0, 90.0)}
    middle = look(lambda p, _: (p["lead_hip"] + p["trail_hip"])[..., 0] / 2, both("hip"))
    for alike in (0.1, 0.5, 0.9):
        seen = sample(points, sigma=2.0, alike={both("hip"): alike_by(alike)})
        shared, own = ufloat(0, 2.0 * alike**0.5), [ufloat(0, 2.0 * (1 - alike) ** 0.5) for _ in range(2)]
        expected = ((shared + own[0]) + (shared + own[1])) / 2
        assert tell(middle, seen).sigma[0] == pytest.approx(expected.s, rel=1e-6)
        assert on_draws(middle, drawn_points(seen), {}).std() == pytest.approx(expected.s, rel=0.15)


@pytest.mark.parametrize("view", [View.FACE_ON, View.DOWN_THE_LINE])
def test_slopes_agree_with_scipy(view):
    """Every measure's slopes against forward differences of SciPy on the same function."""
    study = case(5, view=view).study
    seen = study._moments
    k = list(study.checkpoints).index("half_down")
    for key, entry in REGISTRY.items():
        way = study.way(key) if entry.domain is not Domain.ONCE else None
        if not isinstance(way, Way) or way.bends:
            continue
        names = [("now", p) for p in way.needs] + [("then", p) for p in way.then]
        start = np.concatenate([seen.now[p][k] if when == "now" else seen.then[p] for when, p in names])

        def f(flat, way=way, names=names):
            at = flat.reshape(-1, 2)
            now = {p: at[i][None] for i, (when, p) in enumerate(names) if when == "now"}
            then = {p: at[i][None] for i, (when, p) in enumerate(names) if when == "then"}
            signs = {f"closed_{j}": seen.closed[j][k : k + 1] for j in way.turns}
            return float(np.asarray(way.compute({**now, **signs}, then)).reshape(-1)[0])

        expected = approx_fprime(start, f, 1e-6)
        _, slopes = differentiated(way, seen)
        found = [slopes.now[p][k] if when == "now" else slopes.then[p][k] for when, p in names]
        size = np.abs(expected).max()
        np.testing.assert_allclose(np.concatenate(found), expected, atol=0.01 * size + 1e-6, err_msg=key)


@pytest.mark.parametrize(
    "made",
    [
        lambda: case(3, view=View.FACE_ON).study,
        lambda: case(4, view=View.DOWN_THE_LINE).study,
        lambda: case(8, view=View.FACE_ON).study,
        lambda: looked(10, marked=("address", "top"), lone="left_hip"),
    ],
)
def test_what_bends_says_so(made):
    """Where first order and draws disagree beyond chance the entry must carry the flag (JCGM 101:2008)."""
    study = made()
    lacking, judged = [], 0
    for key, entry in REGISTRY.items():
        way = study.way(key) if entry.domain is not Domain.ONCE else None
        if not isinstance(way, Way) or way.bends:
            continue
        names = ["address"] if entry.domain is Domain.SETUP else ["half_back", "top", "delivery", "impact"]
        told = tell(way, study._moments)
        drawn = on_draws(way, study._moments.drawn(drawn_points), study.closed)
        for name in names:
            k = study._moments.names.index(name)
            spread, sigma = float(drawn[:, k].std()), float(told.sigma[k])
            judged += 1
            if not 0.75 < spread / sigma < 1.33:
                lacking.append((key, name, round(spread / sigma, 2)))
    assert judged > 40
    # One that jumps between −180° and 180° is no bend.
    assert [row for row in lacking if "shaft" not in row[0]] == []


def test_near_square_first_order_lies_and_draws_do_not():
    """At 2° of turn slopes say nothing like the truth; the interval from draws holds it."""
    rng = np.random.default_rng(4)
    half, turned, first, held = 9.0, np.radians(2.0), 0, 0
    entry = REGISTRY["pelvis_turn"].looks[0]
    for _ in range(200):
        rest = {"lead_hip": np.array([half, 0]), "trail_hip": np.array([-half, 0])}
        now = {n: xy * np.cos(turned) + rng.normal(0, 0.3, 2) for n, xy in rest.items()}
        seen = sample(now, then=rest, sigma=0.3)
        seen.closed["hip"] = np.array([1.0])
        told = tell(entry, seen)
        slopes = sum((g**2).sum() for g in told.slopes.now.values()) ** 0.5 * 0.3
        first += abs(told.values[0] - 2.0) < 2 * slopes
        held += abs(told.values[0] - 2.0) < 2 * told.sigma[0]
    assert held >= 0.90 * 200
    assert first < 0.75 * 200


@pytest.mark.parametrize("wide", [1.0, 1.1, 1.3, 1.6, 4.5])
def test_a_line_seen_longer_than_it_can_be_is_as_unsure_as_that_says(wide):
    """What no turn explains is an error: as stated up to one deviation past square, and larger beyond."""
    entry, error = REGISTRY["pelvis_turn"].looks[0], 0.07 * 18 / np.sqrt(4)
    rest = {"lead_hip": np.array([9.0, 0]), "trail_hip": np.array([-9.0, 0])}
    now = {name: wide * xy for name, xy in rest.items()}
    seen = sample(now, then=rest, sigma=error, sigma_then=error)
    seen.closed["hip"] = np.array([-1.0])
    told = tell(entry, seen)
    assert told.values[0] == pytest.approx(0.0, abs=1e-6)
    # By Bayes with nothing known before: of all lengths it may have, those that a turn can show.
    truly = np.random.default_rng(7).normal(min(wide, 1.07), 0.07, 400_000)
    expected = np.degrees(np.sqrt((np.arccos(truly[truly <= 1]) ** 2).mean()))
    beyond = np.degrees(np.arccos(1 - np.clip(wide - 1.07, 0.0, 2.0)))
    assert told.sigma[0] == pytest.approx(np.hypot(expected, beyond), rel=0.15)
    assert told.low[0] < -1.5 * expected and told.low[0] <= -1.9 * beyond


def test_draws_are_the_same_for_all_that_share_a_cause():
    study = case(3, view=View.FACE_ON).study
    drawn = study._moments.drawn(drawn_points)
    whole = on_draws(REGISTRY["pelvis_shift"].looks[0], drawn, {})
    sides = [on_draws(REGISTRY[f"{side}_hip_cross"].looks[0], drawn, {}) for side in ("lead", "trail")]
    assert whole.shape[0] == DRAWS
    np.testing.assert_allclose(whole, (sides[0] - sides[1]) / 2, atol=1e-9)


def test_the_camera_s_place_is_a_linear_update():
    """A plumb settles the roll; feet that agree with square leave the yaw as sure as both together are."""
    stand = believed([Clue(0.0, 6.0, 1.0, 0.0, "the feet")])
    assert stand.yaw_sigma == pytest.approx(1 / np.hypot(1 / 4, 1 / 6))
    tilted = believed([Clue(3.0, 0.1, 0.0, 1.0, "a plumb"), Clue(3.0, 1.2, -0.2, 1.0, "the ankles' line")])
    assert tilted.roll_deg == pytest.approx(3.0, abs=0.05)
    assert abs(tilted.yaw_deg) < 0.1


def test_path_draws_have_the_track_s_covariance():
    """Errors drawn along a path against the track's own inverse, offsets and lasting part included."""
    from tests.numbers import looked

    track = looked().tracks["left_hip"]
    frames = np.array([10, 40, 41, 90])
    drawn = track.draws(6000, 3, frames)[..., 0]
    expected = np.array([track.covariance_with(int(f))[frames] for f in frames])
    scale = np.sqrt(np.diag(expected))
    np.testing.assert_allclose(
        np.cov(drawn.T) / np.outer(scale, scale), expected / np.outer(scale, scale), atol=0.06
    )


# A study that answers when it is asked.


@pytest.mark.parametrize("view", [View.FACE_ON, View.DOWN_THE_LINE])
def test_covariance_of_two_measures_is_that_of_their_draws(view):
    """By slopes and shared causes, against draws of all causes at once (GUM 5.2.2)."""
    study = case(12, view=view).study
    keys = (
        ("pelvis_shift", "head_shift", "side_tilt")
        if view is View.FACE_ON
        else ("pelvis_thrust", "forward_bend")
    )
    drawn = study._moments.drawn(drawn_points)
    for one in keys:
        for other in keys:
            a, b = ((key, "top") for key in (one, other))
            expected = np.cov(
                *(
                    on_draws(study.way(key), drawn, study.closed)[:, study._moments.names.index("top")]
                    for key in (one, other)
                )
            )[0, 1]
            size = study.at(*a).sigma * study.at(*b).sigma
            assert covariance(study, a, b) == pytest.approx(expected, abs=0.25 * size), (one, other)
        assert covariance(study, (one, "top"), (one, "top")) == pytest.approx(
            study.at(one, "top").sigma ** 2, rel=0.02
        )
    # The same error of scale and camera is in both: a difference cancels it.
    top, down = ((keys[-1], name) for name in ("top", "half_down"))
    apart = study.at(*top).sigma ** 2 + study.at(*down).sigma ** 2
    assert covariance(study, top, down) > 0.2 * apart / 2


@pytest.mark.parametrize("yaw", [0.0, 12.0, 20.0])
def test_a_known_yaw_counts_for_what_comes_nearer_unknown(yaw):
    """A pelvis that may have come 3 cm nearer is seen 3 cm × sin(yaw) aside, however sure the yaw is."""
    study = case(12, view=View.FACE_ON).study
    square, turned = (
        replace(study, stand=replace(study.stand, yaw_deg=angle, yaw_sigma=0.01), _known={})
        for angle in (0.0, yaw)
    )
    one, other = (s.at("pelvis_shift", "impact") for s in (square, turned))
    aside = dict(other.causes)[("nearer", "pelvis")] - dict(one.causes)[("nearer", "pelvis")]
    swings = float(study._moments.stirred["lead_hip"][study._moments.names.index("impact")])
    per = study.scale.cm_per_unit
    assert abs(aside) * per == pytest.approx(3.0 * np.sin(np.radians(yaw)) * swings, abs=0.02)
    assert other.sigma > one.sigma or yaw == 0.0


def test_what_lasts_through_a_clip_is_told_apart():
    """The network's offset on a joint: much of an angle's error, nothing of a way from address. Of the
    rest most comes again, most of all in the hips' middle.
    """
    study = looked()
    study = replace(study, setup=replace(study.setup, guessed=frozenset(study.tracks)), _known={})
    flex, shift = (study.at(key, "top").causes for key in ("lead_knee_flex", "pelvis_shift"))
    share = {
        name: sum(m**2 for key, m in causes.items() if key[0] == "lasts") / sum(m**2 for m in causes.values())
        for name, causes in (("flex", flex), ("shift", shift))
    }
    assert share["flex"] > 0.1 and share["shift"] < 0.01
    assert {key[0] for key in shift} >= {"place", "pose"} and all(
        shift["pose", hip] > 3 * shift["place", hip] for hip in ("lead_hip", "trail_hip")
    )


def test_the_budget_names_what_an_error_comes_from():
    study = case(3, view=View.FACE_ON).study
    told = study.at("side_tilt", "impact")
    budget = told.budget(40)
    assert budget[0][0] == "a camera off square" and sum(share for _, share in budget) == pytest.approx(
        1.0, abs=1e-6
    )
    assert all("_" not in words and "{" not in words for words, _ in budget)


def test_a_mark_under_the_hand_is_a_change_of_rank_one():
    """Path, error and covariance as solving all anew gives them; measures follow, the rest is kept."""
    truth = truth_of_bench(rate=120.0)
    marks, points = marked_points(truth)

    def study(every):
        return analyse(truth.times_s, points(every), Setup(scale=Stature(176.0)))

    base = study(marks)
    old = next(m for m in marks if m.point == "left_hip" and m.frame == 150)
    moved = Mark("left_hip", 150, old.x + 6, old.y - 3, old.sigma)
    fresh = Mark("left_hip", 170, *(truth.pixels["left_hip"][170] + 4).tolist())
    for mark, before, every in (
        (moved, old, [m if m is not old else moved for m in marks]),
        (fresh, None, [*marks, fresh]),
    ):
        quick, full = base.dragged(mark, before), study(every)
        a, b = quick.tracks["left_hip"], full.tracks["left_hip"]
        np.testing.assert_allclose(a.xy, b.xy, atol=0.15)
        np.testing.assert_allclose(a.sigma, b.sigma, atol=0.02)
        np.testing.assert_allclose(a.covariance_with(160), b.covariance_with(160), atol=0.05)
        for key in ("pelvis_shift", "pelvis_turn", "side_tilt"):
            one, other = quick.measure(key), full.measure(key)
            np.testing.assert_allclose(one.values, other.values, atol=0.5, err_msg=key)
            assert quick.at(key, "top").value == pytest.approx(full.at(key, "top").value, abs=0.4)
        head = base.measure("head_shift")
        assert np.array_equal(quick.measure("head_shift").values, head.values)
    assert base.dragged(Mark("belt", 3, 1.0, 1.0), None) is not base
    assert base.dragged(Mark("seat", 10**6, 1.0, 1.0), None) is None
