"""The first schema: students by their names, lessons, swings and their numbers."""

from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def _under(name: str, type_: Any, other: str, **more: Any) -> sa.Column[Any]:
    """A column that goes with what it hangs under."""
    return sa.Column(name, type_, sa.ForeignKey(other, ondelete="CASCADE"), **more)


def upgrade() -> None:
    """Make all tables."""
    op.create_table(
        "students",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("record", sa.JSON, nullable=False),
        sa.Column("words", sa.Text, nullable=False),
        sa.Column("check_in", sa.Date),
        sa.Column("archived", sa.Boolean, nullable=False),
        sa.Column("hidden", sa.Float),
    )
    op.create_table(
        "names",
        sa.Column("key", sa.Text, primary_key=True),
        _under("student", sa.String(32), "students.id", nullable=False, index=True),
    )
    op.create_table(
        "lessons",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("revision", sa.Integer, nullable=False),
        _under("student", sa.String(32), "students.id", nullable=False),
        sa.Column("day", sa.Date, nullable=False),
        sa.Column("record", sa.JSON, nullable=False),
        sa.Column("words", sa.Text, nullable=False),
        sa.Column("fault", sa.String(60), nullable=False),
        sa.Column("verdict", sa.String(12), nullable=False),
        sa.Column("archived", sa.Boolean, nullable=False),
        sa.Column("hidden", sa.Float),
    )
    shown = sa.text("hidden IS NULL")
    op.create_index(
        "lesson_of_day",
        "lessons",
        ["student", "day"],
        unique=True,
        sqlite_where=shown,
        postgresql_where=shown,
    )
    op.create_table(
        "swings",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column(
            "lesson",
            sa.String(32),
            sa.ForeignKey("lessons.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("document", sa.Text, nullable=False, unique=True),
        sa.Column("stamp", sa.String(64), nullable=False),
        sa.Column("program", sa.String(40), nullable=False),
        sa.Column("knowledge", sa.String(40), nullable=False),
        sa.Column("clip", sa.Text, nullable=False),
        sa.Column("content", sa.String(64), nullable=False, index=True),
        sa.Column("view", sa.String(20), nullable=False),
        sa.Column("club", sa.String(20), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("school", sa.String(60), nullable=False),
        sa.Column("facts", sa.JSON, nullable=False),
        sa.Column("words", sa.Text, nullable=False),
    )
    op.create_table(
        "numbers",
        _under("swing", sa.Integer, "swings.id", primary_key=True),
        sa.Column("measure", sa.String(60), primary_key=True),
        sa.Column("at", sa.String(40), primary_key=True),
        sa.Column("unit", sa.String(12), nullable=False),
        sa.Column("value", sa.Float, nullable=False),
        sa.Column("sigma", sa.Float, nullable=False),
        sa.Column("causes", sa.LargeBinary, nullable=False),
    )
    op.create_table(
        "declined",
        sa.Column("id", sa.Integer, primary_key=True),
        _under("student", sa.String(32), "students.id", nullable=False, index=True),
        sa.Column("about", sa.String(20), nullable=False),
        sa.Column("when", sa.Float, nullable=False),
        sa.Column("fields", sa.JSON, nullable=False),
        sa.Column("record", sa.JSON, nullable=False),
    )
