"""How large everything is: the system's own scale, times what the instructor chose.

Qt follows the scale of the screen (the display's logical dots per inch) by itself; what is chosen here comes
on top of it, for text and all that stands beside it, so that nothing is cut off.
"""

from __future__ import annotations

import os

from PyQt6.QtCore import QSettings

FACTOR, OURS = "QT_SCALE_FACTOR", "KNEEL_TEXT_SIZE"
KEY = "text size"
SIZES = (0.9, 1.0, 1.15, 1.3, 1.5)
TITLES = ("Small", "As the system has it", "Large", "Larger", "Largest")


def chosen_size(settings: QSettings) -> float:
    """The size that was chosen; what is no size counts as the system's.

    >>> from PyQt6.QtCore import QSettings
    >>> chosen_size(QSettings("/nowhere/desk.ini", QSettings.Format.IniFormat))
    1.0
    """
    try:
        size = float(settings.value(KEY, 1.0))
    except (TypeError, ValueError):
        return 1.0
    return size if size in SIZES else 1.0


def take_size(settings: QSettings) -> None:
    """Have the program begin in the chosen size; before there is an application. A factor that the user gave
    the program stands.
    """
    if OURS in os.environ:
        # Of the program that started this one anew.
        os.environ.pop(FACTOR, None)
        os.environ.pop(OURS)
    size = chosen_size(settings)
    if size != 1.0 and FACTOR not in os.environ:
        os.environ[FACTOR] = os.environ[OURS] = str(size)
