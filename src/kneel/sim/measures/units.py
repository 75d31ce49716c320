"""The unit of each measure."""

from __future__ import annotations

from typing import Final

RATIOS: Final = ("knee_gap",)
SHARES: Final = ("mass_side", "mass_toe")
_DEGREES: Final = ("_tilt", "_turn", "_flex", "_bend", "_lean", "_plane", "_loss", "_flare", "_spin", "_rise")
DEGREES: Final = ("separation", "shaft_across")
LENGTHS: Final = ("hands_to_plane", "club_to_plane")


def unit_of(key: str) -> str:
    """``cm``, ``ratio``, ``%`` or ``deg``.

    >>> unit_of("pelvis_shift"), unit_of("side_tilt"), unit_of("hands_to_plane"), unit_of("mass_toe")
    ('cm', 'deg', 'cm', '%')
    """
    if key in RATIOS:
        return "ratio"
    if key in SHARES:
        return "%"
    return "deg" if key not in LENGTHS and (key in DEGREES or key.endswith(_DEGREES)) else "cm"
