"""Keeping what was seen and followed, by the content of the clip and by what was asked.

Every piece lies in a file of its own in the user's cache. A clip may carry
pieces along in a file beside it, which is only read: so the demo, or a
lesson sent to another desk, has its numbers at once.

What is kept is what is used: who gathers a piece anew takes it from its kept
form too, so that the second look gives the numbers of the first.
"""

from __future__ import annotations

import contextlib
import hashlib
import logging
import zlib
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import TypeVar

import msgspec
import numpy as np
import platformdirs
from numpy.typing import NDArray

from kneel.disk import read_bounded, write_bytes
from kneel.model import Links, Sighting

LOG = logging.getLogger(__name__)

METHOD = 16
"""Raise when looking or following changes, so that what an older Kneel kept is gathered anew."""

KEPT_FILES = 600
SIDECAR = ".evidence"
LARGEST_BYTES = 256 << 20

FloatArray = NDArray[np.float64]
T = TypeVar("T")


class Packed(msgspec.Struct, frozen=True):
    """Arrays by name, as shape and raw little-endian float32."""

    arrays: dict[str, tuple[tuple[int, ...], bytes]]


class _Sidecar(msgspec.Struct, frozen=True):
    method: int
    content: str
    pieces: dict[str, bytes]


def sidecar(clip: Path) -> Path:
    """Where a clip's own pieces lie: beside it.

    >>> sidecar(Path("range.mp4")).name
    'range.mp4.evidence'
    """
    return clip.with_name(clip.name + SIDECAR)


class Shelf:
    """Where pieces are found and put. ``beside`` is a clip that may carry some along.

    A piece is bytes under a key; keys hold the method's number, so that
    nothing stale is ever found. ``used`` are those asked for or put so far.
    """

    def __init__(self, beside: Path | None = None, *, folder: Path | None = None) -> None:
        self._folder = folder or platformdirs.user_cache_path("kneel") / "evidence"
        self._carried: Mapping[str, bytes] = _carried(beside) if beside else {}
        self.used: set[str] = set()

    def key(self, kind: str, *about: object) -> str:
        """The key of a piece: its kind and all that it hangs on."""
        return hashlib.sha256(repr((METHOD, kind, *about)).encode()).hexdigest()[:32]

    def get(self, key: str) -> bytes | None:
        """A piece, or None where it is not known."""
        return next(self.pieces(key), None)

    def pieces(self, key: str) -> Iterator[bytes]:
        """What is known under a key: the user's own piece, which may hold more, then the carried one."""
        self.used.add(key)
        with contextlib.suppress(OSError):
            yield read_bounded(self._folder / f"{key}.bin", LARGEST_BYTES)
        if key in self._carried:
            yield self._carried[key]

    def put(self, key: str, piece: bytes) -> None:
        """Keep a piece; a cache that cannot be written is no harm."""
        self.used.add(key)
        try:
            self._folder.mkdir(mode=0o700, parents=True, exist_ok=True)
            write_bytes(self._folder / f"{key}.bin", piece, private=True, lasting=False)
            for old in sorted(self._folder.glob("*.bin"), key=_changed)[:-KEPT_FILES]:
                old.unlink(missing_ok=True)
        except OSError:
            LOG.info("a piece of evidence is not kept for the next opening", exc_info=True)

    def forget(self) -> None:
        """Take the pieces used so far out of the user's cache."""
        for key in self.used:
            with contextlib.suppress(OSError):
                (self._folder / f"{key}.bin").unlink(missing_ok=True)

    def carry(self, clip: Path, content: str) -> Path:
        """Write the pieces used so far beside a clip, for it to carry along, with those that lie there.

        Raises ``OSError``.
        """
        pieces = {key: piece for key in sorted(self.used) if (piece := self.get(key)) is not None}
        pieces = dict(_carried(clip)) | pieces
        target = sidecar(clip)
        write_bytes(target, msgspec.msgpack.encode(_Sidecar(METHOD, content, pieces)))
        return target


def kept(shelf: Shelf, key: str, kind: type[T]) -> T | None:
    """A piece as the record it is; None where it is not known, or is not one."""
    for piece in shelf.pieces(key):
        with contextlib.suppress(zlib.error, msgspec.MsgspecError, ValueError):
            return msgspec.msgpack.decode(_inflated(piece), type=kind)
    return None


def _inflated(piece: bytes) -> bytes:
    """A piece unpacked, within what a piece can be. Raises ``zlib.error`` or ``ValueError``."""
    unpacker = zlib.decompressobj()
    content = unpacker.decompress(piece, LARGEST_BYTES)
    if not unpacker.eof:
        raise ValueError("a piece is cut off, or larger than one can be")
    return content


def packed(record: msgspec.Struct) -> bytes:
    """A record as a piece."""
    return zlib.compress(msgspec.msgpack.encode(record), 6)


def pack(**arrays: FloatArray | None) -> Packed:
    """Arrays in their kept form; None is left out."""
    return Packed(
        {
            name: (tuple(array.shape), np.ascontiguousarray(array, dtype="<f4").tobytes())
            for name, array in arrays.items()
            if array is not None
        }
    )


def unpack(one: Packed) -> Callable[[str], FloatArray | None]:
    """The arrays of a kept form by name. Raises ``ValueError`` where one is not of its shape."""

    def array(name: str) -> FloatArray | None:
        if name not in one.arrays:
            return None
        shape, raw = one.arrays[name]
        return np.frombuffer(raw, dtype="<f4").astype(np.float64).reshape(shape)

    return array


class KeptSighting(msgspec.Struct, frozen=True):
    """A :class:`Sighting` as it is kept."""

    arrays: Packed
    offset: float
    wander: float
    wander_s: float

    @staticmethod
    def of(seen: Sighting) -> KeptSighting:
        arrays = pack(
            xy=seen.xy,
            sigma=seen.sigma,
            clock=seen.clock,
            lasting=seen.lasting,
            doubt=seen.doubt,
            doubt_together=seen.doubt_together,
        )
        return KeptSighting(arrays, seen.offset, seen.wander, seen.wander_s)

    def sighting(self) -> Sighting:
        """The sighting again. Raises ``ValueError``."""
        array = unpack(self.arrays)
        xy, sigma, clock = array("xy"), array("sigma"), array("clock")
        if xy is None or sigma is None:
            raise ValueError("a kept sighting lacks its places")
        if clock is not None:
            # Rounding may turn a standing clock back by a hair.
            clock = np.maximum.accumulate(clock)
        return Sighting(
            xy,
            sigma,
            array("lasting"),
            offset=self.offset,
            wander=self.wander,
            wander_s=self.wander_s,
            clock=clock,
            doubt=array("doubt"),
            doubt_together=array("doubt_together"),
        )


def pack_links(links: Links) -> Packed:
    """A :class:`Links` as it is kept."""
    return pack(step=links.step, sigma=links.sigma)


def unpack_links(one: Packed) -> Links:
    """The links again. Raises ``ValueError``."""
    array = unpack(one)
    step, sigma = array("step"), array("sigma")
    if step is None or sigma is None:
        raise ValueError("kept links lack their steps")
    return Links(step, sigma)


def _carried(clip: Path) -> Mapping[str, bytes]:
    path = sidecar(clip)
    try:
        found = msgspec.msgpack.decode(read_bounded(path, LARGEST_BYTES), type=_Sidecar)
    except (OSError, ValueError, RecursionError, msgspec.MsgspecError):
        return {}
    return found.pieces if found.method == METHOD else {}


def _changed(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return 0.0
