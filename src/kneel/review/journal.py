"""A recording under way, on the disk as it happens: a line for each change, the voice beside it, so that a
kill loses a second at most.

The journal is ``*.review.part``: the head in its first line, then changes, and now and then how much of the
voice had been heard at which time. What it comes to is a :class:`SpokenTake`.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
from dataclasses import dataclass
from pathlib import Path

import msgspec
import numpy as np

from kneel.disk import read_bounded
from kneel.model.review import Change, Piece, Review, ReviewedSwing, SpokenTake
from kneel.model.take import FileRef
from kneel.review.edits import said_anew
from kneel.review.file import LARGEST_BYTES, SUFFIX, ReviewError, save_review
from kneel.review.voice import Samples, VoiceWriter, mended

PART = ".review.part"
HEARD_EVERY_S = 0.5

FEWEST_HEARD = 6
"""Of fewer looks at the voice's clock its pace is taken as told."""


class Head(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a journal begins with: the review so far, and the stretch that is said anew, if one is."""

    kneel_recording: int
    review: Review
    document: str
    voice: str
    rate: int
    replaces: tuple[float, float] | None = None


class Heard(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """How many samples of the voice had come by a time."""

    t: float
    heard: int


class Swings(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The swings shown so far: another one was opened."""

    swings: tuple[ReviewedSwing, ...]


@dataclass(frozen=True)
class Recovered:
    """What a journal comes to: the review, and where its document belongs."""

    review: Review
    document: Path


class Journal:
    """Writes a recording as it happens."""

    def __init__(self, head: Head) -> None:
        """``head.document`` is where the review will lie, ``head.voice`` the voice's file, empty without one.

        Raises ``OSError``.
        """
        self.head, self.path = head, part_of(Path(head.document))
        self._file = self.path.open("xb", buffering=0)
        self.path.chmod(0o600)
        fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        self._file.write(msgspec.json.encode(head) + b"\n")
        self.voice = VoiceWriter(Path(head.voice), head.rate) if head.voice else None
        self._heard_at = -1.0

    def note(self, change: Change) -> None:
        """Raises ``OSError``, as where the disk is full; what was written stays."""
        self._file.write(msgspec.json.encode(change) + b"\n")

    def hear(self, t: float, samples: Samples) -> None:
        """Part of the voice that has come by a time. Raises ``OSError``."""
        if self.voice is None:
            return
        self.voice.write(samples)
        if t - self._heard_at >= HEARD_EVERY_S:
            self._heard_at = t
            self._file.write(msgspec.json.encode(Heard(t, self.voice.samples)) + b"\n")

    def also(self, review: Review) -> None:
        """Another swing is on show now. Raises ``OSError``."""
        self._file.write(msgspec.json.encode(Swings(review.swings)) + b"\n")

    def close(self) -> None:
        """Let go of the files; they stay until :func:`settled` has made a review of them."""
        with contextlib.suppress(OSError):
            if self.voice is not None:
                self.voice.close()
        self._file.close()

    def give_up(self) -> None:
        """Nothing of it is wanted: the files go."""
        self.close()
        for path in (self.path, Path(self.head.voice) if self.head.voice else None):
            if path is not None:
                with contextlib.suppress(OSError):
                    path.unlink(missing_ok=True)


def part_of(document: Path) -> Path:
    """Where the journal of a review's recording lies."""
    return document.with_name(document.name.removesuffix(SUFFIX) + PART)


def read_journal(path: Path, seconds: float | None = None) -> Recovered:
    """What a journal comes to, also one that was broken off; ``seconds`` is how long it was, where that is
    known. Raises :class:`ReviewError` where nothing can be made of it.
    """
    try:
        lines = read_bounded(path, LARGEST_BYTES).split(b"\n")
        head = msgspec.json.decode(lines[0], type=Head)
    except (OSError, ValueError, RecursionError, msgspec.MsgspecError) as error:
        raise ReviewError(f"The recording {path.name} cannot be read; it is left where it is.") from error
    changes: list[Change] = []
    heard: list[Heard] = []
    review = head.review
    for line in lines[1:]:
        with contextlib.suppress(msgspec.MsgspecError, ValueError):
            if line.startswith(b'{"swings"'):
                swings = msgspec.json.decode(line, type=Swings).swings
                review = msgspec.structs.replace(review, swings=swings)
            elif b'"heard"' in line:
                heard.append(msgspec.json.decode(line, type=Heard))
            elif line:
                changes.append(msgspec.json.decode(line, type=Change))
    take = _take(head, changes, heard, seconds)
    if head.replaces is not None:
        made = said_anew(review, *head.replaces, take)
    else:
        pieces = (*review.pieces, Piece(len(review.takes), 0.0, take.seconds))
        made = msgspec.structs.replace(review, takes=(*review.takes, take), pieces=pieces)
    return Recovered(made, Path(head.document))


def _take(head: Head, changes: list[Change], heard: list[Heard], seconds: float | None) -> SpokenTake:
    changes = sorted(changes, key=lambda one: one.t)
    last = max([0.1, *(one.t for one in changes), *(one.t for one in heard)])
    late_s, pace, voice = 0.0, 1.0, None
    if head.voice and Path(head.voice).exists():
        path = Path(head.voice)
        try:
            samples = mended(path)
        except OSError:
            samples = 0
        if samples:
            late_s, pace = clock_of(heard, head.rate)
            voice = FileRef(str(path), path.stat().st_size)
            last = max(last, late_s + samples / head.rate / pace)
    long = last if seconds is None else seconds
    return SpokenTake(long, tuple(one for one in changes if one.t <= long), voice, late_s, pace)


def clock_of(heard: list[Heard], rate: int) -> tuple[float, float]:
    """When the voice's first sample sounded on the recording's clock, s, and how many of the voice's seconds
    pass in one of the recording's: a line through what had come by when.

    A part comes when its last sample has been heard, never sooner and sometimes later, so the line leans on
    those that came soonest.

    >>> clock_of([Heard(0.3 + k, round(48000 * k * 1.001)) for k in range(20)], 48000)
    (0.3, 1.001)
    """
    if len(heard) < 2:
        return (heard[0].t - heard[0].heard / rate, 1.0) if heard else (0.0, 1.0)
    t = np.array([one.t for one in heard])
    voice = np.array([one.heard for one in heard]) / rate
    if len(heard) < FEWEST_HEARD:
        return round(float(np.min(t - voice)), 6), 1.0
    weights = np.ones(len(t))
    slope = 1.0
    for _ in range(10):
        slope, start = np.polyfit(t, voice, 1, w=np.sqrt(weights))
        late = (slope * t + start) - voice
        # What came late says little: it lies under the line.
        weights = np.where(late > 0, 0.05, 1.0)
    slope = float(np.clip(slope, 0.98, 1.02))
    # No sample comes before it has been heard.
    start = float(np.max(voice - slope * t))
    return round(-start / slope, 6), round(slope, 9)


def settled(recovered: Recovered, part: Path) -> Review:
    """Write the review that a recording came to, and take the journal away. Raises :class:`ReviewError`; the
    journal then stays.
    """
    save_review(recovered.document, recovered.review)
    with contextlib.suppress(OSError):
        part.unlink(missing_ok=True)
    return recovered.review


def broken_off(folder: Path) -> list[Path]:
    """Recordings in a folder that nobody is writing: the program ended while they were made."""
    found = []
    with contextlib.suppress(OSError):
        for path in sorted(folder.glob(f"*{PART}")):
            if not _held(path):
                found.append(path)
    return found


def _held(path: Path) -> bool:
    """Whether a program that lives has the file open for a recording: it holds a lock on it."""
    try:
        handle = os.open(path, os.O_RDONLY)
    except OSError:
        return True
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return True
    finally:
        os.close(handle)
    return False
