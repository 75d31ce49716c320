"""The language of the desk: every text a user reads goes through it, in whole sentences."""

from __future__ import annotations

from PyQt6.QtCore import QCoreApplication

from kneel.speech.words import MINUS


def tr(text: str) -> str:
    """The text in the user's language."""
    return QCoreApplication.translate("Kneel", text)


__all__ = ["MINUS", "tr"]
