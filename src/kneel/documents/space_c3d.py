"""A body in space as C3D, which programs for motion capture read: joints in millimetres at an even rate, each
with its doubt as residual.

Axes of the laboratory: X toward the target, Z up, and Y so that they are right-handed: from the golfer to the
ball for a left-handed golfer, from the ball to the golfer for a right-handed one. Points have their
anatomical names. Written by the ``c3d`` library.
"""

from __future__ import annotations

import io
import warnings
from pathlib import Path

import c3d
import numpy as np

from kneel.disk import write_bytes
from kneel.model import Hand, UsageError, anatomical
from kneel.motion.space.linked import Linked

RATE = 120.0
MM_PER_CM = 10.0


def write_c3d(path: Path, linked: Linked, hand: Hand, rate: float = RATE) -> int:
    """Write a swing by two cameras; gives how many frames. Raises ``OSError``, ``UsageError`` for a body that
    is told at one moment alone.
    """
    body = linked.body
    if len(body.times_s) < 2:
        raise UsageError("A body that is told at one moment is no motion; C3D needs two at least.")
    times = np.arange(body.times_s[0], body.times_s[-1] + 0.5 / rate, 1.0 / rate)
    writer = c3d.Writer(point_rate=rate)
    writer.set_point_labels([anatomical(point, hand) for point in body.points])
    # Kneel's own axes (target, up, ball) are a mirror image of the world's for a right-handed golfer.
    ball = 1.0 if hand is Hand.LEFT else -1.0
    writer.set_screen_axis("+X", "+Z")
    frames = []
    for time in times.tolist():
        places = body.placed(time)
        rows = np.zeros((len(body.points), 5), dtype=np.float32)
        for k, point in enumerate(body.points):
            x, up, out = MM_PER_CM * places[point]
            rows[k, :3] = x, ball * out, up
            rows[k, 3] = MM_PER_CM * float(np.sqrt(np.trace(body.doubt(point, time))))
        frames.append((rows, np.empty((0, 0))))
    writer.add_frames(frames)
    raw = io.BytesIO()
    with warnings.catch_warnings():
        # It holds no analog channels, which the library thinks worth a word.
        warnings.simplefilter("ignore", UserWarning)
        writer.write(raw)
    write_bytes(path, raw.getvalue())
    return len(times)
