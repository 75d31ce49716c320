"""The track solver: 20 points over 600 frames with errors, against a loop of one solve per coordinate."""

from __future__ import annotations

import numpy as np
from scipy.linalg import solveh_banded

from benchmarks.measure import Row, median_ms
from kneel.model import Links, Sighting
from kneel.motion.track import PointData, solve_tracks

POINTS, FRAMES = 20, 600


def rows() -> list[Row]:
    """The solver's rows: plain sources, and a body model's with offset and wandering error."""
    rng = np.random.default_rng(0)
    times = np.cumsum(rng.uniform(0.5, 1.5, FRAMES) / 120)
    points, looked = {}, {}
    for k in range(POINTS):
        path = np.stack([50 * np.sin(3 * times + k), 40 * np.cos(2 * times)], axis=1)
        seen = Sighting(path + rng.normal(0, 2, path.shape), np.full(FRAMES, 2.0))
        moved = np.diff(path, axis=0) + rng.normal(0, 0.3, (FRAMES - 1, 2))
        links = (Links(moved, np.full(FRAMES - 1, 0.3)),)
        points[str(k)] = PointData((seen,), links)
        body = Sighting(seen.xy, seen.sigma, offset=8.0, wander=6.0)
        looked[str(k)] = PointData((body,), links)
    bands = np.vstack([np.full(FRAMES, 9.0), np.full(FRAMES, -3.0), np.full(FRAMES, 0.5)])
    right = rng.normal(0, 1, (2 * POINTS, FRAMES))

    def loop() -> None:
        for row in right:
            solveh_banded(bands, row, lower=True)

    reference, aim = f"a loop of {2 * POINTS} `solveh_banded`", "≤ 8 ×, under 50 ms"
    loop_ms = median_ms(loop)
    return [
        Row(f"solve {POINTS} points × {FRAMES} frames{what}", median_ms(work), reference, loop_ms, aim)
        for what, work in (
            (" with errors, 5 robust sweeps", lambda: solve_tracks(times, points)),
            ("; sightings of a body model", lambda: solve_tracks(times, looked)),
        )
    ]
