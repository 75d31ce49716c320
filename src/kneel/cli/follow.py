"""Opening a clip with its marks on the command line, and following them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

import msgspec
import numpy as np
from numpy.typing import NDArray

from kneel.book.points_csv import read_marks
from kneel.book.swing_file import SUFFIX, load_swing, swing_path
from kneel.cli.parts import progress_on_terminal
from kneel.footage import Clip, ClipInfo, FrameReader
from kneel.footage.hearing import heard_strikes
from kneel.model import CameraPath, ClipRef, Links, Mark, Near, PointsError, Sighting, Swing, UsageError, View
from kneel.motion.body import rough_px_per_m
from kneel.motion.checkpoints import Moment
from kneel.vision import (
    Followed,
    Looked,
    Source,
    closed,
    follow_legs,
    fused,
    installed,
    legs,
    look,
    merged,
)

FEW_FRAMES = 4
"""Marks on fewer frames than this leave the body model something to add."""


@dataclass(frozen=True)
class Seen:
    """What was found and followed, by point, and plain words on what spoils it."""

    links: Mapping[str, Sequence[Links]]
    sightings: Mapping[str, Sequence[Sighting]]
    warnings: tuple[str, ...]
    camera: CameraPath | None = None


@dataclass(frozen=True)
class Document:
    """A swing and what its clip is."""

    swing: Swing
    info: ClipInfo
    start_s: float

    def strikes(self, capture_rate: float | None) -> tuple[Moment, ...]:
        """The strikes heard in the clip, in real seconds on the clock of its frames."""
        return heard_strikes(self.info, self.start_s, capture_rate)

    def seen(
        self,
        times_s: NDArray[np.float64],
        sources: frozenset[Source] = frozenset(Source),
        near: Near | None = None,
        view: View | None = None,
    ) -> Seen:
        """Look for the joints and follow the marks, as far as the sources asked for go, with progress.

        Raises ``BodyModelError`` where the body model is needed and not installed.
        """
        looked = Looked()
        if Source.BODY in sources and (installed() or not self.swing.marks):
            looked = self._looked(times_s, near, view)
        followed = self._followed(times_s, sources, steady=not looked.sightings)
        links = merged(
            closed(followed.links, self.swing.marks), looked.links if Source.FLOW in sources else {}
        )
        spots = {point: (spot,) for point, spot in fused(followed.spots).items()}
        camera = looked.camera if looked.sightings else followed.camera
        camera = camera if self.swing.steadied else None
        return Seen(links, merged(spots, looked.sightings), looked.warnings, camera)

    def _followed(
        self, times_s: NDArray[np.float64], sources: frozenset[Source], *, steady: bool
    ) -> Followed:
        marks = self.swing.marks
        if not marks:
            return Followed()
        first, last = self.swing.reach(self.info.frames)
        return follow_legs(
            legs(marks, last - first + 1),
            FrameReader(self.info.path, first),
            times_s,
            px_per_m=rough_px_per_m(
                {m.point: np.array([[m.x, m.y]]) for m in marks}, height_px=self.info.height
            ),
            sources=sources,
            steady=steady,
            progress=progress_on_terminal("following the marks"),
        )

    @property
    def wants_looking(self) -> bool:
        """Whether the joints should be looked for besides the marks by hand."""
        return len({m.frame for m in self.swing.marks}) < FEW_FRAMES

    def _looked(self, times_s: NDArray[np.float64], near: Near | None, view: View | None) -> Looked:
        first, _ = self.swing.reach(self.info.frames)
        return look(
            lambda: FrameReader(self.info.path, first, budget=0).picture,
            lambda: FrameReader(self.info.path, first).luma,
            times_s,
            near=near,
            view=view,
            progress=progress_on_terminal("looking for the joints"),
        )


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
    if not marks and not installed():
        raise PointsError(
            f"Nobody has marked {path.name} yet, and the body-landmark network is not installed: open it in "
            "Kneel and mark hips, ankles and hands, or give a few marks with --marks POINTS.csv."
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
