"""Measures: one module per family, each entry registered by its decorator."""

from kneel.motion.measures import lateral as lateral
from kneel.motion.measures.registry import REGISTRY, Measure, Scene, Series, measure

__all__ = ["REGISTRY", "Measure", "Scene", "Series", "measure"]
