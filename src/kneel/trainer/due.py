"""What is due to be seen again: each fault a card of the scheduler library ``fsrs``, told by the answers."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime

from fsrs import Card, Rating, Scheduler

from kneel.trainer.asked import asked_faults
from kneel.trainer.records import Answer, Sure

LONGEST_DAYS = 180
"""Nothing rests longer than this."""


@dataclass(frozen=True)
class Due:
    """When each fault ever met is due, UTC; those never met are due at once."""

    dates: Mapping[str, datetime]

    def order(self, now: datetime, keys: Iterable[str]) -> list[str]:
        """Faults in the order in which they should come: the longest due first, then those never met, then by
        when they will be due.
        """

        def rank(key: str) -> tuple[int, float]:
            due = self.dates.get(key)
            if due is None:
                return 1, 0.0
            return (0 if due <= now else 2), due.timestamp()

        return sorted(keys, key=rank)

    def now(self, now: datetime) -> list[str]:
        """Those that are due, the longest due first."""
        return [key for key in self.order(now, self.dates) if self.dates[key] <= now]


def due_after(answers: Iterable[Answer]) -> Due:
    """What the answers make of each fault: one that was missed, or named where it is not, comes soon."""
    scheduler = Scheduler(enable_fuzzing=False, maximum_interval=LONGEST_DAYS)
    cards: dict[str, Card] = {}
    for number, answer in enumerate(sorted(answers, key=lambda one: one.when)):
        when = datetime.fromisoformat(answer.when).astimezone(UTC)
        for key, rating in rated(answer).items():
            card = cards.get(key) or Card(card_id=number, due=when)
            cards[key], _ = scheduler.review_card(card, rating, when)
    return Due({key: card.due for key, card in cards.items()})


def rated(answer: Answer) -> dict[str, Rating]:
    """How well each fault of a swing was told, for those of which it shows anything.

    >>> from kneel.model import View
    >>> seen = "2026-11-30T09:00:00+00:00", "a", View.FACE_ON, 1.5, "steps", ("sway",), ("slide",)
    >>> [one.name for one in rated(Answer(*seen, ("sway", "slide"), Sure.RATHER)).values()]
    ['Good', 'Again']
    """
    hit = {
        Sure.GUESS: Rating.Hard,
        Sure.HALF: Rating.Hard,
        Sure.RATHER: Rating.Good,
        Sure.CERTAIN: Rating.Easy,
    }[answer.sure]
    out = {key: hit if key in answer.named else Rating.Again for key in answer.present}
    out |= dict.fromkeys(answer.false, Rating.Again)
    return {key: rating for key, rating in out.items() if key in asked_faults()}
