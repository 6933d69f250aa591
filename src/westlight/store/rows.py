"""Rows of the database. Nested settings are JSON with the version of their schema beside them."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import ForeignKey, String
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


def new_id() -> str:
    """A fresh row id."""
    return uuid.uuid4().hex


def now() -> datetime:
    """The present moment, in UTC."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    """Base of all rows."""

    type_annotation_map = {dict[str, Any]: JSONB, list[Any]: JSONB}  # noqa: RUF012


class Project(Base):
    """One building with everything below, and where it stands."""

    __tablename__ = "project"
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    name: Mapped[str]
    latitude_deg: Mapped[float] = mapped_column(default=43.6)
    longitude_deg: Mapped[float] = mapped_column(default=-9.1)
    #: That of the coordinates above, which lie at sea.
    time_zone: Mapped[str] = mapped_column(default="Etc/GMT+1")
    north_deg: Mapped[float] = mapped_column(default=0.0)
    created_at: Mapped[datetime] = mapped_column(default=now)
    #: When it was removed; it can be brought back until its space is freed.
    removed_at: Mapped[datetime | None] = mapped_column(default=None)


class Asset(Base):
    """A stored file: its id is the hash of its content."""

    __tablename__ = "asset"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    name: Mapped[str]
    media_type: Mapped[str]
    size_bytes: Mapped[int]
    created_at: Mapped[datetime] = mapped_column(default=now)


class _InProject:
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    project_id: Mapped[str] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    name: Mapped[str]
    position: Mapped[int] = mapped_column(default=0)
    settings: Mapped[dict[str, Any]] = mapped_column(default=dict)
    version: Mapped[int] = mapped_column(default=1)


class Model(_InProject, Base):
    """The imported building; settings hold the asset, its up axis and the import report."""

    __tablename__ = "model"


class View(_InProject, Base):
    """A camera."""

    __tablename__ = "view"


class Look(_InProject, Base):
    """One lighting state."""

    __tablename__ = "look"


class Source(_InProject, Base):
    """A fixture or an emissive material; sun and sky belong to the look."""

    __tablename__ = "source"


class LightScene(_InProject, Base):
    """Levels of the lamps under a name."""

    __tablename__ = "light_scene"


class Still(_InProject, Base):
    """A final rendering: settings hold its recipe, progress and files."""

    __tablename__ = "still"
    status: Mapped[str] = mapped_column(default="waiting")
    created_at: Mapped[datetime] = mapped_column(default=now)


class Proof(_InProject, Base):
    """A kept picture: settings hold its full recipe, its note and its files."""

    __tablename__ = "proof"
    created_at: Mapped[datetime] = mapped_column(default=now)


class LookVersion(Base):
    """A kept state of a look, to go back to."""

    __tablename__ = "look_version"
    id: Mapped[str] = mapped_column(primary_key=True, default=new_id)
    look_id: Mapped[str] = mapped_column(index=True)
    project_id: Mapped[str] = mapped_column(
        ForeignKey("project.id", ondelete="CASCADE"), index=True
    )
    name: Mapped[str]
    settings: Mapped[dict[str, Any]]
    created_at: Mapped[datetime] = mapped_column(default=now)


class History(Base):
    """One edit: the rows it changed, before and after."""

    __tablename__ = "history"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    project_id: Mapped[str] = mapped_column(
        ForeignKey("project.id", ondelete="CASCADE"), index=True
    )
    label: Mapped[str]
    gesture: Mapped[str | None]
    changes: Mapped[list[Any]]
    undone: Mapped[bool] = mapped_column(default=False)
    #: The page it came from; empty if nobody knows.
    by: Mapped[str] = mapped_column(String(40), default="")
    created_at: Mapped[datetime] = mapped_column(default=now)
