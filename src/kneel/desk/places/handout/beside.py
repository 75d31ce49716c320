"""Making page and clip in the process beside the desk, from what is on the disk."""

from __future__ import annotations

import contextlib
import datetime
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from kneel.book import open_book
from kneel.book.index.indexing import day_of
from kneel.compare.views import judge_views
from kneel.evidence.kept import kept_swing
from kneel.handout.content import film_title
from kneel.handout.making import Home, finding_for, known_of, make_clip, make_content, pictured
from kneel.handout.page import html_of, pdf_of, ready
from kneel.judge import in_use
from kneel.model import UsageError
from kneel.practice import drills_in_use


@dataclass(frozen=True)
class PageAsked:
    """What a page is to be of: the document, the Book's URL, and what was chosen on the desk."""

    document: Path
    url: str
    fault: str = ""
    academy: str = ""
    note: str = ""
    today: datetime.date | None = None


@dataclass(frozen=True)
class PageMade:
    """A page as it will go out, and the fault it is about."""

    html: str
    pdf: bytes
    fault: str
    drill: str = ""
    """The drill on it, by its key, where the instructor has a film of that."""

    film: str = ""
    """What that film is called on the page."""


def page_ready(
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,  # noqa: ARG001
    part: Callable[[object], None] = lambda some: None,  # noqa: ARG001
    stopped: Callable[[], bool] = lambda: False,
) -> None:
    """Load what lays out pages; a system that lacks it says so once one is asked for."""
    if not stopped():
        with contextlib.suppress(UsageError):
            ready()


def page_beside(
    asked: PageAsked,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    part: Callable[[object], None] = lambda some: None,  # noqa: ARG001
    stopped: Callable[[], bool] = lambda: False,
) -> PageMade | None:
    """Make the page. Raises ``UsageError`` where there is nothing to say."""
    progress(0, 3)
    home = _home(asked)
    progress(1, 3)
    if stopped():
        return None
    content = make_content(home, fault=asked.fault, academy=asked.academy, note=asked.note, today=asked.today)
    html = html_of(content)
    progress(2, 3)
    if stopped():
        return None
    drill = drills_in_use().all.get(content.drill_key) if content.filmed else None
    film = (drill.key, film_title(drill)) if drill is not None else ("", "")
    return PageMade(html, pdf_of(html), finding_for(home, asked.fault).key, *film)


def clip_beside(
    asked: PageAsked,
    path: Path,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    part: Callable[[object], None] = lambda some: None,  # noqa: ARG001
    stopped: Callable[[], bool] = lambda: False,
) -> Path | None:
    """Make the slow clip; stopped half way nothing is left."""
    progress(0, 100)
    try:
        make_clip(_home(asked), path, fault=asked.fault, progress=progress, stopped=stopped)
    except InterruptedError:
        return None
    return path


def _home(asked: PageAsked) -> Home:
    known = kept_swing(asked.document)
    if known is None:
        raise UsageError("The joints of this swing were neither looked for nor marked yet.")
    school = in_use().school(known.swing.school)
    reading = judge_views(known.studies, school, known.swing, in_use())
    clip = known.stretch.path
    home = Home(known.swing, known.study, reading, clip, day_of(clip))
    book = open_book(asked.url)
    try:
        home = known_of(book, home)
    finally:
        book.close()
    return pictured(home, known, asked.fault)
