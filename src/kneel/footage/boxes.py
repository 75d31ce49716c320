"""The boxes that an MP4 or MOV file is made of (ISO/IEC 14496-12, 4.2), as far as the film's index goes."""

from __future__ import annotations

import struct
from collections.abc import Iterator
from itertools import islice
from typing import BinaryIO

LARGEST_INDEX = 64 << 20
MOST_BOXES = 200


def movie(file: BinaryIO) -> tuple[int, bytes] | None:
    """Where in the file what its ``moov`` box holds begins, and that; None where it is of another kind."""
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
        if size == 1 and len(head) < 16:
            return None
        if size == 1:
            (size,), skip = struct.unpack(">Q", head[8:16]), 16
        if kind == b"moov":
            file.seek(at + skip)
            return (at + skip, file.read(min(size - skip, LARGEST_INDEX))) if size > skip else None
        if size < skip:
            return None
        at += size
    return None


def boxes(data: bytes) -> Iterator[tuple[bytes, int, bytes]]:
    """The first boxes of some data: the kind of each, where what it holds begins, and that.

    >>> list(boxes(struct.pack(">I4s2s", 10, b"abcd", b"!?")))
    [(b'abcd', 8, b'!?')]
    """
    return islice(_every(data), MOST_BOXES)


def _every(data: bytes) -> Iterator[tuple[bytes, int, bytes]]:
    at = 0
    while at + 8 <= len(data):
        size, kind = struct.unpack_from(">I4s", data, at)
        if size < 8:
            return
        yield kind, at + 8, data[at + 8 : at + size]
        at += size


def box(data: bytes, *path: bytes) -> bytes:
    """What the first box along a path of kinds holds, empty where there is none."""
    for kind in path:
        data = next((body for k, _, body in boxes(data) if k == kind), b"")
    return data


def tracks(index: bytes) -> Iterator[tuple[bytes, int, bytes]]:
    """The tracks of a film's index: of what sort each is, where what it holds begins, and that."""
    for kind, at, track in boxes(index):
        if kind == b"trak":
            yield box(track, b"mdia", b"hdlr")[8:12], at, track
