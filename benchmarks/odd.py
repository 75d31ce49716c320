"""Clips in which nothing, or only a part, may be claimed: nobody, half a person, bicycles, a cut."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from benchmarks.film import Filmed, street
from kneel.evidence import Stretch
from kneel.footage import Clip, write_clip
from kneel.footage.content import content_of
from kneel.model import ClipRef, Mark, Swing
from kneel.vision.landmarks.body import find_landmarks

Picture = NDArray[np.uint8]

BELOW_HIPS, ABOVE_HIPS = 820, 700
"""Rows of the man's film between which his hips lie."""


def odd_clips(folder: Path, films: list[Filmed]) -> Iterator[tuple[str, float]]:
    """Each clip's name and the share of its frames in which a body is claimed."""
    made = folder / "odd"
    made.mkdir(parents=True, exist_ok=True)
    if films:
        man, other = (list(_pictures(reel.path)) for reel in (films[0], films[2]))
        crops = {
            "legs alone": [p[BELOW_HIPS:] for p in man],
            "cut in the middle": man[:50] + [p[:, : man[0].shape[1]] for p in other[50:]],
            "mirrored half way": man[:50] + [p[:, ::-1] for p in man[50:]],
        }
        for name, pictures in crops.items():
            yield name, _claimed(_written(made / f"{name.replace(' ', '-')}.mp4", pictures))
    try:
        for path in street(folder / "film"):
            yield path.stem, _claimed(path)
    except OSError as error:
        print(f"Street scenes are left out: {error}.", file=sys.stderr)


def dropped_in(path: Path, swing: Swing, marks: tuple[Mark, ...] = ()) -> tuple[Swing, Stretch]:
    """The document of a clip dropped on the desk and marked, and the stretch of film it speaks of."""
    with Clip(path) as clip:
        info = clip.info
    reference = ClipRef(str(path), info.frames, info.width, info.height, info.rate_stored)
    document = swing.given(clip=reference, looked=True, marks=marks)
    return document, Stretch.of(document, info, content_of(path))


def _pictures(path: Path) -> Iterator[Picture]:
    with Clip(path) as clip:
        for _, frame in clip.frames():
            yield frame.to_ndarray(format="rgb24")


def _written(path: Path, pictures: list[Picture]) -> Path:
    if not path.exists():
        height, width = (side - side % 2 for side in pictures[0].shape[:2])
        write_clip(
            path, (np.ascontiguousarray(p[:height, :width]) for p in pictures), rate=60, size=(width, height)
        )
    return path


def _claimed(path: Path) -> float:
    _, stretch = dropped_in(path, Swing())
    looks = find_landmarks(lambda: stretch.straight_reader().picture, stretch.times_s)
    return float(looks.seen.mean())
