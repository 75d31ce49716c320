"""How values are said in sentences: real minus signs, one decimal, the unit always there."""

from __future__ import annotations

from collections.abc import Sequence

from kneel.model import View
from kneel.speech.units import spoken, spoken_unit

FROM = {View.FACE_ON: "face-on", View.DOWN_THE_LINE: "down the line", View.REAR: "from behind"}
"""From where one films."""

MINUS = "\N{MINUS SIGN}"
UNITS = {
    "cm": "cm",
    "in": "in",
    "stance": "stance widths",
    "deg": "°",
    "ratio": "",
    "s": "s",
    "ms": "ms",
    "%": "%",
}
SIGNED = ("cm", "in", "stance")
"""What is measured to two sides of a line has a plus there; of an angle only the minus is said."""

DECIMALS = {"cm": 1, "in": 1, "stance": 3, "deg": 0, "ratio": 2, "s": 2, "ms": 0, "%": 0}

_CHECKPOINTS = {
    "address": "address",
    "takeaway": "the takeaway",
    "half_back": "half way back",
    "top": "the top",
    "half_down": "half way down",
    "delivery": "delivery",
    "impact": "impact",
    "through": "the shaft level after impact",
    "follow": "the follow-through",
    "held": "the held pose",
    "finish": "the finish",
}


def number(value: float, unit: str, *, signed: bool = True) -> str:
    """A number with a real minus sign and the decimals of its unit, without the unit.

    >>> number(-6.04, "cm"), number(0.04, "cm"), number(-0.01, "cm"), number(12.3, "deg")
    ('−6.0', '+0.0', '0.0', '12')
    """
    value, unit = spoken(value, unit), spoken_unit(unit)
    text = f"{value:{'+' if signed and unit in SIGNED else ''}.{DECIMALS[unit]}f}"
    if text.startswith("-") and float(text) == 0:
        text = text[1:]
    return text.replace("-", MINUS)


def with_unit(text: str, unit: str, *, short: bool = False) -> str:
    """A text with its unit; a degree stands close, as in print, and ``short`` is for a label.

    >>> with_unit("+30", "deg"), with_unit("+30", "cm"), with_unit("0.21", "stance", short=True)
    ('+30°', '+30 cm', '0.21 stance')
    """
    words = UNITS[spoken_unit(unit)]
    words = words.split()[0] if short and words else words
    return f"{text}{words}" if words == "°" else f"{text} {words}".strip()


def length_words(value: float, sigma: float | None, unit: str, *, signed: bool = True) -> str:
    """A value with its error and unit.

    >>> length_words(-6.04, 0.71, "cm"), length_words(4.5, None, "cm")
    ('−6.0 ± 0.7 cm', '4.5 cm')
    """
    if sigma is None:
        return with_unit(number(value, unit, signed=False), unit)
    return with_unit(f"{number(value, unit, signed=signed)} ± {number(sigma, unit, signed=False)}", unit)


def window_words(lo: float | None, hi: float | None, unit: str) -> str:
    """A window in words.

    >>> window_words(-1.5, 4.0, "cm"), window_words(3.0, None, "cm")
    ('−1.5 to +4.0 cm', 'at least +3.0 cm')
    """
    if lo is not None and hi is not None:
        return with_unit(f"{number(lo, unit)} to {number(hi, unit)}", unit)
    if lo is not None:
        return with_unit(f"at least {number(lo, unit)}", unit)
    if hi is not None:
        return with_unit(f"at most {number(hi, unit)}", unit)
    return "anything"


def window_signs(lo: float | None, hi: float | None, unit: str) -> str:
    """A window in signs, where words have no room.

    >>> window_signs(-1.5, 4.0, "cm"), window_signs(3.0, None, "deg")
    ('−1.5 … +4.0 cm', '≥ 3°')
    """
    if lo is not None and hi is not None:
        return with_unit(f"{number(lo, unit)} … {number(hi, unit)}", unit, short=True)
    sign, one = ("≥", lo) if lo is not None else ("≤", hi)
    return "" if one is None else with_unit(f"{sign} {number(one, unit)}", unit, short=True)


def checkpoint_words(name: str) -> str:
    """A checkpoint as it stands in a sentence after “at”; one of the instructor's own by its name."""
    return _CHECKPOINTS.get(name, name.replace("_", " "))


def listed(words: Sequence[str]) -> str:
    """Several things as one says them.

    >>> listed(["sway", "flip", "slide"])
    'sway, flip and slide'
    """
    return " and ".join([", ".join(words[:-1]), words[-1]]) if len(words) > 1 else "".join(words)


def capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def small(text: str) -> str:
    return text[:1].lower() + text[1:]
