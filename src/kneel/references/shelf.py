"""Where references lie: a folder each, with clip, document and card; those that ship are copied there."""

from __future__ import annotations

import contextlib
import shutil
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from importlib.resources import as_file, files
from pathlib import Path

import platformdirs
from msgspec.structs import replace

from kneel.disk import free_path
from kneel.documents.swing_file import SUFFIX, peek, save_swing, why
from kneel.evidence import sidecar
from kneel.model import KneelError, Swing, SwingFileError
from kneel.references.card import FILE, Card, read_card, write_card

FOLDER, SHIPPED = "references", "data"
STEM = "swing"


@dataclass(frozen=True)
class Reference:
    """One on the shelf: where its document lies, the document, and its card."""

    document: Path
    swing: Swing
    card: Card


def shelf_folder() -> Path:
    """Where this user's references lie."""
    return platformdirs.user_data_path("kneel") / FOLDER


def listed(folder: Path | None = None) -> list[Reference]:
    """All references, those that ship among them; what cannot be read is left out.

    Raises :class:`SwingFileError` where those that ship cannot be copied there.
    """
    folder = folder or shelf_folder()
    _copy_shipped(folder)
    return list(_found(folder))


def _found(folder: Path) -> Iterator[Reference]:
    for place in sorted(path for path in folder.iterdir() if path.is_dir()):
        documents = sorted(place.glob(f"*{SUFFIX}"))
        swing = peek(documents[0]) if documents else None
        if swing is None or swing.clip is None:
            continue
        try:
            yield Reference(documents[0], swing, read_card(place))
        except SwingFileError:
            continue


def _copy_shipped(folder: Path) -> None:
    """What ships lies there once; what was taken off the shelf stays off it."""
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        with as_file(files("kneel.references") / SHIPPED) as source:
            for place in sorted(path for path in source.iterdir() if path.is_dir()):
                target = folder / place.name
                if target.exists():
                    continue
                target.mkdir(mode=0o700)
                # The card last: a folder without one is no reference yet.
                for path in sorted(place.iterdir(), key=lambda path: path.name == FILE):
                    shutil.copyfile(path, target / path.name)
    except OSError as error:
        raise SwingFileError(f"The references cannot be copied to {folder} ({why(error)}).") from error


def put_on(
    swing: Swing, card: Card, folder: Path | None = None, *, note: Callable[[Path], None] = lambda path: None
) -> Reference:
    """Put a swing on the shelf: a copy of its clip, and of the document without whose it is.

    ``note`` is told every file, before it is made, so that it goes where the swing is deleted. Raises
    :class:`SwingFileError`; nothing is then left behind.
    """
    clip = Path(swing.clip.path) if swing.clip is not None else None
    if clip is None:
        raise SwingFileError("A swing without a clip cannot be put on the shelf; open one with its clip.")
    folder = folder or shelf_folder()
    try:
        place = _place(folder, card.title)
    except OSError as error:
        raise _not_on_it(why(error)) from error
    document, film = place / f"{STEM}{SUFFIX}", place / f"{STEM}{clip.suffix.lower()}"
    try:
        # What was followed on it is found by its content where it is kept, else beside the clip.
        copied = {clip: film} | ({sidecar(clip): sidecar(film)} if sidecar(clip).is_file() else {})
        for path in (document, place / FILE, *copied.values()):
            note(path)
        for source, target in copied.items():
            shutil.copyfile(source, target)
            target.chmod(0o600)
        save_swing(document, nameless(swing, film))
        write_card(place, card)
    except (OSError, KneelError) as error:
        shutil.rmtree(place, ignore_errors=True)
        raise _not_on_it(why(error) if isinstance(error, OSError) else str(error)) from error
    return Reference(document, nameless(swing, film), card)


def take_off(reference: Reference) -> None:
    """Take a reference off the shelf for good; one that ships does not come back. Raises ``OSError``."""
    place = reference.document.parent
    (place / FILE).unlink(missing_ok=True)
    for path in list(place.iterdir()):
        path.unlink()
    # An empty folder tells that it was taken off.


def nameless(swing: Swing, clip: Path) -> Swing:
    """A swing without whose it is and what was said of it, with its clip elsewhere."""
    held = swing.clip
    assert held is not None
    return swing.given(
        guessed=swing.guessed,
        id="",
        student="",
        golfer="",
        complaint="",
        flight="",
        ball=None,
        overrides=(),
        drawn=(),
        plate=None,
        clip=replace(held, path=str(clip)),
    )


def _not_on_it(reason: str) -> SwingFileError:
    return SwingFileError(f"It is not on the shelf ({reason}); nothing was lost. Free some space.")


def _place(folder: Path, title: str) -> Path:
    """A new folder for a reference, which nobody who puts one on at this moment has. Raises ``OSError``."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    words = "".join(char if char.isalnum() else "-" for char in title.casefold()).strip("-")[:40] or STEM
    while True:
        place = free_path(folder, lambda number: f"{words}-{number}" if number > 1 else words)
        with contextlib.suppress(FileExistsError):
            place.mkdir(mode=0o700)
            return place
