"""What is merely looked at: the frame on show, lines, lanes. Kept beside the document, never in it."""

from __future__ import annotations

from kneel.model.take import Record, demand

MOST_LANES = 4


class Sight(Record, frozen=True):
    """How a swing was last looked at: ``lines`` names the reference lines drawn besides that of the chosen
    finding, ``lanes`` the measures on the ribbon, none for those that its view asks for.
    """

    frame: int = 0
    lines: tuple[str, ...] = ()
    lanes: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        demand(self.frame >= 0, "a frame on show is counted from 0 on")
        demand(len(self.lanes) <= MOST_LANES, f"the ribbon has at most {MOST_LANES} lanes")
