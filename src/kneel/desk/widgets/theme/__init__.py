"""Colours, type and the style of the desk."""

from kneel.desk.widgets.theme.colours import DARK, LIGHT, Colours
from kneel.desk.widgets.theme.look import Look, font, install, restyle

__all__ = ["DARK", "LIGHT", "Colours", "Look", "font", "install", "restyle"]
