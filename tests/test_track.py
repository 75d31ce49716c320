"""The track solver against a dense solve, a reference smoother, and simulated repetition."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pykalman import KalmanFilter

from kneel.model import Links, Sighting
from kneel.motion.banded import factor
from kneel.motion.track import PointData, solve_tracks
from kneel.motion.witnesses import one_witness

RESTLESS, FASTEST = 400.0, 2000.0


def slowness(dt):
    """Weights of the steps in the log density of a stationary Ornstein-Uhlenbeck velocity (textbook)."""
    fades = 2 * FASTEST**2 / RESTLESS**2
    weights = 1 / (RESTLESS**2 * fades**2 * dt)
    for end in (0, -1):
        weights[end] += 1 / (2 * FASTEST**2 * dt[end] ** 2)
    return weights


def normal_matrix(times, seen_sigma, step_sigma):
    """The solver's quadratic form written out densely, row by row, from its published formula."""
    count = len(times)
    dt = np.diff(times)
    rows, weights = [], []
    for t, sigma in enumerate(seen_sigma):
        if np.isfinite(sigma):
            rows.append(np.eye(count)[t])
            weights.append(1 / sigma**2)
    for t, sigma in enumerate(step_sigma):
        difference = np.eye(count)[t + 1] - np.eye(count)[t]
        if np.isfinite(sigma):
            rows.append(difference)
            weights.append(1 / sigma**2)
        rows.append(difference)
        weights.append(slowness(dt)[t])
    for t in range(1, count - 1):
        row = np.zeros(count)
        row[t - 1 : t + 2] = 1 / dt[t - 1], -(1 / dt[t - 1] + 1 / dt[t]), 1 / dt[t]
        rows.append(row)
        weights.append(1 / (RESTLESS**2 * (dt[t] + dt[t - 1]) / 2))
    a = np.array(rows)
    return a, np.array(weights)


@st.composite
def problems(draw):
    count = draw(st.integers(1, 24))
    rng = np.random.default_rng(draw(st.integers(0, 2**32 - 1)))
    times = np.cumsum(rng.uniform(0.5, 2.0, count) / 120)
    seen = np.where(rng.random(count) < 0.5, rng.uniform(0.3, 5, count), np.nan)
    seen[rng.integers(count)] = 1.0
    steps = np.where(rng.random(max(count - 1, 0)) < 0.6, rng.uniform(0.1, 2, max(count - 1, 0)), np.nan)
    z = rng.normal(300, 40, (count, 2))
    f = rng.normal(0, 3, (max(count - 1, 0), 2))
    return times, seen, steps, z, f


@settings(max_examples=60, deadline=None)
@given(problems())
def test_agrees_with_a_dense_solve(problem):
    """Answer, standard errors and covariances equal the dense ones (textbook weighted least squares)."""
    times, seen, steps, z, f = problem
    data = PointData(
        (Sighting(np.where(np.isfinite(seen)[:, None], z, np.nan), seen, by_hand=True),),
        (Links(np.where(np.isfinite(steps)[:, None], f, np.nan), steps),) if len(times) > 1 else (),
        RESTLESS,
        FASTEST,
    )
    track = solve_tracks(times, {"p": data}, sweeps=0)["p"]
    a, weight = normal_matrix(times, seen, steps)
    target = []
    for t, sigma in enumerate(seen):
        if np.isfinite(sigma):
            target.append(z[t])
    for t, sigma in enumerate(steps):
        target += [f[t], np.zeros(2)] if np.isfinite(sigma) else [np.zeros(2)]
    target += [np.zeros(2)] * max(len(times) - 2, 0)
    inverse = np.linalg.inv(a.T @ (weight[:, None] * a))
    expected = inverse @ (a.T @ (weight[:, None] * np.array(target)))
    np.testing.assert_allclose(track.xy, expected, atol=1e-6)
    np.testing.assert_allclose(track.sigma**2, np.diag(inverse), rtol=1e-6)
    middle = len(times) // 2
    np.testing.assert_allclose(track.covariance_with(middle), inverse[:, middle], rtol=1e-5, atol=1e-8)


def test_agrees_with_a_reference_smoother():
    """Rauch-Tung-Striebel smoothing by pykalman of the same model, uneven times and gaps included."""
    rng = np.random.default_rng(4)
    count = 80
    times = np.cumsum(rng.uniform(0.6, 1.4, count) / 120)
    dt = np.diff(times)
    truth = 200 + 60 * np.sin(3 * times)
    seen = np.where(rng.random(count) < 0.4, 2.0, np.nan)
    seen[[0, 1]] = 2.0
    z = truth + rng.normal(0, 2.0, count)
    steps = np.full(count - 1, 0.3)
    steps[30:41] = np.nan
    f = np.diff(truth) + rng.normal(0, 0.3, count - 1)
    unknown = 1e9
    # State: this place and the one before. A step keeps the velocity up to the solver's own noise.
    transitions, noises = [], []
    for t in range(1, count - 1):
        ratio = dt[t] / dt[t - 1]
        transitions.append([[1 + ratio, -ratio], [1.0, 0.0]])
        noises.append([[dt[t] ** 2 * RESTLESS**2 * (dt[t] + dt[t - 1]) / 2, 0.0], [0.0, 0.0]])
    observed = np.stack([np.where(np.isfinite(seen), z, 0)[1:], np.where(np.isfinite(steps), f, 0)], axis=1)
    observed = np.column_stack([observed, np.zeros(count - 1)])
    variances = np.array(
        [
            np.diag(
                [
                    seen[t] ** 2 if np.isfinite(seen[t]) else unknown,
                    steps[t - 1] ** 2 if np.isfinite(steps[t - 1]) else unknown,
                    1 / slowness(dt)[t - 1],
                ]
            )
            for t in range(1, count)
        ]
    )
    # The first place is known from its own sighting; the second starts wide open.
    smoother = KalmanFilter(
        transition_matrices=np.array(transitions),
        transition_covariance=np.array(noises),
        observation_matrices=np.array([[1.0, 0.0], [1.0, -1.0], [1.0, -1.0]]),
        observation_covariance=variances,
        initial_state_mean=[z[0], z[0]],
        initial_state_covariance=[[1e6, 0.0], [0.0, seen[0] ** 2]],
    )
    means, covariances = smoother.smooth(observed)
    gaps = np.where(np.isfinite(seen)[:, None], np.stack([z, z], axis=1), np.nan)
    moved = np.where(np.isfinite(steps)[:, None], np.stack([f, f], axis=1), np.nan)
    data = PointData((Sighting(gaps, seen, by_hand=True),), (Links(moved, steps),), RESTLESS, FASTEST)
    track = solve_tracks(times, {"p": data}, sweeps=0)["p"]
    np.testing.assert_allclose(track.xy[1:, 0], means[:, 0], atol=1e-4)
    np.testing.assert_allclose(track.sigma[1:], np.sqrt(covariances[:, 0, 0]), rtol=1e-4)


def marked(times, at, sigma=1.0):
    """Marks by hand at some frames, (T, 2) places by frame."""
    xy, error = np.full((len(times), 2), np.nan), np.full(len(times), np.nan)
    for frame, place in at.items():
        xy[frame], error[frame] = place, sigma
    return Sighting(xy, error, by_hand=True)


@pytest.mark.parametrize("rate", [60, 240, 960])
def test_a_moving_hip_is_where_exact_flow_takes_it(rate):
    """90 px in 0.3 s from one mark: there, and as sure, whatever the frame rate; nothing pulls it to rest."""
    times = np.arange(round(0.3 * rate) + 1) / rate
    truth = np.stack([100 + 300 * times, np.full(len(times), 50.0)], axis=1)
    sigma = 0.045 * 270 / np.sqrt(rate)
    flow = Links(np.diff(truth, axis=0), np.full(len(times) - 1, sigma))
    data = PointData((marked(times, {0: truth[0]}, 1.5),), (flow,), 2.0 * 270, 2.0 * 270)
    track = solve_tracks(times, {"hip": data})["hip"]
    assert track.xy[-1, 0] == pytest.approx(189.84, abs=0.01)
    assert track.sigma[-1] == pytest.approx(np.sqrt(1.5**2 + 0.3 * (0.045 * 270) ** 2), rel=0.03)


@settings(max_examples=25, deadline=None)
@given(st.floats(50, 4000), st.floats(100, 3000), st.integers(0, 39), st.sampled_from([120, 240]))
def test_an_unseen_point_wanders_as_a_body_in_brownian_motion(restless, fastest, frame, rate):
    """From one mark and nothing else: Uhlenbeck and Ornstein 1930, mean square displacement (from memory)."""
    times = np.arange(rate // 3) / rate
    data = PointData((marked(times, {frame: (10.0, 10.0)}, 1.0),), (), restless, fastest)
    track = solve_tracks(times, {"p": data})["p"]
    fades = 2 * fastest**2 / restless**2
    passed = np.abs(times - times[frame]) / fades
    moved = 2 * fastest**2 * fades**2 * (passed - 1 + np.exp(-passed))
    np.testing.assert_allclose(track.xy, 10.0, atol=0.01)
    if fades > 8 / rate:
        np.testing.assert_allclose(track.sigma, np.sqrt(1 + moved), rtol=0.03)


def test_the_same_pixels_count_once():
    """One flow given 1, 2 or 4 times, or there and back: the same path and the same error."""
    rng = np.random.default_rng(2)
    times = np.arange(80) / 120
    truth = np.stack([300 + 40 * np.sin(6 * times), 200 + 30 * times], axis=1)
    flow = Links(np.diff(truth, axis=0) + rng.normal(0, 0.3, (79, 2)), np.full(79, 0.8))
    mark = marked(times, {5: truth[5]})
    one, two, four = (
        solve_tracks(times, {"p": PointData((mark,), (flow,) * n, RESTLESS, FASTEST)})["p"] for n in (1, 2, 4)
    )
    for more in (two, four):
        np.testing.assert_allclose(more.xy, one.xy, atol=1e-9)
        np.testing.assert_allclose(more.sigma, one.sigma, rtol=1e-9)
    # Two ways that differ are worth less than one, and never more than the better.
    off = Links(flow.step + (1.0, 0.0), np.full(79, 0.8))
    torn = solve_tracks(times, {"p": PointData((mark,), (flow, off), RESTLESS, FASTEST)})["p"]
    assert (torn.sigma[10:] > one.sigma[10:]).all()
    poor = Links(flow.step.copy(), np.full(79, 8.0))
    both = one_witness((flow, poor))
    assert ((both.sigma >= 0.8) & (both.sigma < 1.0)).all()
    gap = np.where(np.arange(79) < 40, 0.8, np.nan)
    joined = one_witness((Links(np.where(np.isfinite(gap)[:, None], flow.step, np.nan), gap), poor))
    assert joined.sigma[10] < 1.0 and joined.sigma[60] == 8.0


def test_an_error_that_goes_with_the_pose_changes_with_the_pose():
    """While the clock stands still the error is one, and a mark takes it away; where it runs none does."""
    times = np.arange(120) / 120
    clock = np.concatenate([np.zeros(60), np.linspace(0, 6, 60)])
    truth = np.zeros((120, 2))
    seen = Sighting(truth + 7.0, np.full(120, 1.0), wander=8.0, wander_s=1.0, clock=clock)
    data = PointData((marked(times, {0: (0.0, 0.0)}), seen), (), RESTLESS, FASTEST)
    track = solve_tracks(times, {"p": data})["p"]
    assert track.sigma[:55].max() < 2.2 and track.sigma[110] > 5.0
    assert np.abs(track.xy[:55]).max() < 1.0


def test_standard_error_is_what_repetition_shows():
    """Over 300 simulated repetitions the scatter equals the stated error and the 2 sigma share is 95 %."""
    rng = np.random.default_rng(9)
    count, repeats = 90, 300
    times = np.arange(count) / 120
    truth = np.stack([150 + 30 * np.sin(4 * times), 200 + 20 * times], axis=1)
    seen = np.where(np.arange(count) % 30 == 10, 1.5, np.nan)
    steps = np.full(count - 1, 0.4)
    errors = []
    for _ in range(repeats):
        z = truth + rng.normal(0, 1.5, truth.shape)
        f = np.diff(truth, axis=0) + rng.normal(0, 0.4, (count - 1, 2))
        data = PointData(
            (Sighting(np.where(np.isfinite(seen)[:, None], z, np.nan), seen, by_hand=True),),
            (Links(f, steps),),
            1e5,
            1e6,
        )
        track = solve_tracks(times, {"p": data}, sweeps=0)["p"]
        errors.append(track.xy - truth)
    scatter = np.sqrt(np.mean(np.square(errors), axis=(0, 2)))
    np.testing.assert_allclose(scatter, track.sigma, rtol=0.12)
    inside = np.abs(np.array(errors)) < 2 * track.sigma[None, :, None]
    assert 0.93 < inside.mean() < 0.97


def test_gross_errors_are_outvoted_but_never_a_hand_mark():
    """Huber weights: one sighting 80 px off hardly moves the path; a mark by hand binds it."""
    count = 61
    times = np.arange(count) / 120
    straight = np.stack([np.linspace(100, 160, count), np.full(count, 50.0)], axis=1)
    seen = straight.copy()
    seen[30, 0] += 80
    wild = PointData((Sighting(seen, np.full(count, 2.0)),), (), RESTLESS, FASTEST)
    tame = PointData((Sighting(straight, np.full(count, 2.0)),), (), RESTLESS, FASTEST)
    tracks = solve_tracks(times, {"wild": wild, "tame": tame})
    assert np.abs(tracks["wild"].xy - tracks["tame"].xy).max() < 2.0
    hand = np.full((count, 2), np.nan)
    hand[30] = straight[30] + (20, 0)
    marked = PointData(
        (*tame.sightings, Sighting(hand, np.full(count, 0.5), by_hand=True)), (), RESTLESS, FASTEST
    )
    bound = solve_tracks(times, {"p": marked})["p"]
    assert abs(bound.xy[30, 0] - hand[30, 0]) < 4.0


def test_gaps_get_wide_errors():
    times = np.arange(120) / 120
    xy = np.full((120, 2), np.nan)
    xy[[10, 110]] = 5.0
    track = solve_tracks(times, {"p": PointData((Sighting(xy, np.full(120, 1.5), by_hand=True),))})["p"]
    assert track.sigma[60] > 10 * track.sigma[10]
    assert "nowhere" not in solve_tracks(
        times, {"nowhere": PointData((Sighting(np.full((120, 2), np.nan), np.full(120, 1.0)),))}
    )


def test_lasting_error_is_not_averaged_away():
    """Three hundred looks with a lasting error of 3 px stay 3 px sure at best."""
    count = 300
    times = np.arange(count) / 120
    xy = np.zeros((count, 2))
    data = PointData((Sighting(xy, np.full(count, 1.0), lasting=np.full(count, 3.0)),))
    track = solve_tracks(times, {"p": data})["p"]
    assert (track.sigma >= 3.0).all()
    assert track.covariance_with(150)[150] == pytest.approx(track.sigma[150] ** 2)


def test_refuses_what_is_not_positive_definite():
    with pytest.raises(np.linalg.LinAlgError):
        factor(np.zeros((3, 1, 5)))


@settings(max_examples=40, deadline=None)
@given(problems(), st.floats(0.5, 20), st.floats(0.5, 12), st.floats(0.05, 0.5), st.floats(0, 4))
def test_lasting_errors_of_a_source_agree_with_a_dense_solve(problem, offset, wander, fades, more):
    """Offset and Gauss-Markov error, more of it in doubt, as unknowns of a dense least squares (textbook)."""
    times, seen, steps, z, f = problem
    count = len(times)
    doubt = 1 + more * np.sin(np.arange(count)) ** 2
    by_hand = np.full(count, np.nan)
    by_hand[count // 2] = 1.0
    mark = np.where(np.isfinite(by_hand)[:, None], z + 7.0, np.nan)
    data = PointData(
        (
            Sighting(mark, by_hand, by_hand=True),
            Sighting(
                np.where(np.isfinite(seen)[:, None], z, np.nan),
                seen,
                offset=offset,
                wander=wander,
                wander_s=fades,
                doubt=doubt,
            ),
        ),
        (Links(np.where(np.isfinite(steps)[:, None], f, np.nan), steps),) if count > 1 else (),
        RESTLESS,
        FASTEST,
    )
    track = solve_tracks(times, {"p": data, "q": data}, sweeps=0)["q"]
    place, weight = normal_matrix(times, np.full(count, np.nan), steps)
    target = []
    for t, sigma in enumerate(steps):
        target += [f[t], np.zeros(2)] if np.isfinite(sigma) else [np.zeros(2)]
    target += [np.zeros(2)] * max(count - 2, 0)
    rows = [np.concatenate([row, np.zeros(count + 1)]) for row in place]
    weights = list(weight)
    unit = np.eye(2 * count + 1)

    def add(row, goal, sigma):
        rows.append(row)
        target.append(goal)
        weights.append(1 / sigma**2)

    for t, sigma in enumerate(seen):
        if np.isfinite(sigma):
            add(unit[t] + doubt[t] * unit[count + t] + unit[-1], z[t], sigma)
    add(unit[count // 2], z[count // 2] + 7.0, 1.0)
    add(unit[-1], np.zeros(2), offset)
    add(unit[count], np.zeros(2), wander)
    for t, dt in enumerate(np.diff(times)):
        keeps = np.exp(-dt / fades)
        add(unit[count + t + 1] - keeps * unit[count + t], np.zeros(2), wander * np.sqrt(1 - keeps**2))
    a, weight = np.array(rows), np.array(weights)
    inverse = np.linalg.inv(a.T @ (weight[:, None] * a))
    expected = inverse @ (a.T @ (weight[:, None] * np.array(target)))
    np.testing.assert_allclose(track.xy, expected[:count], atol=1e-5)
    np.testing.assert_allclose(track.sigma**2, np.diag(inverse)[:count], rtol=1e-5)
    np.testing.assert_allclose(
        track.covariance_with(count - 1), inverse[:count, count - 1], rtol=1e-4, atol=1e-7
    )


def test_one_mark_shifts_the_whole_track_and_many_sightings_fake_nothing():
    """300 sightings all 9 px off stay 9 px of doubt; one mark by hand takes the doubt away everywhere."""
    times = np.arange(300) / 120
    rng = np.random.default_rng(4)
    truth = np.stack([600 + 30 * np.sin(3 * times), 400 + 10 * times], axis=1)
    model = Sighting(
        truth + (9.0, -4.0) + rng.normal(0, 2, truth.shape), np.full(300, 2.0), offset=8.0, wander=2.0
    )
    flow = Links(np.diff(truth, axis=0), np.full(299, 0.3))
    alone = solve_tracks(times, {"p": PointData((model,), (flow,), RESTLESS, FASTEST)})["p"]
    assert alone.sigma.min() > 7.0 and np.abs(alone.xy - truth).max() < 2 * alone.sigma.max()
    xy, sigma = np.full((300, 2), np.nan), np.full(300, np.nan)
    xy[150], sigma[150] = truth[150], 1.0
    mark = Sighting(xy, sigma, by_hand=True)
    marked = solve_tracks(times, {"p": PointData((mark, model), (flow,), RESTLESS, FASTEST)})["p"]
    assert np.abs(marked.xy - truth).max() < 4.0
    assert marked.sigma.max() < 3.5 and marked.sigma[150] < 1.1


def test_looking_long_at_a_hidden_joint_tells_no_more_than_looking_once():
    """Twice the frames of a second behind the other leg leave its doubt as it is; scatter would halve it."""

    def at_middle(rate, **hidden):
        count = 2 * rate
        times = np.arange(count) / rate
        out = np.abs(times - 1) < 0.3
        widened = {
            name: np.where(out, 4.0, 1.0) * value if name == "sigma" else np.where(out, value, 1.0)
            for name, value in hidden.items()
        }
        seen = Sighting(
            np.full((count, 2), 300.0),
            widened.get("sigma", np.full(count, 1.0)),
            wander=5.0,
            wander_s=1.0,
            doubt=widened.get("doubt"),
        )
        return solve_tracks(times, {"p": PointData((seen,), (), RESTLESS, FASTEST)})["p"].sigma[count // 2]

    few, many = (at_middle(rate, doubt=4.0) for rate in (60, 240))
    assert few > 1.5 * at_middle(60) and many == pytest.approx(few, rel=0.1)
    assert at_middle(240, sigma=1.0) < 1.2 * at_middle(240)
