"""Which part of the body carries a measure: what has to move for it to be another."""

from __future__ import annotations

from enum import StrEnum


class Carried(StrEnum):
    """A part and its way. Nothing else tells a turn, a time, weight or the club from one view."""

    PELVIS_ACROSS = "the pelvis, along the picture"
    PELVIS_UP = "the pelvis, up and down"
    TRUNK = "the trunk, about the hips"
    UPPER_UP = "what is over the hips, up and down"
    LEAD_KNEE = "the lead knee, about the leg's line"
    TRAIL_KNEE = "the trail knee, about the leg's line"
    LEAD_LEG = "the lead leg's bend"
    TRAIL_LEG = "the trail leg's bend"
