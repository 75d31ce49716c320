"""Quantities of the whole swing: times, shares, when something starts or is fastest.

Functions of measures' series (B, T), times (T,) s and checkpoints (B,) s, for B draws at once. Much here
picks an extreme or a first crossing, so that errors come from draws.
"""

from __future__ import annotations

from typing import Final

import numpy as np

from kneel.motion.measures.registry import ACROSS, ALONG, ANY, FloatArray, Moments, Series, Unit, once
from kneel.motion.measures.series import between, extreme, first, smoothed, value_at

LEAVES_CM, UP_CM = 1.5, 0.5
"""Head or chest has left its height beyond this; a heel is up beyond that (domain, in cm of a usual body)."""

ARC_CM, ARC_REACH_CM = 20.0, 40.0
"""The arc's foot is fitted where the clubhead is so little over its lowest, about so far to each side."""

LEAST_TRAVEL, LEAST_TURN_DEG, LEAST_GROWTH_CM = 2.0, 8.0, 1.0
"""A share is told of no less travel (cm), turn or straightening: of nothing there is no share."""


UNSURE_MS: Final = 250.0
"""When something leaves its height is not told where that may be off by a part of the swing like this."""

PEAK_SIGMA_MS: Final = 35.0
"""Foreshortening hides how fast a turn is near square, where it is fastest (simulated swings)."""


@once(
    "backswing_time",
    "Backswing time",
    Unit.SECONDS,
    views=ANY,
    at=("address", "top"),
    positive="slow",
    check="about 0.75 s (common practice, no source)",
)
def backswing_time(_: Series, __: FloatArray, at: Moments) -> FloatArray:
    """From address to the top.

    >>> at = {"address": np.array([1.0]), "top": np.array([1.75])}
    >>> backswing_time({}, np.array([]), at).tolist()
    [0.75]
    """
    return at["top"] - at["address"]


@once(
    "downswing_time",
    "Downswing time",
    Unit.SECONDS,
    views=ANY,
    at=("top", "impact"),
    positive="slow",
    check="0.25 to 0.33 s (common practice, no source)",
)
def downswing_time(_: Series, __: FloatArray, at: Moments) -> FloatArray:
    """From the top to impact.

    >>> at = {"top": np.array([1.75]), "impact": np.array([2.0])}
    >>> downswing_time({}, np.array([]), at).tolist()
    [0.25]
    """
    return at["impact"] - at["top"]


@once(
    "tempo",
    "Tempo",
    Unit.RATIO,
    views=ANY,
    at=("address", "top", "impact"),
    positive="backswing slow",
    check="about 3 : 1 (Grober and Cholewicki, from memory)",
)
def tempo(_: Series, __: FloatArray, at: Moments) -> FloatArray:
    """Backswing time over downswing time.

    >>> at = {"address": np.array([1.0]), "top": np.array([1.75]), "impact": np.array([2.0])}
    >>> tempo({}, np.array([]), at).tolist()
    [3.0]
    """
    return (at["top"] - at["address"]) / np.maximum(at["impact"] - at["top"], 1e-3)


@once(
    "pelvis_lead_time",
    "Pelvis before the hands",
    Unit.MILLISECONDS,
    views=ACROSS,
    series=("pelvis_shift",),
    at=("half_back", "top", "delivery"),
    own=20.0,
    positive="pelvis starts before the top",
)
def pelvis_lead_time(series: Series, times: FloatArray, at: Moments) -> FloatArray:
    """How long before the top the pelvis starts toward the target.

    >>> times = np.linspace(0.0, 1.0, 101)
    >>> at = {"half_back": np.array([0.3]), "top": np.array([0.6]), "delivery": np.array([0.9])}
    >>> shift = np.abs(times - 0.5)[None]
    >>> pelvis_lead_time({"pelvis_shift": shift}, times, at).round(-1).tolist()
    [100.0]
    """
    shift = smoothed(series["pelvis_shift"], times)
    start, _ = extreme(-shift, times, between(times, at["half_back"] - 0.2, at["delivery"]))
    return 1000 * (at["top"] - start)


@once(
    "shift_share",
    "Shift done at delivery",
    Unit.RATIO,
    views=ACROSS,
    series=("pelvis_shift",),
    at=("half_back", "top", "delivery", "follow"),
    positive="early",
    own=0.02,
    none="The pelvis hardly travels, so there is no share of it.",
)
def shift_share(series: Series, times: FloatArray, at: Moments) -> FloatArray:
    """Share of the forward pelvis travel that is done at delivery.

    >>> times = np.arange(100) / 100
    >>> path = {"pelvis_shift": np.interp(times, [0.3, 0.5, 0.7, 0.9], [0.0, -4.0, 4.0, 8.0])[None]}
    >>> moments = {"half_back": 0.4, "top": 0.5, "delivery": 0.7, "follow": 0.95}
    >>> at = {name: np.array([time]) for name, time in moments.items()}
    >>> shift_share(path, times, at).round(2).tolist()
    [0.64]
    """
    shift = smoothed(series["pelvis_shift"], times)
    _, low = extreme(-shift, times, between(times, at["half_back"] - 0.2, at["delivery"]))
    _, high = extreme(shift, times, between(times, at["top"], at["follow"]))
    travel = high + low
    done = value_at(shift, times, at["delivery"]) + low
    return np.where(travel > LEAST_TRAVEL, done / np.maximum(travel, 1e-9), np.nan)


@once(
    "turn_share",
    "Turn after delivery",
    Unit.RATIO,
    views=ACROSS,
    series=("pelvis_turn",),
    at=("top", "delivery", "follow"),
    positive="late",
    none="The pelvis hardly opens, so there is no share of it.",
)
def turn_share(series: Series, times: FloatArray, at: Moments) -> FloatArray:
    """Share of the turn from the top to the follow-through that comes after delivery.

    >>> times = np.arange(100) / 100
    >>> path = {"pelvis_turn": np.interp(times, [0.5, 0.7, 0.9], [-40.0, 20.0, 60.0])[None]}
    >>> at = {name: np.array([time]) for name, time in (("top", 0.5), ("delivery", 0.7), ("follow", 0.9))}
    >>> turn_share(path, times, at).round(2).tolist()
    [0.4]
    """
    top, mid, end = (value_at(series["pelvis_turn"], times, at[n]) for n in ("top", "delivery", "follow"))
    return np.where(end - top > LEAST_TURN_DEG, (end - mid) / np.maximum(end - top, 1e-9), np.nan)


@once(
    "extension_share",
    "Straightening before square",
    Unit.RATIO,
    views=ACROSS,
    series=("lead_leg_length", "pelvis_turn"),
    at=("top", "follow"),
    positive="early",
    none="The lead leg hardly straightens, or the pelvis does not get square.",
    own=0.1,
)
def extension_share(series: Series, times: FloatArray, at: Moments) -> FloatArray:
    """Share of the lead leg's straightening that is done before the pelvis is square.

    The leg's bend is told by how much shorter it looks than at its longest.

    >>> times = np.linspace(0.0, 1.0, 101)
    >>> leg = np.interp(times, [0.5, 0.6, 0.7, 1.0], [80.0, 80.0, 84.0, 84.0])[None]
    >>> turn = lambda square: np.interp(times, [0.5, square, 0.9], [-40.0, 0.0, 40.0])[None]
    >>> at = {"top": np.array([0.5]), "follow": np.array([0.9])}
    >>> [extension_share({"lead_leg_length": leg, "pelvis_turn": turn(when)}, times, at).round(1).tolist()
    ...  for when in (0.58, 0.8)]
    [[0.0], [1.0]]
    """
    leg = smoothed(series["lead_leg_length"], times)
    inside = between(times, at["top"], at["follow"])
    short_at, short = extreme(-leg, times, inside)
    _, longest = extreme(leg, times, inside & (times >= short_at[:, None]))
    square = first(times, inside & (series["pelvis_turn"] >= 0))
    then = value_at(leg, times, np.where(np.isnan(square), times[-1], square))
    whole, left = (np.sqrt(np.maximum(longest - part, 0.0)) for part in (-short, then))
    known = (longest + short > LEAST_GROWTH_CM) & np.isfinite(square)
    return np.where(known, 1 - left / np.maximum(whole, 1e-9), np.nan)


def _tilt_turn(name: str, title: str, checkpoint: str) -> None:
    @once(
        name,
        title,
        Unit.RATIO,
        views=ACROSS,
        series=("pelvis_tilt", "pelvis_turn"),
        at=(checkpoint,),
        positive="much tilt for the turn",
        none="The pelvis hardly turns, so there is no tilt for it.",
    )
    def ratio(series: Series, times: FloatArray, at: Moments) -> FloatArray:
        """Pelvis tilt over the size of pelvis turn."""
        tilt, turn = (value_at(series[key], times, at[checkpoint]) for key in ("pelvis_tilt", "pelvis_turn"))
        return np.where(abs(turn) > LEAST_TURN_DEG, tilt / np.maximum(abs(turn), 1e-9), np.nan)


_tilt_turn("tilt_turn_ratio", "Tilt for the turn at the top", "top")
_tilt_turn("tilt_turn_ratio_half_back", "Tilt for the turn half way back", "half_back")


def _lift_start(key: str, title: str, lift: str) -> None:
    @once(
        key,
        title,
        Unit.MILLISECONDS,
        views=ANY,
        series=(lift,),
        at=("address", "top", "follow"),
        positive="after the top",
        none="It stays at its height.",
        most=UNSURE_MS,
        marked=True,
    )
    def start(series: Series, times: FloatArray, at: Moments) -> FloatArray:
        """When it has left its height at address by 1.5 cm, against the top."""
        left = np.abs(smoothed(series[lift], times)) > LEAVES_CM
        return 1000 * (first(times, left & between(times, at["address"], at["follow"])) - at["top"])


_lift_start("head_lift_start", "Head leaves its height", "head_lift")
_lift_start("chest_lift_start", "Chest leaves its height", "chest_lift")


@once(
    "lead_heel_landing",
    "Lead heel down again",
    Unit.MILLISECONDS,
    views=ANY,
    series=("lead_heel_lift",),
    at=("address", "impact"),
    positive="before impact",
    none="The lead heel stays down.",
)
def lead_heel_landing(series: Series, times: FloatArray, at: Moments) -> FloatArray:
    """How long before impact the lead heel is down again.

    >>> times = np.linspace(0.0, 1.0, 101)
    >>> at = {"address": np.array([0.0]), "impact": np.array([0.9])}
    >>> lift = np.where((times > 0.2) & (times < 0.6), 5.0, 0.0)[None]
    >>> lead_heel_landing({"lead_heel_lift": lift}, times, at).round(-2).tolist()
    [300.0]
    """
    lift = smoothed(series["lead_heel_lift"], times)
    up = between(times, at["address"], at["impact"]) & (lift > 2 * UP_CM)
    last = len(times) - 1 - up[:, ::-1].argmax(axis=1)
    return np.where(up.any(axis=1), 1000 * (at["impact"] - times[last]), np.nan)


def _peak(key: str, title: str, turn: str) -> None:
    @once(
        key,
        title,
        Unit.MILLISECONDS,
        views=ACROSS,
        series=(turn,),
        at=("top", "impact"),
        positive="before impact",
        estimate="An estimate: near square one view hardly shows how fast a turn is.",
        own=PEAK_SIGMA_MS,
    )
    def peak(series: Series, times: FloatArray, at: Moments) -> FloatArray:
        """How long before impact the turn is fastest."""
        speed = np.gradient(smoothed(series[turn], times), times, axis=1)
        fastest, _ = extreme(speed, times, between(times, at["top"], at["impact"]))
        return 1000 * (at["impact"] - fastest)


_peak("pelvis_peak_time", "Pelvis fastest", "pelvis_turn")
_peak("chest_peak_time", "Chest fastest", "shoulder_turn")


@once(
    "low_point",
    "Low point",
    Unit.LENGTH,
    views=ACROSS,
    series=("club_height", "club_to_ball"),
    none="Too little of the arc near the ground shows.",
    fine=True,
    at=("delivery", "follow"),
    positive="past the ball toward the target",
    check="past the ball with an iron (common practice, no source)",
)
def low_point(series: Series, times: FloatArray, at: Moments) -> FloatArray:
    """Where the club's arc is lowest, from a marked clubhead: the foot of a parabola through it.

    >>> times = np.linspace(0.0, 1.0, 101)
    >>> at = {"delivery": np.array([0.3]), "follow": np.array([0.9])}
    >>> along = 200 * (times - 0.6)[None]
    >>> low_point({"club_height": (along - 4) ** 2 / 100, "club_to_ball": along}, times, at).round(1).tolist()
    [4.0]
    """
    height, along = series["club_height"], series["club_to_ball"]
    inside = between(times, at["delivery"], at["follow"])
    lowest = np.where(inside, height, np.inf).min(axis=1, keepdims=True)
    near = (inside & (height < lowest + ARC_CM)).astype(float)
    centre = (near * along).sum(axis=1) / np.maximum(near.sum(axis=1), 1.0)
    u = (along - centre[:, None]) / ARC_REACH_CM
    powers = np.stack([np.ones_like(u), u, u * u], axis=2) * near[..., None]
    square = powers.transpose(0, 2, 1) @ powers + 1e-9 * np.eye(3)
    pull = powers.transpose(0, 2, 1) @ (near * height)[..., None]
    fit = np.linalg.solve(square, pull)[..., 0]
    foot = centre - ARC_REACH_CM * fit[:, 1] / np.maximum(2 * fit[:, 2], 1e-9)
    enough = (near.sum(axis=1) >= 4) & (fit[:, 2] > 0)
    return np.where(enough & (np.abs(foot - centre) < 1.5 * ARC_REACH_CM), foot, np.nan)


@once(
    "hand_direction",
    "Way of the hands coming down",
    Unit.ANGLE,
    views=ALONG,
    series=("hands_forward", "grip_lift"),
    at=("top", "half_down"),
    positive="toward the ball line",
)
def hand_direction(series: Series, times: FloatArray, at: Moments) -> FloatArray:
    """Where the hands go from the top to half way down, 0 straight down.

    >>> times = np.linspace(0.0, 1.0, 101)
    >>> at = {"top": np.array([0.2]), "half_down": np.array([0.6])}
    >>> series = {"hands_forward": times[None] * 10, "grip_lift": times[None] * -10}
    >>> hand_direction(series, times, at).round(1).tolist()
    [45.0]
    """
    out, up = (
        value_at(series[key], times, at["half_down"]) - value_at(series[key], times, at["top"])
        for key in ("hands_forward", "grip_lift")
    )
    return np.degrees(np.arctan2(out, -up))
