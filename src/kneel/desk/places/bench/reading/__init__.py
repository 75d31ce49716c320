"""The reading: findings as a chain, the chosen one argued, and the instructor's word."""

from kneel.desk.places.bench.reading.pane import ReadingPane

__all__ = ["ReadingPane"]
