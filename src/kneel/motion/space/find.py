"""From two clips on one clock to the body that both show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kneel.model import View, anatomical
from kneel.motion.failure import Failed
from kneel.motion.places import Places, Timed
from kneel.motion.sample import Sample
from kneel.motion.space.body import ADDRESS, POINTS, Body, Seen
from kneel.motion.space.bundle import solve
from kneel.motion.space.clock import Clock
from kneel.motion.stand import HEIGHT_SIGMA_M
from kneel.motion.study import Study

FloatArray = NDArray[np.float64]

UNSEEN_CM = 1000.0
HIDDEN_CM = {"hip": (1.5, 4.0), "shoulder": (3.0, 3.0)}
"""Joints of a pair that nobody marked are seen off by so much from pose to pose where one hides the other,
until the top and after it (simulated clips): each as much as the other, and the other way."""

OPEN = ("impact", "through", "follow", "finish")
"""Where pelvis and chest are open to the target."""

LEAST_KEPT = 0.6
""":func:`_confused`: of a turn half way back at least so much is there at the top."""


def find_body(
    across: Study,
    along: Study,
    clock: Clock,
    stature_cm: float,
    *,
    between: int = 0,
    near: Body | None = None,
) -> Body | Failed:
    """The body at the checkpoints of the first camera's swing, told by both, and at so many moments between
    the first and the last of them; ``near`` is the one before a little was changed.

    >>> from kneel.motion.space.example import example_pair
    >>> body = find_body(*example_pair(), Clock(0.1, 0.003, 0.1), 175.0)
    >>> round(float(body.at("lead_hip", "top")[1] - body.at("lead_knee", "top")[1]), -1)
    40.0
    """
    for study in (across, along):
        if isinstance(study.places, Failed):
            return study.places
    assert isinstance(across.places, Places) and isinstance(along.places, Places)
    points = tuple(
        p for p in POINTS if across.places.track(p) is not None and along.places.track(p) is not None
    )
    needed = {f"{side}_{joint}" for side in ("lead", "trail") for joint in ("hip", "ankle")}
    if not needed <= {*points}:
        return Failed("Hips and ankles have to be known in both clips.", "points")
    found = _moments(across, along, clock, between)
    if not found or found[0][0] != ADDRESS:
        return Failed("Both clips have to show address, and it has to be known across the line.", "address")
    names, times = tuple(name for name, _ in found), np.array([time for _, time in found])
    here = np.interp(times, across.times_s, np.arange(len(across.times_s)))
    there = np.interp(times + clock.offset_s, along.times_s, np.arange(len(along.times_s)))
    timed_here, timed_there = (
        [Timed(name, float(frame), 0.0) for name, frame in zip(names, frames, strict=True)]
        for frames in (here, there)
    )
    seen = (
        _seen(across.places.sample_at(timed_here, {}), across, points, names),
        _seen(along.places.sample_at(timed_there, {}), along, points, names),
    )
    before = near.values if near is not None else None
    solved = solve(seen, points, names, stature_cm, clock.sigma_s, before)
    return replace(solved, times_s=times)


def _moments(across: Study, along: Study, clock: Clock, between: int) -> list[tuple[str, float]]:
    """Names and times of the checkpoints that both clips show, and of so many moments between, in order."""
    known = [
        (name, point.time_s)
        for name, point in across.checkpoints.items()
        if along.times_s[0] <= point.time_s + clock.offset_s <= along.times_s[-1]
    ]
    if not known or not between:
        return known
    more = np.linspace(known[0][1], known[-1][1], between + 2)[1:-1]
    gap = (known[-1][1] - known[0][1]) / (between + 1)
    # A checkpoint nearby tells as much.
    apart = [t for t in more.tolist() if min(abs(t - at) for _, at in known) > gap / 3]
    return sorted([*known, *((f"{t:.3f} s", t) for t in apart)], key=lambda one: one[1])


def _seen(sample: Sample, study: Study, points: Sequence[str], names: Sequence[str]) -> Seen:
    assert isinstance(study.places, Places)
    per = study.places.scale.cm_per_unit
    stand = study.stand
    places = np.nan_to_num(np.stack([sample.now[p] for p in points])) * per
    pace = np.nan_to_num(np.stack([sample.pace[p] for p in points])) * per
    spread: list[FloatArray] = []
    hidden = [_hidden(study, p, names) for p in points]
    apart = tuple(
        (k, points.index(other), hidden[k])
        for k, p in enumerate(points)
        if p.startswith("lead_") and (other := p.replace("lead_", "trail_")) in points
        if hidden[k].any() and hidden[points.index(other)].any()
    )
    for k, p in enumerate(points):
        known = np.isfinite(sample.now[p]).all(axis=1) & np.isfinite(sample.sigma[p])
        lasts = np.where(known[:, None], np.nan_to_num(sample.lasts[p]), 0.0)
        own = np.maximum(sample.sigma[p] ** 2 - (lasts**2).sum(axis=1), (0.05 / per) ** 2)
        if not any(k in pair for *pair, _ in apart):
            own = own + (hidden[k] / per) ** 2
        # What is not seen at a moment says nothing there.
        own = np.where(known, own, (UNSEEN_CM / per) ** 2)
        spread.append((np.diag(own) + lasts @ lasts.T) * per**2)
    for pair in _confused(study, points, names, places[..., 0]):
        _unseen(pair, places, spread, names)
    return Seen(
        study.setup.view,
        places,
        np.stack(spread),
        pace,
        float(np.hypot(study.places.scale.relative, study.places.scale.cm_relative)),
        100 * stand.distance_m,
        100 * stand.height_m,
        100 * max(stand.height_sigma_m, HEIGHT_SIGMA_M / 2),
        stand.roll_sigma,
        apart,
    )


def _hidden(study: Study, point: str, names: Sequence[str]) -> FloatArray:
    """What a point is seen off by from pose to pose (K,), cm: down the line one of a pair hides the other,
    and the arms come down before both.
    """
    before, after = HIDDEN_CM.get(point.rpartition("_")[2], (0.0, 0.0))
    if study.setup.view is not View.DOWN_THE_LINE or not _unmarked(study, point):
        return np.zeros(len(names))
    top = study.checkpoints["top"].time_s if "top" in study.checkpoints else np.inf
    late = [name in study.checkpoints and study.checkpoints[name].time_s > top for name in names]
    return np.where(late, after, before)


def _unseen(
    pair: tuple[int, int], places: FloatArray, spread: list[FloatArray], names: Sequence[str]
) -> None:
    """Let a confused pair say nothing; it is looked for on the side where a pelvis is then."""
    lead, trail = pair
    middle = (places[lead, :, 0] + places[trail, :, 0]) / 2
    half = np.abs(places[lead, :, 0] - places[trail, :, 0]) / 2
    open_ = np.array([name in OPEN for name in names])
    half = np.where(open_, -half, half)
    places[lead, :, 0], places[trail, :, 0] = middle + half, middle - half
    for p in pair:
        spread[p] = UNSEEN_CM**2 * np.eye(len(names))


def _unmarked(study: Study, point: str) -> bool:
    """Whether a point was found by itself, and nobody marked it anywhere in the clip."""
    name = anatomical(point, study.setup.hand)
    data = study.points.get(name)
    marked = data is not None and any(one.by_hand and np.isfinite(one.xy).any() for one in data.sightings)
    return name in study.setup.guessed and not marked


def _confused(
    study: Study, points: Sequence[str], names: Sequence[str], ways: np.ndarray
) -> list[tuple[int, int]]:
    """Pairs of whom left and right are confused on the way to the top: nobody is less turned there than half
    way back. ``ways`` (P, K) are towards the ball, cm.
    """
    if study.setup.view is not View.DOWN_THE_LINE or not {ADDRESS, "half_back", "top"} <= {*names}:
        return []
    found = []
    for joint in HIDDEN_CM:
        pair = [points.index(f"{side}_{joint}") for side in ("lead", "trail") if f"{side}_{joint}" in points]
        if len(pair) < 2 or not all(_unmarked(study, points[p]) for p in pair):
            continue
        apart = ways[pair[0]] - ways[pair[1]]
        start, back, top = (apart[names.index(name)] for name in (ADDRESS, "half_back", "top"))
        if top - start < LEAST_KEPT * (back - start):
            found.append((pair[0], pair[1]))
    return found
