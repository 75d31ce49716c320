"""Names of files as they can be shown: on one line, in any encoding, without a terminal's commands."""

from __future__ import annotations

import hashlib
import os
import unicodedata
from pathlib import Path

_UNSHOWN = {"Cc", "Cf", "Cs", "Co", "Cn", "Zl", "Zp"}


def shown(text: object) -> str:
    r"""Text with what cannot or must not be shown written as an escape.

    >>> shown("two\nlines \x1b[31m \udcff")
    'two\\nlines \\x1b[31m \\udcff'
    """
    return "".join(_escaped(c) if unicodedata.category(c) in _UNSHOWN else c for c in str(text))


def _escaped(character: str) -> str:
    return character.encode("unicode_escape", "surrogatepass").decode("ascii")


def token_of(path: Path) -> str:
    """A name of plain letters for what is kept elsewhere about a file: one for each absolute path."""
    return hashlib.sha256(os.fsencode(path.absolute())).hexdigest()[:32]
