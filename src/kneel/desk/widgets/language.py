"""The language of the desk: every text a user reads goes through it, in whole sentences."""

from __future__ import annotations

from PyQt6.QtCore import QCoreApplication

from kneel.speech.words import MINUS


def tr(text: str) -> str:
    """The text in the user's language."""
    return QCoreApplication.translate("Kneel", text)


def several(count: int, one: str, many: str) -> str:
    """What is said of a count, in the user's language: ``one`` of one, else ``many`` with it as ``%d``.

    >>> several(1, "One swing", "%d swings"), several(0, "One swing", "%d swings")
    ('One swing', '0 swings')
    """
    return tr(one) if count == 1 else tr(many) % count


__all__ = ["MINUS", "several", "tr"]
