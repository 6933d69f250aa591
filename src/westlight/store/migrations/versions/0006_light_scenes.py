"""Named levels of lamps, for any look of a project."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the table; no project so far has any."""
    op.create_table(
        "light_scene",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column(
            "project_id", sa.String(32), sa.ForeignKey("project.id", ondelete="CASCADE"),
            nullable=False, index=True,
        ),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("settings", JSONB, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
    )  # fmt: skip


def downgrade() -> None:
    """Take it away again."""
    op.drop_table("light_scene")
