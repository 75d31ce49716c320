"""The Pair: two swings in step, and what differs between them."""

from kneel.desk.places.pair.view import PairPlace

__all__ = ["PairPlace"]
