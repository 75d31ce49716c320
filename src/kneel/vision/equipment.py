"""Ball and club, looked for where hands and feet tell that they must be."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from kneel.model import Hand, Links, Sighting
from kneel.motion.checkpoints import find_checkpoints
from kneel.motion.feet import FEET
from kneel.motion.sightings import from_marks
from kneel.motion.track import solve_tracks
from kneel.vision.ball import find_ball
from kneel.vision.club import find_club

FloatArray = NDArray[np.float64]
Luma = Callable[[int], NDArray[np.uint8]]

NEEDED = ("grip", *FEET)


def equipment(
    luma: Luma,
    times_s: FloatArray,
    seen: Mapping[str, Sequence[Sighting]],
    links: Mapping[str, Sequence[Links]],
    *,
    px_per_m: float,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> dict[str, Sighting]:
    """Sightings of ``ball`` and ``clubhead``, as far as they are found.

    ``luma(n)`` gives the brightness (H, W) of frame ``n``; ``seen`` and
    ``links`` by point are what is known of hands and ankles; ``px_per_m`` is a
    rough px per metre.
    """
    if not all(name in seen for name in NEEDED):
        return {}
    known = {name: seen[name] for name in NEEDED}
    tracks = solve_tracks(times_s, from_marks((), len(times_s), links, px_per_m=px_per_m, sightings=known))
    if "grip" not in tracks:
        return {}
    hands = tracks["grip"].xy
    found: dict[str, Sighting] = {}
    club = find_club(luma, times_s, hands, px_per_m=px_per_m, progress=progress, stopped=stopped)
    if club is not None:
        found["clubhead"] = club.clubhead(hands, px_per_m)
    whole = dict.fromkeys(tracks, (0, len(times_s) - 1))
    # Which hand is the lead does not matter to the top, nor to when the hands come back.
    at, _ = find_checkpoints(times_s, tracks, whole, hand=Hand.RIGHT, px_per_m=px_per_m, pinned={})
    # Feet may lie outside the picture in every frame, and the ball is looked for between them.
    if {"top", "impact"} <= set(at) and set(FEET) <= set(tracks) and not stopped():
        start = at["address"].shown if "address" in at else 0
        ankles = np.array([tracks[name].xy[start] for name in FEET])
        top, impact = at["top"].time_s, at["impact"].time_s
        ball = find_ball(luma, times_s, ankles, top_s=top, impact_s=impact, px_per_m=px_per_m)
        if ball is not None:
            found["ball"] = ball.sighting()
    return found
