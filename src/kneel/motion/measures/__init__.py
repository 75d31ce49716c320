"""Measures: one module per part of the body, each entry registered by its decorator."""

from kneel.motion.measures import club as club
from kneel.motion.measures import feet as feet
from kneel.motion.measures import legs as legs
from kneel.motion.measures import mass as mass
from kneel.motion.measures import pelvis as pelvis
from kneel.motion.measures import setup as setup
from kneel.motion.measures import swing as swing
from kneel.motion.measures import trunk as trunk
from kneel.motion.measures.registry import (
    REGISTRY,
    Domain,
    Figure,
    Measure,
    Shape,
    Unit,
    Way,
    lanes_of,
    measure,
    once,
)

__all__ = [
    "REGISTRY",
    "Domain",
    "Figure",
    "Measure",
    "Shape",
    "Unit",
    "Way",
    "lanes_of",
    "measure",
    "once",
]
