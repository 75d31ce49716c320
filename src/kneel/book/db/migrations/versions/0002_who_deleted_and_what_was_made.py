"""Which desk deleted something and may bring it back; and which files were made of which swing."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Add them."""
    for table in ("students", "lessons"):
        op.add_column(table, sa.Column("hidden_by", sa.String(32)))
    op.create_table(
        "made",
        sa.Column("path", sa.Text, primary_key=True),
        sa.Column("document", sa.Text, nullable=False, index=True),
    )
