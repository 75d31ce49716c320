"""Where answers are kept: one file, a line an answer, written whole or not at all, by one desk at a time."""

from __future__ import annotations

import os
from pathlib import Path

import msgspec
import platformdirs
from filelock import FileLock, Timeout

from kneel.disk import read_bounded
from kneel.model import KneelError
from kneel.trainer.records import Answer

LARGEST = 64 * 2**20
PATIENCE_S = 5.0


def answers_file() -> Path:
    """This user's own."""
    return platformdirs.user_data_path("kneel") / "trainer" / "answers.jsonl"


def read_answers(path: Path) -> list[Answer]:
    """All that can be read; a line that was broken off, or is of a newer Kneel, is left out and stays where
    it is. Raises :class:`KneelError` where the file cannot be read at all.
    """
    try:
        text = read_bounded(path, LARGEST)
    except FileNotFoundError:
        return []
    except (OSError, KneelError) as error:
        raise KneelError(
            f"The answers in {path.name} cannot be read ({error}); they are safe, and new ones are not kept."
        ) from error
    out = []
    for line in text.splitlines():
        try:
            out.append(msgspec.json.decode(line, type=Answer))
        except (msgspec.DecodeError, ValueError):
            continue
    return out


def keep_answer(path: Path, answer: Answer) -> None:
    """Add an answer, on the disk before this returns. Raises :class:`KneelError`; no other is lost then."""
    try:
        path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        with FileLock(f"{path}.lock", timeout=PATIENCE_S), path.open("ab+") as file:
            path.chmod(0o600)
            if file.tell() and _broken_off(path):
                file.write(b"\n")
            file.write(msgspec.json.encode(answer) + b"\n")
            file.flush()
            os.fsync(file.fileno())
    except (OSError, Timeout) as error:
        why = getattr(error, "strerror", None) or "another desk is writing"
        raise KneelError(
            f"The answer is not kept ({why}); those before are safe. Free some space, and answer on."
        ) from error


def _broken_off(path: Path) -> bool:
    with path.open("rb") as file:
        file.seek(-1, os.SEEK_END)
        return file.read(1) != b"\n"


def forget_answers(path: Path) -> None:
    """Take all answers away for good. Raises :class:`KneelError`."""
    try:
        with FileLock(f"{path}.lock", timeout=PATIENCE_S):
            path.unlink(missing_ok=True)
    except (OSError, Timeout) as error:
        raise KneelError("The answers are not forgotten: their file cannot be taken away.") from error
