"""Kept states of looks."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Create the table. A look that is removed keeps its versions, so that undo brings all back."""
    op.create_table(
        "look_version",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("look_id", sa.String(32), nullable=False, index=True),
        sa.Column(
            "project_id", sa.String(32), sa.ForeignKey("project.id", ondelete="CASCADE"),
            nullable=False, index=True,
        ),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("settings", JSONB, nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
    )  # fmt: skip


def downgrade() -> None:
    """Take it away again."""
    op.drop_table("look_version")
