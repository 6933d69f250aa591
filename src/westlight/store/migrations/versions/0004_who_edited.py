"""Which page an edit came from."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the column; of earlier edits nobody knows it."""
    op.add_column("history", sa.Column("by", sa.String(40), nullable=False, server_default=""))


def downgrade() -> None:
    """Take it away again."""
    op.drop_column("history", "by")
