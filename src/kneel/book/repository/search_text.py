"""Text as it is searched: small letters, without accents, its blanks alike."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable

from kneel.model.student import LONGEST_NAME


def folded(text: str) -> str:
    """Text as it is compared.

    >>> folded("  Ébba   QUILL "), folded("Straße")
    ('ebba quill', 'strasse')
    """
    plain = unicodedata.normalize("NFKD", text.casefold())
    return " ".join("".join(c for c in plain if not unicodedata.combining(c)).split())


def name_key(name: str) -> str:
    """What makes a name one: blanks and capitals aside, accents kept.

    >>> name_key(" Ebba  Quill") == name_key("ebba quill"), name_key("Ébba") == name_key("Ebba")
    (True, False)
    """
    return unicodedata.normalize("NFC", " ".join(name.split()).casefold())


def golfer_name(golfer: str) -> str:
    """A golfer's name in a document as the Book can hold it.

    >>> golfer_name("  Ebba   Quill ")
    'Ebba Quill'
    """
    return " ".join(golfer.split())[:LONGEST_NAME].strip()


def same_golfer(one: str, other: str) -> bool:
    """Whether two documents name one golfer; nobody who is not named is anybody's.

    >>> same_golfer(" Ebba  Quill", "ebba quill"), same_golfer("", "")
    (True, False)
    """
    first, second = (name_key(golfer_name(name)) for name in (one, other))
    return bool(first) and first == second


def gathered(parts: Iterable[str]) -> str:
    """Several texts as one to search, each once."""
    return " \n ".join(dict.fromkeys(f for part in parts if (f := folded(part))))


def terms(query: str) -> list[str]:
    """The words that are asked for, each as a pattern that a text holding it matches.

    >>> terms("Hip 50%")
    ['%hip%', '%50\\\\%%']
    """
    escaped = (w.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") for w in folded(query).split())
    return [f"%{word}%" for word in escaped]
