"""Small clips made on the spot: numbered frames, and a range session."""

from __future__ import annotations

import os
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.video.frame import VideoFrame

from kneel.footage import write_clip
from kneel.footage.sound import RATE
from kneel.sim.sound import swing_sound

SIZE = (160, 96)
BITS = 8


def numbered(number: int) -> np.ndarray:
    """A picture that carries its own number as a bar pattern."""
    picture = np.full((SIZE[1], SIZE[0], 3), 40, np.uint8)
    for bit in range(BITS):
        if number >> bit & 1:
            picture[20:76, 20 * bit : 20 * bit + 18] = 220
    return picture


def number_of(picture: np.ndarray) -> int:
    return sum(1 << bit for bit in range(BITS) if picture[48, 20 * bit + 9].mean() > 130)


def make(
    path: Path,
    stamps: list[int],
    *,
    codec: str = "libx264",
    rotation: int = 0,
    gop: int = 12,
    pix_fmt: str = "yuv420p",
    aspect: Fraction | None = None,
    **options: str,
) -> Path:
    """A clip whose frame k carries k, shown at ``stamps[k]`` milliseconds."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=30)
        stream.width, stream.height, stream.pix_fmt = *SIZE, pix_fmt
        if aspect:
            stream.codec_context.sample_aspect_ratio = aspect
        stream.time_base = Fraction(1, 1000)
        stream.codec_context.time_base = Fraction(1, 1000)
        stream.options = {"g": str(gop), **options}
        if rotation:
            stream.set_display_rotation(rotation)
        for number, stamp in enumerate(stamps):
            frame = VideoFrame.from_ndarray(numbered(number), format="rgb24")
            frame.pts, frame.time_base = stamp, Fraction(1, 1000)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    # An encoder of AV1 that root runs leaves whoever called it in real time, before every other test.
    os.sched_setscheduler(0, os.SCHED_OTHER, os.sched_param(0))
    return path


STEADY = [round(k * 1000 / 30) for k in range(60)]


def ranged(tmp_path, moments, *, length_s=14.0, rate=30, silent=False):
    """A clip in which something sweeps fast at the given moments, with a click each."""
    count = round(length_s * rate)
    base = np.random.default_rng(0).integers(60, 120, (96, 160, 1)).repeat(3, axis=2).astype(np.uint8)

    def pictures():
        for k in range(count):
            picture = base.copy()
            for moment in moments:
                phase = (k / rate - moment) / 0.25
                if abs(phase) < 1:
                    x = int(80 + 70 * phase)
                    picture[20:80, max(x - 8, 0) : x + 8] = 250
            yield picture

    sound = np.random.default_rng(1).normal(0, 0.004, round(length_s * RATE))
    for k, moment in enumerate(moments):
        part = swing_sound(1.0, 0.5, seed=k)
        start = round((moment - 0.5) * RATE)
        sound[start : start + len(part)] += part
    path = tmp_path / "range.mp4"
    write_clip(path, pictures(), rate=rate, size=(160, 96), sound=None if silent else (sound, RATE))
    return path
