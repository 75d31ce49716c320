"""The place where the page that goes home is looked at before it goes."""

from kneel.desk.places.handout.view import HandoutPlace

__all__ = ["HandoutPlace"]
