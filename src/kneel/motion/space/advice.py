"""Where one more mark by hand would tell most about a number that two cameras tell."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from kneel.model import anatomical
from kneel.model.take import MARK_SIGMA_PX
from kneel.motion.advice import WORTH_SHARE, Advice
from kneel.motion.measures.in_space import TOLD_BY_TWO
from kneel.motion.scale import Scale
from kneel.motion.space.body import ADDRESS
from kneel.motion.space.linked import Linked
from kneel.motion.space.quantities import QUANTITIES, slope_of
from kneel.motion.study import Study

IN_SPACE = {measure: key for key, measure in TOLD_BY_TWO.items()}


def next_mark_by_two(
    linked: Linked, studies: Sequence[Study], measure: str, checkpoint: str
) -> Advice | None:
    """The mark, or two of one point, that take most off the error of a turn, in either clip; ``studies`` are
    theirs, at the one set of checkpoints. None where nothing is worth it.

    What one would tell besides is put to the bundle's own estimate (linear Gaussian update).

    >>> from kneel.motion.space.example import example_pair
    >>> from kneel.motion.space.linked import link, told_by_two
    >>> pair = example_pair()
    >>> linked = link(*pair, agreed=True)
    >>> studies = [told_by_two(study, linked) for study in pair]
    >>> next_mark_by_two(linked, studies, "pelvis_turn", "top").points[0].endswith("hip")
    True
    """
    told = linked.numbers.get((IN_SPACE.get(measure, ""), checkpoint))
    body = linked.body
    if told is None or body.marked is None or checkpoint not in body.moments:
        return None
    one = QUANTITIES[told.key]
    _, slope = slope_of(body, one, checkpoint)
    flat = slope.ravel()
    moved = np.flatnonzero(flat)
    now = float(flat[moved] @ body.covariance[np.ix_(moved, moved)] @ flat[moved])
    ways = []
    for which, study in enumerate(studies):
        seen = int((which == 1) != linked.turned)
        for names in ((checkpoint,), (ADDRESS,), (ADDRESS, checkpoint)):
            if len(set(names)) < len(names) or not {*names} <= {*study.checkpoints}:
                continue
            moments = [body.moments.index(name) for name in names]
            frames = tuple(study.checkpoints[name].shown for name in names)
            for point in one.needs:
                if all(study.marked(anatomical(point, study.setup.hand), frame) for frame in frames):
                    continue
                left = body.marked(seen, point, moments, MARK_SIGMA_PX * _cm_per_px(study))
                gain = now - float(flat[moved] @ left[np.ix_(moved, moved)] @ flat[moved])
                ways.append((gain, which, point, frames))
    if not ways:
        return None
    alone = max((way for way in ways if len(way[3]) == 1), key=lambda way: way[0], default=ways[0])
    best = max(ways, key=lambda way: way[0])
    gain, which, point, frames = alone if alone[0] > 0.7 * best[0] else best
    after = float(np.sqrt(max(told.sigma**2 - gain, 0.0)))
    if after >= (1 - WORTH_SHARE) * told.sigma:
        return None
    return Advice((point,), frames, told.sigma, after, other=which == 1)


def _cm_per_px(study: Study) -> float:
    scale = study.scale
    return scale.per_px * scale.cm_per_unit if isinstance(scale, Scale) else 100 / study.px_per_m
