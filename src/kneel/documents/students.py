"""Students' records: what is known of each for practice, their plans and cues; one file a student.

They lie in the user's data; a folder ``students`` beside a lesson's days holds those of that lesson, so that
they go where it goes (the demo has one).
"""

from __future__ import annotations

import re
import unicodedata
from hashlib import sha256
from pathlib import Path

import msgspec
import platformdirs

from kneel.documents.swing_file import stamp_of, why
from kneel.disk import TooLargeError, read_bounded, shown, write_bytes
from kneel.judge.knowledge import ONCE
from kneel.model import CHECKPOINTS, Aim, Cue, Guard, Student, StudentChangedError, StudentFileError
from kneel.motion.measures import REGISTRY
from kneel.speech.words import UNITS

VERSION = 1
FOLDER = "students"
LARGEST_BYTES = 4 << 20


class _Version(msgspec.Struct):
    kneel: int = 0


class _Envelope(msgspec.Struct, forbid_unknown_fields=True):
    kneel: int
    student: Student


def students_folder(clip: Path | None) -> Path:
    """Where the students of a clip's lesson are kept."""
    if clip is not None:
        for near in (clip.parent, clip.parent.parent):
            if (near / FOLDER).is_dir():
                return near / FOLDER
    return platformdirs.user_data_path("kneel") / FOLDER


def student_file(folder: Path, name: str) -> Path:
    """The file of a student of that name.

    >>> student_file(Path("s"), "Maren Tolhurst").name
    'maren-tolhurst-dc2c3b.student.json'
    """
    plain = unicodedata.normalize("NFKD", name.casefold()).encode("ascii", "ignore").decode()
    short = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:60] or "student"
    # Names that are written alike in plain letters are still two people.
    mark = sha256(" ".join(name.split()).casefold().encode("utf-8", "surrogatepass")).hexdigest()[:6]
    return folder / f"{short}-{mark}.student.json"


def load_student(folder: Path, name: str) -> tuple[Student, str]:
    """A student's record and its stamp; a new one, and no stamp, where there is none yet.

    Raises :class:`StudentFileError`.
    """
    path = student_file(folder, name)
    try:
        raw = read_bounded(path, LARGEST_BYTES)
    except FileNotFoundError:
        return Student(name=name), ""
    except TooLargeError as error:
        raise StudentFileError(
            f"{shown(path.name)} is too large for a student’s record; it is untouched."
        ) from error
    except OSError as error:
        raise StudentFileError(
            f"{shown(path.name)} cannot be read ({why(error)}); it is untouched."
        ) from error
    try:
        if msgspec.json.decode(raw, type=_Version).kneel > VERSION:
            raise StudentFileError(
                f"{shown(path.name)} is of a newer Kneel; it is untouched. Open it with that one."
            )
        found = msgspec.json.decode(raw, type=_Envelope)
        _demand_told(found.student)
    except (ValueError, RecursionError, msgspec.MsgspecError) as error:
        raise StudentFileError(
            f"{shown(path.name)} is no student’s record, or a damaged one; it is untouched. "
            "Take it away to begin a new one."
        ) from error
    return found.student, stamp_of(raw)


def _demand_told(student: Student) -> None:
    """Raise ``ValueError`` where a record speaks of numbers that nobody can tell."""
    asked: list[Aim | Guard | Cue] = [*(plan.aim for plan in student.plans), *student.tried]
    asked += [guard for plan in student.plans for guard in plan.guards]
    for one in asked:
        if one.measure not in REGISTRY or one.at not in (*CHECKPOINTS, ONCE) or one.unit not in UNITS:
            raise ValueError(f"{one.measure} at {one.at} in {one.unit}")


def save_student(folder: Path, student: Student, known: str) -> str:
    """Write a record and return its new stamp; ``known`` is the stamp it was read with.

    Raises :class:`StudentFileError` where it cannot be written, or was changed elsewhere since.
    """
    path = student_file(folder, student.name)
    raw = msgspec.json.format(msgspec.json.encode(_Envelope(VERSION, student)), indent=1) + b"\n"
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        now = stamp_of(read_bounded(path, LARGEST_BYTES)) if path.exists() else ""
        if now != known:
            raise StudentChangedError(
                f"{shown(student.name)}’s plan was changed elsewhere meanwhile; that is kept, and shown now. "
                "Do the last step again."
            )
        write_bytes(path, raw, private=True)
    except (OSError, TooLargeError) as error:
        raise StudentFileError(
            f"{shown(student.name)}’s plan cannot be saved ({why(error)}); what was there is untouched."
        ) from error
    return stamp_of(raw)
