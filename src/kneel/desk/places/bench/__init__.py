"""The Bench: one swing, its picture, its ribbon and its reading."""

from kneel.desk.places.bench.view import Bench

__all__ = ["Bench"]
