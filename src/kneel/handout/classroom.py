"""The sheet of scores of a class as a page to print."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class ClassLine:
    """One of a class, all in words: how many answers are right, faults told, false alarms where nothing is
    wrong, right where certain, how far sizes are off in the middle.
    """

    name: str
    right: str
    told: str
    alarms: str
    certain: str
    off: str


@dataclass(frozen=True)
class SwingLine:
    """One swing: what is wrong with it, how many told it, and what others took it for."""

    number: str
    view: str
    there: str
    right: str
    taken: str


@dataclass(frozen=True)
class ClassPage:
    """All words of the sheet."""

    title: str
    day: str
    what: str
    people: tuple[ClassLine, ...]
    swings: tuple[SwingLine, ...]
