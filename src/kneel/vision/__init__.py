"""Finding and following points in pixels."""

from kneel.vision.closure import closed
from kneel.vision.flow import follow
from kneel.vision.landmarks import BodyModelError, installed
from kneel.vision.looked import Looked, look, merged
from kneel.vision.plan import Leg, legs

__all__ = ["BodyModelError", "Leg", "Looked", "closed", "follow", "installed", "legs", "look", "merged"]
