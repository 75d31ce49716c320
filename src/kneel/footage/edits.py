"""Edit lists of MP4 and MOV files: which part of a track is shown, and how fast.

Read here because the decoder's library takes an edit that slows a part down
for one that shows more of the track, and gives frames twice.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import BinaryIO

from kneel.disk import demand_file

LARGEST_INDEX = 64 << 20
MOST_BOXES = 200
PLAIN = 1 << 16
"""A rate of 1 in the file's 16.16 numbers."""


@dataclass(frozen=True)
class Edit:
    """One entry: how long it is shown, from where in the track (None: nothing shown), how fast; seconds."""

    shown_s: float
    start_s: float | None
    rate: float


@dataclass(frozen=True)
class Edits:
    """The edits of a file's first video and first sound track."""

    video: tuple[Edit, ...] = ()
    sound: tuple[Edit, ...] = ()

    @property
    def slowest(self) -> float:
        """The slowest rate at which a part of the pictures is shown, 1 where all is shown as filmed."""
        rates = [e.rate for e in self.video if e.start_s is not None and e.rate > 0]
        return min(rates, default=1.0)

    @property
    def changes_pace(self) -> bool:
        """Whether some part of the pictures is to be shown slower or faster than filmed."""
        return any(e.start_s is not None and e.rate != 1.0 for e in self.video)

    @property
    def video_s(self) -> float | None:
        """How long the pictures are shown, None where no edit tells."""
        return sum(e.shown_s for e in self.video) if self.video else None

    @property
    def lead_s(self) -> float:
        """How much later the sound track is taken up than the pictures, each on its own clock."""
        starts = [
            next((e.start_s for e in es if e.start_s is not None), 0.0) for es in (self.sound, self.video)
        ]
        return starts[0] - starts[1]


def read_edits(path: Path) -> Edits:
    """The edits of a file (ISO/IEC 14496-12, 8.6.6); none where it is of another kind or damaged."""
    try:
        # A pipe would keep the opening waiting.
        demand_file(path)
        with path.open("rb") as file:
            index = _movie(file)
        return _edits(index) if index else Edits()
    except (OSError, struct.error, ValueError, ZeroDivisionError):
        return Edits()


def _movie(file: BinaryIO) -> bytes | None:
    """The contents of the file's ``moov`` box."""
    at = 0
    for _ in range(MOST_BOXES):
        file.seek(at)
        head = file.read(16)
        if len(head) < 8:
            return None
        size, kind = struct.unpack(">I4s", head[:8])
        if at == 0 and kind not in (b"ftyp", b"moov", b"wide", b"mdat", b"free", b"skip"):
            return None
        skip = 8
        if size == 1:
            (size,), skip = struct.unpack(">Q", head[8:16]), 16
        if kind == b"moov":
            file.seek(at + skip)
            return file.read(min(size - skip, LARGEST_INDEX)) if size > skip else None
        if size < skip:
            return None
        at += size
    return None


def _boxes(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    at = 0
    while at + 8 <= len(data):
        size, kind = struct.unpack_from(">I4s", data, at)
        if size < 8:
            return
        yield kind, data[at + 8 : at + size]
        at += size


def _box(data: bytes, *path: bytes) -> bytes:
    """The first box along a path of kinds, empty where there is none."""
    for kind in path:
        data = next((body for k, body in islice(_boxes(data), MOST_BOXES) if k == kind), b"")
    return data


def _edits(movie: bytes) -> Edits:
    shown = _timescale(_box(movie, b"mvhd"))
    found: dict[bytes, tuple[Edit, ...]] = {}
    for kind, track in islice(_boxes(movie), MOST_BOXES):
        if kind != b"trak":
            continue
        sort = _box(track, b"mdia", b"hdlr")[8:12]
        entries = _entries(_box(track, b"edts", b"elst"), shown, _timescale(_box(track, b"mdia", b"mdhd")))
        found.setdefault(sort, entries)
    return Edits(found.get(b"vide", ()), found.get(b"soun", ()))


def _timescale(header: bytes) -> int:
    """Units a second of a movie's or a track's header."""
    scale: int = struct.unpack_from(">I", header, 20 if header[:1] == b"\1" else 12)[0]
    return scale


def _entries(content: bytes, shown: int, own: int) -> tuple[Edit, ...]:
    if not content:
        return ()
    entry = struct.Struct(">QqI" if content[:1] == b"\1" else ">IiI")
    (count,) = struct.unpack_from(">I", content, 4)
    out = []
    for k in range(min(count, (len(content) - 8) // entry.size)):
        duration, start, rate = entry.unpack_from(content, 8 + k * entry.size)
        out.append(Edit(duration / shown, None if start < 0 else start / own, rate / PLAIN))
    return tuple(out)
