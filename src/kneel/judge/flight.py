"""Misses: what a ball does, as faults bring it and students tell of it."""

from __future__ import annotations

import re
from typing import Final

from kneel.model import Ball, Hand

MISSES: Final = {
    "fat": ("fat", "heavy", "behind the ball", "dug", "chunk", "chunked", "duff", "duffed"),
    "thin": ("thin", "bladed", "skulled", "thinned"),
    "topped": ("top", "topped", "tops", "topping"),
    "slice": ("slice", "sliced", "slices", "slicing", "fade", "fades"),
    "hook": ("hook", "hooked", "hooks", "hooking", "draw", "draws"),
    "push": ("push", "pushed", "pushes", "block", "blocked", "blocks"),
    "pull": ("pull", "pulled", "pulls"),
    "shank": ("shank", "shanked", "shanks", "heel", "heels", "heeled", "hosel"),
    "toe": ("toe", "toed"),
    "high": ("high", "ballooning", "balloons"),
    "low": ("low",),
    "weak": ("weak", "short", "no distance", "lacks distance", "no power"),
}
"""Each miss with the words it is told by (common practice, no source)."""

STRIKES: Final = {"clean": "", "fat": "fat", "thin": "thin", "topped": "topped", "heel": "shank",
                  "toe": "toe", "shank": "shank"}  # fmt: skip
"""What a noted strike is as a miss; a clean one is none."""

STARTS: Final = ("left", "straight", "right")
CURVES: Final = ("left", "not", "right")
"""What is noted of a ball's start and curve, as the golfer sees it who stands to it."""

BEFORE = 3
"""So many good balls are taken as struck before the first that is noted: one bad ball of one is no habit."""

BY_CHANCE = 0.15
"""A share of misses that anybody has (common practice, no source)."""


def misses_of(ball: Ball, hand: Hand) -> frozenset[str]:
    """The misses that a noted ball is; none for a good one.

    >>> sorted(misses_of(Ball(strike="fat", start="right", curve="right"), Hand.RIGHT))
    ['fat', 'push', 'slice']
    >>> sorted(misses_of(Ball(start="right", curve="right"), Hand.LEFT))
    ['hook', 'pull']
    """
    away = "right" if hand is Hand.RIGHT else "left"
    strike = STRIKES.get(ball.strike, "")
    start = "" if ball.start not in ("left", "right") else "push" if ball.start == away else "pull"
    curve = "" if ball.curve not in ("left", "right") else "slice" if ball.curve == away else "hook"
    return frozenset(one for one in (strike, start, curve) if one)


def weight_of(misses: int, balls: int) -> float:
    """How much so many misses of so many balls say, 0 to 1: their share, less what is chance, and less where
    there were few.

    >>> [round(weight_of(k, 5), 2) for k in (1, 3, 5)], round(weight_of(1, 1), 2)
    ([0.0, 0.26, 0.56], 0.12)
    """
    return max(0.0, misses / (balls + BEFORE) - BY_CHANCE) / (1 - BY_CHANCE)


_NOT = re.compile(r"\b(?:no|not|never|without)\s+(?!distance|power)(?:an?\s+|any\s+)?\w+")


_NUMBERS = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")
_COUNT = r"(\d{1,2}|" + "|".join(_NUMBERS) + ")"
_SHARE = re.compile(
    rf"\b{_COUNT}\s*(?:of|out of|/)\s*{_COUNT}(?:\s+balls?)?(?:\s+(?:were|was|are|is|went))?\s+(\w+)"
)


def balls_in(text: str) -> tuple[frozenset[str], ...]:
    """The balls that a text counts, each with its misses, none for the others.

    >>> [sorted(ball) for ball in balls_in("three of five fat, 1 of 5 thin")]
    [['fat'], ['fat'], ['fat'], ['thin'], []]
    """
    told: list[tuple[int, int, frozenset[str]]] = []
    for some, all_, word in _SHARE.findall(text.lower()):
        misses = misses_in(word)
        few, many = (_NUMBERS.index(n) + 1 if n in _NUMBERS else int(n) for n in (some, all_))
        if misses and 0 < few <= many:
            told.append((few, many, misses))
    count = max((many for _, many, _ in told), default=0)
    balls: list[frozenset[str]] = [frozenset()] * count
    first = 0
    for few, many, misses in told:
        for k in range(few):
            place = (first + k) % many
            balls[place] = balls[place] | misses
        first += few
    return tuple(balls)


def uncounted(text: str) -> str:
    """A text without what it counts ball by ball, which must not be told twice.

    >>> uncounted("3 of 5 fat, and a push").strip()
    ', and a push'
    """
    return _SHARE.sub(" ", text.lower())


def misses_in(text: str) -> frozenset[str]:
    """The misses that a text speaks of; what it denies is left out.

    >>> sorted(misses_in("Fat with the irons, sometimes a block; never thin"))
    ['fat', 'push']
    """
    plain = _NOT.sub(" ", text.lower())
    return frozenset(
        miss for miss, words in MISSES.items() if any(re.search(rf"\b{word}\b", plain) for word in words)
    )
