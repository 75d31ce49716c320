"""An honest "cannot be told": a falsy value with a reason."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Failed:
    """Stands where a value would stand; ``reason`` is a sentence for the user, ``code`` one word."""

    reason: str
    code: str = ""

    def __bool__(self) -> bool:
        return False
