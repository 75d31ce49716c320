"""Which swings are made: shots that fit the settings of a round, without the simulator that films them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from kneel.model import Hand, View
from kneel.trainer.asked import asked_in
from kneel.trainer.records import Settings, Shot

NOTHING, TWO_SHARE = 3, 0.35
"""To every fault once come so many swings with nothing wrong; so many of the others have two faults where two
may be.
"""


def shots(settings: Settings, seed: int) -> Iterator[Shot]:
    """Shots that fit the settings, without end: what is left open changes from shot to shot, every fault
    comes as often as another.

    >>> first = next(shots(Settings(view=View.FACE_ON, clothes="wide"), 1))
    >>> first.view.value, first.clothes, first.size
    ('face-on', 'wide', 1.5)
    """
    rng = np.random.default_rng([seed, 71])
    bags: dict[View, list[str]] = {View.FACE_ON: [], View.DOWN_THE_LINE: []}
    seconds: dict[View, list[str]] = {View.FACE_ON: [], View.DOWN_THE_LINE: []}

    def from_bag(bag: list[str], view: View, nothing: int, but: str = "") -> str:
        """One of what lies in a bag, which is filled anew with every fault, and ``nothing`` so often."""
        if not [key for key in bag if not but or key != but]:
            bag += [*(one.key for one in asked_in(view)), *[""] * nothing]
            rng.shuffle(bag)
        key = next(key for key in bag if not but or key != but)
        bag.remove(key)
        return key

    while True:
        view = settings.view or (View.FACE_ON, View.DOWN_THE_LINE)[int(rng.integers(2))]
        first = from_bag(bags[view], view, NOTHING)
        planted: tuple[str, ...] = (first,) if first else ()
        if first and settings.most == 2 and rng.random() < TWO_SHARE:
            planted += (from_bag(seconds[view], view, 0, first),)
        yield Shot(
            view,
            settings.hand or (Hand.RIGHT if rng.random() < 0.6 else Hand.LEFT),
            settings.size,
            planted,
            settings.clothes or str(rng.choice(["close", "close", "loose", "wide"])),  # type: ignore[arg-type]
            settings.light or str(rng.choice(["good", "good", "poor"])),  # type: ignore[arg-type]
            int(rng.integers(1, 2**31)),
        )
