"""What is done for the Book in the process beside the desk: each opens the Book by its URL."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from kneel.book import open_book
from kneel.book.index.indexing import Filed, file_swing, renew


def file_beside(
    url: str,
    document: Path,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    part: Callable[[object], None] = lambda some: None,  # noqa: ARG001
    stopped: Callable[[], bool] = lambda: False,  # noqa: ARG001
) -> Filed | None:
    """Put a document's swing into the Book."""
    progress(0, 1)
    book = open_book(url)
    try:
        return file_swing(book, document)
    finally:
        book.close()


def renew_beside(
    url: str,
    student: str,
    *,
    progress: Callable[[int, int], None] = lambda done, total: None,
    part: Callable[[object], None] = lambda some: None,  # noqa: ARG001
    stopped: Callable[[], bool] = lambda: False,
) -> int:
    """Make a student's numbers anew that another version made."""
    book = open_book(url)
    try:
        return renew(book, student, progress=progress, stopped=stopped)
    finally:
        book.close()
