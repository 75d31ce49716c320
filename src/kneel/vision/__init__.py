"""Finding and following points in pixels."""

from kneel.vision.closure import closed
from kneel.vision.colour import fused, of_joint, on_the_body
from kneel.vision.flow import follow
from kneel.vision.followed import Followed, Source, follow_legs
from kneel.vision.landmarks import BodyModelError, installed
from kneel.vision.looked import Looked, doubted, merged
from kneel.vision.plan import Leg, legs

__all__ = [
    "BodyModelError",
    "Followed",
    "Leg",
    "Looked",
    "Source",
    "closed",
    "doubted",
    "follow",
    "follow_legs",
    "fused",
    "installed",
    "legs",
    "merged",
    "of_joint",
    "on_the_body",
]
