"""Version 1 of the JSON of ``kneel compare``; its schema lies in ``docs/schemas``."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from kneel.compare.difference import Difference
from kneel.compare.pair import Pair
from kneel.contract.result import number
from kneel.contract.v1 import VERSION, Number, Part, schema_of
from kneel.model import CHECKPOINTS

FloatArray = NDArray[np.float64]

ROUNDED_S = 1e-9
"""So far past the ends of a clip its own last frame may come by rounding."""


class StepAt(Part, frozen=True):
    """A checkpoint of both: when it is in A, when in B, and how far the two may be out of step there, s.

    ``b_s`` is the time in B that is believed to go with ``a_s``, by all checkpoints together; ``seen_b_s`` is
    when B's own checkpoint is.
    """

    checkpoint: str
    a_s: Number
    b_s: Number
    seen_b_s: Number
    sigma_s: Number


class StepTold(Part, frozen=True):
    """How the two run in step. ``a`` and ``b`` are the times (s) of each that go with one another, by
    checkpoint; ``frames`` are pairs: a frame of A, and the frame of B, fractions allowed, that shows the same
    moment of the swing.
    """

    a: dict[str, Number]
    b: dict[str, Number]
    sigma_s: Number
    checkpoints: tuple[StepAt, ...]
    frames: tuple[tuple[int, float], ...]


class DifferenceTold(Part, frozen=True):
    """A number of both: ``difference`` is B less A with its standard error. ``detectable`` is the least that
    can be told among all that was asked, ``detectable_alone`` the least were it asked alone, at 95 %.
    """

    measure: str
    checkpoint: str
    unit: str
    a: Number
    b: Number
    difference: Number
    sigma: Number
    detectable: Number
    detectable_alone: Number
    real: bool
    alone: bool


class SwingTold(Part, frozen=True):
    """One of the two: what it is called, and what comes first in it, null where nothing does."""

    source: str
    root: str | None
    verdict: str | None


class CompareResult(Part, frozen=True):
    """Two swings in step, and what differs; ``asked`` is the number of numbers that were compared."""

    kneel: int
    view: str
    a: SwingTold
    b: SwingTold
    in_step: StepTold
    asked: int
    differences: tuple[DifferenceTold, ...]
    text: str


def compare_result(
    pair: Pair,
    view: str,
    swings: tuple[SwingTold, SwingTold],
    clocks: tuple[FloatArray, FloatArray],
    numbers: tuple[NDArray[np.int64], NDArray[np.int64]],
    text: str,
) -> CompareResult:
    """Build the result. ``clocks`` are the times of both (T,) s, ``numbers`` their files' own of frames."""
    alone = pair.compared.prescribed
    return CompareResult(
        VERSION,
        view,
        *swings,
        _step(pair, clocks, numbers),
        pair.asked,
        tuple(_told(one, alone=one is alone) for one in pair.rows),
        text,
    )


def _step(
    pair: Pair, clocks: tuple[FloatArray, FloatArray], numbers: tuple[NDArray[np.int64], NDArray[np.int64]]
) -> StepTold:
    step, (a, b) = pair.step, clocks
    there = step.to_b(a)
    inside = np.flatnonzero((there >= b[0] - ROUNDED_S) & (there <= b[-1] + ROUNDED_S))
    frames = np.interp(there[inside], b, numbers[1])
    at = tuple(
        StepAt(beat.name, number(beat.a_s, 5), number(b_s, 5), number(beat.b_s, 5), number(sigma_s, 5))
        for beat, b_s, sigma_s in zip(step.beats, step.b_s, step.sigma_s, strict=True)
        if beat.name in CHECKPOINTS
    )
    return StepTold(
        {one.checkpoint: one.a_s for one in at},
        {one.checkpoint: one.b_s for one in at},
        number(step.typical_s, 5),
        at,
        tuple((int(numbers[0][k]), round(float(frame), 3)) for k, frame in zip(inside, frames, strict=True)),
    )


def _told(one: Difference, *, alone: bool) -> DifferenceTold:
    return DifferenceTold(
        one.measure,
        one.at,
        one.unit,
        number(one.before),
        number(one.after),
        number(one.difference),
        number(one.sigma),
        number(one.detectable),
        number(one.detectable_alone),
        one.claimed,
        alone,
    )


def schema() -> dict[str, Any]:
    """The JSON schema of what ``kneel compare`` writes."""
    return schema_of(CompareResult)
