"""From numbers to a judgement: schools, faults, verdicts and their reasons."""

from kneel.judge.knowledge import Fault, School, Window, faults, school, schools
from kneel.judge.reading import Finding, Reading, judge

__all__ = [
    "Fault",
    "Finding",
    "Reading",
    "School",
    "Window",
    "faults",
    "judge",
    "school",
    "schools",
]
