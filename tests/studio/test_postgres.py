"""The application's own cluster of PostgreSQL: a port that is taken meanwhile, and folders that others have left."""

from __future__ import annotations

import os
import socket
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from westlight.cli import postgres


@pytest.fixture
def folder() -> Iterator[Path]:
    """An empty data folder that PostgreSQL's own user can enter."""
    with tempfile.TemporaryDirectory(prefix="wl-test-") as name:
        made = Path(name)
        made.chmod(0o755)
        yield made


def test_a_port_that_another_takes_meanwhile_is_left_to_it(
    folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Two that start at once find the same port free; the second one starts at another."""
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        taken = other.getsockname()[1]
        really = postgres.free_port
        offered = iter([taken])
        monkeypatch.setattr(postgres, "free_port", lambda wanted=0: next(offered, 0) or really())
        cluster = postgres.Cluster(folder)
        cluster.start()
        try:
            assert str(taken) not in cluster.url
            plain = cluster.url.replace("postgresql+psycopg", "postgresql")
            with psycopg.connect(plain, connect_timeout=5) as connection:
                assert connection.execute("select 1").fetchone() == (1,)
        finally:
            cluster.stop()


def test_only_what_the_dead_have_left_is_swept(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A folder whose lock says nothing yet is left alone while it is new; one of a living process always."""
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    long_ago = time.time() - 1e6
    made = {}
    for name, lock, old in [
        ("begun", "", False), ("stale", "", True), ("living", f"{os.getpid()}\n", True),
        ("dead", "4194999\n", False), ("bare", None, False), ("forgotten", None, True),
    ]:  # fmt: skip
        made[name] = tmp_path / f"wl-pg-{name}"
        made[name].mkdir()
        if lock is not None:
            (made[name] / ".s.PGSQL.54329.lock").write_text(lock)
        if old:
            os.utime(made[name], (long_ago, long_ago))
    postgres._sweep()
    assert {n for n, f in made.items() if f.exists()} == {"begun", "living", "bare"}
