"""The schema's versions: which one a Book has, and bringing it to the present one.

A migration and the note of it are one transaction. Before an older Book is touched a copy is laid beside it.
"""

from __future__ import annotations

import sqlite3
import time
from contextlib import closing
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import Connection, Engine, inspect, text

from kneel.disk import shown
from kneel.model import BookError

if TYPE_CHECKING:
    from alembic.config import Config
    from alembic.script import ScriptDirectory

OURS = frozenset({"students", "names", "lessons", "swings", "numbers", "alembic_version"})
"""The tables of every schema there was: a database that lacks one of them is none of ours."""

MIGRATIONS = Path(__file__).with_name("migrations")


@cache
def known() -> tuple[str, ...]:
    """Every schema there was, oldest first, told by the names of the steps: a Book that needs none of them is
    opened without what runs them.
    """
    return tuple(sorted(path.name[:4] for path in (MIGRATIONS / "versions").glob("[0-9]*.py")))


def newest() -> str:
    """The present schema."""
    return known()[-1]


def scripts() -> ScriptDirectory:
    """All migrations."""
    from alembic.script import ScriptDirectory

    return ScriptDirectory.from_config(_config())


def _config() -> Config:
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.set_main_option("path_separator", "os")
    return config


def bring_up(engine: Engine, path: Path | None) -> None:
    """Bring a Book to the present schema. Raises :class:`BookError` for one of a newer Kneel."""
    with engine.connect() as db:
        found = _found(db)
    if found == newest():
        return
    demand_known(found)
    if found is not None and path is not None:
        _copy(path, path.with_name(f"{path.stem}-before-{newest()}-{int(time.time())}{path.suffix}"))
    with engine.execution_options(kneel_writes=True).begin() as db:
        migrate(db, newest())


def demand_known(version: str | None) -> None:
    """Raise :class:`BookError` for a schema that only a newer Kneel knows."""
    if version is not None and version not in known():
        raise BookError(
            f"The Book is of a newer Kneel (schema {shown(version)}); it is untouched. Open it with that one."
        )


def _found(db: Connection) -> str | None:
    """The schema that a Book has, None for a new one. Raises :class:`BookError` where others have theirs."""
    tables = set(inspect(db).get_table_names())
    if tables and not tables >= OURS:
        raise BookError("The database holds tables of something else; it is untouched. Name another one.")
    if not tables:
        return None
    return db.scalar(text("SELECT version_num FROM alembic_version"))


def migrate(db: Connection, to: str) -> None:
    """Run migrations up to a schema within the transaction of ``db``."""
    from alembic import command

    config = _config()
    config.attributes["connection"] = db
    command.upgrade(config, to)


def _copy(path: Path, to: Path) -> None:
    to.touch(mode=0o600)
    with closing(sqlite3.connect(path)) as source, closing(sqlite3.connect(to)) as target:
        source.backup(target)
