"""Writing clips that phones play: H.264 in yuv420p, AAC sound."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.audio.frame import AudioFrame
from av.codec.codec import UnknownCodecError
from av.video.frame import VideoFrame
from av.video.reformatter import ColorRange, Colorspace
from numpy.typing import NDArray

from kneel.disk import replacing, shown
from kneel.model import FootageError

Picture = NDArray[np.uint8]
Samples = NDArray[np.float64] | NDArray[np.float32]

AUDIO_CHUNK = 1024


def write_clip(
    path: str | Path,
    pictures: Iterable[Picture],
    *,
    rate: float,
    size: tuple[int, int],
    sound: tuple[Samples, int] | None = None,
    quality: int = 21,
    comment: str = "",
) -> None:
    """Write pictures (H, W, 3) RGB as MP4 at ``rate`` frames a second.

    ``size`` is width and height, both even; ``sound`` is mono samples in -1..1
    and their rate; ``quality`` is the x264 rate factor, lower is better; ``comment``
    stands in the file for who asks what it is.
    Written beside and renamed, so that a broken run leaves no broken clip.
    Raises :class:`FootageError` where the file cannot be written.
    """
    target = Path(path)
    try:
        with (
            replacing(target, private=True) as part,
            av.open(str(part), "w", format="mp4") as container,
        ):
            if comment:
                container.metadata["comment"] = comment
            video = container.add_stream("libx264", rate=Fraction(rate).limit_denominator(1001))
            video.width, video.height = size
            video.pix_fmt = "yuv420p"
            video.codec_context.color_range = ColorRange.MPEG
            video.codec_context.colorspace = Colorspace.ITU709
            video.options = {"crf": str(quality), "preset": "veryfast", "g": "60"}
            audio = container.add_stream("aac", rate=sound[1]) if sound else None
            if sound is not None and audio is not None:
                audio.layout = "mono"
            spoken = _SoundBeside(container, audio, *sound) if sound is not None else None
            for number, picture in enumerate(pictures):
                frame = VideoFrame.from_ndarray(picture, format="rgb24").reformat(
                    format="yuv420p", dst_colorspace=Colorspace.ITU709
                )
                frame.colorspace = Colorspace.ITU709
                frame.color_range = ColorRange.MPEG
                frame.pts = number
                frame.time_base = 1 / Fraction(rate).limit_denominator(1001)
                container.mux(video.encode(frame))
                if spoken is not None:
                    spoken.until((number + 1) / rate)
            container.mux(video.encode(None))
            if spoken is not None:
                spoken.finish()
    except UnknownCodecError as error:
        raise FootageError(
            f"{shown(target)} cannot be written: this machine's FFmpeg has no encoder for H.264 or AAC. "
            "Nothing was lost; install PyAV as it ships, which has both."
        ) from error
    except (av.FFmpegError, OSError) as error:
        raise FootageError(f"{shown(target)} cannot be written: {_why(error)}.") from error


class _SoundBeside:
    """Writes sound as the pictures go, so that a player finds both in one place of the file."""

    def __init__(self, container: Any, stream: Any, samples: Samples, rate: int) -> None:
        self._container, self._stream, self._samples, self._rate = container, stream, samples, rate
        self._at = 0

    def until(self, seconds: float) -> None:
        """Write what sounds before a time, in whole chunks."""
        while self._at < len(self._samples) and self._at + AUDIO_CHUNK <= seconds * self._rate:
            self._chunk()

    def finish(self) -> None:
        """Write the rest."""
        while self._at < len(self._samples):
            self._chunk()
        self._container.mux(self._stream.encode(None))

    def _chunk(self) -> None:
        part = np.ascontiguousarray(self._samples[self._at : self._at + AUDIO_CHUNK], dtype=np.float32)
        frame = AudioFrame.from_ndarray(part[None], format="fltp", layout="mono")
        frame.sample_rate = self._rate
        frame.pts = self._at
        frame.time_base = Fraction(1, self._rate)
        self._container.mux(self._stream.encode(frame))
        self._at += len(part)


def _why(error: BaseException) -> str:
    return getattr(error, "strerror", None) or "the folder is missing or the disk is full"
