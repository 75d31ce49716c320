"""A clip as a camera that stood still would have seen it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from kneel.model import CameraPath, Links, Sighting

FloatArray = NDArray[np.float64]
Picture = NDArray[np.uint8]
Luma = Callable[[int], Picture]


@dataclass(frozen=True)
class Unmoved:
    """A clip as a camera that did not move would have seen it: brightness, and what is known of points."""

    luma: Luma
    seen: Mapping[str, Sequence[Sighting]]
    links: Mapping[str, Sequence[Links]]
    _path: CameraPath | None

    def shown(self, sighting: Sighting) -> Sighting:
        """What was found here as the clip itself shows it."""
        return sighting if self._path is None else replace(sighting, xy=self._path.seen(sighting.xy))


def unmoved(
    path: CameraPath | None,
    luma: Luma,
    seen: Mapping[str, Sequence[Sighting]],
    links: Mapping[str, Sequence[Links]],
) -> Unmoved:
    """Take the camera's motion out of pictures and points; all as it is where ``path`` is None."""
    if path is None:
        return Unmoved(luma, seen, links, None)
    still = {
        name: tuple(replace(one, xy=path.steadied(one.xy)) for one in many) for name, many in seen.items()
    }
    steps = {
        name: tuple(_steady_steps(one, seen[name][0].xy, path) for one in many)
        for name, many in links.items()
        if seen.get(name)
    }
    return Unmoved(_steady_luma(luma, path), still, steps, path)


def _steady_steps(links: Links, xy: FloatArray, path: CameraPath) -> Links:
    """Steps between frames with the camera's own taken out, about where the point was seen."""
    frames = np.arange(len(xy))
    known = np.isfinite(xy[:, 0])
    about = np.stack([np.interp(frames, frames[known], xy[known, k]) for k in (0, 1)], axis=1)
    landed = np.vstack([about[:1], about[:-1] + links.step])
    return Links(path.steadied(landed)[1:] - path.steadied(about)[:-1], links.sigma.copy())


def _steady_luma(luma: Luma, path: CameraPath) -> Luma:
    def still(number: int) -> Picture:
        picture = luma(number)
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        size = (picture.shape[1], picture.shape[0])
        moved = cv2.warpAffine(picture, path.maps[number], size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(moved, dtype=np.uint8)

    return still
