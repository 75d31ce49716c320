"""What a command writes: checked before the work, never over what it reads, whole or not at all."""

from __future__ import annotations

import contextlib
import os
import shutil
import stat
import sys
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

from kneel.disk import demand_file, same_file, shown, writable_reason
from kneel.model import CLIP_SUFFIXES, UsageError

STDOUT = "-"
DATABASE, BESIDE = b"SQLite format 3\0", ("-wal", "-shm", "-journal")
PRECIOUS = (".swing.json", ".student.json", ".evidence", *CLIP_SUFFIXES)
"""Marks and films are nobody's to write results over, whichever command is asked."""


class Output:
    """One file to write, or standard output. ``over_films`` lets a simulated film be made anew, and
    ``over_copies`` a copy of a Book.
    """

    def __init__(
        self, text: str, option: str, *, over_films: bool = False, over_copies: bool = False
    ) -> None:
        self.text, self.option = text, option
        self._over_films, self._over_copies = over_films, over_copies

    @staticmethod
    def of(text: str | None, option: str) -> list[Output]:
        """The output asked for by an option, in a list that is empty where none is."""
        return [] if text is None else [Output(text, option)]

    @property
    def to_stdout(self) -> bool:
        return self.text == STDOUT

    @property
    def path(self) -> Path:
        return Path(self.text)

    def demand(self) -> None:
        """Raise ``UsageError`` where this cannot be written."""
        if self.to_stdout:
            return
        reason = "it names no file" if not self.text or "\0" in self.text else writable_reason(self.path)
        if reason:
            raise UsageError(f"{self.option}: {shown(self.text)} cannot be written: {shown(reason)}.")
        if not self._over_copies:
            self._demand_no_book()
        if self.path.exists():
            self._demand_not_precious()

    def _demand_no_book(self) -> None:
        """Raise ``UsageError`` for a database, and for what one keeps beside it."""
        real = Path(os.path.realpath(self.path))
        stem = next((real.name.removesuffix(end) for end in BESIDE if real.name.endswith(end)), real.name)
        try:
            source = real.with_name(stem)
            demand_file(source)
            with source.open("rb") as file:
                held = file.read(len(DATABASE)) == DATABASE
        except (OSError, ValueError):
            held = False
        if held:
            raise UsageError(
                f"{self.option}: {shown(self.text)} belongs to a database, such as the Book; it is "
                "untouched. Choose another name for the result."
            )

    def _demand_not_precious(self) -> None:
        name = Path(os.path.realpath(self.path)).name.lower()
        kinds = PRECIOUS[:3] if self._over_films else PRECIOUS
        if name.endswith(kinds) or self.path.name.lower().endswith(kinds):
            raise UsageError(
                f"{self.option}: {shown(self.text)} holds marks or a film; it is untouched. "
                "Choose another name for the result."
            )
        if self._over_films and not self._is_simulated():
            raise UsageError(
                f"{self.option}: {shown(self.text)} is there already and was not simulated; it is untouched. "
                "Choose another name."
            )
        if self._over_films and self._has_marks():
            raise UsageError(
                f"{self.option}: {shown(self.text)} has been marked in a document beside it; it is "
                "untouched. Choose another name."
            )

    def _is_simulated(self) -> bool:
        from kneel.footage.container import comment_of
        from kneel.sim.film import SIMULATED

        return comment_of(self.path) == SIMULATED

    def _has_marks(self) -> bool:
        from kneel.documents.finding import documents_of, linked_to, others_document

        named = documents_of(self.path) or linked_to(self.path)
        return bool(named) or others_document(self.path) is not None

    @contextmanager
    def writing(self) -> Iterator[Path]:
        """A path to write to, atomically; standard output gets it once it is whole. Raises ``UsageError``."""
        try:
            if not self.to_stdout:
                yield self.path
                return
            with tempfile.TemporaryDirectory(prefix="kneel-") as folder:
                whole = Path(folder) / "output"
                yield whole
                with whole.open("rb") as file:
                    sys.stdout.flush()
                    shutil.copyfileobj(file, sys.stdout.buffer)
                sys.stdout.flush()
        except BrokenPipeError:
            raise
        except OSError as error:
            where = "standard output" if self.to_stdout else shown(self.text)
            raise UsageError(f"{where} cannot be written ({error.strerror}).") from error


def demand_outputs(outputs: Iterable[Output], inputs: Iterable[Path]) -> None:
    """Raise ``UsageError`` where an output cannot be written, or would replace an input or another output."""
    every, known = list(outputs), list(inputs)
    for k, output in enumerate(every):
        for other in every[:k]:
            if output.text == other.text or (
                not (output.to_stdout or other.to_stdout) and same_file(output.path, other.path)
            ):
                raise UsageError(f"{other.option} and {output.option} name one file, {shown(output.text)}.")
        if output.to_stdout:
            continue
        for given in known:
            if same_file(output.path, given):
                raise UsageError(
                    f"{output.option}: {shown(output.text)} is what is read; it is untouched. "
                    "Choose another name for the result."
                )
        output.demand()


def demand_input(text: str) -> Path:
    """A path to read: a regular file, or a link to one. Raises ``UsageError``."""
    path = Path(text)
    try:
        mode = path.stat().st_mode
    except FileNotFoundError as error:
        raise UsageError(f"There is no file {shown(text)}.") from error
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or "it is no name of a file"
        raise UsageError(f"{shown(text)} cannot be read ({why}).") from error
    if stat.S_ISDIR(mode):
        raise UsageError(f"{shown(text)} is a folder, not a file.")
    if not stat.S_ISREG(mode):
        raise UsageError(f"{shown(text)} is no regular file but a pipe or a device; copy it to a file first.")
    return path


def close_stdout() -> None:
    """Leave standard output so that the end of the program does not complain of it once more."""
    with contextlib.suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
