"""The shaft as a thin line that leaves the hands: drawn truth with arms, blur and noise."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from kneel.vision.club import find_club

METRE, SIZE, FINE, NEAR = 260.0, (480, 640), 4, cv2.INTER_NEAREST


def swing(times, *, rate=1.0, club=True, seed=0, shade=210.0, exposure=0.0, rivals=()):
    """Frames, hands (T, 2) and true angles (T,) of a club turned round moving hands, an arm beside it; in
    frames with ``rivals`` another line like the shaft leaves the hands.
    """
    rng = np.random.default_rng(seed)
    ground = 100 + cv2.resize(rng.normal(0, 10, (60, 80)), SIZE[::-1])
    ground[300:304] = 160.0
    fine = cv2.resize(np.clip(ground, 0, 255).astype(np.uint8), None, fx=FINE, fy=FINE, interpolation=NEAR)
    angle = np.pi / 2 + 2.6 * np.sin(rate * times * 3.0)
    hands = np.stack([320 + 70 * np.sin(3 * times), 220 + 25 * np.cos(5 * times)], axis=1)
    frames = []
    for k, time in enumerate(times):
        small = np.zeros(SIZE)
        moments = np.linspace(-exposure / 2, exposure / 2, 5 if exposure else 1)
        for moment in moments:
            layer = fine.copy()
            at = np.pi / 2 + 2.6 * np.sin(rate * (time + moment) * 3.0)
            hand = np.round(hands[k] * FINE).astype(int)
            elbow = hand + np.round(np.array([-40.0, -90.0]) * FINE).astype(int)
            cv2.line(layer, tuple(hand.tolist()), tuple(elbow.tolist()), 60.0, 20 * FINE)
            for way in (at, at + 0.6)[: club + (k in rivals)]:
                end = hand + np.round(0.9 * METRE * FINE * np.array([np.cos(way), np.sin(way)])).astype(int)
                cv2.line(layer, tuple(hand.tolist()), tuple(end.tolist()), shade, 2 * FINE)
                cv2.circle(layer, tuple(end.tolist()), 5 * FINE, shade, -1)
            small += cv2.resize(layer, SIZE[::-1], interpolation=cv2.INTER_AREA) / len(moments)
        frames.append(np.clip(small + rng.normal(0, 2.5, SIZE), 0, 255).astype(np.uint8))
    return frames, hands, angle


@pytest.mark.parametrize(("shade", "exposure"), [(210.0, 0.0), (20.0, 0.0), (210.0, 0.002)])
def test_the_shaft_is_followed_and_its_end_found(shade, exposure):
    """Bright or dark, sharp or a little blurred, hands known to 2 px: within 4 degrees nearly always."""
    times = np.arange(60) / 60
    frames, hands, angle = swing(times, shade=shade, exposure=exposure)
    rough = hands + np.random.default_rng(3).normal(0, 1.5, hands.shape)
    club = find_club(lambda n: frames[n], times, rough, px_per_m=METRE)
    assert club is not None
    off = np.degrees(np.abs(np.angle(np.exp(1j * (club.angle - angle)))))
    seen = np.isfinite(off)
    assert seen.mean() > 0.85 and (off[seen] < 4).mean() > 0.95
    head = club.clubhead(rough, METRE)
    true = hands + 0.9 * METRE * np.stack([np.cos(angle), np.sin(angle)], axis=1)
    miss = np.linalg.norm(head.xy - true, axis=1)
    assert np.nanmedian(miss) < 0.06 * METRE
    assert (miss[seen] < 2.45 * head.sigma[seen]).mean() > 0.85


def test_where_another_line_may_be_the_shaft_the_error_says_so():
    """Two alike leave the hands for a while: the head is told there with a wider error, or not at all."""
    times = np.arange(60) / 60
    frames, hands, _ = swing(times, rivals=range(26, 36))
    club = find_club(lambda n: frames[n], times, hands, px_per_m=METRE)
    assert club is not None
    rivals, alone = np.arange(28, 34), np.setdiff1d(np.arange(60), np.arange(23, 39))
    assert club.wrong[rivals].min() > 5 * np.median(club.wrong[alone])
    wide = np.nan_to_num(club.clubhead(hands, METRE).sigma, nan=np.inf)
    assert wide[rivals].min() > 1.5 * np.median(wide[alone]) and np.median(wide[alone]) < 0.1 * METRE


def test_an_arm_alone_is_no_club():
    """Hands and an arm that move without a club: nothing is claimed."""
    times = np.arange(60) / 60
    frames, hands, _ = swing(times, club=False)
    assert find_club(lambda n: frames[n], times, hands, px_per_m=METRE) is None
    frames, hands, _ = swing(times)
    assert find_club(lambda n: frames[n], times, hands, px_per_m=METRE, stopped=lambda: True) is None
    assert find_club(lambda n: frames[n], times[:2], hands[:2], px_per_m=METRE) is None
