"""The rack: the lesson's swings by student, and where more are dropped."""

from kneel.desk.places.bench.rack.rack import Rack

__all__ = ["Rack"]
