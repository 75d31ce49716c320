"""The sound of a clip as plain samples on the clock of its pictures."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from kneel.disk import shown
from kneel.footage.container import open_container
from kneel.footage.edits import read_edits
from kneel.model import FootageError

FloatArray = NDArray[np.float64]

RATE = 48000
LONGEST_GAP_S = 30.0


@dataclass(frozen=True)
class Sound:
    """Mono samples in -1..1 at ``rate``; the first one sounds at ``start_s`` after the first picture."""

    samples: FloatArray
    rate: int
    start_s: float


def read_sound(path: str | Path, picture_start_s: float) -> Sound | None:
    """The first sound track of a clip, or None where there is none that can be decoded.

    ``picture_start_s`` is the presentation time of the first picture on the
    file's own clock. Raises :class:`FootageError` where the file is gone.
    """
    try:
        edits = read_edits(Path(path))
        with open_container(Path(path), edits) as container:
            if not container.streams.audio:
                return None
            # Where edits are passed over, so are those that skip the lead-in of a track.
            passed_s = edits.lead_s if edits.changes_pace else 0.0
            return _decoded(container, picture_start_s + passed_s)
    except FileNotFoundError as error:
        raise FootageError(f"{shown(Path(path).name)} is no longer there.") from error
    except (av.FFmpegError, OSError, ValueError):
        return None


def _decoded(container: Any, picture_start_s: float) -> Sound | None:
    stream = container.streams.audio[0]
    resampler = av.AudioResampler(format="flt", layout="mono", rate=RATE)
    parts: list[NDArray[np.float32]] = []
    start: float | None = None
    length = 0
    try:
        for frame in container.decode(stream):
            if start is None:
                start = float(frame.time or 0.0)
            if frame.time is not None:
                # Lost packets leave a gap in time; silence keeps the clock right.
                gap = round((frame.time - start) * RATE) - length
                if 2400 < gap < LONGEST_GAP_S * RATE:
                    parts.append(np.zeros(gap, np.float32))
                    length += gap
            for made in resampler.resample(frame):
                part = np.asarray(made.to_ndarray(), dtype=np.float32).reshape(-1)
                parts.append(part)
                length += len(part)
    except (av.FFmpegError, ValueError):
        pass
    if start is None or not parts:
        return None
    return Sound(np.concatenate(parts).astype(np.float64), RATE, start - picture_start_s)
