"""Opening the database and bringing its tables up to date."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, event
from sqlalchemy.orm import Session, sessionmaker


class Store:
    """The database behind a URL such as ``postgresql+psycopg://…``."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine = create_engine(url, pool_pre_ping=True)
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)
        #: Counts transactions that wrote something, so that readers know what they kept is stale.
        self.version = 0

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A session in one transaction: committed at the end, undone on an error."""
        wrote = False

        def note(*_: object) -> None:
            nonlocal wrote
            wrote = True

        with self._sessions() as session:
            event.listen(session, "after_flush", note)
            event.listen(session, "do_orm_execute", lambda s: note() if not s.is_select else None)
            with session.begin():
                yield session
        if wrote:
            self.version += 1

    def migrate(self) -> None:
        """Run the migrations that are missing."""
        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        config.set_main_option("sqlalchemy.url", self.url.replace("%", "%%"))
        command.upgrade(config, "head")

    def close(self) -> None:
        """Give the connections back."""
        self.engine.dispose()
