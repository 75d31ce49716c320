"""What two measures of one swing share."""

from __future__ import annotations

from itertools import product

from kneel.motion.pairs import groups, seen_together
from kneel.motion.quantity import Single
from kneel.motion.sample import SEEN
from kneel.motion.scale import Scale
from kneel.motion.study import Study

OWN = (*SEEN, "definition")
"""Causes that two measures do not share by their key."""

At = tuple[str, str]
"""A measure's key, and a checkpoint."""


def covariance(study: Study, one: At, other: At) -> float:
    """Covariance of two measures, each at a checkpoint, in the product of their units (GUM 5.2.2).

    Causes with one key are one; where a point is seen counts by its track's
    covariance between the frames. Raises ``ValueError`` where one is not told.

    >>> from kneel.motion.example import example
    >>> at = "pelvis_shift", "top"
    >>> round(covariance(example(), at, at) ** 0.5, 1) == round(example().at(*at).sigma, 1)
    True
    """
    a, b = study.at(*one), study.at(*other)
    if not (isinstance(a, Single) and isinstance(b, Single)):
        raise ValueError(f"{one} or {other} is not told in this swing")
    theirs = b.causes
    shared = sum(m * theirs[k] for k, m in a.causes.items() if k in theirs and k[0] not in OWN)
    return float(shared) + _seen_together(study, one, other)


def _seen_together(study: Study, one: At, other: At) -> float:
    """What both owe to where the same points are seen."""
    scale, points = study.scale, study.checkpoints
    assert isinstance(scale, Scale)
    if study.given(*one) or study.given(*other):
        return 0.0
    first, second = study.slopes(*one), study.slopes(*other)
    frames = [(points[name].shown, points["address"].shown) for _, name in (one, other)]
    total = 0.0
    for group in groups(study.track, {**first.points, **second.points}):
        for point, twin in product(group, repeat=2):
            if point not in first.points or twin not in second.points:
                continue
            for slope, frame in zip(first.points[point], frames[0], strict=True):
                column = seen_together(study.track, twin, point, frame)
                for answer, at in zip(second.points[twin], frames[1], strict=True):
                    total += float((slope * answer) @ column[at])
    return total * scale.per_px**2 * first.bent * second.bent
