"""From a finding to practice: drills, the choice among them, a plan of weeks, its ladder, and its answer."""

from kneel.practice.catalogue import Drills, drills_at_hand, drills_in_use, known_drills, read_drills_anew
from kneel.practice.choice import DrillChoice, Wish, choices
from kneel.practice.drill import Drill
from kneel.practice.ladder import Standing, standing
from kneel.practice.planning import PracticeDays, make_plan
from kneel.practice.proposal import Proposal, plan_of, propose
from kneel.practice.schedule import Session, sessions

__all__ = [
    "Drill",
    "DrillChoice",
    "Drills",
    "PracticeDays",
    "Proposal",
    "Session",
    "Standing",
    "Wish",
    "choices",
    "drills_at_hand",
    "drills_in_use",
    "known_drills",
    "make_plan",
    "plan_of",
    "propose",
    "read_drills_anew",
    "sessions",
    "standing",
]
