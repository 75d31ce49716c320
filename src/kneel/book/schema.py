"""The schema's versions: which one a Book has, and bringing it to the present one.

A migration and the note of it are one transaction. Before an older Book is touched a copy is laid beside it.
"""

from __future__ import annotations

import sqlite3
import time
from contextlib import closing
from pathlib import Path

from alembic.config import Config
from alembic.runtime.environment import EnvironmentContext
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, Engine

from kneel.book import tables
from kneel.disk import shown
from kneel.model import BookError


def _config() -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).with_name("migrations")))
    config.set_main_option("path_separator", "os")
    return config


def scripts() -> ScriptDirectory:
    """All migrations."""
    return ScriptDirectory.from_config(_config())


def newest() -> str:
    """The present schema."""
    head = scripts().get_current_head()
    assert head is not None
    return head


def bring_up(engine: Engine, path: Path | None) -> None:
    """Bring a Book to the present schema. Raises :class:`BookError` for one of a newer Kneel."""
    with engine.connect() as db:
        found = MigrationContext.configure(db).get_current_revision()
    if found == newest():
        return
    known = {script.revision for script in scripts().walk_revisions()}
    if found is not None and found not in known:
        raise BookError(
            f"The Book is of a newer Kneel (schema {shown(found)}); it is untouched. Open it with that one."
        )
    if found is not None and path is not None:
        _copy(path, path.with_name(f"{path.stem}-before-{newest()}-{int(time.time())}{path.suffix}"))
    with engine.execution_options(kneel_writes=True).begin() as db:
        migrate(db, newest())


def migrate(db: Connection, to: str) -> None:
    """Run migrations up to a schema within the transaction of ``db``."""
    directory = scripts()
    with EnvironmentContext(
        _config(), directory, fn=lambda revision, _: directory._upgrade_revs(to, revision)
    ) as environment:
        environment.configure(connection=db, target_metadata=tables.metadata, transactional_ddl=False)
        environment.run_migrations()


def _copy(path: Path, to: Path) -> None:
    to.touch(mode=0o600)
    with closing(sqlite3.connect(path)) as source, closing(sqlite3.connect(to)) as target:
        source.backup(target)
