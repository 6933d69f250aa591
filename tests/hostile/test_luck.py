"""Bad luck: the database killed, two owners of one folder, a full disk, a signal at any moment."""

from __future__ import annotations

import errno
import os
import shutil
import signal
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from westlight.cli.backup import back_up, restore
from westlight.cli.owner import is_owned, kept_up, owning
from westlight.cli.postgres import Cluster, GroundError
from westlight.store import Store
from westlight.studio import stills
from westlight.studio.stills import Stills
from westlight.studio.studio import Studio

from ..conftest import Server, free_port, wait_for
from ..core.test_luminaires import lm63


@pytest.fixture
def own_cluster() -> Iterator[Cluster]:
    """A cluster that may be killed."""
    folder = Path(tempfile.mkdtemp(prefix="wl-luck-"))
    folder.chmod(0o755)
    made = Cluster(folder)
    made.start()
    yield made
    made.stop()
    shutil.rmtree(folder, ignore_errors=True)


def kill(cluster: Cluster) -> None:
    """Kill the database's first process; the others end by themselves."""
    os.kill(int((cluster.data / "postmaster.pid").read_text().split()[0]), signal.SIGKILL)
    wait_for(lambda: not cluster.answers(), 30, "it lives")


def test_a_killed_database_comes_back_and_is_waited_for(
    own_cluster: Cluster, demo_folder: Path, tmp_path: Path
) -> None:
    """Meanwhile every route says so with 503 in words; nothing that was saved is lost."""
    Store(own_cluster.url).migrate()
    empty = tmp_path / "nothing"
    empty.mkdir()
    server = Server(own_cluster.url, tmp_path, demo_folder, empty)
    del server.environment["WESTLIGHT_DEMO"]
    server.start()
    try:
        with httpx.Client(base_url=f"{server.address}/api", timeout=60) as client:
            made = client.post("/projects", json={"name": "Kept"}).json()["id"]
            kill(own_cluster)
            for path in ("/projects", f"/projects/{made}", "/health", "/photometry", "/storage"):
                answer = client.get(path)
                assert answer.status_code == 503, (
                    f"{path}: {answer.status_code} {answer.text[:300]}"
                )
                assert path == "/health" or "started again" in answer.json()["detail"]
            answer = client.patch(
                f"/projects/{made}/rows/project/{made}", json={"patch": {"name": "Lost"}}
            )
            assert answer.status_code == 503
            with kept_up(own_cluster):
                wait_for(lambda: client.get("/health").status_code == 200, 60, "it stays away")
                assert client.get(f"/projects/{made}").json()["name"] == "Kept"
                answer = client.patch(
                    f"/projects/{made}/rows/project/{made}", json={"patch": {"name": "On"}}
                )
                assert answer.status_code == 200
    finally:
        server.stop()


def test_a_folder_has_one_owner(tmp_path: Path) -> None:
    """The second is told where the first runs; a dead owner owns nothing."""
    with owning(tmp_path, "http://127.0.0.1:8620"):
        assert is_owned(tmp_path)
        with (
            pytest.raises(GroundError, match=r"already runs on .* at http://127.0.0.1:8620"),
            owning(tmp_path, "http://127.0.0.1:9999"),
        ):
            pass
    assert not is_owned(tmp_path)
    held = "import sys, time; from pathlib import Path; from westlight.cli.owner import owning\nwith owning(Path(sys.argv[1]), 'there'): print('held', flush=True); time.sleep(600)"
    other = subprocess.Popen(
        [sys.executable, "-c", held, str(tmp_path)], stdout=subprocess.PIPE, text=True
    )
    assert other.stdout is not None
    assert other.stdout.readline() == "held\n"
    assert is_owned(tmp_path)
    other.kill()
    other.wait()
    assert not is_owned(tmp_path)


def started(folder: Path, port: int) -> subprocess.Popen[str]:
    """The whole application on a data folder, once it has printed its address."""
    process = subprocess.Popen(
        [sys.executable, "-m", "westlight.cli.main", "start", "--port", str(port)],
        env={**os.environ, "WESTLIGHT_DATA": str(folder)}, stdout=subprocess.PIPE, text=True,
        start_new_session=True,
    )  # fmt: skip
    assert process.stdout is not None
    said = []
    for line in process.stdout:
        said.append(line)
        if "Open" in line:
            return process
    raise AssertionError("".join(said))


def test_every_signal_ends_the_server_cleanly(demo_folder: Path) -> None:
    """Database stopped, lock let go, no process left; one that is refused touches nothing of the first."""
    folder = Path(tempfile.mkdtemp(prefix="wl-end-"))
    folder.chmod(0o755)
    # The demo that is there already is taken; building it is not what is tried.
    (folder / "demo").symlink_to(demo_folder.parent.absolute())
    try:
        for number in (signal.SIGTERM, signal.SIGHUP):
            port = free_port()
            process = started(folder, port)
            second = subprocess.run(
                [sys.executable, "-m", "westlight.cli.main", "start", "--port", str(free_port())],
                env={**os.environ, "WESTLIGHT_DATA": str(folder)}, capture_output=True, text=True,
            )  # fmt: skip
            assert second.returncode == 1
            assert f"127.0.0.1:{port}" in second.stdout.replace("\n", "")
            with httpx.Client(base_url=f"http://127.0.0.1:{port}/api", timeout=60) as client:
                assert client.get("/health").status_code == 200
            process.send_signal(number)
            process.wait(300)
            assert not Cluster(folder).running()
            assert not is_owned(folder)
            left = subprocess.run(
                ["ps", "-eo", "sid,stat,args"], capture_output=True, text=True
            ).stdout
            of_it = [x.split() for x in left.splitlines() if x.split()[0] == str(process.pid)]
            assert not [x for x in of_it if not x[1].startswith("Z")]
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def test_a_copy_brings_everything_back(own_cluster: Cluster, tmp_path: Path) -> None:
    """Rows and files as they were, on another machine too; a file that is no copy changes nothing."""
    store = Store(own_cluster.url)
    store.migrate()
    studio = Studio(store, own_cluster.folder)
    made = studio.projects.create("Kept")
    card = studio.shelves.photometry.put(lm63([0, 45, 90], [0], [[900, 700, 10]]), "spot.ies")
    copy = tmp_path / "copy.tar"
    back_up(own_cluster, copy)
    studio.history.change(made, "project", made, {"name": "Changed"})
    restore(own_cluster, copy)
    assert studio.projects.overview(made)["name"] == "Kept"
    wrong = tmp_path / "wrong.tar"
    wrong.write_bytes(b"no copy")
    with pytest.raises(GroundError, match="no copy"):
        restore(own_cluster, wrong)
    assert studio.projects.overview(made)["name"] == "Kept"
    store.close()

    other_folder = Path(tempfile.mkdtemp(prefix="wl-other-"))
    other_folder.chmod(0o755)
    other = Cluster(other_folder)
    other.start()
    try:
        restore(other, copy)
        there = Store(other.url)
        found = Studio(there, other.folder)
        assert found.projects.overview(made)["name"] == "Kept"
        assert found.shelves.photometry.file(card["asset"]).read_bytes()
        there.close()
    finally:
        other.stop()
        shutil.rmtree(other_folder, ignore_errors=True)


def test_too_small_a_disk_is_refused_in_words(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    usage = shutil.disk_usage(tmp_path)._replace(free=40_000_000)
    monkeypatch.setattr(shutil, "disk_usage", lambda _: usage)
    with pytest.raises(GroundError, match="Only 40 MB are free"):
        Cluster(tmp_path).prepare()


def test_the_queue_of_stills_survives_what_goes_wrong(
    store: Store, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A full disk and a database that is gone hold it up; then it goes on."""
    from westlight.store import AssetStore

    queue = Stills(store, AssetStore(tmp_path / "assets"), tmp_path / "stills")
    happened: list[str] = []

    def next_still() -> None:
        happened.append("asked")
        if len(happened) == 1:
            raise OSError(errno.ENOSPC, "full")
        if len(happened) == 2:
            raise RuntimeError("what nobody thought of")
        queue._closing = True

    monkeypatch.setattr(stills, "HELD_UP_S", 0.01)
    monkeypatch.setattr(queue, "_next", next_still)
    queue.start()
    wait_for(lambda: len(happened) >= 3, 30, "the queue is dead")
    queue.close()
