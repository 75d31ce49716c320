"""Both hips and both shoulders: solved by their middle and half of what lies between them."""

from dataclasses import replace

import numpy as np
import pytest
from numpy.testing import assert_allclose

from kneel.model import Links, Sighting, View
from kneel.motion import pairing
from kneel.motion.pairing import solve_pairs
from kneel.motion.pairs import Paired, longer_sigma, middle_and_apart, with_mark
from kneel.motion.track import PointData, solve_tracks
from kneel.vision.landmarks.doubt import doubts_together
from tests.numbers import looked

COUNT = 60
TIMES = np.arange(COUNT) / 60
SIDES = ("left", "right")
PATH = np.stack([400 + 20 * np.sin(4 * TIMES), 300 + 5 * np.cos(3 * TIMES)], axis=1)
WIDE = np.array([25.0, 2.0])


def ends(doubt=None, together=None, offs=(0.0, 0.0), marks=(), links=0.8):
    """Both hips as one look sees them, off by ``offs`` (T, 2) each; ``marks`` are (side, frame)."""
    points = {}
    for way, side, off in ((1, "left", offs[0]), (-1, "right", offs[1])):
        true = PATH + way * WIDE
        look = Sighting(
            true + off,
            np.full(COUNT, 1.5),
            offset=2.0,
            wander=6.0,
            wander_s=0.3,
            doubt=doubt,
            doubt_together=np.ones(COUNT) if together is None else together,
        )
        xy, sigma = np.full((COUNT, 2), np.nan), np.full(COUNT, np.nan)
        for _, frame in (one for one in marks if one[0] == side):
            xy[frame], sigma[frame] = true[frame], 1.5
        steps = Links(np.diff(true, axis=0), np.full(COUNT - 1, links))
        points[f"{side}_hip"] = PointData((Sighting(xy, sigma, by_hand=True), look), (steps,))
    return points


@pytest.fixture
def apart(monkeypatch):
    """Ends whose errors have nothing to do with each other: middle and half err alike."""
    monkeypatch.setitem(pairing.SIZES, "hip", (1 / np.sqrt(2),) * 4)
    monkeypatch.setattr(pairing, "LEVEL", 1.0)


@pytest.mark.parametrize(
    "marks",
    [(), (("left", 20), ("right", 20)), (("left", 20),), (("right", 41), ("left", 12), ("left", 41))],
)
def test_two_ends_that_err_apart_come_out_as_each_by_itself(apart, marks):
    """Places, errors, covariances and what a single mark does, against each end solved alone."""
    rng = np.random.default_rng(3)
    points = ends(offs=rng.normal(0, 0.5, (2, COUNT, 2)), marks=marks)
    found, alone = solve_pairs(TIMES, points, View.DOWN_THE_LINE), solve_tracks(TIMES, points)
    for name, track in found.items():
        assert isinstance(track, Paired)
        assert_allclose(track.xy, alone[name].xy, atol=2e-3)
        assert_allclose(track.sigma, alone[name].sigma, rtol=1e-4)
        assert_allclose(track.covariance_with(30), alone[name].covariance_with(30), atol=1e-3)
    left, right = (found[f"{side}_hip"] for side in SIDES)
    shared, across = left.alike(right), left.together(right, 30)
    assert abs(shared).max() < 1e-4 and abs(across).max() < 1e-3


@pytest.mark.parametrize("joint", ["hip", "shoulder"])
@pytest.mark.parametrize("doubted", [1.0, 4.0])
def test_each_part_is_as_unsure_as_it_is_said_to_be(joint, doubted):
    """What lasts and what wanders, by their sizes; ends that are hard to tell apart are so across the
    picture, hips not up it. A frame that no look has, and what one end alone was followed by, change
    nothing.
    """
    points = {}
    for name, data in ends(np.full(COUNT, doubted), links=50.0).items():
        look = data.sightings[1]
        xy = np.where((np.arange(COUNT) == 7)[:, None], np.nan, look.xy)
        seen = replace(look, xy=xy, sigma=np.full(COUNT, 0.05), clock=np.arange(COUNT) / 1e6)
        links = data.links if name.startswith("left") else ()
        points[name.replace("hip", joint)] = PointData((seen,), links, 1e5)
    left, right = (solve_pairs(TIMES, points)[f"{side}_{joint}"] for side in SIDES)
    middle, apart = (error[30] for error in middle_and_apart(left, right))
    flat, high, half, up = pairing.SIZES[joint]
    hip = joint == "hip"
    lasting = 2.0 * (pairing.LEVEL if hip else 1.0)
    stated = [
        flat * np.hypot(2, 6),
        high * np.hypot(2, 6),
        half * np.hypot(2, 6 * doubted),
        up * np.hypot(lasting, 6 * (1.0 if hip else doubted)),
    ]
    assert_allclose([*middle, *(apart / 2)], stated, rtol=0.02)


def test_ends_taken_for_each_other_leave_their_middle_as_it_is():
    """Half way each is seen where the other is: the ends are as unsure as that, their middle is not."""
    off = np.where((np.arange(COUNT) >= 20) & (np.arange(COUNT) < 40), 1.0, 0.0)[:, None] * -1.6 * WIDE
    doubt = np.where(off.any(axis=1), 6.0, 1.0)
    found = solve_pairs(TIMES, ends(doubt, offs=(off, -off), links=9.0))
    middle = (found["left_hip"].xy + found["right_hip"].xy) / 2
    assert abs(middle - PATH).max() < 0.3
    left, right = (found[f"{side}_hip"] for side in SIDES)
    shared, own = left.alike(right), left.alike(left)
    of_middle = left.sigma[:, None] ** 2 * (own + shared) / 2
    assert of_middle[30, 0] < 1.3 * of_middle[5, 0] and left.sigma[30] > 1.1 * left.sigma[5]


def test_where_neither_end_is_seen_the_middle_is_as_unsure():
    """A bag before both hips: what both are off by together grows too."""
    hidden = np.where(np.arange(COUNT) < 30, 1.0, 4.0)
    sure, unsure = (solve_pairs(TIMES, ends(together=t, links=9.0))["left_hip"] for t in (None, hidden))
    assert unsure.sigma[50] > 1.3 * sure.sigma[50] and unsure.sigma[5] < 1.1 * sure.sigma[5]


def test_draws_scatter_as_the_errors_are_stated():
    """Of both ends, by axis and together, a mark on one of them included; alike when drawn again."""
    found = solve_pairs(TIMES, ends(np.linspace(1, 4, COUNT), marks=(("left", 15),)))
    left, right = (found[f"{side}_hip"] for side in SIDES)
    frames = np.array([5, 15, 50])
    a, b = (track.draws(20_000, [1, 2], frames) for track in (left, right))
    for one, other, track, twin in ((a, a, left, left), (b, b, right, right), (a, b, left, right)):
        share, across = track.alike(twin), track.together(twin, 50)
        stated = share[frames] * (track.sigma * twin.sigma)[frames, None]
        assert_allclose((one * other).mean(axis=0), stated, rtol=0.1, atol=0.6)
        assert_allclose((one[:, 0] * other[:, 2]).mean(axis=0), across[5], rtol=0.15, atol=0.6)
    middle, apart = middle_and_apart(left, right)
    assert_allclose(((a + b) / 2).std(axis=0), middle[frames], rtol=0.05)
    assert_allclose((a - b).std(axis=0), apart[frames], rtol=0.05)
    longer = longer_sigma(left, right, 50)
    assert_allclose(((a - b)[:, :2] - (a - b)[:, 2:]).std(axis=0)[:, 0], longer[[5, 15]], rtol=0.05)
    with_both, total = left.pair.longer(50, 5)
    across = ((a - b)[:, 2] - (a - b)[:, 0]) / 2
    assert_allclose((across**2).mean(axis=0)[0], total[0], rtol=0.05)
    for end, sign in ((a, 1), (b, -1)):
        stated = with_both[0, frames, 0] + sign * with_both[1, frames, 0]
        assert_allclose((end * across[:, None]).mean(axis=0)[:, 0], stated, rtol=0.1, atol=0.5)
    assert_allclose(left.draws(20_000, [1, 2], frames), a)
    assert a[:, 1].std() < 0.5 * b[:, 1].std()


@pytest.mark.parametrize("moved", [False, True])
def test_a_mark_under_the_hand_moves_both_ends_as_solving_anew_does(moved):
    """Set anew on one end, or moved: places and errors of both against the solver's own."""
    doubt = np.linspace(1, 4, COUNT)
    rng = np.random.default_rng(1)
    offs = rng.normal(0, 0.5, (2, COUNT, 2)) + 3.0
    before = solve_pairs(TIMES, ends(doubt, offs=offs, marks=(("left", 20),) if moved else ()))
    anew = ends(doubt, offs=offs, marks=(("left", 20),))
    xy = (PATH + WIDE)[20] + (4.0, -2.0)
    sighting = anew["left_hip"].sightings[0]
    seen = sighting.xy.copy()
    seen[20] = xy
    anew["left_hip"] = PointData(
        (Sighting(seen, sighting.sigma, by_hand=True), *anew["left_hip"].sightings[1:]),
        anew["left_hip"].links,
    )
    after = solve_pairs(TIMES, anew)
    found = with_mark(before, "left_hip", 20, xy, 1.5, (PATH + WIDE)[20] if moved else None)
    assert set(found) == {"left_hip", "right_hip"}
    for name, track in found.items():
        assert_allclose(track.xy, after[name].xy, atol=0.02)
        assert_allclose(track.sigma, after[name].sigma, rtol=1e-3)


def test_paths_of_a_swing_are_drawn_with_both_ends_at_once():
    """The middle of both hips is drawn as sure as it is, though each is as unsure as they are apart."""
    study = looked(10, lone="left_ankle")
    places = study.places
    frames = np.array([places.address_frame, 90])
    drawn = sum(places.draws(point, 4000, frames) for point in ("lead_hip", "trail_hip")) / 2
    pairs_of = [("lead_hip", "lead_hip"), ("trail_hip", "trail_hip"), ("lead_hip", "trail_hip")]
    stated = sum(
        (1 + (a != b)) * places.alike[a, b].now[90] * places.sigma[a][90] * places.sigma[b][90]
        for a, b in pairs_of
    )
    assert_allclose((drawn[:, 1] ** 2).mean(axis=0), stated / 4, rtol=0.12)


def test_a_pair_of_which_tape_shows_one_end_is_solved_end_by_end():
    """A spot of tape has an error of its own, which no middle has."""
    points = ends()
    tape = Sighting(PATH + WIDE, np.full(COUNT, 1.0))
    points["left_hip"] = PointData((*points["left_hip"].sightings, tape))
    assert not any(isinstance(track, Paired) for track in solve_pairs(TIMES, points).values())


def test_the_middle_is_doubted_where_neither_end_is_visible():
    """One that is seen is enough; speed tells a little, how near the ends look nothing."""
    xy, frames = np.zeros((40, 39, 2)), np.arange(40)
    xy[:, 23] = xy[:, 24] = np.linspace(0, 0.3, 40)[:, None] * (1.0, 0.0)
    visible = np.ones((40, 39))
    visible[:, 23], visible[20:, 24] = 0.2, 0.2
    slow = doubts_together(xy, visible, frames, np.arange(40) / 4, "hip")
    assert slow[:20] == pytest.approx(1.0) and slow[20:] == pytest.approx(4.0)
    fast = doubts_together(xy, visible, frames, np.arange(40) / 60, "hip")
    assert 1.5 < fast[10] < 2.0


def test_a_pelvis_that_sets_off_toward_the_target_is_told_in_time():
    """Both hips go as one: half a metre a second within a tenth is as ordinary of their middle as of either,
    and less is believed of it toward the ball.
    """
    px_per_m = 400.0
    went = np.clip(TIMES - TIMES[COUNT // 2], 0.0, None)
    going = 0.5 * px_per_m * np.where(went < 0.1, went**2 / 0.2, went - 0.05)
    points = {
        name: replace(
            one,
            sightings=tuple(replace(s, xy=s.xy + going[:, None] * [1.0, 0.0]) for s in one.sightings),
            links=(),
            restless=2.0 * px_per_m,
            fastest=1.0 * px_per_m,
        )
        for name, one in ends().items()
    }
    late, sure = {}, {}
    for view in (View.FACE_ON, View.REAR, View.DOWN_THE_LINE):
        pair = solve_pairs(TIMES, points, view)["left_hip"].pair
        late[view] = float(np.abs(pair.xy[0, :, 0] - PATH[:, 0] - going).max())
        sure[view] = float(pair.middle[0].sigma.mean())
    assert late[View.FACE_ON] == late[View.REAR] < 0.75 * late[View.DOWN_THE_LINE]
    assert sure[View.FACE_ON] > sure[View.DOWN_THE_LINE]
