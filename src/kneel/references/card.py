"""What is said of a reference: its name, what it shows, and by whose leave it is shown."""

from __future__ import annotations

from pathlib import Path

import msgspec

from kneel.disk import read_bounded, shown, write_bytes
from kneel.documents.swing_file import why
from kneel.model import SwingFileError
from kneel.model.take import Record, demand

FILE = "reference.json"
VERSION = 1
LARGEST_BYTES = 64 * 1024
LONGEST = 120
SIMULATED = "simulated"


class Card(Record, frozen=True):
    """A reference in words. ``shows`` are the faults it is clear of, by their keys; ``leave`` is whose
    permission it is shown by, or ``simulated``; ``stature_cm`` is 0 where nobody knows it.
    """

    title: str
    shows: tuple[str, ...] = ()
    leave: str = SIMULATED
    stature_cm: float = 0.0

    def __post_init__(self) -> None:
        demand(bool(self.title.strip()), "a reference has a name")
        demand(bool(self.leave.strip()), "a reference is shown by somebody's leave, or is simulated")
        demand(max(len(self.title), len(self.leave)) <= LONGEST, f"at most {LONGEST} letters fit there")


class _Envelope(msgspec.Struct, forbid_unknown_fields=True):
    kneel_reference: int
    reference: Card


def write_card(folder: Path, card: Card) -> None:
    """Write a card into a reference's folder. Raises ``OSError``."""
    raw = msgspec.json.encode(_Envelope(VERSION, card))
    write_bytes(folder / FILE, msgspec.json.format(raw, indent=1) + b"\n", private=True)


def read_card(folder: Path) -> Card:
    """The card of a reference's folder. Raises :class:`SwingFileError` with one sentence."""
    name = f"{shown(folder.name)}/{FILE}"
    try:
        envelope = msgspec.json.decode(read_bounded(folder / FILE, LARGEST_BYTES), type=_Envelope)
    except OSError as error:
        raise SwingFileError(f"{name} cannot be read ({why(error)}).") from error
    except (msgspec.MsgspecError, ValueError, RecursionError) as error:
        raise SwingFileError(f"{name} is not a reference's card; it is untouched and left out.") from error
    if envelope.kneel_reference > VERSION:
        raise SwingFileError(f"{name} was written by a newer Kneel; it is untouched and left out.")
    return envelope.reference
