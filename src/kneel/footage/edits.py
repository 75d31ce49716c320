"""Edit lists of MP4 and MOV files: which part of a track is shown, and how fast.

Read here because the decoder's library takes an edit that slows a part down
for one that shows more of the track, and gives frames twice.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass
from pathlib import Path

from kneel.disk import demand_file
from kneel.footage.boxes import box, movie, tracks

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
            found = movie(file)
        return _edits(found[1]) if found else Edits()
    except (OSError, struct.error, ValueError, ZeroDivisionError):
        return Edits()


def _edits(index: bytes) -> Edits:
    shown = _timescale(box(index, b"mvhd"))
    found: dict[bytes, tuple[Edit, ...]] = {}
    for sort, _, track in tracks(index):
        entries = _entries(box(track, b"edts", b"elst"), shown, _timescale(box(track, b"mdia", b"mdhd")))
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
