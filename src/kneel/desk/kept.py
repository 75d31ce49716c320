"""The folder beside the clips in which the desk keeps what it makes of them."""

from __future__ import annotations

from pathlib import Path

from kneel.book.removal import KEPT


def free_name(clip: Path, what: str, suffix: str) -> Path:
    """A name in the folder of what is kept that no file has yet. Raises ``OSError`` without such a folder."""
    folder = clip.parent / KEPT
    folder.mkdir(exist_ok=True)
    names = (f"{clip.stem} {what}{f' {n}' if n > 1 else ''}{suffix}" for n in range(1, 10_000))
    return next(folder / name for name in names if not (folder / name).exists())
