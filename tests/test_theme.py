"""The desk's colours keep their contrast."""

from __future__ import annotations

import pytest

from kneel.desk.theme import DARK, LIGHT


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
    for ground in (colours.ground, colours.panel):
        for role in ("text", "secondary", "faint"):
            assert contrast(getattr(colours, role), ground) >= 4.5, (role, ground)
        for role in ("lead", "trail", "fault", "watch", "clear", "unknown", "chosen_edge", "ink"):
            assert contrast(getattr(colours, role), ground) >= 3, (role, ground)
    assert contrast(colours.text, colours.chosen) >= 4.5
    assert contrast(colours.secondary, colours.chosen) >= 4.5
    assert contrast(colours.text, colours.raised) >= 4.5
