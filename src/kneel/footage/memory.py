"""Giving the memory of frames back to the system."""

from __future__ import annotations

import ctypes
from functools import cache
from typing import Any


@cache
def _malloc_trim() -> Any:
    """glibc's malloc_trim(3), or None with another C library."""
    try:
        return ctypes.CDLL(None).malloc_trim
    except (OSError, AttributeError):
        return None


def give_back() -> None:
    """Return to the system what freed frames leave behind.

    glibc keeps it, one pool per thread, and the next clip's threads draw on
    other pools: after four clips the program held three times what one takes.
    """
    trim = _malloc_trim()
    if trim is not None:
        trim(0)
