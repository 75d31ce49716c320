"""From numbers to a judgement: schools, faults, verdicts and their reasons, all as data."""

from kneel.judge.finding import Finding, Why
from kneel.judge.knowledge import Knowledge, at_hand, in_use, known, read_anew
from kneel.judge.reading import Reading, judge
from kneel.judge.records import Fault, School, Window
from kneel.judge.verdict import Verdict

__all__ = [
    "Fault",
    "Finding",
    "Knowledge",
    "Reading",
    "School",
    "Verdict",
    "Why",
    "Window",
    "at_hand",
    "in_use",
    "judge",
    "known",
    "read_anew",
]
