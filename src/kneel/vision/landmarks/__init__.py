"""Sighting the body by a general body-landmark network, where it is installed."""

from kneel.vision.landmarks.networks import BodyModelError, installed

__all__ = ["BodyModelError", "installed"]
