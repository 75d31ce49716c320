"""A copy of a clip that is shown turned: its pictures stay as they are coded, the file says how they stand.

MP4 and MOV say so in the header of the track with the pictures (ISO/IEC 14496-12, 8.3.2: ``tkhd``, the nine
numbers of a matrix), 36 bytes that nothing else in the file hangs on.
"""

from __future__ import annotations

import contextlib
import struct
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO, Final

from kneel.disk import demand_file, replacing, shown
from kneel.footage.boxes import boxes, movie, tracks
from kneel.model import FootageError

CHUNK: Final = 1 << 22

MATRIX: Final = struct.Struct(">9i")
SHAPE: Final = struct.Struct(">9i2I")
"""The matrix, and after it how wide and high the pictures are (16.16)."""

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
    total = demand_file(source).st_size
    try:
        with source.open("rb") as reader, replacing(target) as part, part.open("r+b") as writer:
            matrices = _matrices(reader, quarters)
            if not matrices:
                raise FootageError(
                    f"{shown(source.name)} is no MP4 or MOV with pictures; only these can be turned as they "
                    "are. It is untouched: turn it with a program that codes it anew."
                )
            reader.seek(0)
            while chunk := reader.read(CHUNK):
                if stopped():
                    raise InterruptedError
                writer.write(chunk)
                progress(reader.tell(), total)
            for at, matrix in matrices.items():
                writer.seek(at)
                writer.write(matrix)
    except InterruptedError:
        return False
    return True


def _matrices(reader: BinaryIO, quarters: int) -> dict[int, bytes]:
    """By where they stand in the file: the matrices of tracks with pictures, once these are turned."""
    found = movie(reader)
    if found is None:
        return {}
    start, index = found
    out = {}
    for sort, track_at, track in tracks(index):
        for kind, header_at, header in boxes(track):
            at = _MATRIX_AT.get(header[0]) if sort == b"vide" and kind == b"tkhd" and header else None
            if at is not None and len(header) >= at + SHAPE.size:
                *matrix, width, height = SHAPE.unpack_from(header, at)
                turned = _turned(tuple(matrix), (width, height), quarters)
                # A spoilt header shows pictures that are farther off than one can say.
                with contextlib.suppress(struct.error):
                    out[start + track_at + header_at + at] = MATRIX.pack(*turned)
    return out


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
