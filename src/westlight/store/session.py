"""Opening the database and bringing its tables up to date."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, event, select, text
from sqlalchemy.orm import Session, sessionmaker

from .rows import Base, History, LookVersion, Project, Proof, Still

#: Who is writing: the page an edit comes from, which need not be told of it.
AUTHOR: ContextVar[str] = ContextVar("author", default="")
#: Called with the id of a project that was changed, and by whom.
Listener = Callable[[str, str], None]
#: Rows whose change others at the table want to know of.
EDITS: tuple[type[Base], ...] = (History, LookVersion, Proof)
_LOCKED = "locked project"


class Store:
    """The database behind a URL such as ``postgresql+psycopg://…``."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine = create_engine(
            url, pool_pre_ping=True, pool_timeout=10, connect_args={"connect_timeout": 5}
        )
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)
        #: Counts transactions that wrote something, so that readers know what they kept is stale.
        self.version = 0
        self._listeners: list[tuple[Listener, tuple[type[Base], ...]]] = []

    def listen(self, listener: Listener, of: tuple[type[Base], ...] = EDITS) -> Callable[[], None]:
        """Call ``listener`` after every change of a project, or of some of its rows; returns how to stop that."""
        entry = (listener, of)
        self._listeners.append(entry)
        return lambda: self._listeners.remove(entry)

    def tell(self, kind: type[Base], project_id: str) -> None:
        """Tell those who listen that something about such rows of a project is new, though none was written."""
        for listener, of in list(self._listeners):
            if kind in of:
                listener(project_id, AUTHOR.get())

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A session in one transaction: committed at the end, undone on an error."""
        wrote = False
        changed: set[tuple[type[Base], str]] = set()

        def note(flushed: Any, *_: object) -> None:
            nonlocal wrote
            wrote = True
            for row in (*flushed.new, *flushed.dirty, *flushed.deleted):
                if isinstance(row, History | LookVersion | Proof | Still):
                    changed.add((type(row), row.project_id))

        def note_statement(state: Any) -> None:
            nonlocal wrote
            wrote = wrote or not state.is_select

        with self._sessions() as session:
            event.listen(session, "after_flush", note)
            event.listen(session, "do_orm_execute", note_statement)
            with session.begin():
                yield session
        if wrote:
            self.version += 1
        for listener, of in list(self._listeners):
            for project in {p for kind, p in changed if kind in of}:
                listener(project, AUTHOR.get())

    @contextmanager
    def editing(self, project_id: str) -> Iterator[Session]:
        """A session that holds a project's lock before it reads anything: edits come one after another.

        Without it two edits at once would both start from the same state, and the later would undo the earlier.
        """
        with self.session() as session:
            session.execute(select(Project.id).where(Project.id == project_id).with_for_update())
            session.info[_LOCKED] = project_id
            yield session

    def migrate(self, revision: str = "head") -> None:
        """Run the migrations that are missing, up to a revision."""
        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        config.set_main_option("sqlalchemy.url", self.url.replace("%", "%%"))
        command.upgrade(config, revision)

    def ping(self) -> None:
        """Ask the database for nothing; raises ``SQLAlchemyError`` if it does not answer."""
        with self.engine.connect() as connection:
            connection.execute(text("select 1"))

    def close(self) -> None:
        """Give the connections back."""
        self.engine.dispose()


def require_lock(session: Session, project_id: str) -> None:
    """Raise ``RuntimeError`` unless a session holds a project's lock (see `Store.editing`)."""
    if session.info.get(_LOCKED) != project_id:
        raise RuntimeError("A project is edited only under its lock: use Store.editing.")
