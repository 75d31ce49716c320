"""Review documents: ``*.review.json``, with each take's voice as WAV beside it."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

import msgspec
from msgspec.structs import replace

from kneel.disk import read_bounded, shown, write_bytes
from kneel.documents.swing_file import why
from kneel.model import KneelError
from kneel.model.review import Review

VERSION = 1
SUFFIX = ".review.json"
LARGEST_BYTES = 200 * 1024 * 1024


class ReviewError(KneelError):
    """A review that cannot be read, kept or shown."""


class _Envelope(msgspec.Struct, forbid_unknown_fields=True):
    kneel_review: int
    review: Review


def save_review(path: Path, review: Review) -> None:
    """Write a review; files it names are stored relative to it. Raises :class:`ReviewError`; the earlier
    document then stands.
    """
    stored = _with_paths(review, lambda name: os.path.relpath(name, path.parent))
    raw = msgspec.json.format(msgspec.json.encode(_Envelope(VERSION, stored)), indent=0) + b"\n"
    try:
        write_bytes(path, raw, private=True)
    except (OSError, ValueError) as error:
        raise ReviewError(
            f"{shown(path.name)} could not be saved ({why(error)}); the last saved state stands. "
            "Free some space and try again."
        ) from error


def load_review(path: Path) -> Review:
    """Read a review; paths of the files it names come back absolute. Raises :class:`ReviewError`."""
    name = shown(path.name)
    try:
        envelope = msgspec.json.decode(read_bounded(path, LARGEST_BYTES), type=_Envelope)
    except FileNotFoundError as error:
        raise ReviewError(f"There is no review {shown(path)}.") from error
    except msgspec.ValidationError as error:
        raise ReviewError(f"{name} holds what cannot be ({error}); it is untouched.") from error
    except (OSError, ValueError, RecursionError, msgspec.MsgspecError) as error:
        raise ReviewError(f"{name} is not a review that can be read; it is untouched.") from error
    if envelope.kneel_review > VERSION:
        raise ReviewError(f"{name} was written by a newer Kneel; it is untouched, open it with that one.")
    return _with_paths(envelope.review, lambda path_: str((path.parent / path_).resolve()))


def _with_paths(review: Review, place: Callable[[str], str]) -> Review:
    swings = [
        replace(one, document=place(one.document), clip=replace(one.clip, path=place(one.clip.path)))
        for one in review.swings
    ]
    takes = [
        one if one.voice is None else replace(one, voice=replace(one.voice, path=place(one.voice.path)))
        for one in review.takes
    ]
    return replace(review, swings=tuple(swings), takes=tuple(takes))


def files_of(path: Path, review: Review) -> list[Path]:
    """The document and the voices: all that is a review's own."""
    return [path, *(Path(take.voice.path) for take in review.takes if take.voice is not None)]
