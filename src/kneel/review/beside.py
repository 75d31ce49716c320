"""The reviews that lie beside a clip, and the films that were made of them."""

from __future__ import annotations

import glob
from dataclasses import dataclass
from pathlib import Path

from kneel.model import KneelError
from kneel.model.review import Review
from kneel.review.file import SUFFIX, load_review

KEPT = "kept"
"""The folder beside the clips in which the desk keeps what it makes of them."""


@dataclass(frozen=True)
class Lying:
    """A review and where it lies; ``wrong`` why it cannot be read."""

    path: Path
    review: Review | None
    wrong: str = ""

    @property
    def film(self) -> Path | None:
        """The film that was made of it last, None where there is none."""
        stem = glob.escape(self.path.name.removesuffix(SUFFIX))
        found = [*self.path.parent.glob(f"{stem}.mp4"), *self.path.parent.glob(f"{stem} [0-9]*.mp4")]
        return max(found, key=_when, default=None)


def film_name(path: Path) -> Path:
    """A name for a film of a review that no file has yet."""
    stem = path.name.removesuffix(SUFFIX)
    names = (f"{stem}{f' {n}' if n > 1 else ''}.mp4" for n in range(1, 10_000))
    return next(path.with_name(name) for name in names if not path.with_name(name).exists())


def reviews_beside(clip: Path, golfer: str) -> list[Lying]:
    """The reviews beside a clip, and in the folder of what is kept there, that are of it, newest first."""
    folders = (clip.parent / KEPT, clip.parent)
    every = [path for folder in folders for path in folder.glob(f"*{SUFFIX}")]
    found = []
    for path in sorted(every, key=_when, reverse=True):
        try:
            review = load_review(path)
        except KneelError as error:
            found.append(Lying(path, None, str(error)))
            continue
        if is_of(review, clip, golfer):
            found.append(Lying(path, review))
    return found


def is_of(review: Review, clip: Path, golfer: str) -> bool:
    """Whether a review shows a clip, or is of its golfer; who has no name is nobody in particular."""
    shows = any(Path(one.clip.path) == clip for one in review.swings)
    return shows or (bool(golfer) and review.golfer == golfer)


def _when(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return 0.0
