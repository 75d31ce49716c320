"""One golfer among people: found once, followed by all workers alike, hidden rather than mistaken."""

from __future__ import annotations

from itertools import islice

import numpy as np
import pytest

from kneel.model import Near, View
from kneel.sim.camera import Camera
from kneel.sim.film import Shoot, pictures
from kneel.sim.golfer import Golfer
from kneel.sim.look import Appearance
from kneel.vision import installed
from kneel.vision.landmarks import body
from kneel.vision.landmarks.body import find_landmarks
from kneel.vision.landmarks.looks import OUTSIDE
from kneel.vision.landmarks.networks import CROP_SIZE, Found
from kneel.vision.landmarks.people import Glimpse, Person, choose, nearest_middle
from kneel.vision.landmarks.region import Region
from kneel.vision.landmarks.sides import FACE, HIPS, LEGS, UPPER, exchanged, unswapped

SIZE = (400, 700)
FRAMES, RATE = 90, 30.0
TIMES = np.arange(FRAMES) / RATE

# A standing body 200 px tall seen from the front: its own right side at image left.
_AT = {7: (6, 14), 8: (-6, 14), 11: (24, 40), 12: (-24, 40), 13: (30, 70), 14: (-30, 70), 15: (28, 98)}
_AT |= {16: (-28, 98), 23: (14, 105), 24: (-14, 105), 25: (16, 150), 26: (-16, 150), 27: (17, 190)}
_AT |= {28: (-17, 190), 29: (17, 198), 30: (-17, 198), 31: (22, 200), 32: (-22, 200)}


def landmarks_at(x: float, top: float) -> np.ndarray:
    """All 39 landmarks of a body standing at ``x`` with its head at ``top``."""
    xy = np.tile([0.0, 20.0], (39, 1))
    for k, place in _AT.items():
        xy[k] = place
    for k in (17, 19, 21):
        xy[k], xy[k + 1] = xy[15], xy[16]
    xy[33], xy[34] = (0, 105), (0, -5)
    return xy + (x, top)


class Someone:
    """A drawn person: where in every frame, in which clothes, before or behind the others."""

    def __init__(self, x, shirt, trousers, *, top=150.0, before=0) -> None:
        self.x = np.broadcast_to(np.asarray(x, float), (FRAMES,))
        self.shirt, self.trousers, self.top, self.before = shirt, trousers, top, before

    def landmarks(self, frame: int) -> np.ndarray:
        return landmarks_at(self.x[frame], self.top)


def scene(people):
    """Pictures of drawn people, and networks that see the front one wherever two overlap."""
    order = sorted(people, key=lambda p: p.before)

    def picture(frame: int) -> np.ndarray:
        shown = np.full((*SIZE, 3), 90, np.uint8)
        for one in order:
            x, top = int(one.x[frame]), int(one.top)
            shown[top + 36 : top + 108, max(x - 30, 0) : x + 30] = one.shirt
            shown[top + 108 : top + 198, max(x - 30, 0) : x + 30] = one.trousers
        shown[0, 0, 0] = frame
        return shown

    class Fake:
        def detect(self, shown):
            if shown.shape[:2] != SIZE or shown[0, 0, 0] >= FRAMES:
                # A tile, or a picture that was turned.
                return []
            frame, found = int(shown[0, 0, 0]), []
            for one in reversed(order):
                if any(abs(one.x[frame] - other.x[frame]) < 50 for other in found):
                    continue
                found.append(one)
            return [(0.9, Region(o.x[frame], o.top + 105, 275.0, 0.0)) for o in found]

        def landmarks(self, shown, region, *, mirrored=False):
            frame = int(shown[0, 0, 0])
            near = [o for o in reversed(order) if abs(o.x[frame] - region.x) < 60]
            xy = region.to_crop(near[0].landmarks(frame), CROP_SIZE) if near else np.zeros((39, 2))
            mask = np.full((CROP_SIZE, CROP_SIZE), -5.0)
            return Found(xy, np.ones(39), 1.0 if near else 0.0, mask)

    return picture, Fake


def found(people, monkeypatch, **asked):
    picture, fake = scene(people)
    monkeypatch.setattr(body, "Networks", fake)
    return find_landmarks(lambda: picture, TIMES, **asked)


GOLFER = Someone(300.0, (180, 60, 60), (40, 50, 90))
STANDING = Someone(560.0, (60, 160, 70), (200, 190, 170))


@pytest.mark.parametrize("workers", [1, 2, 3])
@pytest.mark.parametrize("before", [1, -1])
def test_who_walks_past_is_never_taken_for_the_golfer(monkeypatch, workers, before):
    """In front the walker hides the golfer for a while; behind, the golfer is seen throughout."""
    walker = Someone(np.linspace(40, 660, FRAMES), (60, 120, 190), (220, 210, 90), before=before)
    looks = found([GOLFER, walker], monkeypatch, workers=workers)
    truth = np.stack([GOLFER.landmarks(f) for f in range(FRAMES)])
    seen = looks.seen
    np.testing.assert_allclose(looks.xy[seen], truth[seen], atol=0.01)
    overlaps = np.abs(walker.x - 300.0) < 40
    assert seen[np.abs(walker.x - 300.0) > 130].all()
    assert not seen[overlaps].any() if before > 0 else seen.all()
    assert looks.notes == () and looks.height_px == pytest.approx(1.1 * 184.5, rel=0.02)


def test_two_who_stand_are_told_apart_by_the_middle_and_it_is_said(monkeypatch):
    looks = found([GOLFER, STANDING], monkeypatch)
    assert np.nanmax(np.abs(looks.xy[:, 23, 0] - 314.0)) < 0.1
    assert len(looks.notes) == 1 and "nearer the middle" in looks.notes[0]


class Swinging(Someone):
    """Somebody whose hands go up to the head and down again, twice."""

    def landmarks(self, frame: int) -> np.ndarray:
        xy = super().landmarks(frame)
        xy[15:23, 1] -= 90 * np.sin(2 * np.pi * TIMES[frame] / TIMES[-1]) ** 2
        return xy


def test_who_swings_is_the_golfer_though_somebody_stands_nearer_the_middle(monkeypatch):
    """Where both swing the middle tells again, and it is said; hands that are lost once swing nothing."""
    swinger = Swinging(560.0, STANDING.shirt, STANDING.trousers)
    looks = found([GOLFER, swinger], monkeypatch)
    assert np.nanmax(np.abs(looks.xy[:, 23, 0] - 574.0)) < 0.1 and looks.notes == ()
    both = [Swinging(300.0, GOLFER.shirt, GOLFER.trousers), swinger]
    looks = found(both, monkeypatch)
    assert np.nanmax(np.abs(looks.xy[:, 23, 0] - 314.0)) < 0.1 and len(looks.notes) == 1
    at = TIMES.searchsorted(np.arange(0, 3, 0.2))

    def one(x: float, side: float) -> Person:
        xy = both[0].landmarks(0)
        return Person(
            tuple(Glimpse(int(f), Region(x, 0, side, 0), xy[27], True, np.zeros((2, 3)), xy) for f in at)
        )

    middle, aside, far = one(350.0, 300.0), one(560.0, 420.0), one(350.0, 170.0)
    assert nearest_middle([aside, middle, far], 700) is middle and nearest_middle([aside, far], 700) is aside
    assert choose([far, aside], 700, None).golfer is aside and choose([far, aside], 700, None).notes == ()

    class Lost(Someone):
        def landmarks(self, frame: int) -> np.ndarray:
            xy = super().landmarks(frame)
            xy[15:17, 1] -= 120 * (frame < 2)
            return xy

    looks = found([GOLFER, Lost(560.0, STANDING.shirt, STANDING.trousers)], monkeypatch)
    assert np.nanmax(np.abs(looks.xy[:, 23, 0] - 314.0)) < 0.1


def test_who_is_cut_off_or_leaves_is_not_the_golfer(monkeypatch):
    """Nearer the middle, but not whole, or gone half way: the one who stays is taken, without a word."""
    cut = Someone(350.0, (60, 160, 70), (200, 190, 170), top=330.0, before=1)
    assert found([STANDING, cut], monkeypatch).xy[5, 23, 0] == pytest.approx(574.0, abs=0.1)
    leaving = Someone(np.where(TIMES < 1.2, 350.0, 350 + 400 * (TIMES - 1.2)), (60, 160, 70), (9, 9, 9))
    looks = found([STANDING, leaving], monkeypatch)
    assert np.nanmax(np.abs(looks.xy[:, 23, 0] - 574.0)) < 0.1 and looks.notes == ()


@pytest.mark.parametrize(
    ("near", "x"),
    [
        (Near(565.0, 180.0), 574.0),
        (Near(300.0, 330.0), 314.0),
        (Near(600.0, 300.0, 0), 574.0),
        (Near(10.0, 10.0), None),
    ],
)
def test_a_click_outranks_it_all(monkeypatch, near, x):
    """On shirt or shoe of either; on nobody, nobody is taken."""
    looks = found([GOLFER, STANDING], monkeypatch, near=near)
    assert looks.notes == ()
    if x is None:
        assert not looks.seen.any()
    else:
        assert np.nanmax(np.abs(looks.xy[:, 23, 0] - x)) < 0.1


def test_a_click_holds_in_the_frame_it_was_made_in(monkeypatch):
    """Two who change places: the one clicked on at the end is the one who stood elsewhere before."""
    one = Someone(np.linspace(150, 600, FRAMES), (180, 60, 60), (40, 50, 90))
    other = Someone(np.linspace(600, 150, FRAMES), (60, 160, 70), (200, 190, 170), top=190.0)
    late = found([one, other], monkeypatch, near=Near(600.0, 250.0, FRAMES - 1))
    early = found([one, other], monkeypatch, near=Near(600.0, 250.0, 0))
    assert late.xy[2, 33, 0] == pytest.approx(one.x[2], abs=0.1)
    assert early.xy[2, 33, 0] == pytest.approx(other.x[2], abs=0.1)


@pytest.mark.parametrize(
    ("moved", "why"),
    [
        (dict.fromkeys(range(25, 33), (0, -120)), "feet above the hips"),
        (dict.fromkeys((11, 12), (0, 150)), "head down"),
        (dict.fromkeys(range(25, 33), (0, 500)), "legs below the picture"),
        (dict.fromkeys((23, 24), (0, 400)), "hips below the picture"),
        (dict.fromkeys((11, 12), (0, 50)), "no trunk between shoulders and hips"),
    ],
)
def test_what_does_not_stand_in_the_picture_is_nobody(monkeypatch, moved, why):
    """The network makes a body of a bicycle, of legs alone or a face: none is claimed."""

    class Broken(Someone):
        def landmarks(self, frame):
            xy = super().landmarks(frame)
            for k, shift in moved.items():
                xy[k] += shift
            return xy

    looks = found([Broken(300.0, (180, 60, 60), (40, 50, 90))], monkeypatch)
    assert not looks.seen.any(), why


def test_joints_outside_the_picture_are_only_supposed(monkeypatch):
    """Feet cut off by the picture's rim: the body is kept, its feet are not claimed."""
    looks = found([Someone(300.0, (180, 60, 60), (40, 50, 90), top=205.0)], monkeypatch)
    assert looks.seen.all()
    assert (looks.visible[:, 31] == OUTSIDE).all() and (looks.visible[:, 25] > 0).all()


@pytest.mark.parametrize("share", [0.3, 0.7])
def test_a_film_that_is_cut_is_read_in_one_piece(monkeypatch, share):
    """The longer shot counts; a slow change of light, and a walk through the picture, are no cuts."""
    at = int(share * FRAMES)
    picture, fake = scene([GOLFER])
    rng = np.random.default_rng(5)
    walls = [np.kron(rng.integers(40, 220, (8, 14, 1)), np.ones((50, 50, 3))).astype(np.uint8) for _ in "ab"]

    def cut(frame):
        shown = walls[frame >= at].copy()
        middle = np.s_[60:340, 240:360]
        shown[middle] = picture(frame)[middle]
        light = 1 - 0.4 * np.sin(frame / 9) ** 2
        shown = (shown * light).astype(np.uint8)
        shown[0, 0, 0] = frame
        return shown

    monkeypatch.setattr(body, "Networks", fake)
    looks = find_landmarks(lambda: cut, TIMES)
    longer = np.arange(FRAMES) >= at if share < 0.5 else np.arange(FRAMES) < at
    np.testing.assert_array_equal(looks.seen, longer)
    assert "cut in 2 pieces" in looks.notes[0] and not looks.choice_open
    whole = found(
        [GOLFER, Someone(np.linspace(40, 660, FRAMES), (60, 120, 190), (220, 210, 90))], monkeypatch
    )
    assert not any("cut" in note for note in whole.notes)

    def flashed(frame):
        shown = np.full_like(walls[0], 250) if frame in (at, at + 1) else cut(0)
        shown[0, 0, 0] = frame
        return shown

    looks = find_landmarks(lambda: flashed, TIMES)
    assert looks.notes == () and looks.seen[[0, -1]].all()


def test_nobody_there_and_being_stopped(monkeypatch):
    assert not found([], monkeypatch).seen.any()
    assert not found([GOLFER], monkeypatch, stopped=lambda: True).seen.any()


def swapped(xy, frames, pairs):
    out = xy.copy()
    for a, b in pairs:
        out[frames, a], out[frames, b] = xy[frames, b], xy[frames, a]
    return out


@pytest.fixture
def swing():
    """A body that sways, waves and turns a little, with the network's scatter, 120 frames."""
    frames = np.arange(120)
    xy = np.stack([landmarks_at(300 + 12 * np.sin(k / 20), 100.0) for k in frames])
    xy[:, 13:23, 1] -= 60 * np.clip(np.sin(frames / 40), 0, 1)[:, None]
    return xy + np.random.default_rng(2).normal(0, 1.0, xy.shape)


@pytest.mark.parametrize(
    ("first", "last", "groups"),
    [
        (0, 40, (UPPER, FACE, HIPS, LEGS)),
        (50, 83, (UPPER, FACE, HIPS, LEGS)),
        (30, 60, (LEGS,)),
        (100, 110, (HIPS,)),
    ],
)
def test_sides_are_decided_for_the_whole_body_together(swing, first, last, groups):
    """A front taken for a back for a third of the clip, legs taken for each other: all joints come right."""
    broken = swing
    for pairs in groups:
        broken = swapped(broken, slice(first, last), pairs)
    mended = unswapped(broken, 220.0)
    wrong = np.abs(mended - swing).max(axis=(1, 2)) > 1e-9
    assert wrong.sum() <= 2
    np.testing.assert_array_equal(unswapped(swing, 220.0), swing)


@pytest.mark.parametrize("behind", [False, True])
def test_a_back_that_is_seen_by_degrees_is_told_by_hips_that_cannot_cross(swing, behind):
    """At the top the network comes to see a trunk from its other side bit by bit, and leaves that so: no
    joint leaps. Hips seen square on never lie crosswise; those of somebody seen from the side may.
    """
    usual = swapped(swing, slice(None), (*UPPER, *HIPS, *LEGS)) if behind else swing
    other, share = swapped(usual, slice(None), (*UPPER, *HIPS)), np.zeros(len(usual))
    share[40:48], share[48:80], share[80:88] = np.linspace(0, 1, 8), 1.0, np.linspace(1, 0, 8)
    broken = usual + share[:, None, None] * (other - usual)
    mended = unswapped(broken, 220.0, square=True)
    apart, true = ((xy[:, 23, 0] - xy[:, 24, 0]) for xy in (mended, usual))
    assert (apart * np.sign(true) > -7).all() and np.abs((apart - true)[48:80]).max() < 1e-9

    turning, share = usual.copy(), np.concatenate([np.ones(40), np.linspace(1, -1, 80)])
    middle = usual[:, 23:25].mean(axis=1, keepdims=True)
    turning[:, 23:25] = middle + share[:, None, None] * (usual[:, 23:25] - middle)
    np.testing.assert_array_equal(unswapped(turning, 220.0)[:, 23:25], turning[:, 23:25])


@pytest.mark.parametrize("behind", [False, True])
def test_shoulders_that_a_turn_takes_across_lie_as_the_feet_do_while_the_hands_hang(swing, behind):
    """At address it takes a front for a back and comes right by degrees; with the hands up they may cross."""
    swing = swing.copy()
    swing[:, 15:23, 1] += np.interp(np.arange(len(swing)), [0, 20, 30], [50, 50, 0])[:, None]
    usual = swapped(swing, slice(None), (*UPPER, *HIPS, *LEGS)) if behind else swing
    other, share = swapped(usual, slice(None), UPPER), np.zeros(len(usual))
    share[:30], share[30:44] = 1.0, np.linspace(1, 0, 14)
    broken = usual + share[:, None, None] * (other - usual)
    apart, left, true = (
        xy[:, 11, 0] - xy[:, 12, 0]
        for xy in (unswapped(broken, 220.0, square=True), unswapped(broken, 220.0), usual)
    )
    assert (apart * true)[:30].min() > 0 > (left * true)[:30].max()
    # Shoulders that turn past the camera with the hands up do cross.
    turning, share = usual.copy(), np.interp(np.arange(120), [40, 70, 100], [1, -0.6, 1])[:, None, None]
    middle = usual[:, 11:17].mean(axis=1, keepdims=True)
    turning[:, 11:15] = middle + share * (usual[:, 11:15] - middle)
    np.testing.assert_array_equal(unswapped(turning, 220.0, square=True), turning)


@pytest.mark.parametrize("times", [1, 2, 4])
def test_feet_that_change_places_are_exchanged_however_long_and_at_any_rate(swing, times):
    """The network holds legs for each other from the follow-through to the end: feet cannot have leapt."""
    often = np.linspace(0, len(swing) - 1, times * len(swing))
    whole = np.floor(often).astype(int)
    following = np.minimum(whole + 1, len(swing) - 1)
    share = (often - whole)[:, None, None]
    fine = (1 - share) * swing[whole] + share * swing[following]
    broken = swapped(fine, slice(round(0.55 * len(fine)), None), LEGS)
    mended = unswapped(broken, 220.0, 1 / (60 * times))
    assert np.abs(mended - fine).max() < 1e-9


def test_a_hand_lost_on_one_side_and_then_on_the_other_exchanges_no_shoulders(swing):
    """Both hands hold a club; as the trunk opens the network shows the left one far off, then the right."""
    shown, top = swing[::5].copy(), 12
    opened = np.interp(
        np.arange(len(shown)), [top - 4, top - 1, top + 2, top + 6, top + 8], [1, 0.1, 0.8, 0.8, 0.1]
    )
    for left, right in ((11, 12), (13, 14), (15, 16)):
        middle, apart = (shown[:, left] + shown[:, right]) / 2, (shown[:, left] - shown[:, right]) / 2
        apart *= opened[:, None] * (left != 15)
        shown[:, left], shown[:, right] = middle + apart, middle - apart
    far = np.array([60.0, 90.0])
    shown[top - 2 : top, 15] += far
    shown[top, 16] += far
    np.testing.assert_array_equal(unswapped(shown, 220.0, 5 / 120, square=True), shown)


@pytest.mark.parametrize(
    ("view", "mirrored", "from_behind", "wrong"),
    [
        (View.FACE_ON, False, False, False),
        (View.FACE_ON, False, True, True),
        (View.FACE_ON, True, False, True),
        (View.REAR, False, False, True),
        (View.REAR, False, True, False),
        (View.REAR, True, True, True),
        (View.DOWN_THE_LINE, False, True, False),
        (View.DOWN_THE_LINE, True, False, True),
        (None, False, True, False),
        (None, True, True, True),
    ],
)
def test_view_and_mirror_tell_which_side_lies_where(swing, view, mirrored, from_behind, wrong):
    """Facing the camera the right side is at image left, from behind at image right; a mirror turns both."""
    every = (*UPPER, *HIPS, *LEGS)
    seen = swapped(swing, slice(None), every) if from_behind else swing
    assert exchanged(seen, view, mirrored=mirrored) is wrong


@pytest.mark.skipif(not installed(), reason="the body-landmark network is not installed")
def test_two_drawn_golfers_side_by_side():
    """With the network itself: the one clicked on, by one worker or two, within the network's own scatter."""
    looks = (Appearance(shirt=(170, 90, 80)), Appearance(shirt=(70, 110, 170), trousers=(200, 196, 180)))
    camera = Camera(width=480, height=540)
    shoots = [Shoot(Golfer(172.0, look=look), camera=camera, rate=10.0) for look in looks]
    reels = [[*islice(pictures(shoot), 11)] for shoot in shoots]
    shown = [np.hstack([a, reels[1][5]]) for a in reels[0]]
    times = np.arange(len(shown)) / 10
    truth = shoots[0].truth().pixels
    for near, middle in ((Near(240.0, 270.0), None), (Near(720.0, 270.0, 10), 5)):
        both = [find_landmarks(lambda: shown.__getitem__, times, near=near, workers=n) for n in (1, 2)]
        for one in both:
            assert one.seen.mean() > 0.9
            frames = np.arange(len(shown)) if middle is None else np.full(len(shown), middle)
            expected = (truth["left_knee"] + truth["right_knee"])[frames] / 2 + (
                480 * (middle is not None),
                0,
            )
            off = np.linalg.norm(one.xy[:, 25:27].mean(axis=1) - expected, axis=1)
            assert np.nanmax(off) < 15
        apart = np.linalg.norm(both[0].xy - both[1].xy, axis=2)[:, 23:29]
        assert np.nanmedian(apart) < 3
