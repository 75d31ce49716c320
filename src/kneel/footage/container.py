"""Opening a file as a container of pictures and sound, or one sentence on why not."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import av

from kneel.footage.edits import Edits
from kneel.model import FootageError

DECODER_THREADS = min(4, os.cpu_count() or 1)


def open_pictures(path: Path, edits: Edits) -> tuple[Any, Any]:
    """The container and its video, set to decode several pictures at a time.

    Phones and cameras write a picture in one piece, which the library by
    default decodes on one core. Raises :class:`FootageError`.
    """
    container = _open(path, edits)
    stream = container.streams.video[0]
    if stream.codec_context is not None:
        stream.thread_type = "FRAME"
        stream.codec_context.thread_count = DECODER_THREADS
    return container, stream


def options(edits: Edits) -> dict[str, str]:
    """How the library has to read a file: whole, where an edit would give frames twice."""
    return {"ignore_editlist": "1"} if edits.changes_pace else {}


def _open(path: Path, edits: Edits) -> Any:
    if not path.exists():
        raise FootageError(f"There is no file {path}.")
    if path.is_dir():
        raise FootageError(f"{path} is a folder, not a clip.")
    try:
        if path.stat().st_size == 0:
            raise FootageError(f"{path.name} is empty; copy the clip from the camera again.")
        container = av.open(str(path), options=options(edits))
    except PermissionError as error:
        raise FootageError(f"{path.name} may not be read; check who owns it.") from error
    except (av.FFmpegError, OSError, ValueError) as error:
        raise FootageError(
            f"{path.name} cannot be read as a video: it is not one, or was cut off while being copied. "
            "The file is untouched; copy it again or choose another."
        ) from error
    if not container.streams.video:
        container.close()
        raise FootageError(f"{path.name} holds no picture, only sound or other data.")
    return container
