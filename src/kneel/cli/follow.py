"""Opening a clip with its document on the command line, and gathering what it shows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import msgspec

from kneel.cli.parts import progress_on_terminal
from kneel.documents.finding import clip_of, documents_of, is_clip
from kneel.documents.points_csv import read_marks
from kneel.documents.swing_file import SUFFIX, load_swing
from kneel.evidence import Evidence, Shelf, Stretch, gather, hear, sidecar
from kneel.evidence.swings import parts_of
from kneel.footage import Clip, ClipInfo
from kneel.footage.content import content_of
from kneel.footage.hearing import in_real_time
from kneel.footage.probe import rate_notes
from kneel.model import ClipRef, Mark, PointsError, Swing, UsageError
from kneel.motion.checkpoints import Moment
from kneel.vision import Source, installed

FEW_FRAMES = 4
"""Marks given on fewer frames than this leave the body model something to add."""


@dataclass(frozen=True)
class Document:
    """A swing, what its clip is, the strikes heard in it in stored seconds, and what is kept of it."""

    swing: Swing
    info: ClipInfo
    content: str
    strikes: tuple[Moment, ...]
    shelf: Shelf
    files: tuple[Path, ...]
    """All that was read: clip, document, marks, and what the clip carries along."""

    notes: tuple[str, ...] = ()

    def with_(self, **settings: Any) -> Document:
        """The document with settings of the swing changed; they are no longer guesses."""
        try:
            swing = self.swing.given(**settings)
        except ValueError as error:
            raise UsageError(f"What is asked cannot be: {error}.") from error
        return replace(self, swing=swing)

    def parted(self) -> Document:
        """Of a long clip that nobody has worked on the part with its swing, the last where it shows several:
        a rehearsal comes before. Raises ``FootageError``.
        """
        told = progress_on_terminal("looking for swings")
        spans = parts_of(self.swing, self.info, self.content, self.strikes, self.shelf, progress=told)
        if not spans:
            return self
        first, last = spans[-1]
        many = "shows one swing" if len(spans) == 1 else f"shows {len(spans)} swings; the last is read"
        note = f"This long clip {many}, in frames {first} to {last}."
        return replace(
            self, swing=self.swing.given(span=spans[-1], guessed=self.swing.guessed), notes=(note,)
        )

    @property
    def rate_notes(self) -> tuple[str, ...]:
        """What the file says of the rate of capture, as long as nobody has said it."""
        return tuple(rate_notes(self.info)) if "capture_rate" in self.swing.guessed else ()

    @property
    def stretch(self) -> Stretch:
        return Stretch.of(self.swing, self.info, self.content)

    def gathered(self, sources: frozenset[Source] = frozenset(Source)) -> Evidence:
        """All that the clip shows of the swing, with progress. Raises ``BodyModelError``."""
        told = {
            words: progress_on_terminal(words) for words in ("looking for the joints", "following the marks")
        }
        return gather(
            self.swing,
            self.stretch,
            shelf=self.shelf,
            sources=sources,
            strikes=in_real_time(self.strikes, self.info, self.swing.capture_rate),
            progress=lambda what, done, total: told[what](done, total),
        )


def open_document(path: Path, marks_csv: str | None, school: str) -> Document:
    """Open a swing file, or a video with the document that names it, or with marks from a CSV; ``school``
    judges it where its own is not known here.

    A clip that nobody has opened yet is one to look through. Raises
    ``FootageError``, ``SwingFileError``, ``PointsError`` or ``UsageError``.
    """
    clip_path, swing, files = _found(path, marks_csv, school)
    with Clip(clip_path) as clip:
        info, start = clip.info, clip.start_s
    if swing.clip is None:
        # Without a document what the file gives away counts until somebody says otherwise, as on the desk.
        swing = swing.given(capture_rate=info.rate_captured, guessed=swing.guessed)
    if marks_csv:
        marks: Sequence[Mark] = read_marks(marks_csv)
        first, last = swing.reach(info.frames)
        outside = [m for m in marks if m.frame > last - first]
        if outside:
            raise PointsError(
                f"A mark stands on frame {outside[0].frame}, "
                f"but {clip_path.name} has frames 0 to {info.frames - 1}."
            )
        swing = swing.given(marks=tuple(marks), looked=len({m.frame for m in marks}) < FEW_FRAMES)
    if not swing.marks and not installed():
        raise PointsError(
            f"Nobody has marked {path.name} yet, and the body-landmark network is not installed: open it in "
            "Kneel and mark hips, ankles and hands, or give a few marks with --marks POINTS.csv."
        )
    content = content_of(clip_path)
    size = clip_path.stat().st_size
    try:
        swing = swing.given(
            clip=ClipRef(
                str(clip_path), info.frames, info.width, info.height, info.rate_stored, size, content
            )
        )
    except ValueError as error:
        raise PointsError(f"{clip_path.name} and its document do not fit together: {error}.") from error
    shelf = Shelf(clip_path)
    files = (*files, sidecar(clip_path), *([Path(marks_csv)] if marks_csv else []))
    return Document(swing, info, content, hear(info, start, content, shelf), shelf, files)


def _found(path: Path, marks_csv: str | None, school: str) -> tuple[Path, Swing, tuple[Path, ...]]:
    """The clip, the swing, and the files they were read from."""
    if path.name.endswith(SUFFIX):
        swing = load_swing(path, school)
        if swing.clip is None:
            raise UsageError(f"{path.name} names no clip.")
        clip = clip_of(swing, path)
        if clip is None or not is_clip(swing.clip, clip):
            raise UsageError(
                f"The clip that {path.name} was made on is not at {swing.clip.path}; put it back beside it."
            )
        return clip, swing, (clip, path)
    documents = documents_of(path)
    if documents and marks_csv is None:
        return path, load_swing(documents[0], school), (path, *documents)
    # Nobody has said where the camera stands: what is not given is a guess.
    swing = msgspec.structs.replace(
        Swing().given(looked=True), guessed=("view", "hand", "kind", "capture_rate")
    )
    return path, swing, (path, *documents)
