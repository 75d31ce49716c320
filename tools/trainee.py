"""A made-up trainee for the pictures: what an eye that gets better would answer over some weeks."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable
from itertools import islice
from pathlib import Path

import msgspec
import numpy as np

from kneel.trainer.asked import asked_in
from kneel.trainer.records import Answer, Settings, Sure
from kneel.trainer.scores import unit_of
from kneel.trainer.shots import shots

SWINGS, EACH_DAY = 640, 20


def write(path: Path, every: Iterable[Answer]) -> None:
    """Keep answers as the Trainer keeps its own, all at once."""
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(b"".join(msgspec.json.encode(one) + b"\n" for one in every))


def answers(now: dt.datetime) -> list[Answer]:
    """Answers of two months; a reverse pivot is often taken for a sway, angles for larger than they are."""
    rng = np.random.default_rng(4)
    out = []
    for number, shot in enumerate(islice(shots(Settings(), 9), SWINGS)):
        keys = [one.key for one in asked_in(shot.view)]
        sharp = 1.5 + 1.3 * number / SWINGS
        seen = {key: rng.normal(sharp * (key in shot.planted)) for key in keys}
        if "reverse_pivot" in shot.planted:
            seen |= {"sway": seen["sway"] + 1.4, "reverse_pivot": seen["reverse_pivot"] - 0.6}
        best = max(seen, key=lambda key: seen[key])
        named = (best,) if seen[best] > 1.5 else ()
        more = 3.0 if named and unit_of(best) == "deg" else 0.3
        sure = Sure(int(np.clip(abs(seen[best] - 1.5) * 2.2, 0, 3)))
        days = (SWINGS - number) // EACH_DAY * 2
        out.append(
            Answer(
                (now - dt.timedelta(days=days)).isoformat(),
                f"made-up-{number}",
                shot.view,
                1.5,
                "steps",
                shot.planted,
                tuple(key for key in keys if key not in shot.planted),
                named,
                sure,
                {key: 9.0 + more + float(rng.normal(0, 1.6)) for key in named},
                dict.fromkeys(named, 9.0),
            )
        )
    return out
