"""Sighting the body by a general body-landmark network, where it is installed."""
