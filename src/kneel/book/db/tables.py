"""The tables of the Book. What they are now; how older books come here is told by ``migrations``.

Records that are only ever read and written whole (plans, cues, a lesson's root) lie in columns of JSON.
"""

from __future__ import annotations

from sqlalchemy import (
    JSON,
    Boolean,
    Column,
    Date,
    Float,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    String,
    Table,
    Text,
)

metadata = MetaData()

students = Table(
    "students",
    metadata,
    Column("id", String(32), primary_key=True),
    Column("revision", Integer, nullable=False),
    Column("name", Text, nullable=False),
    Column("record", JSON, nullable=False),
    Column("words", Text, nullable=False),
    Column("check_in", Date),
    Column("archived", Boolean, nullable=False),
    Column("hidden", Float),
    Column("hidden_by", String(32)),
)
"""``record`` is the :class:`kneel.model.Student`; ``words`` all its text as it is searched for; ``check_in``
when the running plan's clip is due; ``hidden`` when it was deleted, in seconds since 1970, and ``hidden_by``
the desk that did and may bring it back."""

names = Table(
    "names",
    metadata,
    Column("key", Text, primary_key=True),
    Column("student", ForeignKey("students.id", ondelete="CASCADE"), nullable=False, index=True),
)
"""By which names a student is found: the one of today, and those of older documents."""

lessons = Table(
    "lessons",
    metadata,
    Column("id", String(32), primary_key=True),
    Column("revision", Integer, nullable=False),
    Column("student", ForeignKey("students.id", ondelete="CASCADE"), nullable=False),
    Column("day", Date, nullable=False),
    Column("record", JSON, nullable=False),
    Column("words", Text, nullable=False),
    Column("fault", String(60), nullable=False),
    Column("verdict", String(12), nullable=False),
    Column("archived", Boolean, nullable=False),
    Column("hidden", Float),
    Column("hidden_by", String(32)),
)
"""``record`` is the :class:`kneel.model.Lesson`; ``fault`` and ``verdict`` are of its root, else empty."""

swings = Table(
    "swings",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("lesson", ForeignKey("lessons.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("document", Text, nullable=False, unique=True),
    Column("stamp", String(64), nullable=False),
    Column("program", String(40), nullable=False),
    Column("knowledge", String(40), nullable=False),
    Column("clip", Text, nullable=False),
    Column("content", String(64), nullable=False, index=True),
    Column("view", String(20), nullable=False),
    Column("club", String(20), nullable=False),
    Column("kind", String(20), nullable=False),
    Column("school", String(60), nullable=False),
    Column("facts", JSON, nullable=False),
    Column("words", Text, nullable=False),
)
"""What a document and the swing in it came to. ``stamp`` is that of the document's bytes; ``program`` and
``knowledge`` say by which measuring and which windows and faults; ``facts`` is a :class:`Facts`."""

numbers = Table(
    "numbers",
    metadata,
    Column("swing", ForeignKey("swings.id", ondelete="CASCADE"), primary_key=True),
    Column("measure", String(60), primary_key=True),
    Column("at", String(40), primary_key=True),
    Column("unit", String(12), nullable=False),
    Column("value", Float, nullable=False),
    Column("sigma", Float, nullable=False),
    Column("causes", LargeBinary, nullable=False),
)
"""``causes`` is how far one deviation of each cause of error moves the value, packed."""

made = Table(
    "made",
    metadata,
    Column("path", Text, primary_key=True),
    Column("document", Text, primary_key=True, index=True),
)
"""Pages, stills and slow clips that were saved, each with the documents it was made of."""

declined = Table(
    "declined",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("student", ForeignKey("students.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("about", String(20), nullable=False),
    Column("when", Float, nullable=False),
    Column("fields", JSON, nullable=False),
    Column("record", JSON, nullable=False),
)
"""What two desks changed at once and only one could have: the loser's, with the fields it is about."""

Index(
    "lesson_of_day",
    lessons.c.student,
    lessons.c.day,
    unique=True,
    sqlite_where=lessons.c.hidden.is_(None),
    postgresql_where=lessons.c.hidden.is_(None),
)
