"""How measures show on the picture: the line each rests on, and the gap or angle that is written.

The shapes come from the registry's figures; nothing here knows a measure by name.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from kneel.desk.stage.facts import Place, address_frame
from kneel.desk.swing import OpenSwing
from kneel.desk.widgets.language import tr
from kneel.motion.drawn import shape_of
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY, Measure
from kneel.motion.measures.lines import measure_of_line, words_at
from kneel.motion.quantity import Series
from kneel.motion.study import Study
from kneel.speech.words import number, with_unit


@dataclass(frozen=True)
class DrawnMeasure:
    """A measure on the picture at the cursor, places in px of the picture.

    ``plumbs`` are verticals through a place; ``firm`` and ``faint`` are lines of now and of address;
    ``gap`` is the distance itself; ``at`` is where it is written; ``points`` are those that it rests on.
    """

    key: str
    value: str
    error: str
    words: str
    at: Place
    main: bool
    past: bool
    plumbs: tuple[Place, ...] = ()
    firm: tuple[tuple[Place, Place], ...] = ()
    faint: tuple[tuple[Place, Place], ...] = ()
    gap: tuple[Place, Place] | None = None
    corner: tuple[Place, Place, Place] | None = None
    points: tuple[str, ...] = field(default=(), compare=False)


def figures_at(opened: OpenSwing) -> list[DrawnMeasure]:
    """What is measured on the picture now: the chosen finding's measure first, then the lines asked for."""
    analysis = opened.analysis
    if analysis is None:
        return []
    chosen = opened.selection.measure
    keys = [chosen] if chosen else []
    for line in opened.sight.lines:
        entry = measure_of_line(line, analysis.setup.view)
        if entry is not None and entry.key not in keys:
            keys.append(entry.key)
    made = [_drawn(opened, analysis, REGISTRY[key], main=key == chosen) for key in keys]
    return [one for one in made if one is not None]


def _drawn(opened: OpenSwing, analysis: Study, entry: Measure, *, main: bool) -> DrawnMeasure | None:
    series, look = analysis.measure(entry.key), analysis.way(entry.key)
    if isinstance(series, Failed) or isinstance(look, Failed):
        return None
    frame = opened.cursor.frame
    shape = shape_of(analysis, entry, frame, address_frame(opened))
    if shape is None:
        return None
    value, sigma = opened.selection.told_at(series, frame)
    return DrawnMeasure(
        entry.key,
        with_unit(number(value, series.unit), series.unit),
        f"± {number(sigma, series.unit, signed=False)}",
        tr(words_at(entry, analysis.setup.view, value)),
        shape.at,
        main=main,
        past=main and _past(opened, series, value),
        plumbs=shape.plumbs,
        firm=shape.firm,
        faint=shape.faint,
        gap=shape.gap,
        corner=shape.corner,
        points=tuple(dict.fromkeys((*entry.figure.points, *look.points))),
    )


def _past(opened: OpenSwing, series: Series, value: float) -> bool:
    """Whether the chosen finding shows here: at a checkpoint where it is at work, or past the limit there on
    a frame with no other checkpoint between.
    """
    finding, analysis, frame = opened.selection.finding, opened.analysis, opened.cursor.frame
    if finding is None or analysis is None or not finding.verdict.at_work:
        return False
    stands = {name: one.shown for name, one in analysis.checkpoints.items()}
    for one in finding.weighed:
        if one.check.measure != series.key or not one.verdict.at_work or one.at not in stands:
            continue
        here = stands[one.at]
        if frame == here:
            return True
        alone = not any(min(frame, here) <= f <= max(frame, here) for f in stands.values() if f != here)
        if alone and one.limits is not None and one.limits.past(value, one.check.side) > 0:
            return True
    return False
