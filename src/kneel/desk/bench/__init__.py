"""The Bench: one swing, its picture, its ribbon and its reading."""

from kneel.desk.bench.place import Bench

__all__ = ["Bench"]
