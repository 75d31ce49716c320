"""From decoded frames to upright pictures: turn, mirror, pixel shape, colour matrix, range and transfer."""

from __future__ import annotations

import struct
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

import numpy as np
from av.sidedata.sidedata import Type as SideData
from av.video.frame import VideoFrame
from av.video.reformatter import ColorRange, Colorspace, VideoReformatter
from numpy.typing import NDArray

Picture = NDArray[np.uint8]

Part = tuple[int, int, int, int]
"""Left, top, width and height of a part of the upright picture, even numbers of pixels."""

HIGH_DEFINITION = 720
"""Clips that do not name their colour matrix are taken for BT.709 from this height on."""

PQ_TRANSFER = 16
WHITE_NITS = 203.0
"""Diffuse white of PQ pictures (ITU-R BT.2408)."""


@dataclass(frozen=True)
class Upright:
    """How a clip's frames have to be turned to stand upright.

    ``turn`` is clockwise in degrees, ``mirrored`` swaps left and right after
    the turn; ``width`` and ``height`` are those of the upright picture with
    square pixels.
    """

    turn: int
    mirrored: bool
    width: int
    height: int

    def stored_size(self, size: tuple[int, int]) -> tuple[int, int]:
        """Width and height before the turn of an upright size."""
        return (size[1], size[0]) if self.turn in (90, 270) else size

    def stored_part(self, part: Part) -> Part:
        """The same part before mirroring and turning, of a clip with square pixels.

        >>> Upright(90, False, 4, 10).stored_part((0, 2, 4, 6))
        (2, 0, 6, 4)
        """
        left, top, width, height = part
        if self.mirrored:
            left = self.width - left - width
        if self.turn == 90:
            return top, self.width - left - width, height, width
        if self.turn == 180:
            return self.width - left - width, self.height - top - height, width, height
        if self.turn == 270:
            return self.height - top - height, left, height, width
        return left, top, width, height

    def turned(self, picture: Picture) -> Picture:
        """The picture turned and mirrored."""
        if self.turn:
            picture = np.rot90(picture, -(self.turn // 90))
        if self.mirrored:
            picture = picture[:, ::-1]
        return np.ascontiguousarray(picture)


def upright_of(frame: VideoFrame, pixel_aspect: float) -> Upright:
    """Read turn and mirror off the frame's display matrix; ``pixel_aspect`` is width over height."""
    turn, mirrored = _placed(frame)
    width, height = round(frame.width * pixel_aspect), frame.height
    if pixel_aspect < 1:
        width, height = frame.width, round(frame.height / pixel_aspect)
    if turn in (90, 270):
        width, height = height, width
    return Upright(turn, mirrored, width, height)


def picture_of(
    frame: VideoFrame,
    upright: Upright,
    *,
    size: tuple[int, int] | None = None,
    form: str = "rgb24",
    part: Part | None = None,
) -> Picture:
    """The upright picture of a decoded frame, (H, W, C) uint8, by the clip's own matrix and range.

    ``size`` is the upright width and height to scale to, by default the
    clip's own or that of the ``part``; ``form`` a packed pixel format such as ``rgb24`` or ``bgra``.
    """
    if part is not None:
        piece = _cut(frame, upright.stored_part(part)) if _plain(frame, upright) else None
        if piece is None:
            return _sliced(frame, upright, size or part[2:], form, part)
        of_piece = replace(upright, width=part[2], height=part[3])
        return _converted(piece, of_piece, size or part[2:], form, frame)
    return _converted(frame, upright, size or (upright.width, upright.height), form, frame)


def _sliced(frame: VideoFrame, upright: Upright, size: tuple[int, int], form: str, part: Part) -> Picture:
    """A part of a frame of an unusual kind: all of it is converted, then cut."""
    across, down = size[0] / part[2], size[1] / part[3]
    full = round(upright.width * across), round(upright.height * down)
    left = min(round(part[0] * across), full[0] - size[0])
    top = min(round(part[1] * down), full[1] - size[1])
    whole = _converted(frame, upright, full, form, frame)
    return np.ascontiguousarray(whole[max(top, 0) :, max(left, 0) :][: size[1], : size[0]])


def _plain(frame: VideoFrame, upright: Upright) -> bool:
    """Whether a frame's planes can be cut as they lie."""
    square = upright.stored_size((upright.width, upright.height)) == (frame.width, frame.height)
    return square and frame.format.name in ("yuv420p", "yuvj420p")


def _cut(frame: VideoFrame, part: Part) -> VideoFrame:
    """A part of a frame of three planes, as a frame of its own."""
    left, top, width, height = part
    rows = np.empty((height * 3 // 2, width), np.uint8)
    rows[:height] = _rows(frame, 0)[top : top + height, left : left + width]
    for k in (1, 2):
        small = _rows(frame, k)[top // 2 : (top + height) // 2, left // 2 : (left + width) // 2]
        start = height * width + (k - 1) * small.size
        rows.reshape(-1)[start : start + small.size] = small.reshape(-1)
    return VideoFrame.from_ndarray(rows, format="yuv420p")


def _rows(frame: VideoFrame, plane: int) -> Picture:
    held = frame.planes[plane]
    return np.frombuffer(memoryview(held), np.uint8).reshape(-1, held.line_size)


def _converted(
    frame: VideoFrame, upright: Upright, size: tuple[int, int], form: str, told: VideoFrame
) -> Picture:
    """A frame, or a part of one, turned upright at a size; ``told`` says what its colours mean."""
    width, height = upright.stored_size(size)
    smaller = width * height < frame.width * frame.height
    # A converter of its own: that of the frame would be shared by all threads that look at it.
    made = VideoReformatter().reformat(
        frame,
        width=width,
        height=height,
        format=form,
        src_colorspace=matrix_of(told),
        src_color_range=range_of(told),
        dst_color_range=ColorRange.JPEG,
        interpolation="AREA" if smaller else "BICUBIC",
        threads=1,
    )
    picture: Picture = np.asarray(made.to_ndarray(), dtype=np.uint8)
    if int(told.color_trc or 0) == PQ_TRANSFER:
        picture = _tone_table()[picture]
    return upright.turned(picture)


def luma_of(frame: VideoFrame, upright: Upright) -> Picture:
    """The upright brightness of a decoded frame, (H, W) uint8, for following points."""
    size = upright.stored_size((upright.width, upright.height))
    plain = frame.format.name in ("yuv420p", "yuvj420p", "yuv422p", "yuvj422p", "yuv444p", "nv12", "gray")
    if not plain or size != (frame.width, frame.height):
        made = VideoReformatter().reformat(frame, width=size[0], height=size[1], format="gray")
        return upright.turned(np.asarray(made.to_ndarray(), dtype=np.uint8))
    plane = frame.planes[0]
    rows = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
    return upright.turned(np.asarray(rows[: frame.height, : frame.width], dtype=np.uint8))


def _placed(frame: VideoFrame) -> tuple[int, bool]:
    """Turn and mirror that the frame asks for."""
    held: Any = frame.side_data
    matrix = held.get(SideData.DISPLAYMATRIX)
    return (0, False) if matrix is None else placed(bytes(memoryview(matrix)))


def placed(matrix: bytes) -> tuple[int, bool]:
    """Turn (clockwise, degrees) and mirror of a display matrix of ISO/IEC 14496-12, nine int32.

    The pixel (x, y) of the stored picture belongs at (a x + c y, b x + d y).
    """
    a, b, _, c, d, *_ = struct.unpack("<9i", matrix[:36])
    mirrored = a * d - b * c < 0
    if mirrored:
        a, c = -a, -c
    turn = round(np.degrees(np.arctan2(b, a)) / 90) * 90
    return int(turn) % 360, mirrored


def matrix_of(frame: VideoFrame) -> Colorspace:
    """The colour matrix of a frame; one that names none is taken by its size."""
    named = {
        1: Colorspace.ITU709,
        4: Colorspace.FCC,
        5: Colorspace.ITU601,
        6: Colorspace.ITU601,
        7: Colorspace.SMPTE240M,
        9: Colorspace.BT2020,
        10: Colorspace.BT2020,
    }
    by_size = Colorspace.ITU709 if frame.height >= HIGH_DEFINITION else Colorspace.ITU601
    return named.get(int(frame.colorspace), by_size)


def range_of(frame: VideoFrame) -> ColorRange:
    """Full or limited range of a frame; one that names none is taken for limited."""
    if frame.format.name.startswith("yuvj") or int(frame.color_range) == ColorRange.JPEG:
        return ColorRange.JPEG
    return ColorRange.MPEG


@cache
def _tone_table() -> Picture:
    """256 levels of PQ (SMPTE ST 2084) to plain display levels: white at 203 nits, highlights rolled off."""
    m1, m2, c1, c2, c3 = 0.1593017578125, 78.84375, 0.8359375, 18.8515625, 18.6875
    coded = (np.arange(256) / 255) ** (1 / m2)
    nits = 10000 * (np.maximum(coded - c1, 0) / (c2 - c3 * coded)) ** (1 / m1)
    light = nits / WHITE_NITS
    rolled = light * (1 + light / 16) / (1 + light)
    rolled /= 1.0 * (1 + 1 / 16) / 2
    return np.clip(255 * np.clip(rolled, 0, 1) ** (1 / 2.2), 0, 255).round().astype(np.uint8)
