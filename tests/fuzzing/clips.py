"""Clips with the boxes of their container mutated (ISO/IEC 14496-12)."""

from __future__ import annotations

import random
import struct

HOLDERS = (b"moov", b"trak", b"mdia", b"minf", b"stbl", b"edts", b"udta", b"meta", b"dinf")
ODD = (0, 1, 2, 0x7FFFFFFF, 0xFFFFFFFF, 0x80000000, 1000, 90000, 3, 16)
HEADS = (
    b"#EXTM3U\n#EXTINF:1,\n/etc/passwd\n",
    b"ffconcat version 1.0\nfile other.mp4\n",
    b"II*\0",
    b"\xff\xd8\xff\xe0",
)
HEADS += (
    b"\0\0\0\1\x67\x42\0\x1e",
    b"RIFF\0\0\0\0AVI LIST",
    b"\x1aE\xdf\xa3",
    b"OggS",
    b"ID3\4",
    b"GIF89a",
    b"<mpd>",
)

Box = tuple[bytes, "bytes | list[Box]"]


def parsed(raw: bytes) -> list[Box]:
    """The boxes of a file or of a holder."""
    at, out = 0, []
    while at + 8 <= len(raw):
        size, kind = struct.unpack_from(">I4s", raw, at)
        if size < 8:
            break
        body = raw[at + 8 : at + size]
        out.append((kind, parsed(body) if kind in HOLDERS[:6] else body))
        at += size
    return out


def written(boxes: list[Box]) -> bytes:
    """The bytes of boxes."""
    out = b""
    for kind, body in boxes:
        content = body if isinstance(body, bytes) else written(body)
        out += struct.pack(">I4s", len(content) + 8, kind) + content
    return out


def mutated(raw: bytes, seed: int) -> bytes:
    """One clip made of a sound MP4 whose index comes last, so that its offsets stay true."""
    rng = random.Random(seed)
    if rng.random() < 0.08:
        return rng.choice(HEADS) + rng.randbytes(rng.choice((0, 10, 5000)))
    boxes = parsed(raw)
    for _ in range(rng.choice((1, 1, 2, 4))):
        _mutate(rng, boxes)
    out = written(boxes)
    kind = rng.randrange(8)
    if kind == 0:
        return out[: rng.randrange(len(out))]
    if kind == 1:
        at = rng.randrange(len(out))
        return out[:at] + rng.randbytes(rng.choice((1, 4, 400))) + out[at + 4 :]
    if kind == 2:
        at, size = rng.randrange(len(out)), rng.choice((4, 1000))
        return out[:at] + bytes(size) + out[at + size :]
    return out


def _mutate(rng: random.Random, boxes: list[Box]) -> None:
    level = boxes
    while rng.random() < 0.85:
        holders = [body for _, body in level if isinstance(body, list) and body]
        if not holders:
            break
        level = rng.choice(holders)
    if not level:
        return
    at = rng.randrange(len(level))
    kind, body = level[at]
    deed = rng.randrange(7)
    if deed == 0:
        del level[at]
    elif deed == 1:
        level.insert(at, level[at])
    elif deed == 2:
        other = rng.randrange(len(level))
        level[at], level[other] = level[other], level[at]
    elif deed == 3:
        level[at] = (bytes(rng.choice(b"abcdmoovtrakstts") for _ in range(4)), body)
    elif isinstance(body, bytes) and len(body) >= 8:
        where = 4 * rng.randrange(min(len(body) // 4, 24))
        level[at] = (kind, body[:where] + struct.pack(">I", rng.choice(ODD)) + body[where + 4 :])
    elif isinstance(body, bytes):
        level[at] = (kind, body[: rng.randrange(len(body) + 1)])
