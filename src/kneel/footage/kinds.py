"""What a file is that is no film: told by its first bytes, so that the reason given is the right one."""

from __future__ import annotations

from pathlib import Path

HEAD_BYTES = 4096

_SIGNS = (
    (b"\x89PNG\r\n", "a picture (PNG) that cannot be decoded"),
    (b"\xff\xd8\xff", "a picture (JPEG) that cannot be decoded"),
    (b"II*\0", "a picture (TIFF), not a film"),
    (b"MM\0*", "a picture (TIFF), not a film"),
    (b"GIF8", "a picture (GIF), not a film"),
    (b"BM", "a picture (BMP), not a film"),
    (b"PK\x03\x04", "a packed folder (ZIP); unpack it first"),
    (b"\x1f\x8b", "a packed file (gzip); unpack it first"),
    (b"%PDF", "a document (PDF), not a film"),
    (b"ID3", "sound alone, not a film"),
    (b"fLaC", "sound alone, not a film"),
    (b"OggS", "of a kind that Kneel does not open (Ogg)"),
)
_LISTS = ("#extm3u", "ffconcat", "<mpd", "[playlist]", "rtsp://", "http://", "https://")


PHOTOGRAPHS = ((b"\x89PNG\r\n", "png_pipe"), (b"\xff\xd8\xff", "jpeg_pipe"))
"""Photographs that are opened as a clip of one frame, by how they begin, and how the decoder calls them."""


def photograph(path: Path) -> str:
    """How the decoder calls a photograph; empty for anything else. Raises ``OSError``."""
    with path.open("rb") as file:
        head = file.read(8)
    return next((name for sign, name in PHOTOGRAPHS if head.startswith(sign)), "")


def what_else(path: Path) -> str | None:
    """What a file is in words, None where that is not known."""
    try:
        with path.open("rb") as file:
            head = file.read(HEAD_BYTES)
    except OSError:
        return None
    for sign, words in _SIGNS:
        if head.startswith(sign):
            return words
    if head[8:12] in (b"WAVE", b"WEBP") and head.startswith(b"RIFF"):
        return "sound alone, not a film" if head[8:12] == b"WAVE" else "a picture (WebP), not a film"
    if head.startswith((b"\0\0\0\1", b"\0\0\1")) and not head.startswith(b"\0\0\1\xba"):
        return "a bare stream of pictures without the times they were taken at; put it into an MP4 first"
    try:
        text = head.decode("utf-8").lower().lstrip("\ufeff \r\n\t")
    except UnicodeDecodeError:
        return None
    if any(sign in text[:200] for sign in _LISTS):
        return "a list that names other files, not a film"
    return "text, not a film" if text.isprintable() or "\n" in text else None
