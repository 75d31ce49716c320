"""What checkpoints, views, clubs, kinds and points are called on the desk."""

from __future__ import annotations

from kneel.desk.widgets.language import tr

CHECKPOINT_TITLES = {
    "address": "Address",
    "takeaway": "Takeaway",
    "half_back": "Half back",
    "top": "Top",
    "half_down": "Half down",
    "delivery": "Delivery",
    "impact": "Impact",
    "through": "Through",
    "follow": "Follow",
    "finish": "Finish",
}

_NINE = [name for name in CHECKPOINT_TITLES if name != "through"]
CHECKPOINT_KEYS = {name: str(number) for number, name in enumerate(_NINE, 1)}
"""The key that goes to each of the nine, by number; the optional one has none."""


def checkpoint_title(name: str) -> str:
    """A checkpoint's name on the desk; one of the instructor's own as it is called."""
    return CHECKPOINT_TITLES.get(name, name.replace("_", " ").capitalize())


VIEW_TITLES = {"face-on": "Face-on", "down-the-line": "Down the line", "rear": "From the rear"}

CLUB_TITLES = {
    "driver": "Driver",
    "wood": "Fairway wood",
    "hybrid": "Hybrid",
    "iron": "Iron",
    "wedge": "Wedge",
}

KIND_TITLES = {
    "full": "Full swing",
    "three-quarter": "Three-quarter",
    "half": "Half swing",
    "punch": "Punch",
    "backswing": "Backswing only",
    "rehearsal": "Rehearsal",
    "drill": "Drill",
    "exaggeration": "Exaggerated",
    "held": "Held pose",
}


def point_title(name: str) -> str:
    """A point's name as people say it: ``lead_hip`` is "lead hip"."""
    return tr(name.replace("_", " "))
