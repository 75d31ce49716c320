"""Colours, type and the style of the desk."""

from kneel.desk.widgets.theme.colours import DARK, LIGHT, Colours
from kneel.desk.widgets.theme.look import Look, install, restyle
from kneel.desk.widgets.theme.type import font

__all__ = ["DARK", "LIGHT", "Colours", "Look", "font", "install", "restyle"]
