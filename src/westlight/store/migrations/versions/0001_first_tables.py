"""First tables: project, asset, model, view, look, source, still, history."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def _in_project(name: str, *more: sa.Column) -> None:  # type: ignore[type-arg]
    op.create_table(
        name,
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column(
            "project_id", sa.String(32), sa.ForeignKey("project.id", ondelete="CASCADE"),
            nullable=False, index=True,
        ),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("settings", JSONB, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        *more,
    )  # fmt: skip


def upgrade() -> None:
    """Create the tables."""
    op.create_table(
        "project",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("latitude_deg", sa.Float, nullable=False),
        sa.Column("longitude_deg", sa.Float, nullable=False),
        sa.Column("time_zone", sa.String, nullable=False),
        sa.Column("north_deg", sa.Float, nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_table(
        "asset",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("media_type", sa.String, nullable=False),
        sa.Column("size_bytes", sa.BigInteger, nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
    )
    for name in ("model", "view", "look", "source"):
        _in_project(name)
    _in_project(
        "still",
        sa.Column("status", sa.String, nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_table(
        "history",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column(
            "project_id", sa.String(32), sa.ForeignKey("project.id", ondelete="CASCADE"),
            nullable=False, index=True,
        ),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("gesture", sa.String),
        sa.Column("changes", JSONB, nullable=False),
        sa.Column("undone", sa.Boolean, nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
    )  # fmt: skip


def downgrade() -> None:
    """Drop the tables."""
    for name in ("history", "still", "source", "look", "view", "model", "asset", "project"):
        op.drop_table(name)
