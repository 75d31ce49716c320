"""Opening a file as a container of pictures and sound, or one sentence on why not.

The decoder's library opens much more than films of a camera: lists that name
other files, addresses of the network, patterns of pictures. Here it is given
one regular file by its whole path, and may read that kind of file alone.
"""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import av

from kneel.disk import NotAFileError, demand_file, shown
from kneel.footage.edits import Edits
from kneel.footage.kinds import photograph, what_else
from kneel.model import FootageError

DECODER_THREADS = min(4, os.cpu_count() or 1)

FORMATS = "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpegts,mpeg,flv,asf"
"""What cameras and phones write; none of these leads to another file (external tracks of MOV stay closed)."""

PROTOCOLS = "file"


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


def open_container(path: Path, edits: Edits) -> Any:
    """The file as a container, whatever streams it has.

    Raises ``av.FFmpegError``, ``OSError`` or ``ValueError`` where it cannot be one.
    """
    # The library opens what it is told later than this looks, and would wait for a pipe.
    demand_file(path)
    photo = photograph(path)
    if photo:
        # One picture of a position held: nothing else is tried for it.
        alone = {"format_whitelist": photo, "protocol_whitelist": PROTOCOLS}
        return av.open(f"file:{path.absolute()}", format=photo, options=alone, metadata_errors="replace")
    options = {"format_whitelist": FORMATS, "protocol_whitelist": PROTOCOLS, "enable_drefs": "0"}
    if edits.changes_pace:
        # Read whole where an edit would give frames twice.
        options["ignore_editlist"] = "1"
    return av.open(f"file:{path.absolute()}", options=options, metadata_errors="replace")


def comment_of(path: Path) -> str:
    """The comment a film carries, empty where it has none or cannot be read."""
    try:
        with open_container(path, Edits()) as container:
            return str(container.metadata.get("comment", ""))
    except (av.FFmpegError, OSError, ValueError):
        return ""


def _open(path: Path, edits: Edits) -> Any:
    name = shown(path.name)
    try:
        if demand_file(path).st_size == 0:
            raise FootageError(f"{name} is empty; copy the clip from the camera again.")
        container = open_container(path, edits)
    except FileNotFoundError as error:
        raise FootageError(f"There is no file {shown(path)}.") from error
    except NotAFileError as error:
        raise FootageError(f"{name} is not a clip: {error.strerror}.") from error
    except PermissionError as error:
        raise FootageError(f"{name} may not be read; check who owns it.") from error
    except (av.FFmpegError, OSError, ValueError) as error:
        raise FootageError(f"{name} {_why_not(path, error)}") from error
    if not any(_is_film(stream) for stream in container.streams.video):
        cover = bool(container.streams.video)
        container.close()
        what = "a picture of its cover" if cover else "no picture"
        raise FootageError(f"{name} holds {what}, only sound or other data besides; choose the film itself.")
    return container


def _is_film(stream: Any) -> bool:
    """Whether a stream of pictures is a film and not a picture of the cover."""
    disposition = getattr(stream, "disposition", None)
    attached = av.stream.Disposition.attached_pic
    return disposition is None or not disposition & attached


def _why_not(path: Path, error: BaseException) -> str:
    strerror = getattr(error, "strerror", "") or ""
    if isinstance(error, OSError) and not isinstance(error, av.FFmpegError):
        return f"cannot be opened ({shown(strerror)})."
    kind = what_else(path)
    if kind:
        return f"is {kind}. The file is untouched; choose a film as the camera wrote it."
    return (
        "cannot be read as a video: it is not one, or was cut off while being copied. "
        "The file is untouched; copy it again or choose another."
    )
