"""Undo and redo over an immutable document: every step holds the state before and after it."""

from __future__ import annotations

import time
from dataclasses import dataclass
from typing import Generic, TypeVar

Document = TypeVar("Document")


@dataclass(frozen=True)
class Edit(Generic[Document]):
    """One step: what it is called, and the document before and after."""

    label: str
    before: Document
    after: Document
    at: float = 0.0
    """When it was taken or taken back, on the machine's own clock."""


class History(Generic[Document]):
    """The document now, and the way there and back."""

    def __init__(self, document: Document) -> None:
        self._now = document
        self._done: list[Edit[Document]] = []
        self._undone: list[Edit[Document]] = []

    @property
    def now(self) -> Document:
        return self._now

    @property
    def earlier(self) -> Document | None:
        """The document that one step back would give, None where there is none."""
        return self._done[-1].before if self._done else None

    @property
    def later(self) -> Document | None:
        return self._undone[-1].after if self._undone else None

    @property
    def undo_label(self) -> str | None:
        return self._done[-1].label if self._done else None

    @property
    def redo_label(self) -> str | None:
        return self._undone[-1].label if self._undone else None

    @property
    def undo_at(self) -> float | None:
        """When the step was taken that would be undone, on the machine's own clock."""
        return self._done[-1].at if self._done else None

    @property
    def redo_at(self) -> float | None:
        return self._undone[-1].at if self._undone else None

    def push(self, label: str, after: Document) -> bool:
        """Take a step to ``after``; False, and no step, where nothing changes."""
        if after == self._now:
            return False
        self._done.append(Edit(label, self._now, after, time.monotonic()))
        self._undone.clear()
        self._now = after
        return True

    def undo(self) -> bool:
        if not self._done:
            return False
        edit = self._done.pop()
        self._undone.append(Edit(edit.label, edit.before, edit.after, time.monotonic()))
        self._now = edit.before
        return True

    def redo(self) -> bool:
        if not self._undone:
            return False
        edit = self._undone.pop()
        self._done.append(Edit(edit.label, edit.before, edit.after, time.monotonic()))
        self._now = edit.after
        return True
