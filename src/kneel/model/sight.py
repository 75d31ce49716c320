"""What is merely looked at: the frame on show, the plumbs. Kept beside the document, never in it."""

from __future__ import annotations

from kneel.model.take import Record, demand


class Sight(Record, frozen=True):
    """How a swing was last looked at. ``plumbs`` names what carries one: ``trail_hip``, ``pelvis``."""

    frame: int = 0
    plumbs: tuple[str, ...] = ("trail_hip", "pelvis")

    def __post_init__(self) -> None:
        demand(self.frame >= 0, "a frame on show is counted from 0 on")
