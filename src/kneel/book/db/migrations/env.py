"""How Alembic runs the steps: on the connection, and in the transaction, of who asks for them."""

from __future__ import annotations

from alembic import context

from kneel.book.db import tables

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=tables.metadata,
    transactional_ddl=False,
)
context.run_migrations()
