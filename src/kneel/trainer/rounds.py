"""A round: which swings come, in which order, and what an answer makes of each."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from datetime import UTC, datetime

import numpy as np

from kneel.trainer.asked import asked_faults
from kneel.trainer.due import Due
from kneel.trainer.records import Answer, Settings, Shown, Stocked, Sure
from kneel.trainer.stock import OnShelf, fits
from kneel.trainer.truth import absent, present

CLEAN_SHARE = 0.3
"""So many swings of a round have nothing wrong, as far as there are some."""


def choose(
    stock: Iterable[OnShelf],
    settings: Settings,
    answered: Collection[str],
    due: Due,
    now: datetime,
    seed: int,
) -> list[OnShelf]:
    """The swings of a round: those never answered before those that were; of each, what is due comes first.

    They come mixed, so that the order tells nothing.
    """
    rng = np.random.default_rng(seed)
    fitting = [one for one in stock if fits(one.stocked, settings)]
    rng.shuffle(fitting)
    fitting.sort(key=lambda one: one.id in answered)
    clean = [one for one in fitting if not one.stocked.shot.planted]
    faulty = [one for one in fitting if one.stocked.shot.planted]
    wanted_clean = min(len(clean), round(CLEAN_SHARE * settings.swings))
    chosen = clean[:wanted_clean] + _by_turns(faulty, answered, due, now)[: settings.swings - wanted_clean]
    if len(chosen) < settings.swings:
        chosen += clean[wanted_clean : wanted_clean + settings.swings - len(chosen)]
    rng.shuffle(chosen)
    return chosen


def _by_turns(faulty: Sequence[OnShelf], answered: Collection[str], due: Due, now: datetime) -> list[OnShelf]:
    """One of each fault after another, what is due first, and round again; new ones before seen ones."""
    out: list[OnShelf] = []
    for old in (False, True):
        heaps: dict[str, list[OnShelf]] = {}
        for one in faulty:
            if (one.id in answered) is old:
                heaps.setdefault(one.stocked.shot.planted[0], []).append(one)
        order = due.order(now, heaps)
        while any(heaps.values()):
            out += [heaps[key].pop(0) for key in order if heaps[key]]
    return out


def answer_of(
    stocked: Stocked,
    named: Sequence[str],
    sure: Sure,
    said: Mapping[str, float],
    *,
    shown: Shown,
    size: float,
    by: str = "",
    now: datetime | None = None,
) -> Answer:
    """What was answered, with all that scores need of the swing; ``size`` is that of the round."""
    when = (now or datetime.now(UTC)).astimezone(UTC)
    return Answer(
        when.isoformat(timespec="milliseconds"),
        stocked.id,
        stocked.shot.view,
        size,
        shown,
        present(stocked.past),
        absent(stocked.past),
        tuple(key for key in stocked.past if key in named),
        sure,
        {key: _within(key, value) for key, value in said.items() if key in named and key in stocked.past},
        {key: stocked.values[key] for key in named if key in stocked.values},
        by,
    )


def _within(key: str, value: float) -> float:
    asked = asked_faults()[key]
    return round(min(max(value, asked.low), asked.high), 2)
