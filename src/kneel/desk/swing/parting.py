"""Finding the swings of a long clip, in a process beside the desk."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from kneel.evidence.swings import parts_of


def parts_beside(
    *about: Any,
    progress: Callable[[int, int], None],
    part: Callable[[object], None],  # noqa: ARG001
    stopped: Callable[[], bool],
) -> list[tuple[int, int]]:
    """:func:`kneel.evidence.swings.parts_of`."""
    return parts_of(*about, progress=progress, stopped=stopped)
