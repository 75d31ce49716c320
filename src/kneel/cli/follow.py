"""Opening a clip with its marks on the command line, and following them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import msgspec
import numpy as np
from numpy.typing import NDArray

from kneel.book.points_csv import read_marks
from kneel.book.swing_file import SUFFIX, load_swing, swing_path
from kneel.cli.parts import progress_on_terminal
from kneel.footage import Clip, ClipInfo, luma_of
from kneel.footage.hearing import heard_strikes
from kneel.model import ClipRef, Links, Mark, PointsError, Swing, UsageError
from kneel.motion.body import px_per_metre
from kneel.motion.checkpoints import Moment
from kneel.vision import closed, follow, legs


@dataclass(frozen=True)
class Document:
    """A swing and what its clip is."""

    swing: Swing
    info: ClipInfo
    start_s: float

    def strikes(self, capture_rate: float | None) -> tuple[Moment, ...]:
        """The strikes heard in the clip, in real seconds on the clock of its frames."""
        return heard_strikes(self.info, self.start_s, capture_rate)

    def followed(self, times_s: NDArray[np.float64]) -> dict[str, list[Links]]:
        """Follow all marks through the clip, with progress on a terminal."""
        marks, info = self.swing.marks, self.info
        placed = {m.point: np.array([[m.x, m.y]]) for m in marks}
        metre = px_per_metre(placed, height_px=info.height)
        first, last = self.swing.reach(info.frames)
        held = {}
        with Clip(info.path) as clip:
            for number, frame in clip.frames(first):
                if number > last:
                    break
                held[number - first] = luma_of(frame, info.upright)
        blank = np.zeros((info.height, info.width), np.uint8)
        found = follow(
            legs(marks, last - first + 1),
            lambda n: held.get(n, blank),
            times_s,
            metre=metre,
            progress=progress_on_terminal("following the marks"),
        )
        return closed(found, marks)


def open_document(path: Path, marks_csv: str | None) -> Document:
    """Open a swing file, or a video with the swing file beside it or marks from a CSV.

    Raises ``FootageError``, ``SwingFileError``, ``PointsError`` or ``UsageError``.
    """
    clip_path = path
    if path.name.endswith(SUFFIX):
        swing = load_swing(path)
        if swing.clip is None:
            raise UsageError(f"{path.name} names no clip.")
        clip_path = Path(swing.clip.path)
        with Clip(clip_path) as clip:
            info, start = clip.info, clip.start_s
    else:
        with Clip(clip_path) as clip:
            info, start = clip.info, clip.start_s
        beside = swing_path(path)
        swing = load_swing(beside) if marks_csv is None and beside.exists() else Swing()
    marks: Sequence[Mark] = read_marks(marks_csv) if marks_csv else swing.marks
    if not marks:
        raise PointsError(
            f"Nobody has marked {path.name} yet: open it in Kneel and mark hips, ankles and hands, "
            "or give a few marks with --marks POINTS.csv."
        )
    first, last = swing.reach(info.frames)
    outside = [m for m in marks if m.frame > last - first]
    if outside:
        raise PointsError(
            f"A mark stands on frame {outside[0].frame}, "
            f"but {clip_path.name} has frames 0 to {info.frames - 1}."
        )
    reference = ClipRef(str(clip_path), info.frames, info.width, info.height, info.rate_stored)
    return Document(msgspec.structs.replace(swing, marks=tuple(marks), clip=reference), info, start)
