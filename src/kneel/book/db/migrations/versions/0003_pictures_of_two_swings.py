"""A file may be made of two swings: it goes where either of them does."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    """One row for each swing a file was made of."""
    op.rename_table("made", "made_of_one")
    op.drop_index("ix_made_document", "made_of_one")
    op.create_table(
        "made",
        sa.Column("path", sa.Text, primary_key=True),
        sa.Column("document", sa.Text, primary_key=True, index=True),
    )
    op.execute("INSERT INTO made (path, document) SELECT path, document FROM made_of_one")
    op.drop_table("made_of_one")
