"""Which records are held at this desk: each once, found by its id, or by the name of a student."""

from __future__ import annotations

from typing import Any

from kneel.book.repository.search_text import name_key
from kneel.desk.records.books import Which
from kneel.desk.records.held import Held
from kneel.model import Student


class Registry:
    """Held records; ``loose`` are those that have no id in the Book yet."""

    def __init__(self) -> None:
        self._held: dict[tuple[Which, type, str], Held[Any]] = {}
        self._loose: list[Held[Any]] = []

    def find(self, which: Which, kind: type, key: str) -> Held[Any] | None:
        """The record of that id."""
        return self._held.get((which, kind, key)) if key else None

    def named(self, which: Which, name: str) -> Held[Student] | None:
        """The student of that name."""
        wanted = name_key(name)
        people = (one for key, one in self._held.items() if key[:2] == (which, Student) and not one.gone)
        return next((one for one in people if name_key(one.now.name) == wanted), None)

    def know(self, held: Held[Any]) -> Held[Any] | None:
        """Hold a record from now on; gives another copy of it that is held already, which stays."""
        if not held.key:
            if held not in self._loose:
                self._loose.append(held)
            return None
        other = self._held.setdefault((held.which, type(held.now), held.key), held)
        self.let_go(held)
        return None if other is held or held.joined is not None else other

    def let_go(self, held: Held[Any]) -> None:
        """A loose one is loose no more."""
        self._loose = [one for one in self._loose if one is not held]

    def ahead(self) -> list[Held[Any]]:
        """What can be written and is not yet: not what somebody without a name has said so far."""
        known = (*self._loose, *self._held.values())
        return [one for one in known if one.ahead and not one.gone and one.name.strip()]

    def gone(self) -> list[Held[Any]]:
        """What was changed here and deleted elsewhere."""
        return [held for held in self._held.values() if held.gone and held.ahead]

    def begun(self, held: Held[Any]) -> bool:
        """Whether a copy of the same student that has no id yet is on its way; this one joins it then."""
        if not isinstance(held.now, Student):
            return False
        others = (one for one in self._loose if one is not held and one.sent is not None)
        return any(one.which is held.which and name_key(one.name) == name_key(held.name) for one in others)
