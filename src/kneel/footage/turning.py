"""A copy of a clip that is shown turned: its pictures stay as they are coded, the file says how they stand.

MP4 and MOV say so in the header of the track with the pictures (ISO/IEC 14496-12, 8.3.2: ``tkhd``, the nine
numbers of a matrix), 36 bytes that nothing else in the file hangs on.
"""

from __future__ import annotations

import struct
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import BinaryIO, Final

from kneel.disk import demand_file, replacing, shown
from kneel.model import FootageError

CHUNK: Final = 1 << 22
LARGEST_HEADER: Final = 1 << 26
"""What describes a film is never larger; more is a broken file."""

MATRIX: Final = ">9i"
_MATRIX_AT: Final = {0: 40, 1: 52}
"""Where the matrix stands in a track's header, by its version."""


def turned_copy(
    source: Path,
    target: Path,
    quarters: int,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> bool:
    """Write ``target``, the same film shown ``quarters`` of a turn farther clockwise; False where stopped.

    The source is not touched, and a target is there whole or not at all. Raises ``FootageError`` where the
    file is no MP4 or MOV, ``OSError`` where it cannot be copied.
    """
    try:
        _copy(source, target, quarters, progress, stopped)
    except _StoppedError:
        return False
    return True


class _StoppedError(Exception):
    """Whoever asked for the copy wants it no longer."""


def _copy(
    source: Path,
    target: Path,
    quarters: int,
    progress: Callable[[int, int], None],
    stopped: Callable[[], bool],
) -> None:
    total = demand_file(source).st_size
    with source.open("rb") as reader, replacing(target) as part, part.open("r+b") as writer:
        places = list(_matrices(reader, total))
        if not places:
            raise FootageError(
                f"{shown(source.name)} is no MP4 or MOV with pictures; only these can be turned as they are. "
                "It is untouched: turn it with a program that codes it anew."
            )
        reader.seek(0)
        done = 0
        while chunk := reader.read(CHUNK):
            if stopped():
                raise _StoppedError
            writer.write(chunk)
            done += len(chunk)
            progress(done, total)
        for at, size in places:
            reader.seek(at)
            writer.seek(at)
            writer.write(
                struct.pack(MATRIX, *_turned(struct.unpack(MATRIX, reader.read(36)), size, quarters))
            )


def _matrices(reader: BinaryIO, total: int) -> Iterator[tuple[int, tuple[int, int]]]:
    """Where the matrices of tracks with pictures stand, and how wide and high (16.16) these are."""
    for kind, first, last in _boxes(reader, 0, total):
        if kind != b"moov" or last - first > LARGEST_HEADER:
            continue
        for inner, start, end in _boxes(reader, first, last):
            if inner == b"trak" and _has_pictures(reader, start, end):
                yield from _matrix(reader, start, end)


def _matrix(reader: BinaryIO, first: int, last: int) -> Iterator[tuple[int, tuple[int, int]]]:
    for kind, start, end in _boxes(reader, first, last):
        if kind != b"tkhd":
            continue
        reader.seek(start)
        at = _MATRIX_AT.get(reader.read(1)[0])
        if at is not None and end - start >= at + 44:
            reader.seek(start + at + 36)
            width, height = struct.unpack(">2I", reader.read(8))
            yield start + at, (width, height)


def _has_pictures(reader: BinaryIO, first: int, last: int) -> bool:
    for kind, start, end in _boxes(reader, first, last):
        if kind != b"mdia":
            continue
        for inner, begins, _ in _boxes(reader, start, end):
            reader.seek(begins + 8)
            if inner == b"hdlr" and reader.read(4) == b"vide":
                return True
    return False


def _boxes(reader: BinaryIO, first: int, last: int) -> Iterator[tuple[bytes, int, int]]:
    """The boxes between two places of the file: kind, and where what is in it begins and ends."""
    at = first
    while at + 8 <= last:
        reader.seek(at)
        size, kind = struct.unpack(">I4s", reader.read(8))
        head = 8
        if size == 1:
            size, head = struct.unpack(">Q", reader.read(8).rjust(8, b"\0"))[0], 16
        elif size == 0:
            size = last - at
        if size < head or at + size > last:
            return
        yield kind, at + head, at + size
        at += size


def _turned(matrix: tuple[int, ...], size: tuple[int, int], quarters: int) -> tuple[int, ...]:
    """The matrix of the same picture, ``size`` wide and high, turned clockwise, its corner back at (0, 0)."""
    a, b, u, c, d, v, _, _, w = matrix
    for _ in range(quarters % 4):
        a, b, c, d = -b, a, -d, c
    width, height = size
    unit = 1 << 16
    corners = [(x * a + y * c, x * b + y * d) for x in (0, width) for y in (0, height)]
    right, down = (-min(one[k] for one in corners) // unit for k in (0, 1))
    return a, b, u, c, d, v, right, down, w
