"""When a project was removed."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the column; none of the projects so far was removed."""
    op.add_column("project", sa.Column("removed_at", sa.DateTime(timezone=True), nullable=True))


def downgrade() -> None:
    """Take it away again."""
    op.drop_column("project", "removed_at")
