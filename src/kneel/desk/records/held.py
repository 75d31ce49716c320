"""A record at this desk: what the Book said of it last, and what is shown, which may be ahead of that."""

from __future__ import annotations

from typing import Generic, TypeVar

import msgspec

from kneel.book.sync.merging import merged, with_id
from kneel.book.sync.saving import Saved
from kneel.desk.records.books import Which
from kneel.model import Lesson, Student

T = TypeVar("T", Student, Lesson)


class Held(Generic[T]):
    """``stands`` is what the Book held in ``revision``, 0 where it is not there; ``now`` what is shown."""

    def __init__(self, which: Which, record: T, revision: int) -> None:
        self.which = which
        self.stands, self.revision, self.now = record, revision, record
        self.sent: T | None = None
        """What is being written."""

        self.gone = False
        """Deleted at another desk: nothing more is written of it."""

        self.joined: Held[T] | None = None
        """The copy of the same record that is used instead of this one from now on."""

    @property
    def ahead(self) -> bool:
        """Whether something shown is not in the Book yet."""
        return self.now != self.stands

    @property
    def key(self) -> str:
        """The Book's id, empty where it is not there yet."""
        return self.stands.id

    @property
    def student(self) -> str:
        """The id of the student it is of."""
        return self.stands.id if isinstance(self.stands, Student) else self.stands.student

    @property
    def name(self) -> str:
        """Whom or what it is of, to say so."""
        return self.now.name if isinstance(self.now, Student) else self.now.day.isoformat()

    def read(self, record: T, revision: int) -> bool:
        """The Book was read; whether something else is shown now. What is ahead is merged when saved."""
        self.gone = False
        if self.ahead or self.sent is not None or (revision, record) == (self.revision, self.stands):
            return False
        self.stands = self.now = record
        self.revision = revision
        return True

    def follow(self, other: Held[T]) -> None:
        """Another copy of the record was saved at this desk: nobody else changed it, and this one goes on."""
        other.joined = self
        # What was changed in either since they were alike.
        self.now = _ours(with_id(other.stands, self.now), with_id(other.now, self.now), self.now)
        if self.sent is None and other.revision > self.revision:
            self.now = _ours(self.stands, self.now, other.stands)
            self.stands, self.revision = other.stands, other.revision

    def saved(self, saved: Saved[T]) -> bool:
        """What was sent is in the Book, perhaps with another desk's changes; whether these are shown now."""
        sent, self.sent = self.sent, None
        assert sent is not None
        before, now = self.now, with_id(self.now, saved.record)
        if self.now == sent:
            self.now = saved.record
        else:
            # What was changed here meanwhile was changed by somebody who has not seen the other's yet.
            self.now = _ours(with_id(sent, saved.record), now, saved.record)
        self.stands, self.revision = saved.record, saved.revision
        return with_id(before, self.now) != self.now


def _ours(base: T, mine: T, theirs: T) -> T:
    """Both's changes; what both changed is as it is here."""
    both = merged(base, mine, theirs)
    return msgspec.structs.replace(both.record, **{name: getattr(mine, name) for name in both.lost})
