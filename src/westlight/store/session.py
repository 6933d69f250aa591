"""Opening the database and bringing its tables up to date."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine
from sqlalchemy.orm import Session, sessionmaker


class Store:
    """The database behind a URL such as ``postgresql+psycopg://…``."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine = create_engine(url, pool_pre_ping=True)
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A session in one transaction: committed at the end, undone on an error."""
        with self._sessions() as session, session.begin():
            yield session

    def migrate(self) -> None:
        """Run the migrations that are missing."""
        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        config.set_main_option("sqlalchemy.url", self.url.replace("%", "%%"))
        command.upgrade(config, "head")

    def close(self) -> None:
        """Give the connections back."""
        self.engine.dispose()
