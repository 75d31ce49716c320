"""The shipped type, each size and weight made once."""

from __future__ import annotations

from functools import cache
from importlib.resources import files

from PyQt6.QtGui import QFont, QFontDatabase

FAMILY = "Inter"
PLAIN_PX = 13
"""How large words are on the desk, px, where nothing is said of them."""

WEIGHTS = {400: QFont.Weight.Normal, 500: QFont.Weight.Medium, 600: QFont.Weight.DemiBold}


def load() -> None:
    """Make the shipped type known to the toolkit."""
    for file in sorted(files("kneel.fonts").iterdir(), key=lambda f: f.name):
        if file.name.endswith(".otf"):
            QFontDatabase.addApplicationFontFromData(file.read_bytes())


@cache
def font(size: float = 12.5, weight: int = 400) -> QFont:
    """The shipped type at ``size`` px with tabular figures; one object for each, not to be changed."""
    made = QFont(FAMILY)
    made.setPixelSize(round(size))
    made.setWeight(WEIGHTS[weight])
    made.setFeature(QFont.Tag("tnum"), 1)
    return made
