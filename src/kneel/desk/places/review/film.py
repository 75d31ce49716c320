"""A review written as a film, in a process without a window: the stage's own pictures, and the voice."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from functools import cache
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QSize
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication

from kneel.desk.operations import Jobs
from kneel.desk.places.keeping import as_rgb
from kneel.desk.stage.replay import ReplayCanvas, pointed
from kneel.desk.swing.replayed import ReplayedSwing, open_replayed
from kneel.desk.swing.titles import checkpoint_title
from kneel.desk.widgets.theme import Look, install
from kneel.footage.writer import write_clip
from kneel.model import KneelError
from kneel.model.review import Review, Seen
from kneel.review.edits import Chapter, Course, chapters
from kneel.review.file import ReviewError, load_review
from kneel.review.sound import spoken
from kneel.review.voice import RATE as VOICE_RATE

RATE = 30.0
SIZES = {False: (1280, 720), True: (720, 1280)}
"""Wide, and upright, px."""

RATIO = 1.4
"""Words of the desk are shown so many times as large: films are looked at on telephones."""

TITLE_S = 2.6
QUALITY = 25


def nothing(done: int, total: int) -> None:
    """Progress that nobody wants."""


def write_film(
    path: Path,
    out: Path,
    *,
    upright: bool = False,
    progress: Callable[[int, int], None] = nothing,
    part: object = None,  # noqa: ARG001
    stopped: Callable[[], bool] = lambda: False,
) -> tuple[str, ...]:
    """Write a review as MP4, wide or upright; gives what is to be said of it.

    Raises ``ReviewError``, or ``FootageError`` where a clip cannot be read or the film not be written.
    """
    review = load_review(path)
    if not review.pieces:
        raise ReviewError("Nothing of this review is left to show.")
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    look = Look(dark=True)
    install(_application(), look)
    stage = Stages(review, look, SIZES[upright])
    samples, notes = spoken(review)
    try:
        pictures = _pictures(review, stage, progress, stopped)
        voice = (samples, VOICE_RATE) if len(samples) and np.any(samples) else None
        write_clip(
            out, pictures, rate=RATE, size=SIZES[upright], sound=voice, quality=QUALITY,
            comment="Made with Kneel",
        )  # fmt: skip
    finally:
        stage.close()
    return (*notes, *stage.notes)


@cache
def _application() -> QApplication:
    """The application, held: what carries answers from workers would go with it."""
    application = QApplication.instance() or QApplication(["kneel"])
    assert isinstance(application, QApplication)
    return application


class Stages:
    """The canvases of a review, one for each clip that is shown, opened when they are first needed."""

    def __init__(self, review: Review, look: Look, size: tuple[int, int], ratio: float = RATIO) -> None:
        self._review, self._look = review, look
        self.size, self._ratio = size, ratio
        self._jobs = Jobs()
        self._open: dict[int, list[ReplayedSwing]] = {}
        self._canvases: dict[tuple[int, int], ReplayCanvas] = {}
        self.notes: list[str] = []

    def canvas(self, seen: Seen) -> ReplayCanvas | None:
        """That of the clip on show; None where it is gone, which is said once."""
        key = seen.swing, seen.take
        if key not in self._canvases:
            swings = self._swings(seen.swing)
            if not swings:
                return None
            one = swings[min(seen.take, len(swings) - 1)]
            self._canvases[key] = ReplayCanvas(one, self._look, QSize(*self.size), self._ratio)
        return self._canvases[key]

    def _swings(self, number: int) -> list[ReplayedSwing]:
        if number not in self._open:
            try:
                self._open[number] = open_replayed(Path(self._review.swings[number].document), self._jobs)
            except (KneelError, OSError, IndexError) as error:
                self._open[number] = []
                self.notes.append(f"{error} The review is shown without its picture there.")
        return self._open[number]

    def close(self) -> None:
        """Let go of the clips."""
        for swings in self._open.values():
            for swing in swings:
                swing.let_go()


def titled(chapter: Chapter, review: Review) -> str:
    """A chapter's title; with the swing's where a review shows several."""
    title = checkpoint_title(chapter.at)
    several = len(review.swings) > 1 and review.swings[chapter.swing].title
    return f"{title} · {review.swings[chapter.swing].title}" if several else title


def _pictures(
    review: Review, stage: Stages, progress: Callable[[int, int], None], stopped: Callable[[], bool]
) -> Iterator[np.ndarray]:
    course, count = Course(review), max(1, round(review.seconds * RATE))
    titles = [(one.start_s, titled(one, review)) for one in chapters(review)]
    base: tuple[object, QImage] | None = None
    last: tuple[object, np.ndarray] | None = None
    blank = QImage(QSize(*stage.size), QImage.Format.Format_RGB32)
    blank.fill(0xFF12181A)
    for number in range(count):
        if stopped():
            raise InterruptedError
        t = number / RATE
        seen, click = course.at(t)
        canvas = stage.canvas(seen)
        still = Seen(**{**vars(seen), "hand": None, "down": False})
        if base is None or base[0] != still:
            base = still, blank if canvas is None else canvas.film(still)
        title = next((words for start, words in reversed(titles) if 0 <= t - start < TITLE_S), "")
        about = still, seen.hand, None if click is None else round(click * RATE), title
        if last is None or last[0] != about:
            image = base[1] if canvas is None else pointed(canvas, base[1], seen, click, title)
            last = about, as_rgb(image, stage.size)
        yield last[1]
        progress(number + 1, count)
