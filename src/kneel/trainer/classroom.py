"""A round for a class: a folder with its swings that any desk can open, and what each of the class answered.

    round.json            what is asked, in which order
    swings/<id>/          the swings with their truth
    answers/<name>.json   one file a person, written by that person's desk alone

A folder may come from anybody: names are plain, files are regular and bounded, and of what it says only
what is checked is used.
"""

from __future__ import annotations

import datetime
import hashlib
import re
import shutil
import unicodedata
import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import msgspec

from kneel.disk import read_bounded, shown
from kneel.disk.atomic import write_bytes
from kneel.model import KneelError
from kneel.trainer import stock
from kneel.trainer.records import Answer, Record, Settings
from kneel.trainer.rounds import answer_of
from kneel.trainer.stock import CLIP, TRUTH, OnShelf

ROUND, SWINGS, ANSWERS = "round.json", "swings", "answers"
LARGEST = 4 * 2**20
LARGEST_CLIP = 64 * 2**20
MOST_SWINGS, MOST_PEOPLE = 80, 500
LONGEST_NAME = 60
UNTOUCHED = "Nothing was changed."


class ClassRound(Record, frozen=True):
    """What is asked of a class: ``swings`` by their names in the order in which they come."""

    id: str
    title: str
    made: str
    settings: Settings
    swings: tuple[str, ...]
    version: int = 1


class Paper(Record, frozen=True):
    """What one of a class answered; ``desk`` is where it was begun, so that nobody goes on with another's."""

    round: str
    by: str
    desk: str
    answers: tuple[Answer, ...] = ()
    version: int = 1


@dataclass(frozen=True)
class OpenClass:
    """A folder of a class as it was read."""

    folder: Path
    round: ClassRound
    swings: tuple[OnShelf, ...]


def write_class(
    folder: Path,
    title: str,
    swings: Sequence[OnShelf],
    settings: Settings,
    today: datetime.date,
    progress: Callable[[int, int], None] = lambda done, total: None,
    stopped: Callable[[], bool] = lambda: False,
) -> ClassRound | None:
    """Make the folder of a round; None once ``stopped``. Raises :class:`KneelError`; nothing is left then."""
    if folder.exists() and any(folder.iterdir()):
        raise KneelError(f"{shown(folder.name)} is not empty; choose a new folder. {UNTOUCHED}")
    made = ClassRound(
        uuid.uuid4().hex,
        title.strip()[:LONGEST_NAME],
        today.isoformat(),
        settings,
        tuple(one.id for one in swings),
    )
    part = folder.with_name(f".{folder.name}.part")
    shutil.rmtree(part, ignore_errors=True)
    try:
        (part / ANSWERS).mkdir(parents=True)
        for number, one in enumerate(swings):
            if stopped():
                return None
            place = part / SWINGS / one.id
            place.mkdir(parents=True)
            for name in (CLIP, TRUTH):
                shutil.copyfile(one.folder / name, place / name)
            progress(number + 1, len(swings))
        write_bytes(part / ROUND, msgspec.json.format(msgspec.json.encode(made)))
        if folder.exists():
            folder.rmdir()
        part.rename(folder)
    except OSError as error:
        why = error.strerror or "it may not be written"
        raise KneelError(f"The round for a class is not written ({why}). {UNTOUCHED}") from error
    finally:
        shutil.rmtree(part, ignore_errors=True)
    return made


def read_class(folder: Path) -> OpenClass:
    """A round for a class. Raises :class:`KneelError` with one sentence."""
    name = shown(folder.name)
    try:
        made = msgspec.json.decode(read_bounded(folder / ROUND, LARGEST), type=ClassRound)
    except FileNotFoundError as error:
        raise KneelError(f"{name} is no round for a class: it has no {ROUND}. {UNTOUCHED}") from error
    except (OSError, ValueError) as error:
        raise KneelError(
            f"{name} holds a round that cannot be read; ask for it again. {UNTOUCHED}"
        ) from error
    if made.version != 1:
        raise KneelError(f"{name} was made by a newer Kneel; open it there. {UNTOUCHED}")
    plain = [id_ for id_ in made.swings if re.fullmatch(r"[0-9a-f]{16}", id_)]
    if not 0 < len(plain) == len(made.swings) <= MOST_SWINGS or len(set(plain)) != len(plain):
        raise KneelError(f"{name} names swings as no class has them; ask for it again. {UNTOUCHED}")
    swings = []
    for id_ in plain:
        place = folder / SWINGS / id_
        clip = place / CLIP
        if (
            place.is_symlink()
            or clip.is_symlink()
            or not clip.is_file()
            or clip.stat().st_size > LARGEST_CLIP
        ):
            raise KneelError(
                f"A swing of {name} is lacking, so that it cannot be begun; copy the folder again."
            )
        try:
            one = stock.read(place)
        except KneelError as error:
            raise KneelError(f"A swing of {name} was spoilt on the way; copy the folder again.") from error
        if one.id != id_:
            raise KneelError(f"A swing of {name} is not the one that is asked for; copy the folder again.")
        swings.append(one)
    return OpenClass(folder, made, tuple(swings))


def own_files(open_class: OpenClass) -> list[Path]:
    """All files that a round is made of, its answers among them."""
    folder = open_class.folder
    swings = [one.folder / name for one in open_class.swings for name in (CLIP, TRUTH)]
    return [folder / ROUND, *swings, *sorted((folder / ANSWERS).glob("*.json"))]


def named(name: str) -> str:
    """A person's name as it is kept. Raises :class:`KneelError` where it is none.

    >>> named("  Ida  Fenn ")
    'Ida Fenn'
    """
    plain = " ".join(unicodedata.normalize("NFC", name).split())[:LONGEST_NAME]
    if not any(character.isalnum() for character in plain) or shown(plain) != plain:
        raise KneelError("Whose answers are these? Type a name.")
    return plain


def paper_file(folder: Path, name: str) -> Path:
    """Where somebody's answers lie: one file a name, whatever its case.

    >>> paper_file(Path("x"), "Ida Fenn").name
    'ida-fenn-9671e3.json'
    """
    folded = unicodedata.normalize("NFKC", name).casefold()
    letters = unicodedata.normalize("NFKD", folded).encode("ascii", "ignore").decode()
    words = re.sub(r"[^a-z0-9]+", "-", letters).strip("-")[:40] or "somebody"
    return folder / ANSWERS / f"{words}-{hashlib.sha256(folded.encode()).hexdigest()[:6]}.json"


def _taken(by: str) -> KneelError:
    return KneelError(f"Somebody called {by} answers already, at another desk; take another name.")


def take_seat(open_class: OpenClass, name: str, desk: str) -> Paper:
    """Somebody's answers so far, begun now where there are none.

    Raises :class:`KneelError` where the name is taken by another desk, or the folder may not be written.
    """
    by = named(name)
    path = paper_file(open_class.folder, by)
    if path.exists():
        paper = read_paper(path)
        if paper.desk != desk or paper.round != open_class.round.id:
            raise _taken(by)
        return paper
    paper = Paper(open_class.round.id, by, desk)
    write_paper(open_class.folder, paper)
    return paper


def write_paper(folder: Path, paper: Paper) -> None:
    """Keep somebody's answers. Raises :class:`KneelError`; what was kept before stays."""
    path = paper_file(folder, paper.by)
    try:
        path.parent.mkdir(exist_ok=True)
        if path.exists() and read_paper(path).desk != paper.desk:
            raise _taken(paper.by)
        write_bytes(path, msgspec.json.encode(paper))
    except OSError as error:
        why = error.strerror or "it may not be written"
        raise KneelError(
            f"The answer is not kept in {shown(folder.name)} ({why}); those before are safe. Copy the folder "
            "to where you may write, and open it there."
        ) from error


def read_paper(path: Path) -> Paper:
    """Somebody's answers. Raises :class:`KneelError`."""
    try:
        paper = msgspec.json.decode(read_bounded(path, LARGEST), type=Paper)
    except (OSError, ValueError) as error:
        raise KneelError(f"{shown(path.name)} holds no answers that can be read; it is left out.") from error
    named(paper.by)
    return paper


def _answering(path: Path, open_class: OpenClass) -> Paper:
    """Somebody's answers to this very round. Raises :class:`KneelError`."""
    paper = read_paper(path)
    if paper.round != open_class.round.id:
        raise KneelError(f"{shown(path.name)} answers another round; it is left out.")
    return paper


def papers(open_class: OpenClass) -> tuple[list[Paper], list[str]]:
    """What everybody answered, by name, and what is wrong with files that were left out.

    Only what was asked counts, each swing once; what a swing truly shows is taken from the round and not from
    whoever answered.
    """
    found: dict[str, Paper] = {}
    wrong = []
    try:
        every = sorted((open_class.folder / ANSWERS).glob("*.json"))[:MOST_PEOPLE]
    except OSError:
        every = []
    for path in every:
        try:
            paper = _answering(path, open_class)
        except KneelError as error:
            wrong.append(str(error))
            continue
        found[paper.by] = msgspec.structs.replace(paper, answers=_marked(paper, open_class))
    return sorted(found.values(), key=lambda paper: paper.by.casefold()), wrong


def _marked(paper: Paper, open_class: OpenClass) -> tuple[Answer, ...]:
    swings = {one.id: one.stocked for one in open_class.swings}
    out: dict[str, Answer] = {}
    for one in paper.answers:
        stocked = swings.get(one.swing)
        if stocked is not None and one.swing not in out:
            marked = answer_of(
                stocked, one.named, one.sure, one.said, shown=one.shown, size=one.size, by=paper.by
            )
            out[one.swing] = msgspec.structs.replace(marked, when=one.when)
    return tuple(out[id_] for id_ in open_class.round.swings if id_ in out)


def bring_papers(open_class: OpenClass, paths: Sequence[Path]) -> tuple[int, list[str]]:
    """Take in answers that were sent as files: how many, and what is wrong with the others.

    One of a name that is there already takes its place only where the same desk answered more since.
    """
    count, wrong = 0, []
    for path in paths:
        try:
            paper = _answering(path, open_class)
            held = paper_file(open_class.folder, paper.by)
            if held.exists():
                before = read_paper(held)
                if before.desk != paper.desk:
                    raise KneelError(f"There is another {paper.by} in the class already; it is left out.")
                if len(before.answers) >= len(paper.answers):
                    continue
            write_paper(open_class.folder, paper)
            count += 1
        except KneelError as error:
            wrong.append(str(error))
    return count, wrong
