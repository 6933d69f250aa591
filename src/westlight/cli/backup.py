"""A copy of everything that was made: the database and the files its rows name, as one file; and back again."""

from __future__ import annotations

import shutil
import subprocess
import tarfile
import tempfile
from pathlib import Path

from .postgres import Cluster, GroundError

#: What of a data folder is not copied: it is made anew, or belongs to one machine.
_BEFORE = "before-restore"
_LEFT = ("postgres", "demo", "owner.lock", _BEFORE, "tmp")
_DUMP = "database.dump"


def back_up(cluster: Cluster, file: Path) -> None:
    """Write a copy of database and files; the server may run meanwhile. Raises `GroundError`.

    The database comes first: every file its rows name was on the disk before they were.
    """
    with tempfile.TemporaryDirectory() as scratch:
        dump = Path(scratch) / _DUMP
        _run(cluster, "pg_dump", "-Fc", "-f", str(dump))
        part = file.with_name(f"{file.name}.part")
        with tarfile.open(part, "w") as made:
            made.add(dump, _DUMP)
            for kept in sorted(cluster.folder.iterdir()):
                if not kept.name.startswith(_LEFT):
                    made.add(kept, f"files/{kept.name}")
        part.replace(file)


def restore(cluster: Cluster, file: Path) -> None:
    """Put a copy in place of what a data folder holds; what it held lies in a folder of its own beside it
    until that is deleted by hand.

    Raises `GroundError` for a file that is no such copy, or cannot be put back; nothing is changed then.
    """
    with tempfile.TemporaryDirectory(dir=cluster.folder) as scratch:
        here = Path(scratch)
        try:
            with tarfile.open(file) as given:
                given.extractall(here, filter="data")
        except (tarfile.TarError, OSError) as error:
            raise GroundError(
                f"{file} is no copy made by ./westlight backup, or is damaged."
            ) from error
        if not (here / _DUMP).is_file():
            raise GroundError(f"{file} is no copy made by ./westlight backup.")
        before = Path(tempfile.mkdtemp(prefix=f"{_BEFORE}-", dir=cluster.folder))
        _run(cluster, "pg_dump", "-Fc", "-f", str(before / _DUMP))
        try:
            _replace(cluster, here / _DUMP)
        except GroundError:
            _replace(cluster, before / _DUMP)
            raise
        files = here / "files"
        for given_file in sorted(files.iterdir()) if files.is_dir() else []:
            target = cluster.folder / given_file.name
            if target.exists():
                shutil.move(target, before / given_file.name)
            shutil.move(given_file, target)


def _replace(cluster: Cluster, dump: Path) -> None:
    """Put a dump in place of all tables, those that a newer version added too."""
    import psycopg

    with psycopg.connect(_url(cluster), autocommit=True) as connection:
        connection.execute("drop schema public cascade")
        connection.execute("create schema public")
    _run(cluster, "pg_restore", "--single-transaction", "--no-owner", str(dump))


def _url(cluster: Cluster) -> str:
    return cluster.url.replace("postgresql+psycopg", "postgresql")


def _run(cluster: Cluster, tool: str, *more: str) -> None:
    done = subprocess.run(
        [str(cluster.bin / tool), "-d", _url(cluster), *more], capture_output=True, text=True
    )
    if done.returncode != 0:
        raise GroundError(f"{tool} failed: {done.stderr.strip()[-600:]}")
