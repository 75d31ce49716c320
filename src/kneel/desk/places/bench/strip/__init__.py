"""The strip: what the swing is taken for, each token with its doubt and how it was come by."""

from kneel.desk.places.bench.strip.strip import Strip

__all__ = ["Strip"]
