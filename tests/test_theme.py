"""The desk's colours keep their contrast."""

from __future__ import annotations

import gc

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QRect, Qt
from PyQt6.QtWidgets import (
    QApplication,
    QDoubleSpinBox,
    QLabel,
    QLineEdit,
    QListWidget,
    QPlainTextEdit,
    QPushButton,
    QSlider,
    QStyle,
    QStyleOption,
    QStyleOptionSlider,
    QVBoxLayout,
    QWidget,
)

from kneel.desk.shell.app import make_application
from kneel.desk.widgets.theme import DARK, LIGHT, restyle
from kneel.desk.widgets.theme.paint import SHORTEST, scroll_bar_part, slider_part


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


def inks(widget: QWidget) -> set[str]:
    """The colours a widget is painted in."""
    picture = widget.grab().toImage()
    return {picture.pixelColor(x, y).name() for x in range(picture.width()) for y in range(picture.height())}


def test_what_is_on_show_takes_the_other_colours_at_once(qtbot):
    """A label by its role, a button by what it is and whether it can be pressed, without being made anew."""
    _, _, look = make_application()
    look.choose(dark=True)
    whole = QWidget()
    qtbot.addWidget(whole)
    column = QVBoxLayout(whole)
    labels = {role: QLabel("██") for role in ("secondary", "faint", "watch")}
    for role, label in labels.items():
        label.setProperty("role", role)
        column.addWidget(label)
    first, idle = QPushButton("██"), QPushButton("██")
    first.setProperty("primary", True)
    idle.setEnabled(False)
    column.addWidget(first)
    column.addWidget(idle)
    whole.grab()
    for dark in (True, False, True):
        look.choose(dark=dark)
        QApplication.processEvents()
        colours = DARK if dark else LIGHT
        for role, label in labels.items():
            assert getattr(colours, role) in inks(label), (dark, role)
        assert {colours.chosen, colours.chosen_edge, colours.text} <= inks(first)
        assert {colours.raised, colours.edge, colours.faint} <= inks(idle)
        assert colours.text not in inks(idle)
    restyle(labels["watch"], "secondary")
    assert DARK.secondary in inks(labels["watch"]) and DARK.watch not in inks(labels["watch"])


def test_no_option_is_held_after_it_was_painted_with(qtbot):
    """What is held would be taken for the next that the toolkit lays at the same place."""
    make_application()
    whole = QWidget()
    qtbot.addWidget(whole)
    column, rows, demo, plain = QVBoxLayout(whole), QListWidget(), QLabel("Demo"), QDoubleSpinBox()
    rows.addItems([str(k) for k in range(40)])
    rows.setFixedHeight(60)
    demo.setProperty("role", "demo")
    plain.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
    typed = (QLineEdit("a"), QPlainTextEdit("b"), plain)
    slider = QSlider(Qt.Orientation.Horizontal)
    for part in (rows, demo, slider, *typed, *(QPushButton(str(k)) for k in range(3))):
        column.addWidget(part)
    whole.grab()
    gc.collect()
    gc.disable()
    try:
        whole.grab()
        assert not [held for held in gc.get_objects() if isinstance(held, QStyleOption)]
    finally:
        gc.enable()


@given(
    length=st.integers(60, 900),
    most=st.integers(0, 5000),
    page=st.integers(1, 900),
    share=st.floats(0, 1),
)
def test_a_scroll_bars_pieces_fill_it(length, most, page, share):
    """Page, handle, page, end to end; the handle shows how much of the whole is seen, and where."""
    option = QStyleOptionSlider()
    option.maximum, option.pageStep, option.sliderPosition = most, page, round(share * most)
    option.orientation = option.orientation.Vertical
    box, part = QRect(3, 5, 8, length), QStyle.SubControl
    before, handle, after = (
        scroll_bar_part(box, option, piece)
        for piece in (part.SC_ScrollBarSubPage, part.SC_ScrollBarSlider, part.SC_ScrollBarAddPage)
    )
    assert before.top() == box.top() and after.bottom() == box.bottom()
    assert handle.top() == before.top() + before.height() and after.top() == handle.top() + handle.height()
    assert handle.height() >= SHORTEST
    seen = page / (page + most)
    assert handle.height() == pytest.approx(max(seen * length, SHORTEST), abs=1)
    if most:
        assert before.height() == pytest.approx(
            option.sliderPosition / most * (length - handle.height()), abs=1
        )


@given(wide=st.integers(40, 900), most=st.integers(1, 500), share=st.floats(0, 1))
def test_a_sliders_handle_stays_in_its_groove(wide, most, share):
    option = QStyleOptionSlider()
    option.maximum, option.sliderPosition = most, round(share * most)
    box, part = QRect(2, 0, wide, 16), QStyle.SubControl
    handle, groove = (slider_part(box, option, p) for p in (part.SC_SliderHandle, part.SC_SliderGroove))
    assert box.contains(handle) and groove.left() <= handle.left() and handle.right() <= groove.right()
    travelled = handle.left() - groove.left()
    assert travelled == pytest.approx(option.sliderPosition / most * (wide - handle.width()), abs=1)
