"""The Plan: one thing to work on, its drills, the days of some weeks, the ladder, and the check-in."""
