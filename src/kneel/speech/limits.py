"""A limit as it is said on the range: “no more than 4.5 cm away from the target”, not “at least −4.5 cm”."""

from __future__ import annotations

from kneel.motion.measures import REGISTRY
from kneel.speech.words import number, window_signs, window_words, with_unit

_WAYS = {
    "toward the target": ("toward the target", "away from the target"),
    "leaning away from the target": ("away from the target", "toward the target"),
    "bent away from the target": ("away from the target", "toward the target"),
    "toward the ball": ("toward the ball", "away from the ball"),
    "toward the ball line": ("toward the ball", "away from the ball"),
    "toward the ball line; − is deeper": ("toward the ball", "back from the ball"),
    "up": ("up", "down"),
    "above": ("above it", "below it"),
    "open to the target": ("open", "closed"),
    "target side of the ball": ("past the ball", "behind the ball"),
    "target side of the ankle": ("past the ankle", "behind the ankle"),
    "target side of the heel": ("past the heel", "behind the heel"),
    "past it, away from the target": ("past the line", "inside the line"),
    "past the ball toward the target": ("past the ball", "before the ball"),
    "handle nearer the target": ("handle ahead", "handle behind"),
    "hands nearer the target": ("ahead", "behind"),
    "more bent than at address": ("more bent", "straighter"),
    "less bent than at address": ("less bent", "more bent"),
    "steeper than at address": ("steeper", "flatter"),
    "trail side higher": ("trail side higher", "lead side higher"),
    "toward the toes": ("toward the toes", "toward the heels"),
    "body toward the toes": ("toward the toes", "toward the heels"),
    "pelvis starts before the top": ("before the hands", "after the hands"),
    "pointing right of the target, for a right-handed golfer": ("across the line", "short of the line"),
    "outside the line": ("outside the line", "inside the line"),
    "outside the toe line": ("outside the toe line", "inside the toe line"),
    "shoulders more open": ("more open than the pelvis", "more closed than the pelvis"),
    "heel outward": ("outward", "inward"),
}
"""What + of a measure is, as the registry has it, and in words its two ways."""

_UNSIGNED = ("%", "ratio")
"""Of a share or a ratio there is no way, only more or less."""


def allowed_words(measure: str, lo: float | None, hi: float | None, unit: str) -> str:
    """The limits of a measure in words with the way they lie; ``unit`` is that of the limits.

    >>> allowed_words("pelvis_shift", -1.4, None, "cm"), allowed_words("pelvis_shift", None, 10.5, "cm")
    ('no more than 1.4 cm away from the target', 'no more than 10.5 cm toward the target')
    >>> allowed_words("pelvis_shift", 3.0, None, "cm"), allowed_words("side_tilt", 0.0, None, "deg")
    ('at least 3.0 cm toward the target', 'not toward the target')
    >>> allowed_words("pelvis_shift", -1.5, 4.0, "cm"), allowed_words("knee_gap", None, 1.3, "ratio")
    ('1.5 cm away from the target to 4.0 cm toward the target', 'at most 1.30')
    """
    ways = _ways(measure, unit)
    if ways is None or (lo is None and hi is None):
        return window_words(lo, hi, unit)
    if lo is not None and hi is not None:
        return f"{_placed(lo, unit, ways)} to {_placed(hi, unit, ways)}"
    limit, asks = (lo, True) if lo is not None else (hi, False)
    assert limit is not None
    if _zero(limit, unit):
        return f"not {ways[1 if asks else 0]}"
    least = asks == (limit > 0)
    return f"{'at least' if least else 'no more than'} {_placed(limit, unit, ways)}"


def allowed_signs(measure: str, lo: float | None, hi: float | None, unit: str) -> str:
    """The same where there is little room.

    >>> allowed_signs("pelvis_shift", -1.4, None, "cm"), allowed_signs("pelvis_shift", -1.5, 4.0, "cm")
    ('≤ 1.4 cm away', '−1.5 … +4.0 cm')
    """
    ways = _ways(measure, unit)
    if ways is None or (lo is None) == (hi is None):
        return window_signs(lo, hi, unit)
    limit, asks = (lo, True) if lo is not None else (hi, False)
    assert limit is not None
    short = tuple(_first(way) for way in ways)
    if _zero(limit, unit):
        return f"not {short[1 if asks else 0]}"
    return f"{'≥' if asks == (limit > 0) else '≤'} {_placed(limit, unit, short, short_unit=True)}"


def placed_words(measure: str, value: float, unit: str) -> str:
    """A value without a sign, with the way it lies.

    >>> placed_words("pelvis_shift", 8.04, "cm"), placed_words("knee_gap", 1.2, "ratio")
    ('8.0 cm toward the target', '1.20')
    """
    ways = _ways(measure, unit)
    if ways is None:
        return with_unit(number(abs(value), unit, signed=False), unit)
    return _placed(value, unit, ways)


def _ways(measure: str, unit: str) -> tuple[str, ...] | None:
    return None if unit in _UNSIGNED else _WAYS.get(REGISTRY[measure].positive)


def _zero(value: float, unit: str) -> bool:
    return not any(char in "123456789" for char in number(value, unit))


def _placed(value: float, unit: str, ways: tuple[str, ...], *, short_unit: bool = False) -> str:
    """How far, and which way."""
    amount = with_unit(number(abs(value), unit, signed=False), unit, short=short_unit)
    return amount if _zero(value, unit) else f"{amount} {ways[0 if value > 0 else 1]}"


def _first(way: str) -> str:
    """The word of a way that tells it from the other."""
    for tail in (" from the", " the ", " than "):
        way = way.split(tail, maxsplit=1)[0]
    return way
