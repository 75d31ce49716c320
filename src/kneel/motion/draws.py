"""Points drawn from all that is unsure about them, the same lots for every measure (JCGM 101:2008).

What measures share cancels between them, as the cause of an error keeps its lots from frame to frame.
"""

from __future__ import annotations

import zlib
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.motion.measurable import Measurable
from kneel.motion.sample import ByPoint, FloatArray, Key, Sample

DRAWS: Final = 200
SEED: Final = 20

AT_THE_EDGE: Final = 0.525
"""A normal cut off one standard deviation below its middle has its mean so many of them below the cut:
its density over its tail at 1, less 1 (mean of a truncated normal, in any handbook)."""


@cache
def lots(*key: str) -> FloatArray:
    """Standard normal numbers (DRAWS, 2) of one cause, each with its opposite; the same for one key.

    >>> lots("yaw").shape, bool(abs(lots("yaw").mean()) < 1e-12), lots("yaw") is lots("yaw")
    ((200, 2), True, True)
    """
    seed = zlib.crc32(" ".join(key).encode())
    half = np.random.default_rng([SEED, seed]).standard_normal((DRAWS // 2, 2))
    return np.concatenate([half, -half])


@dataclass(frozen=True)
class PointDraws:
    """Points on draws from all that is unsure: ``now`` (DRAWS, K, 2) and ``then`` (DRAWS, 1, 2) by point.

    The same for every measure, so that what measures share cancels between them.
    """

    now: ByPoint[FloatArray]
    then: ByPoint[FloatArray]

    def changed(self, points: Collection[str], sample: Sample) -> PointDraws:
        """The same draws, some points taken from another sample of the same frames."""
        fresh = drawn_points(sample)
        return PointDraws(
            ByPoint(lambda p: fresh.now[p] if p in points else self.now[p]),
            ByPoint(lambda p: fresh.then[p] if p in points else self.then[p]),
        )


def drawn_points(
    sample: Sample,
    paths: Mapping[str, FloatArray] | None = None,
    address: int = 0,
    *,
    counts: Callable[[Key], bool] = lambda key: True,
) -> PointDraws:
    """Draw points of a sample, their errors shared as they are, from the causes that ``counts``.

    ``paths`` (DRAWS, K, 2) are drawn errors of where points are seen, of which frame ``address`` is
    the address; without them each frame is drawn by itself, its error at address apart.

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> bool(drawn_points(study._moments).now["lead_hip"].std(axis=0).min() > 0)
    True
    """

    def drawn_now(point: str) -> FloatArray:
        numbers, moves = _caused(sample.causes[point].keys, sample.causes[point].now, counts)
        if paths is not None:
            return np.asarray(sample.now[point] + (numbers @ moves).reshape(DRAWS, -1, 2) + paths[point])
        # What follows the error at address and what is left over, across and down: one product for all.
        follows, left = _since(sample, point)
        own, parts = [], []
        for when, size in (("then", follows), ("now", left)):
            for lot, share in _common(sample, point, when):
                own.append(lot)
                parts.append(np.einsum("kj,ij->ikj", size * share, np.eye(2)))
        moved = np.hstack([numbers, *own]) @ np.vstack([moves, *(part.reshape(2, -1) for part in parts)])
        return np.asarray(sample.now[point] + moved.reshape(DRAWS, -1, 2))

    def drawn_then(point: str) -> FloatArray:
        numbers, moves = _caused(sample.causes[point].keys, sample.causes[point].then, counts)
        if paths is not None:
            own = paths[point][:, address : address + 1]
        else:
            size = sample.sigma_then[point] * np.sqrt(sample.own(point).then)
            parts = [(size * lot * share)[:, None] for lot, share in _common(sample, point, "then")]
            own = np.sum(parts, axis=0)
        return np.asarray(sample.then[point] + (numbers @ moves)[:, None] + own)

    return PointDraws(ByPoint(drawn_now), ByPoint(drawn_then))


def _caused(
    keys: Sequence[Key], moves: FloatArray, counts: Callable[[Key], bool]
) -> tuple[FloatArray, FloatArray]:
    """Lots of the causes that count (DRAWS, L), and what one deviation of each moves, (L, ...) as rows."""
    wanted = [k for k, key in enumerate(keys) if counts(key)]
    columns = [lots(*keys[k])[:, 0] for k in wanted]
    rows = moves[wanted].reshape(len(wanted), int(np.prod(moves.shape[1:])))
    return np.stack(columns, axis=1) if columns else np.empty((DRAWS, 0)), rows


def _since(sample: Sample, point: str) -> tuple[FloatArray, FloatArray]:
    """How far a point's error follows the one at address, and what is left over, by axis, (K, 2) each."""
    own = sample.own(point)
    follows = own.across / np.maximum(sample.sigma_then[point] * np.sqrt(own.then), 1e-12)
    whole = own.now * sample.sigma[point][:, None] ** 2
    return follows, np.sqrt(np.maximum(whole - follows**2, 0.0))


def _common(sample: Sample, point: str, when: str) -> list[tuple[FloatArray, FloatArray]]:
    """What is drawn for a point, lots (DRAWS, 2) each with its share of a deviation by axis, (2,) or (K, 2):
    by itself, and together with the one whose errors it shares, of which one that is the other's the other
    way round has the opposite sign.
    """
    alone = lots("place", point, when)
    for (a, b), alike in sample.alike.items():
        if a != b and point in (a, b):
            share = alike.then / np.sqrt(sample.own(a).then * sample.own(b).then)
            if when == "now":
                # What both have in common at address is drawn there.
                (one, left), (other, over) = (_since(sample, end) for end in (a, b))
                common = alike.now * (sample.sigma[a] * sample.sigma[b])[:, None] - share * one * other
                share = np.clip(common / np.maximum(left * over, 1e-12), -1.0, 1.0)
            size = np.minimum(np.abs(share), 1.0)
            way = np.sign(share) if point == b else 1.0
            return [(alone, np.sqrt(1 - size)), (lots("places", a, b, when), way * np.sqrt(size))]
    return [(alone, np.ones(2))]


def on_draws(measure: Measurable, drawn: PointDraws, closed: Mapping[str, FloatArray]) -> FloatArray:
    """A measure on drawn points, (DRAWS, K); ``closed`` are the signs of turns, (K,) or (DRAWS, K).

    >>> from kneel.motion.example import example
    >>> study = example()
    >>> sample = study._moments
    >>> on_draws(study.way("pelvis_turn"), drawn_points(sample), sample.closed).shape[1] == len(sample.names)
    True
    """
    now = {p: drawn.now[p] for p in measure.needs}
    signs = {f"closed_{joint}": closed[joint] for joint in measure.turns}
    return np.asarray(measure.compute({**now, **signs}, {p: drawn.then[p] for p in measure.then}))


def drawn_signs(closed: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
    """The sign of each turn on every draw (DRAWS, K), as likely as it is: each draw passes square once.

    >>> signs = drawn_signs({"hip": np.array([-1.0, 0.0, 1.0])})["hip"]
    >>> signs.mean(axis=0).tolist()
    [-1.0, 0.0, 1.0]
    """
    return {
        joint: np.where(_ranks("square", joint) <= (1 + odds) / 2, 1.0, -1.0)
        for joint, odds in closed.items()
    }


@cache
def _ranks(*key: str) -> FloatArray:
    """The lots of a cause as what share of all would lie below each, (DRAWS, 1)."""
    return (np.argsort(np.argsort(lots(*key)[:, :1], axis=0), axis=0) + 0.5) / DRAWS


def edge(measure: Measurable, drawn: PointDraws) -> tuple[NDArray[np.bool_], FloatArray]:
    """Which draws (DRAWS, K) can be, no cosine past 1, and the least error (K,), degrees, of what is past it.

    A line seen longer than it can be is told too long now or too short before. One deviation past the edge is
    what its error explains; by what lies beyond, more than was stated is wrong.
    """
    now, then = {p: drawn.now[p] for p in measure.needs}, {p: drawn.then[p] for p in measure.then}
    found = np.array([cosine(now, then) for cosine in measure.cosines])
    spread = found.std(axis=1)
    past = found.mean(axis=1) - spread - 1
    square = np.where(past > 0, 2 * AT_THE_EDGE * spread + np.arccos(1 - np.clip(past, 0.0, 2.0)) ** 2, 0.0)
    return np.asarray((found <= 1).all(axis=0)), np.degrees(np.sqrt(square.sum(axis=0)))


def of_those(off: FloatArray, counts: NDArray[np.bool_]) -> tuple[FloatArray, FloatArray]:
    """Mean square (K,) and the ends of the middle 95 % (2, K) of the draws (DRAWS, K) that count.

    Of all, where none does.

    >>> off = np.arange(5.0)[:, None]
    >>> square, ends = of_those(off, off < 3)
    >>> square.round(2).tolist(), ends.ravel().tolist()
    ([1.67], [0.0, 2.0])
    """
    counts = counts | ~counts.any(axis=0)
    many = counts.sum(axis=0)
    ranked = np.sort(np.where(counts, off, np.inf), axis=0)
    at = np.round(np.array([[0.025], [0.975]]) * (many - 1)).astype(int)
    return (np.where(counts, off, 0.0) ** 2).sum(axis=0) / many, np.take_along_axis(ranked, at, axis=0)
