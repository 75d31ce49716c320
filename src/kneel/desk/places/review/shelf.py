"""The reviews that lie beside a clip, and those that were broken off there."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from kneel.desk.places.keeping import KEPT
from kneel.model import KneelError
from kneel.model.review import Review
from kneel.review.file import SUFFIX, load_review
from kneel.review.journal import broken_off, read_journal, settled


@dataclass(frozen=True)
class Lying:
    """A review and where it lies; ``wrong`` why it cannot be read."""

    path: Path
    review: Review | None
    wrong: str = ""


def reviews_beside(clip: Path, golfer: str) -> list[Lying]:
    """The reviews in the folder of what is kept beside a clip that are of this golfer, newest first. For
    workers.
    """
    found = []
    for path in sorted((clip.parent / KEPT).glob(f"*{SUFFIX}"), key=_when, reverse=True):
        try:
            review = load_review(path)
        except KneelError as error:
            found.append(Lying(path, None, str(error)))
            continue
        if review.golfer == golfer:
            found.append(Lying(path, review))
    return found


def _when(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return 0.0


def take_up_broken(clip: Path) -> list[Path]:
    """Make reviews of recordings in a clip's folder that were broken off when the program ended; gives them.
    For workers. Raises ``ReviewError``.
    """
    found = []
    for part in broken_off(clip.parent / KEPT):
        recovered = read_journal(part)
        settled(recovered, part)
        found.append(recovered.document)
    return found
