"""Shared ground of the tests: a database of their own, the demo building, a running server."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from hypothesis import settings
from sqlalchemy import create_engine, text

from westlight.cli.postgres import Cluster
from westlight.store import Store
from westlight.studio.studio import Studio

ROOT = Path(__file__).parents[1]
# What is found counts, not how fast a shared machine finds it.
settings.register_profile("patient", deadline=None)
settings.load_profile("patient")
#: How much slower than here a busy machine may be before waiting is given up.
PATIENCE = 5


#: Files that take longest, the longest first: begun last, one of them would run alone for minutes at the end.
LONGEST = [
    "engine/test_any_order.py", "ui/test_first_light.py", "ui/test_handover.py", "hostile/test_settings.py",
    "ui/test_lamps_and_meter.py", "ui/test_close_work.py", "hostile/test_calls.py", "ui/test_hunting.py",
    "api/test_server.py", "hostile/test_kills.py", "hostile/test_luck.py", "engine/test_cluster.py", "ui/",
    "studio/test_stills.py", "hostile/", "engine/", "api/",
]  # fmt: skip


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The longest files first."""

    def place(item: pytest.Item) -> int:
        path = item.path.relative_to(ROOT / "tests").as_posix() if ROOT in item.path.parents else ""
        return next((n for n, name in enumerate(LONGEST) if path.startswith(name)), len(LONGEST))

    items.sort(key=place)


def pytest_runtest_logreport(report: pytest.TestReport) -> None:
    """Write down how long each test took, for whoever asks for a file of that."""
    told = os.environ.get("WESTLIGHT_DURATIONS")
    if told and report.duration > 0.2 and "PYTEST_XDIST_WORKER" not in os.environ:
        with Path(told).open("a") as file:
            file.write(f"{report.duration:8.1f} {report.when} {report.nodeid}\n")


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    """A PostgreSQL cluster in a folder of its own, gone afterwards."""
    folder = Path(tempfile.mkdtemp(prefix="wl-test-"))
    # PostgreSQL's own user must be able to enter it.
    folder.chmod(0o755)
    made = Cluster(folder)
    made.start()
    yield made
    made.stop()
    late = [line for line in made.log.read_text().splitlines() if "compiled in use" in line]
    assert not late, late
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session")
def demo_folder() -> Path:
    """The demo building's files."""
    from westlight.cli.main import ensure_demo

    return ensure_demo()


@pytest.fixture(scope="session")
def demo_model(demo_folder: Path) -> Path:
    """The demo building."""
    return demo_folder / "saltmarsh.glb"


@pytest.fixture(scope="session")
def store(cluster: Cluster) -> Iterator[Store]:
    """The migrated database."""
    made = Store(cluster.url)
    made.migrate()
    yield made
    made.close()


@pytest.fixture
def studio(store: Store, tmp_path: Path) -> Studio:
    """A studio over the test database."""
    return Studio(store, tmp_path)


def own_database(url: str, name: str) -> str:
    """A new migrated database beside another; returns its address."""
    engine = create_engine(url, isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        connection.execute(text(f"CREATE DATABASE {name}"))
    engine.dispose()
    made = Store(engine.url.set(database=name).render_as_string(hide_password=False))
    made.migrate()
    made.close()
    return made.url


def free_port() -> int:
    """A free port on loopback."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


class Server:
    """A Westlight server in a process of its own, which tests may kill."""

    def __init__(self, url: str, folder: Path, demo: Path, web: Path) -> None:
        self.port = free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.environment = {
            **os.environ,
            "WESTLIGHT_DATABASE_URL": url,
            "WESTLIGHT_DATA": str(folder),
            "WESTLIGHT_DEMO": str(demo),
            "WESTLIGHT_WEB": str(web),
            # What tests look at is there after some passes; further ones would slow everything beside them.
            "WESTLIGHT_LIVE_PASSES": "2",
            # A quarter of the pixels of the page's picture: what is looked for in it is larger than that.
            "WESTLIGHT_LIVE_WIDTH": "416",
        }
        self.log = folder / "server.log"
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start and wait until it answers."""
        command = [
            sys.executable, "-m", "uvicorn", "--factory", "westlight.api.app:create_app",
            "--host", "127.0.0.1", "--port", str(self.port), "--log-level", "warning",
            "--timeout-keep-alive", "75", "--ws-per-message-deflate", "false",
        ]  # fmt: skip
        with self.log.open("ab") as out:
            self.process = subprocess.Popen(command, env=self.environment, stdout=out, stderr=out)
        wait_for(self.answers, 90, f"server did not start: {self.log.read_text()[-2000:]}")

    def answers(self) -> bool:
        """Whether it answers."""
        try:
            with urllib.request.urlopen(f"{self.address}/api/health", timeout=2) as r:
                return bool(r.status == 200)
        except OSError:
            return False

    def kill(self) -> None:
        """End it without any warning."""
        assert self.process is not None
        self.process.kill()
        self.process.wait()

    def stop(self) -> None:
        """End it as Ctrl-C does."""
        if self.process is not None and self.process.poll() is None:
            self.process.send_signal(signal.SIGINT)
            try:
                self.process.wait(15)
            except subprocess.TimeoutExpired:
                self.kill()


def wait_for(
    condition: Callable[[], bool], seconds: float, problem: str = "waited in vain"
) -> None:
    """Wait until a condition holds; fails with words when it never does.

    ``seconds`` are those of an idle machine: what is tested is what happens, not how fast.
    """
    end = time.monotonic() + PATIENCE * seconds
    while time.monotonic() < end:
        if condition():
            return
        time.sleep(0.05)
    raise AssertionError(problem)


@pytest.fixture(scope="session")
def server(cluster: Cluster, demo_folder: Path) -> Iterator[Server]:
    """A running server with the demo project and the built front end.

    Its database is its own: projects of other tests have their files in other folders.
    """
    from westlight.cli.main import ensure_front_end, ensure_kernels

    ensure_kernels()
    url = own_database(cluster.url, "served")
    folder = Path(tempfile.mkdtemp(prefix="wl-server-"))
    made = Server(url, folder, demo_folder, ensure_front_end())
    made.start()
    yield made
    made.stop()
    late = [line for line in made.log.read_text().splitlines() if "compiled in use" in line]
    assert not late, late
    shutil.rmtree(folder, ignore_errors=True)
