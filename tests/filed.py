"""Maren's lessons of the demo in a Book: read and judged once a worker, then copied."""

from __future__ import annotations

import atexit
import shutil
import sqlite3
import tempfile
from collections.abc import Sequence
from contextlib import closing
from functools import cache
from importlib.resources import files
from pathlib import Path

from kneel.book import Book, open_book
from kneel.book.index.indexing import file_swing
from kneel.documents.swing_file import SUFFIX

DEMO = Path(str(files("kneel.demo") / "data"))
MAREN = "maren-tolhurst-iron"
DAYS = ("2026-08-04", "2026-09-29", "2026-11-03")


def lessons_in(folder: Path, days: Sequence[str] = DAYS, names: str = f"{MAREN}.*") -> list[Path]:
    """Copies of the demo's clips of some days beneath a folder; gives their documents."""
    for day in days:
        (folder / day).mkdir(parents=True)
        for path in (DEMO / day).glob(names):
            shutil.copy(path, folder / day)
    return sorted(folder.glob(f"*/*{SUFFIX}"))


def filed_in(book: Book, folder: Path, days: Sequence[str] = DAYS, names: str = f"{MAREN}.*") -> list[Path]:
    """The same, with the empty Book as it is once they were filed."""
    documents = lessons_in(folder, days, names)
    of, filed = _filed(tuple(days), names)
    with closing(sqlite3.connect(filed)) as source, closing(sqlite3.connect(book.path)) as target:
        source.backup(target)
        with target:
            for column in ("document", "clip"):
                moved = f"UPDATE swings SET {column} = replace({column}, ?, ?)"
                target.execute(moved, (str(of), str(folder)))
    return documents


@cache
def _filed(days: tuple[str, ...], names: str) -> tuple[Path, Path]:
    """A folder of lessons and the file of the Book they were filed in."""
    home = Path(tempfile.mkdtemp(prefix="kneel-filed-"))
    atexit.register(shutil.rmtree, home, ignore_errors=True)
    made = open_book(str(home / "book.sqlite"))
    for document in lessons_in(home / "lessons", days, names):
        assert file_swing(made, document) is not None
    made.close()
    return home / "lessons", home / "book.sqlite"
