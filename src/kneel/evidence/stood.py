"""Whether the camera stood in one place for several swings, by what their clips show round the golfer."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from kneel.evidence.stretch import Stretch
from kneel.model import FootageError
from kneel.motion.study import Study
from kneel.vision.stood import stood


def stood_through(swings: Sequence[tuple[Stretch, Study]]) -> bool:
    """Whether all were filmed from one place: each against the first, at address. False where none can tell.

    A camera that moved within a clip did not stand.
    """
    if len(swings) < 2 or any(study.camera is not None for _, study in swings):
        return False
    pictures = []
    for stretch, study in swings:
        address = study.checkpoints.get("address")
        if address is None:
            return False
        joints = np.array([track.xy[address.shown] for name, track in study.tracks.items() if name != "ball"])
        try:
            pictures.append((stretch.straight_reader().luma(address.shown), joints, study.px_per_m))
        except (FootageError, OSError):
            return False
    first, at_first, px_per_m = pictures[0]
    return all(stood(first, one, (at_first, joints), px_per_m=px_per_m) for one, joints, _ in pictures[1:])
