"""Two desks changed one record: each keeps what only it changed; what both changed is told apart by field."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic, TypeVar

import msgspec

T = TypeVar("T", bound=msgspec.Struct)


@dataclass(frozen=True)
class Merged(Generic[T]):
    """``record`` holds both desks' changes; ``lost`` are the fields in which theirs stands over mine."""

    record: T
    lost: tuple[str, ...]


def merged(base: T, mine: T, theirs: T) -> Merged[T]:
    """Three states of one record as one.

    >>> from kneel.model import Student
    >>> a = Student("Ebba Quill")
    >>> both = merged(a, Student("Ebba Quill", goals="Draw"), Student("Ebba Quill", notes="Slow", minutes=20))
    >>> both.record.goals, both.record.notes, both.lost
    ('Draw', 'Slow', ())
    """
    fields: dict[str, object] = {}
    lost = []
    for name in base.__struct_fields__:
        was, here, there = (getattr(one, name) for one in (base, mine, theirs))
        if here in (was, there):
            continue
        if there == was:
            fields[name] = here
        else:
            lost.append(name)
    return Merged(msgspec.structs.replace(theirs, **fields), tuple(lost))
