"""Finding and following points in pixels."""

from kneel.vision.closure import closed
from kneel.vision.flow import follow
from kneel.vision.plan import Leg, legs

__all__ = ["Leg", "closed", "follow", "legs"]
