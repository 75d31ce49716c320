"""What is known of a swing besides its points."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from kneel.model import Hand, Kind, NoScale, ScaleSource, Swing, TypedValue, View
from kneel.motion.checkpoints import Moment
from kneel.motion.plate import Plate


@dataclass(frozen=True)
class Setup:
    """What is known of the swing besides its points.

    ``pinned`` maps checkpoints to frame indices; ``strikes`` are those heard,
    in real seconds on the clock of the frames. ``plumb`` is a line that is
    vertical in life, two ends in px; ``guessed`` are points that nobody marked;
    ``also_scaled`` further sources of scale. ``kind`` None is to be guessed. ``own`` maps checkpoints of the
    instructor's own to frame indices, ``rules`` others to their rule; ``typed`` are values typed in, which
    outrank what is measured, ``plate`` a pressure plate's trace on the clock of the frames. ``supposed``
    names the settings that nobody has confirmed, ``crowd`` is whether another of those seen may be meant.
    """

    view: View = View.FACE_ON
    hand: Hand = Hand.RIGHT
    mirrored: bool | None = None
    scale: ScaleSource = field(default_factory=NoScale)
    pinned: Mapping[str, float] = field(default_factory=dict)
    strikes: tuple[Moment, ...] = ()
    width_px: float | None = None
    height_px: float | None = None
    plumb: tuple[float, float, float, float] | None = None
    guessed: frozenset[str] = frozenset()
    kind: Kind | None = None
    also_scaled: tuple[ScaleSource, ...] = ()
    own: Mapping[str, float] = field(default_factory=dict)
    rules: Mapping[str, str] = field(default_factory=dict)
    typed: tuple[TypedValue, ...] = ()
    plate: Plate | None = None
    supposed: tuple[str, ...] = ()
    crowd: bool = False

    @staticmethod
    def of(swing: Swing, **more: Any) -> Setup:
        """What a document says, and ``more`` that it does not, or says otherwise."""
        take = swing.take
        known: dict[str, Any] = {
            "view": swing.view,
            "hand": swing.hand,
            "mirrored": swing.mirrored,
            "scale": swing.scale,
            "plumb": take.plumb,
            "kind": None if "kind" in swing.guessed else swing.kind,
            "also_scaled": take.also_scaled,
            "own": {one.key: one.frame - take.start for one in swing.checkpoints if one.frame is not None},
            "rules": {one.key: one.rule for one in swing.checkpoints if one.rule and one.frame is None},
            "typed": swing.typed,
            "supposed": swing.guessed,
        }
        return Setup(**(known | more))
