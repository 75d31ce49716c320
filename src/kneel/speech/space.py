"""What is said of a swing that two cameras filmed."""

from __future__ import annotations

from kneel.motion.space.linked import Linked
from kneel.motion.space.quantities import QUANTITIES
from kneel.speech.words import checkpoint_words, length_words

SAID = (
    ("pelvis_turn_3d", "top"),
    ("pelvis_turn_3d", "impact"),
    ("chest_turn_3d", "top"),
    ("pelvis_shift_3d", "top"),
    ("pelvis_thrust_3d", "impact"),
)


def clock_words(linked: Linked) -> str:
    """How the clocks of the two lie."""
    clock = linked.clock
    way = "more" if clock.offset_s >= 0 else "less"
    return (
        f"Two cameras, one swing: the second clip’s clock reads {abs(clock.offset_s):.3f} s {way}, "
        f"± {1000 * clock.sigma_s:.1f} ms."
    )


def misfit_words(misfit: float) -> str:
    """What is said where both cameras' points do not fit one body.

    >>> "2.0 times less sure" in misfit_words(4.0)
    True
    """
    return (
        "The points of both cameras do not fit one body well, and what they tell together is "
        f"{misfit**0.5:.1f} times less sure for it: look at the marks on both pictures."
    )


def space_sentences(linked: Linked) -> list[str]:
    """The clock, and the numbers that matter most."""
    lines = [clock_words(linked)]
    for key, moment in SAID:
        one = linked.numbers.get((key, moment))
        if one is not None:
            told = length_words(one.value, one.sigma, one.unit)
            lines.append(f"{QUANTITIES[key].title} at {checkpoint_words(moment)}: {told}.")
    return lines
