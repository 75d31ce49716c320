"""The swings of a lesson's folder: clips with their documents, as they lie on the disk. Runs in a worker
thread.
"""

from __future__ import annotations

import contextlib
import datetime
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from kneel.book.index.indexing import day_of
from kneel.desk.swing.opening import clips_beside
from kneel.disk import shown
from kneel.documents.finding import documents_by_clip, free_document
from kneel.documents.glance_file import Glance, load_glance
from kneel.documents.swing_file import SUFFIX, peek
from kneel.model import Club, Kind, KneelError, Take, View
from kneel.model.two_takes import second_take


@dataclass(frozen=True)
class RackEntry:
    """A clip with one of its documents, or with the place where its first one will lie.

    ``first`` is the clip's number of the swing's first frame, ``rate`` the true rate of capture where it was
    said; ``number`` counts the swings of one clip from 1, 0 where it has but one. ``day`` is when it was
    filmed, None where that is not known. ``part_of`` is the document of which it is the second camera's.
    """

    clip: Path
    document: Path
    marked: bool = False
    golfer: str = ""
    view: View = View.FACE_ON
    club: Club = Club.IRON
    kind: Kind = Kind.FULL
    rate: float | None = None
    first: int = 0
    number: int = 0
    school: str = "centred"
    glance: Glance | None = None
    day: datetime.date | None = None
    part_of: Path | None = None

    @property
    def target(self) -> Path:
        """What to open: the document it belongs to where there is one, else the clip."""
        return self.part_of or (self.document if self.marked else self.clip)

    @property
    def stem(self) -> str:
        """What the clip is called, as words."""
        words = shown(self.document.name.removesuffix(SUFFIX) if self.marked else self.clip.stem)
        return words.replace("-", " ").replace("_", " ")

    @property
    def group(self) -> tuple[View, Club, Kind]:
        return self.view, self.club, self.kind


def entries_of(
    folder: Path, also: Iterable[Path] = (), hidden: frozenset[str] = frozenset()
) -> list[RackEntry]:
    """Every clip of a folder, and of ``also``, with each of its documents, but those taken off the rack."""
    clips = clips_beside(folder / "x")
    beside: dict[Path, list[Path]] = {folder: clips}
    for clip in also:
        if clip.is_file() and clip not in clips:
            beside.setdefault(clip.parent, []).append(clip)
    found: list[RackEntry] = []
    for of_folder in beside.values():
        documents, linked = documents_by_clip(of_folder), documents_by_clip(of_folder, take=1)
        for clip in of_folder:
            # Of several swings of a clip each may be another camera's of another one.
            parts = {take.start: one for one in linked[clip] if (take := _second(one)) is not None}
            found += [replace(one, part_of=parts.get(one.first)) for one in _of_clip(clip, documents[clip])]
    return [one for one in found if str(one.target) not in hidden]


def _second(document: Path) -> Take | None:
    """The second camera's take of a document as it lies there now."""
    swing = peek(document)
    return None if swing is None else second_take(swing)


def _of_clip(clip: Path, documents: Sequence[Path]) -> list[RackEntry]:
    entries = []
    for number, document in enumerate(documents, 1):
        count = number if len(documents) > 1 else 0
        entries.append(_of_document(clip, document, count))
    if not documents:
        with contextlib.suppress(KneelError, OSError):
            entries.append(RackEntry(clip, free_document(clip)))
    return entries


def _of_document(clip: Path, document: Path, number: int) -> RackEntry:
    entry = RackEntry(clip, document, marked=True, number=number)
    with contextlib.suppress(OSError):
        entry = replace(entry, day=day_of(clip))
    swing = peek(document)
    if swing is None:
        return entry
    glance = load_glance(document)
    # Of a clip that was only read here, the document goes on with what was guessed before anybody looked.
    seen = glance.view if glance is not None and "view" in swing.guessed else None
    return replace(
        entry,
        golfer=swing.golfer,
        view=seen or swing.view,
        club=swing.club,
        kind=swing.kind,
        rate=swing.capture_rate,
        first=swing.take.start,
        school=swing.school,
        glance=glance,
    )
