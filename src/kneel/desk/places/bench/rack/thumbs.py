"""Small pictures of swings about address, made when they come on show and kept in the user's cache."""

from __future__ import annotations

import logging
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtGui import QImage

from kneel.desk.operations import Lane, Operation
from kneel.desk.places.bench.rack.entries import RackEntry
from kneel.documents.thumb_file import thumb_file
from kneel.footage import Clip, picture_of

LOG = logging.getLogger(__name__)

LONG_PX = 240
EARLY = 40
"""Where address is not known: the swing's frame that is shown."""

STILL_S = 0.7
"""So long before they set off golfers stand as they do then (common practice, no source)."""


class Thumbs(QObject):
    """Thumbnails on demand; ``ready`` is called when one has come."""

    def __init__(self, parent: QObject, ready: Callable[[], None]) -> None:
        super().__init__(parent)
        self._ready = ready
        self._made: dict[tuple[Path, int], QImage | None] = {}
        self._workers = Lane(self)

    def of(self, entry: RackEntry) -> QImage | None:
        """The thumbnail, or None until it comes."""
        frame = entry.first + (
            entry.glance.address if entry.glance and entry.glance.address is not None else EARLY
        )
        key = entry.clip, frame
        if key not in self._made:
            self._made[key] = None
            self._workers.start(
                Operation(work=lambda _: _thumb(entry.clip, frame), done=lambda image: self._take(key, image))
            )
        return self._made[key]

    def close_down(self) -> None:
        """Give up those under way."""
        self._workers.stop()

    def _take(self, key: tuple[Path, int], image: QImage | None) -> None:
        self._made[key] = image
        self._ready()


def _thumb(clip: Path, frame: int) -> QImage | None:
    """A small picture of a frame, from the cache or from the clip; runs in a worker thread."""
    kept = thumb_file(clip, frame)
    if kept is not None and kept.is_file():
        image = QImage(str(kept))
        if not image.isNull():
            return image
    with Clip(clip) as opened:
        info = opened.info
        across = LONG_PX / max(info.width, info.height)
        size = max(round(info.width * across), 2), max(round(info.height * across), 2)
        near = opened.nearby(
            min(frame, info.frames - 1), round(STILL_S * (info.rate_captured or info.rate_stored))
        )
        pixels = picture_of(opened.frame(near), opened.upright, size=size, form="bgra")
    height, width = pixels.shape[:2]
    image = QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGB32).copy()
    if kept is not None:
        try:
            kept.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            kept.touch(mode=0o600)
            image.save(str(kept), "JPG", 88)
        except OSError:
            LOG.info("a thumbnail is not kept", exc_info=True)
    return image


HEAD = 8
"""Of what is cut off a high picture, so much less is cut off above: heads stand there."""


def fitted(image: QImage, width: int, height: int) -> QImage:
    """An image cut to fill a box: its middle kept, and of one that is higher than the box the head."""
    scaled = image.scaled(
        width,
        height,
        Qt.AspectRatioMode.KeepAspectRatioByExpanding,
        Qt.TransformationMode.SmoothTransformation,
    )
    return scaled.copy((scaled.width() - width) // 2, (scaled.height() - height) // HEAD, width, height)
