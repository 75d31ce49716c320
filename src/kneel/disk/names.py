"""Names of files as they can be shown: on one line, in any encoding, without a terminal's commands."""

from __future__ import annotations

import hashlib
import os
import unicodedata
from collections.abc import Callable
from pathlib import Path

MOST = 1000
"""So many names are tried for what has none yet."""

_UNSHOWN = {"Cc", "Cf", "Cs", "Co", "Cn", "Zl", "Zp"}


def shown(text: object) -> str:
    r"""Text with what cannot or must not be shown written as an escape.

    >>> shown("two\nlines \x1b[31m \udcff")
    'two\\nlines \\x1b[31m \\udcff'
    """
    return "".join(_escaped(c) if unicodedata.category(c) in _UNSHOWN else c for c in str(text))


def _escaped(character: str) -> str:
    return character.encode("unicode_escape", "surrogatepass").decode("ascii")


def free_path(folder: Path, names: Callable[[int], str]) -> Path:
    """The first of the names for number 1, 2, 3 … that nothing in a folder has, not even a link to nowhere.

    Raises ``FileExistsError`` where there are too many of them.

    >>> import tempfile
    >>> with tempfile.TemporaryDirectory() as folder:
    ...     (Path(folder) / "page.pdf").touch()
    ...     free_path(Path(folder), lambda n: f"page{n if n > 1 else ''}.pdf").name
    'page2.pdf'
    """
    for number in range(1, MOST):
        path = folder / names(number)
        if not os.path.lexists(path):
            return path
    raise FileExistsError(f"There are too many files like {shown(names(1))} in {shown(folder)} already.")


def token_of(path: Path) -> str:
    """A name of plain letters for what is kept elsewhere about a file: one for each absolute path."""
    return hashlib.sha256(os.fsencode(path.absolute())).hexdigest()[:32]
