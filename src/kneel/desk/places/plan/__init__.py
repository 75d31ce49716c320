"""The Plan: one thing to work on, its drills, the days of some weeks, the ladder, and the check-in."""

from kneel.desk.places.plan.view import PlanPlace

__all__ = ["PlanPlace"]
