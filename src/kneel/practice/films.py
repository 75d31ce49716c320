"""An instructor's own films of drills: filmed once, tied to a drill, and offered wherever it is given.

They lie in the user's data, one a drill, under the drill's key; nothing of a student is in them.
"""

from __future__ import annotations

import contextlib
import shutil
from pathlib import Path

import platformdirs

from kneel.disk import replacing, shown
from kneel.model import CLIP_SUFFIXES, UsageError


def folder() -> Path:
    """Where they lie.

    >>> folder().name
    'drill films'
    """
    return platformdirs.user_data_path("kneel") / "drill films"


def film_of(drill: str) -> Path | None:
    """The film of a drill, by its key; None where there is none.

    >>> film_of("a drill that nobody filmed") is None
    True
    """
    found = (folder() / f"{drill}{suffix}" for suffix in CLIP_SUFFIXES)
    return next((path for path in found if path.is_file()), None)


def keep_film(drill: str, clip: Path) -> Path:
    """Keep a copy of a clip as the film of a drill, in the place of one before.

    Raises ``UsageError`` where it is no clip or cannot be copied; the one before then stays.

    >>> keep_film("a drill", Path("words.txt"))
    Traceback (most recent call last):
    kneel.model.errors.UsageError: words.txt is no film; a drill's film is ...
    """
    suffix = clip.suffix.lower()
    if suffix not in CLIP_SUFFIXES:
        raise UsageError(f"{shown(clip.name)} is no film; a drill's film is {', '.join(CLIP_SUFFIXES)}.")
    before, target = film_of(drill), folder() / f"{drill}{suffix}"
    try:
        folder().mkdir(parents=True, exist_ok=True, mode=0o700)
        with replacing(target, private=True) as part:
            shutil.copyfile(clip, part)
        if before is not None and before != target:
            before.unlink(missing_ok=True)
    except OSError as error:
        why = error.strerror or "the disk"
        raise UsageError(f"{shown(clip.name)} could not be kept ({why}); nothing was changed.") from error
    return target


def take_away(drill: str) -> None:
    """The film of a drill goes.

    >>> take_away("a drill that nobody filmed")
    """
    film = film_of(drill)
    if film is not None:
        with contextlib.suppress(OSError):
            film.unlink(missing_ok=True)
