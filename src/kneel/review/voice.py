"""A voice as it is recorded and read: WAV, 16 bits, one channel; written so that a kill loses no more than
the last part.
"""

from __future__ import annotations

import struct
import wave
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from kneel.disk import shown
from kneel.review.file import ReviewError

Samples = NDArray[np.int16]

RATE = 48_000
"""What voices are brought to."""

HEADER = 44
LONGEST_SAMPLES = 3 * 3600 * 192_000


class VoiceWriter:
    """Writes a voice as it comes. What was given to :meth:`write` is in the file when that returns; the
    lengths in its head are put right by :meth:`close`, or by :func:`mended` after a kill.
    """

    def __init__(self, path: Path, rate: int) -> None:
        """Raises ``OSError``."""
        self.path, self.rate, self.samples = path, rate, 0
        self._file = path.open("xb", buffering=0)
        path.chmod(0o600)
        self._file.write(_head(rate, 0))

    def write(self, samples: Samples) -> None:
        """Append samples (N,). Raises ``OSError``, as where the disk is full; what was written stays."""
        raw = memoryview(np.ascontiguousarray(samples, dtype="<i2").tobytes())
        while raw:
            raw = raw[self._file.write(raw) :]
        self.samples += len(samples)

    def close(self) -> None:
        """Put the lengths right. Raises ``OSError``."""
        try:
            self._file.seek(0)
            self._file.write(_head(self.rate, self.samples))
        finally:
            self._file.close()


def _head(rate: int, samples: int) -> bytes:
    size = 2 * samples
    kinds = b"fmt ", 16, 1, 1, rate, 2 * rate, 2, 16, b"data"
    return struct.pack("<4sI4s4sIHHIIHH4sI", b"RIFF", 36 + size, b"WAVE", *kinds, size)


def mended(path: Path) -> int:
    """Put the lengths of a voice right that was broken off; gives how many samples it has. Raises
    ``OSError``.
    """
    with path.open("r+b") as file:
        head = file.read(HEADER)
        if len(head) < HEADER or head[:4] != b"RIFF" or head[8:12] != b"WAVE":
            raise OSError("not a voice")
        rate = struct.unpack_from("<I", head, 24)[0]
        samples = (path.stat().st_size - HEADER) // 2
        file.truncate(HEADER + 2 * samples)
        file.seek(0)
        file.write(_head(rate, samples))
        return samples


def read_voice(path: Path) -> tuple[NDArray[np.float32], int]:
    """A voice's samples (N,) in -1..1 and their rate. Any sound file that can be decoded is read, several
    channels as one, another rate than :data:`RATE` brought to that. Raises :class:`ReviewError`.
    """
    try:
        with wave.open(str(path), "rb") as file:
            plain = (file.getnchannels(), file.getsampwidth(), file.getframerate()) == (1, 2, RATE)
            if plain and file.getnframes() <= LONGEST_SAMPLES:
                raw = np.frombuffer(file.readframes(file.getnframes()), "<i2")
                return raw.astype(np.float32) / 32768.0, RATE
    except FileNotFoundError as error:
        raise ReviewError(
            f"The voice {shown(path.name)} is gone; the review can be shown without it."
        ) from error
    except (wave.Error, EOFError, OSError):
        pass
    return _decoded(path), RATE


def _decoded(path: Path) -> NDArray[np.float32]:
    resampler = av.AudioResampler(format="flt", layout="mono", rate=RATE)
    parts: list[NDArray[np.float32]] = []
    length = 0
    try:
        with av.open(str(path)) as container:
            if not container.streams.audio:
                raise ReviewError(f"{shown(path.name)} holds no sound.")
            for frame in [*container.decode(container.streams.audio[0]), None]:
                for made in resampler.resample(frame):
                    parts.append(np.asarray(made.to_ndarray(), dtype=np.float32).reshape(-1))
                    length += len(parts[-1])
                    if length > LONGEST_SAMPLES:
                        raise ReviewError(f"{shown(path.name)} is longer than three hours.")
    except (av.FFmpegError, OSError, ValueError) as error:
        raise ReviewError(f"{shown(path.name)} is no sound that can be read; nothing was changed.") from error
    return np.concatenate(parts) if parts else np.zeros(0, np.float32)
