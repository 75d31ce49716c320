"""The pelvis by its outline, and the ball by its going: drawn truth, and the simulated golfer."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from kneel.vision.ball import find_ball
from kneel.vision.landmarks.hands import LEFT, RIGHT, grip_of
from kneel.vision.landmarks.outline import OUTLINE_SHARE, ROWS, face_on, hip_edges, hips_moved, seat_of
from kneel.vision.landmarks.region import Region
from kneel.vision.landmarks.swinging import Swung
from kneel.vision.struck import struck

METRE = 300.0


def body(middle_x, hips_x, *, broad=90.0):
    """Landmarks (39, 2) of a body whose network hips lie at ``hips_x``, its pelvis at ``middle_x``."""
    xy = np.zeros((39, 2))
    xy[11], xy[12] = (middle_x + broad / 2, 200), (middle_x - broad / 2, 200)
    xy[23], xy[24] = (hips_x + 25, 330), (hips_x - 25, 330)
    xy[29:31], xy[31:33] = (middle_x - 10, 600), (middle_x + 50, 610)
    return xy


def mask(region, middle_x, half, arm=0.0):
    """Logits of a pelvis as wide as twice ``half`` px, with an arm of ``arm`` px at its left side."""
    x = region.to_picture(np.stack([np.arange(256) + 0.5, np.full(256, 128.0)], axis=1), 256)[:, 0]
    edge = np.minimum(x - (middle_x - half - arm), middle_x + half - x)
    return np.tile(np.clip(edge, -8, 8), (256, 1))


def test_hips_follow_the_outline_and_arms_do_not_fool_it():
    """The network has the hips up to 9 px off the outline's middle as it turns: its share is given back."""
    region = Region(400.0, 360.0, 640.0, 0.0)
    t = np.linspace(0, 1, 40)
    middle = 400 + 20 * np.sin(2 * t)
    hips = middle - 9 * np.sin(np.pi * t) + 2.0
    turned = 55 - 12 * np.sin(np.pi * t)
    arms = np.where((t > 0.8) & (t < 0.9), 25.0, 0.0)
    xy = np.stack([body(m, h) for m, h in zip(middle, hips, strict=True)])
    drawn = [mask(region, *seen) for seen in zip(middle, turned, arms, strict=True)]
    edges = np.stack([hip_edges(one, region, k) for one, k in zip(drawn, xy, strict=True)])
    assert np.allclose(edges[0, 0], (middle[0] - 55, middle[0] + 55), atol=0.3)
    assert face_on(xy)
    moved, trusted = hips_moved(xy, edges)
    off = hips + moved / OUTLINE_SHARE - middle
    # A trunk's lean is told from the same hips that err by 9 px: a seventh of that is left.
    assert np.abs(off[trusted] - np.median(off)).max() < 1.3
    assert not trusted[arms > 0].any() and trusted[arms == 0].all()
    assert np.abs(off - np.median(off)).max() < 2.5


@pytest.mark.parametrize("leans_px", [-60.0, 60.0])
def test_rows_beside_the_pelvis_lean_half_as_much_as_the_trunk(leans_px):
    """A trunk of 150 px that comes to lean over hips that stay takes them half as far along."""
    count = 30
    lean = leans_px * np.linspace(0, 1, count)
    xy = np.stack([body(400.0, 400.0)] * count)
    xy[:, 11:13, 0] += lean[:, None]
    middles = 400.0 - 0.5 * lean[:, None] * np.minimum(ROWS, 0.0)
    edges = np.stack([middles - 55.0, middles + 55.0], axis=2)
    moved, trusted = hips_moved(xy, edges)
    assert trusted.all()
    assert np.abs(moved).max() < 0.5


def test_the_seat_is_the_rear_edge_and_side_views_are_told():
    """With toes to the right the seat is the left edge, with toes to the left the right one."""
    region = Region(400.0, 360.0, 640.0, 0.05)
    xy = np.stack([body(400.0, 402.0, broad=20.0)] * 4)
    assert not face_on(xy)
    edges = np.stack([hip_edges(mask(region, 400.0, 40.0), region, k) for k in xy])
    assert edges.shape == (4, len(ROWS), 2)
    assert np.allclose(seat_of(xy, edges), (360.0, 330.0), atol=2.5)
    xy[:, 31:33, 0] = 340.0
    assert np.allclose(seat_of(xy, edges), (440.0, 330.0), atol=2.5)
    nobody = np.full((3, 39, 2), np.nan)
    assert not face_on(nobody) and not hips_moved(nobody, np.full((3, len(ROWS), 2), np.nan))[1].any()


def ground(times_s, leaves, covered=0, *, halves=(30.0, 30.0), ball=225.0, seed=0, size=(240, 400)):
    """Noisy ground with a ball (so bright) at (210, 170) until a frame; a club of two shades hides it."""
    rng = np.random.default_rng(seed)
    base = (90 + cv2.resize(rng.normal(0, 8, (60, 100)), size[::-1])).astype(np.uint8)
    whole = cv2.resize(base, None, fx=4, fy=4, interpolation=cv2.INTER_NEAREST)
    frames = []
    for k in range(len(times_s)):
        fine = whole.copy()
        if ball and k <= leaves:
            cv2.circle(fine, (210 * 4 + 2, 170 * 4 + 2), 26, ball, -1)
        if leaves - covered < k <= leaves + covered:
            for shade, low, high in zip(halves, (158, 170), (170, 186), strict=True):
                cv2.rectangle(fine, (200 * 4, low * 4), (222 * 4, high * 4), shade, -1)
        # A foot that rolls on, large and bright.
        cv2.ellipse(fine, ((120 + 20 * (times_s[k] > 1.4)) * 4, 120 * 4), (80, 40), 0, 0, 360, 220.0, -1)
        seen = cv2.resize(fine, size[::-1], interpolation=cv2.INTER_AREA)
        frames.append(np.clip(seen + rng.normal(0, 2, size), 0, 255).astype(np.uint8))
    return frames


@pytest.mark.parametrize(
    ("rate", "covered", "halves"),
    [
        (120, 0, (30.0, 30.0)),
        (60, 0, (30.0, 30.0)),
        (60, 1, (30.0, 30.0)),
        (240, 2, (30.0, 30.0)),
        (60, 1, (35.0, 150.0)),
        (120, 2, (150.0, 35.0)),
    ],
)
def test_the_ball_is_found_and_the_frame_it_leaves(rate, covered, halves):
    """Its middle to a pixel, the last frame that shows it and the first that does not, also where the club
    hides it for a few frames, and is as bright as the ground on the whole.
    """
    times = np.arange(int(2.2 * rate)) / rate
    leaves = int(1.3 * rate)
    frames = ground(times, leaves, covered, halves=halves)
    ankles = np.array([[120.0, 118.0], [260.0, 118.0]])
    asked = {"top_s": 1.02, "impact_s": 1.3 + 0.02, "px_per_m": METRE}
    ball = find_ball(lambda n: frames[n], times, ankles, **asked)
    assert ball is not None
    assert abs(ball.x - 210) < 1 and abs(ball.y - 170) < 1 and 0.6 < ball.diameter / 13 < 1.4
    assert ball.last == leaves + covered and np.flatnonzero(~ball.covered)[-1] == leaves - covered
    sighting = ball.sighting()
    assert np.isfinite(sighting.xy[: ball.last + 1, 0]).all() and np.isnan(sighting.xy[ball.last + 1 :]).all()
    assert (sighting.sigma[ball.last] > sighting.sigma[0]) == bool(covered)


def test_where_no_ball_goes_none_is_found():
    """A rehearsal without a ball, one that stays, and times outside the clip give nothing."""
    times = np.arange(264) / 120
    ankles = np.array([[120.0, 118.0], [260.0, 118.0]])
    for frames in (ground(times, 156, ball=0.0), ground(times, 10_000)):
        asked = {"top_s": 1.02, "impact_s": 1.32, "px_per_m": METRE}
        assert find_ball(lambda n, f=frames: f[n], times, ankles, **asked) is None
        assert find_ball(lambda n, f=frames: f[n], times, ankles, **{**asked, "impact_s": 9.0}) is None


def test_a_swing_that_left_the_next_ones_ball_was_a_rehearsal():
    """Only where that ball lay before and after it, and only if it struck none itself; slowed down too."""
    rate, pace = 30, 8.0
    clock = np.arange(int(4.4 * rate)) / rate
    swings = [
        Swung(at - 0.7, at, at - 0.3, ((210.0, 109.0), (280.0, 109.0)), trunk_px=0.49 * METRE / 2)
        for at in (1.3, 3.3)
    ]
    slow = [
        replace(
            one, away_s=pace * one.away_s, top_s=pace * one.top_s, struck_s=pace * one.struck_s, pace=pace
        )
        for one in swings
    ]
    lies, bare = ground(clock, round(3.3 * rate)), ground(clock, 0, ball=0.0)
    never, first = ground(clock, 10_000), ground(clock, round(1.3 * rate))

    def told(frames, of=slow, times=pace * clock):
        around = [np.pad(frame, ((100, 10), (300, 20)), mode="edge") for frame in frames]
        return struck(of, lambda n: cv2.resize(around[n], (360, 175), interpolation=cv2.INTER_AREA), times)

    assert told(lies) == told(lies, swings, clock) == [False, True]
    assert told(never) == told(bare) == [None, None]
    put_down, teed = 2 * rate, round(1.35 * rate)
    assert told(bare[:put_down] + lies[put_down:]) == [None, True], "the ball came after it"
    assert told(bare[:teed] + lies[teed:]) == [None, True], "it was seen after it alone"
    assert told(first[:put_down] + lies[put_down:]) == [True, True], "it struck one of its own"
    moved, next_of_a_row = (
        [np.roll(frame, by, axis=(0, 1)) for frame in lies[:put_down]] for by in ((5, -9), (0, 40))
    )
    assert told(moved + lies[put_down:]) == [False, True], "the camera moved in a hand"
    shaken = [np.roll(frame, (k % 5, -k % 7), axis=(0, 1)) for k, frame in enumerate(lies)]
    assert told(shaken) == [False, True], "the camera moves in a hand all the time"
    stain = [np.roll(frame, 6, axis=1) for frame in ground(clock, 10_000, ball=125.0)[:put_down]]
    assert told(stain + lies[put_down:]) == [None, True], "as round, but hardly to be seen"
    assert told(next_of_a_row + lies[put_down:]) == [None, True], "another ball lay there"
    assert told(lies, [*slow, replace(slow[1], top_s=0.0, struck_s=0.0)]) == [False, True, None]
    assert struck(slow, lies.__getitem__, clock, stopped=lambda: True) == [None, None]


def test_one_hand_lost_does_not_move_the_grip():
    """The right hand is guessed 110 px away for 40 frames: the grip stays with the left one."""
    t = np.linspace(0, 1, 120)
    path = np.stack([400 + 150 * np.sin(3 * t), 300 - 200 * t], axis=1)
    xy = np.random.default_rng(0).normal(0, 2, (120, 39, 2))
    xy[:, LEFT] += path[:, None] + (5, 0)
    xy[:, RIGHT] += path[:, None] - (5, 0)
    xy[50:90, RIGHT] += (90, 60)
    xy[110] = np.nan
    grip, alone = grip_of(xy, 480.0)
    seen = np.arange(120) != 110
    assert np.linalg.norm(grip[seen] - path[seen], axis=1).max() < 12
    assert alone[50:90].all() and not alone[:45].any() and not alone[95:].any()
    assert np.isnan(grip[110]).all()
