"""The desk's colours keep their contrast."""

from __future__ import annotations

import pytest

from kneel.desk.widgets.theme import DARK, LIGHT


def luminance(colour: str) -> float:
    """Relative luminance as WCAG 2.2 defines it."""
    parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(a: str, b: str) -> float:
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


def test_contrast_formula_gives_the_published_ratios():
    """Well-known values on white: black 21, #767676 4.54, #949494 3.03."""
    for colour, ratio in (("#000000", 21.0), ("#767676", 4.5422), ("#949494", 3.0335)):
        assert contrast(colour, "#ffffff") == pytest.approx(ratio, abs=2e-4)


@pytest.mark.parametrize("colours", [DARK, LIGHT], ids=["dark", "light"])
def test_colours_keep_their_contrast(colours):
    """WCAG 2.2: text 4.5 : 1 (1.4.3), marks 3 : 1 (1.4.11)."""
    for ground in (colours.ground, colours.panel, colours.raised, colours.chosen):
        for role in ("text", "secondary", "faint", "lead", "trail", "fault", "watch", "clear", "unknown"):
            assert contrast(getattr(colours, role), ground) >= 4.5, (role, ground)
    for ground in (colours.ground, colours.panel):
        for role in ("chosen_edge", "ink"):
            assert contrast(getattr(colours, role), ground) >= 3, (role, ground)


VIENOT = {
    "protan": ((0.11238, 0.88762, 0.0), (0.11238, 0.88762, 0.0), (0.00401, -0.00401, 1.0)),
    "deutan": ((0.29275, 0.70725, 0.0), (0.29275, 0.70725, 0.0), (-0.02234, 0.02234, 1.0)),
}
"""What red- and green-blind eyes see, in linear RGB (Viénot, Brettel and Mollon 1999; from memory)."""


def seen_by(colour: str, kind: str) -> tuple[float, float, float]:
    """CIE L*a*b* of a colour as an eye of a kind sees it; D65 white."""
    parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    if kind in VIENOT:
        linear = [
            min(max(sum(m * c for m, c in zip(row, linear, strict=True)), 0), 1) for row in VIENOT[kind]
        ]
    r, g, b = linear
    xyz = (
        (0.4124 * r + 0.3576 * g + 0.1805 * b) / 0.95047,
        0.2126 * r + 0.7152 * g + 0.0722 * b,
        (0.0193 * r + 0.1192 * g + 0.9505 * b) / 1.08883,
    )
    fx, fy, fz = (t ** (1 / 3) if t > (6 / 29) ** 3 else t * (29 / 6) ** 2 / 3 + 4 / 29 for t in xyz)
    return 116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)


def apart(a: str, b: str, kind: str) -> float:
    """CIE 1976 difference of two colours; about 2.3 is just noticeable (Mahy and others 1994)."""
    one, other = seen_by(a, kind), seen_by(b, kind)
    return sum((x - y) ** 2 for x, y in zip(one, other, strict=True)) ** 0.5


def test_colour_difference_agrees_with_known_values():
    """White against black is 100; pure red against pure green 170.6 (CIE 1976; from memory)."""
    assert apart("#ffffff", "#000000", "") == pytest.approx(100.0, abs=0.1)
    assert apart("#ff0000", "#00ff00", "") == pytest.approx(170.6, abs=0.5)


@pytest.mark.parametrize("kind", ["", "protan", "deutan"])
@pytest.mark.parametrize("colours", [DARK, LIGHT], ids=["dark", "light"])
def test_what_must_not_be_taken_for_each_other_stays_apart(colours, kind):
    """Lead and trail, and each two verdicts, for usual, red- and green-blind eyes; shapes differ too."""
    assert apart(colours.lead, colours.trail, kind) > 30
    verdicts = ("fault", "watch", "clear", "unknown")
    pairs = [(a, b) for k, a in enumerate(verdicts) for b in verdicts[k + 1 :]]
    for a, b in pairs:
        assert apart(getattr(colours, a), getattr(colours, b), kind) > 9, (a, b)
