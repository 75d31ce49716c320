"""Kneel: frame-by-frame review of golf swings, with numbers that know their error."""

__version__ = "0.1.0"
