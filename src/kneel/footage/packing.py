"""Decoded frames as JPEG in memory, with their matrix and range kept right."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from av.codec.context import CodecContext
from av.packet import Packet
from av.video.frame import VideoFrame
from av.video.reformatter import ColorRange, Colorspace, VideoReformatter

from kneel.footage.upright import matrix_of, range_of

QUALITY = 3
"""The encoder's scale, 2 best to 31 worst; 3 is close to 90 of the usual scale."""


@dataclass(frozen=True)
class Packed:
    """One frame as JPEG. ``matrix`` is that of its planes, which JPEG itself does not tell."""

    data: bytes
    matrix: Colorspace


class Packer:
    """Packs frames of one size. Not safe for several threads."""

    def __init__(self) -> None:
        self._encoder: CodecContext | None = None
        self._size = (0, 0)
        self._count = 0

    def pack(self, frame: VideoFrame) -> Packed:
        """The frame as JPEG, full range, by its own matrix."""
        matrix = matrix_of(frame)
        full = VideoReformatter().reformat(
            frame,
            format="yuvj420p",
            src_colorspace=matrix,
            dst_colorspace=matrix,
            src_color_range=range_of(frame),
            dst_color_range=ColorRange.JPEG,
        )
        self._count += 1
        full.pts, full.time_base = self._count, Fraction(1, 30)
        if self._encoder is None or self._size != (full.width, full.height):
            self._encoder = _encoder(full.width, full.height)
            self._size = (full.width, full.height)
        packets = self._encoder.encode(full)  # type: ignore[attr-defined]
        return Packed(b"".join(bytes(p) for p in packets), matrix)


class Unpacker:
    """Unpacks frames. Not safe for several threads."""

    def __init__(self) -> None:
        self._decoder = CodecContext.create("mjpeg", "r")

    def unpack(self, packed: Packed) -> VideoFrame:
        """The frame again, with the matrix its planes were made by."""
        (frame,) = self._decoder.decode(Packet(packed.data))
        frame.colorspace = packed.matrix
        frame.color_range = ColorRange.JPEG
        return frame


def _encoder(width: int, height: int) -> CodecContext:
    encoder = CodecContext.create("mjpeg", "w")
    encoder.width, encoder.height = width, height
    encoder.pix_fmt = "yuvj420p"
    encoder.time_base = Fraction(1, 30)
    encoder.options = {"qmin": str(QUALITY), "qmax": str(QUALITY), "huffman": "default"}
    encoder.thread_count = 1
    return encoder
