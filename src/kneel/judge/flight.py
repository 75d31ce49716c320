"""Misses: what a ball does, as faults bring it and students tell of it."""

from __future__ import annotations

import re
from typing import Final

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

_NOT = re.compile(r"\b(?:no|not|never|without)\s+(?!distance|power)(?:an?\s+|any\s+)?\w+")


def misses_in(text: str) -> frozenset[str]:
    """The misses that a text speaks of; what it denies is left out.

    >>> sorted(misses_in("Fat with the irons, sometimes a block; never thin"))
    ['fat', 'push']
    """
    plain = _NOT.sub(" ", text.lower())
    return frozenset(
        miss for miss, words in MISSES.items() if any(re.search(rf"\b{word}\b", plain) for word in words)
    )
