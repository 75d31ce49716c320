"""Whether a film in which nobody stands lies on its side: phones mistake which way they are held."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Final

import numpy as np
from numpy.typing import NDArray

from kneel.vision.landmarks.people import Networks, glimpse_in

Pictures = Callable[[int], NDArray[np.uint8]]

LOOKS, MOST = 5, 0.6
"""So many pictures are turned, and somebody has to stand in this share of them."""

TURNS: Final = {
    1: "lies with the head to the right",
    3: "lies with the head to the left",
    2: "stands on their head",
}
"""What a golfer does in a film that a number of quarter turns puts upright."""

SAID: Final = (
    " in this clip: have a copy of it turned (on the desk, Swing: Turn the clip …) and use that. "
    "Nothing was changed."
)


def lying(
    networks: Networks,
    picture: Pictures,
    frames: Sequence[int],
    stopped: Callable[[], bool] = lambda: False,
) -> tuple[str, ...]:
    """A sentence where somebody stands in the pictures once these are turned; none else.

    ``frames`` in rising order are those to choose from.
    """
    some = [frames[k] for k in np.unique(np.linspace(0, len(frames) - 1, LOOKS).astype(int))]
    stood = dict.fromkeys(TURNS, 0)
    for frame in some:
        shown = picture(frame)
        for turn in TURNS:
            if stopped():
                return ()
            turned = np.ascontiguousarray(np.rot90(shown, turn))
            found = max(networks.detect(turned), key=lambda one: one[0], default=None)
            stood[turn] += found is not None and glimpse_in(networks, turned, frame, found[1]) is not None
    best = max(TURNS, key=lambda turn: stood[turn])
    if stood[best] < MOST * len(some):
        return ()
    return (f"The golfer {TURNS[best]}{SAID}",)


def lies(words: str) -> bool:
    """Whether a sentence is the one that says so.

    >>> lies("The golfer stands on their head" + SAID), lies("No golfer is found in this clip.")
    (True, False)
    """
    return words.endswith(SAID)
