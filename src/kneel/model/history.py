"""Undo and redo over an immutable document: every step holds the state before and after it."""

from __future__ import annotations

from dataclasses import dataclass

from kneel.model.swing import Swing


@dataclass(frozen=True)
class Edit:
    """One step: what it is called, and the document before and after."""

    label: str
    before: Swing
    after: Swing


class History:
    """The document now, and the way there and back."""

    def __init__(self, swing: Swing) -> None:
        self._now = swing
        self._done: list[Edit] = []
        self._undone: list[Edit] = []

    @property
    def now(self) -> Swing:
        return self._now

    @property
    def undo_label(self) -> str | None:
        return self._done[-1].label if self._done else None

    @property
    def redo_label(self) -> str | None:
        return self._undone[-1].label if self._undone else None

    def push(self, label: str, after: Swing) -> bool:
        """Take a step to ``after``; False, and no step, where nothing changes."""
        if after == self._now:
            return False
        self._done.append(Edit(label, self._now, after))
        self._undone.clear()
        self._now = after
        return True

    def undo(self) -> bool:
        if not self._done:
            return False
        edit = self._done.pop()
        self._undone.append(edit)
        self._now = edit.before
        return True

    def redo(self) -> bool:
        if not self._undone:
            return False
        edit = self._undone.pop()
        self._done.append(edit)
        self._now = edit.after
        return True
