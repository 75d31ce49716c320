"""The Schools: windows as corridors over the swing, shaped by hand, and where two schools disagree."""

from kneel.desk.places.schools.view import SchoolsPlace

__all__ = ["SchoolsPlace"]
