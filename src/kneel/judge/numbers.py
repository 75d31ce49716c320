"""What the judge asks of a swing, or of several taken as one: numbers, and what they are told in."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from kneel.judge.kinds import ONCE
from kneel.judge.records import Window
from kneel.judge.verdict import Limits
from kneel.model import Club, Kind, NoScale, ScaleSource, Stature, View
from kneel.motion.body import LEG
from kneel.motion.failure import Failed
from kneel.motion.measures import REGISTRY, Unit
from kneel.motion.quantity import Single
from kneel.motion.scale import Scale
from kneel.motion.study import Study

SIZED_FOR_CM = 175.0
"""Windows in centimetres are those of a body of this stature."""

SMALLEST, LARGEST = 0.6, 1.3
"""No body is smaller or larger than that, whatever a scale says."""


class Sized(Protocol):
    """What a window is scaled by. ``size`` is the body's as a share of 1.75 m."""

    @property
    def size(self) -> float: ...
    def cm(self, unit: str) -> tuple[float, float]:
        """Centimetres per unit of a length, and the relative error of that."""
        ...


class Numbers(Sized, Protocol):
    """Numbers to judge."""

    @property
    def kind(self) -> Kind: ...
    @property
    def club(self) -> Club: ...
    def seen_from(self, measure: str) -> View | None:
        """The view that shows a measure; None where none of those at hand does."""
        ...

    def tell(self, measure: str, at: str) -> Single | Failed:
        """A measure at a checkpoint, or ``once``."""
        ...


@dataclass(frozen=True)
class OfSwing:
    """The numbers of one swing."""

    study: Study
    club: Club = Club.IRON

    @property
    def kind(self) -> Kind:
        return self.study.kind

    @property
    def size(self) -> float:
        return body_size(self.study)

    @property
    def blind(self) -> bool:
        """Whether there are points that nobody marked."""
        return bool(self.study.setup.guessed)

    @property
    def source(self) -> tuple[str, float]:
        """What its scale rests on."""
        return source_of(self.study.setup.scale)

    def seen_from(self, measure: str) -> View | None:
        view = self.study.setup.view
        return view if view in REGISTRY[measure].views else None

    def tell(self, measure: str, at: str) -> Single | Failed:
        return self.study.once(measure) if at == ONCE else self.study.at(measure, at)

    def cm(self, unit: str) -> tuple[float, float]:
        scale = self.study.scale
        if unit == "stance" and isinstance(scale, Scale):
            return scale.cm_per_unit, scale.cm_relative
        return 1.0, 0.0


def source_of(scale: ScaleSource) -> tuple[str, float]:
    """What a scale rests on: the body's stature, stance widths, or a thing measured in that very clip.

    >>> source_of(Stature(176.0)), source_of(NoScale())
    (('stature', 176.0), ('stance', 0.0))
    """
    if isinstance(scale, Stature):
        return "stature", scale.stature_cm
    if isinstance(scale, NoScale):
        return "stance", 0.0
    return repr(scale), 0.0


def body_size(study: Study) -> float:
    """Stature as a share of 1.75 m: as told, else by hip to ankle at address (0.491 of stature, Drillis and
    Contini 1966); 1 where there is no scale.

    >>> from kneel.motion.example import example
    >>> body_size(example())
    1.0
    """
    for source in (study.setup.scale, *study.setup.also_scaled):
        if isinstance(source, Stature):
            return source.stature_cm / SIZED_FOR_CM
    scale = study.scale
    if not isinstance(scale, Scale) or scale.unit == "stance" or "address" not in study.checkpoints:
        return 1.0
    frame = study.checkpoints["address"].shown
    legs = []
    for side in ("left", "right"):
        hip, ankle = (study.tracks.get(f"{side}_{joint}") for joint in ("hip", "ankle"))
        if hip is not None and ankle is not None:
            legs.append(float(np.linalg.norm(hip.xy[frame] - ankle.xy[frame])))
    if not legs:
        return 1.0
    stature = max(legs) * scale.per_px * scale.cm_per_unit / LEG
    return float(np.clip(stature / SIZED_FOR_CM, SMALLEST, LARGEST))


def as_used(window: Window, numbers: Sized, unit: str) -> Limits:
    """A window scaled to the body, in the unit in which the value is told.

    >>> sway = Window("pelvis_shift", ("top",), 2.0, -1.5, 4.0)
    >>> inches = type("Sized", (), {"size": 1.1, "cm": lambda self, unit: (2.54, 0.0)})()
    >>> round(as_used(sway, inches, "in").lo, 3)
    -0.65
    """
    per = 1.0
    if REGISTRY[window.measure].unit is Unit.LENGTH:
        per = numbers.size / numbers.cm(unit)[0]
    return Limits(
        None if window.lo is None else window.lo * per,
        None if window.hi is None else window.hi * per,
        window.margin * per,
    )
