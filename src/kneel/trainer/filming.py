"""Drawn swings filmed into the stock, with their truth beside them."""

from __future__ import annotations

import gzip
import shutil
from collections.abc import Callable
from pathlib import Path

import msgspec
import numpy as np

from kneel.disk.atomic import write_bytes
from kneel.sim.film import film
from kneel.trainer.asked import asked_in
from kneel.trainer.drawing import HEIGHT, WIDTH, Drawn
from kneel.trainer.records import Stocked
from kneel.trainer.stock import CLIP, MAKING, TRUTH, OnShelf, id_of
from kneel.trainer.truth import values_of

ROUND = 2
"""Points are kept to a hundredth of a pixel."""


class _StoppedError(Exception):
    """Nobody wants the swing any more."""


def stocked_of(drawn: Drawn) -> Stocked:
    """A drawn swing with its truth, as it is kept."""
    truth, golfer, rate = drawn.truth, drawn.shoot.golfer, drawn.shoot.rate
    return Stocked(
        id_of(drawn.shot),
        drawn.shot,
        {key: round(float(past), 4) for key, past in drawn.past.items()},
        {key: round(v, 4) for key, v in values_of(drawn.numbers, asked_in(drawn.shot.view)).items()},
        golfer.club,
        round(golfer.stature_cm, 2),
        round(float(truth.cm_per_px), 6),
        rate,
        (WIDTH, HEIGHT),
        {name: round(float((at - truth.times_s[0]) * rate), 3) for name, at in truth.checkpoints_s.items()},
        {
            name: (np.round(xy[:, 0], ROUND).tolist(), np.round(xy[:, 1], ROUND).tolist())
            for name, xy in truth.pixels.items()
            if np.isfinite(xy).all()
        },
    )


def make(
    drawn: Drawn,
    folder: Path,
    *,
    alone: bool = True,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> OnShelf | None:
    """Film a drawn swing into a folder of its own in ``folder``; None once ``stopped``, and nothing is left.

    Raises ``FootageError`` or ``OSError`` where it cannot be written.
    """
    stocked = stocked_of(drawn)
    place, part = folder / stocked.id, folder / f"{MAKING}{stocked.id}"

    def told(done: int, total: int) -> None:
        if stopped():
            raise _StoppedError
        progress(done, total)

    shutil.rmtree(part, ignore_errors=True)
    part.mkdir(mode=0o700, parents=True)
    try:
        film(drawn.shoot, part / CLIP, progress=told, alone=alone)
        write_bytes(part / TRUTH, gzip.compress(msgspec.json.encode(stocked), mtime=0), lasting=False)
        shutil.rmtree(place, ignore_errors=True)
        part.rename(place)
    except _StoppedError:
        return None
    finally:
        shutil.rmtree(part, ignore_errors=True)
    return OnShelf(place, stocked)
