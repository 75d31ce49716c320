"""What is remembered of a folder: clips from elsewhere that stand on its rack, swings taken off."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable
from pathlib import Path

from PyQt6.QtCore import QSettings


class FolderList:
    """Kept in the settings by folder."""

    def __init__(self, settings: QSettings, folder: Callable[[], Path | None]) -> None:
        self._settings, self._folder = settings, folder

    def also(self) -> list[Path]:
        """Clips from elsewhere."""
        return [Path(one) for one in self._kept("also")]

    def hidden(self) -> list[str]:
        """Swings that were taken off."""
        return self._kept("taken off")

    def keep_also(self, clips: Iterable[Path]) -> None:
        """These are the clips from elsewhere."""
        self._keep("also", map(str, clips))

    def take_off(self, swings: Iterable[str]) -> None:
        """Take these off too."""
        self._keep("taken off", [*self.hidden(), *swings])

    def put_back(self) -> None:
        """Nothing is taken off any more."""
        self._settings.remove(self._key("taken off"))

    def _key(self, what: str) -> str:
        return f"rack/{what}/{os.fsencode(str(self._folder())).hex()}"

    def _kept(self, what: str) -> list[str]:
        """Names of any bytes, which settings cannot hold as they are."""
        known = self._settings.value(self._key(what), [], type=list)
        return [os.fsdecode(bytes.fromhex(str(one))) for one in known]

    def _keep(self, what: str, paths: Iterable[str]) -> None:
        self._settings.setValue(self._key(what), [os.fsencode(path).hex() for path in paths])
