"""What the balls of a set did, and what that says beside the numbers."""

from __future__ import annotations

from collections import Counter

from kneel.judge.reading import Reading
from kneel.model import Ball
from kneel.speech.words import listed


def balls_count(reading: Reading) -> dict[str, int]:
    """How many of the noted balls missed by what, the most frequent first."""
    return dict(Counter(miss for ball in reading.balls for miss in sorted(ball)).most_common())


def balls_said(reading: Reading) -> str:
    """What the noted balls did, in a sentence; and that both are seen where they are good and it is not.

    Empty where none was noted.
    """
    count = len(reading.balls)
    if not count:
        return ""
    many = "one ball" if count == 1 else f"{count} balls"
    misses = [f"{n} {miss}" for miss, n in balls_count(reading).items()]
    told = f"Of {many}: {listed([*misses, f'{reading.good_balls} good'])}."
    if len(reading.carries_m) > 1:
        told += f" Carried {min(reading.carries_m):g} to {max(reading.carries_m):g} m."
    if not reading.compensated:
        return told
    faults = listed([finding.fault.title.lower() for finding in reading.compensated[:2]])
    stand = "is" if len(reading.compensated) == 1 else "are"
    return (
        f"{told} Ball and club are good although {faults} {stand} past the window: both are seen. "
        "Something makes up for it; find out what before it is changed."
    )


def ball_words(ball: Ball | None) -> str:
    """What is noted of one ball, in few words; empty where nothing is.

    >>> ball_words(Ball(strike="fat", start="right", carry=85.0))
    'fat, starts right, 85 m'
    """
    if ball is None:
        return ""
    carry = f"{ball.carry:g} m" if ball.carry is not None else ""
    start = f"starts {ball.start}" if ball.start else ""
    curve = "" if not ball.curve else "no curve" if ball.curve == "not" else f"curves {ball.curve}"
    return ", ".join(part for part in (ball.strike, start, curve, carry) if part)


def explained(balls: int, reading: Reading) -> str:
    """Of how many noted balls a fault would bring the miss."""
    missed = len(reading.balls) - reading.good_balls
    if not missed:
        return ""
    if not balls:
        return f"It would explain none of the {missed} that missed." if missed > 1 else ""
    return (
        f"It would explain {balls} of the {missed} that missed."
        if missed > 1
        else "It would explain the miss."
    )
