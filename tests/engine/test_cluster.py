"""Stills on several workers: the same bits as on one, whoever dies, lags or is a stranger."""

from __future__ import annotations

import asyncio
import json
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from distributed import Client, LocalCluster, Scheduler

from tests.conftest import PATIENCE
from westlight.core.errors import WestlightError
from westlight.core.files import read_layers
from westlight.core.transport.render import Window
from westlight.engine import cluster as cluster_module
from westlight.engine import secrecy, units
from westlight.engine.files import file_of, place
from westlight.engine.gathered import read_unit, write_unit
from westlight.engine.package import Package
from westlight.engine.still import StillRun

from .test_still import order, quiet


@pytest.fixture(scope="module")
def workers() -> Iterator[LocalCluster]:
    """Two workers in processes of their own, as two machines would be."""
    with LocalCluster(
        n_workers=2, threads_per_worker=1, processes=True, host="127.0.0.1",
        dashboard_address="127.0.0.1:0", worker_dashboard_address="127.0.0.1:0",
        scheduler_kwargs={"dashboard": False},
    ) as made:  # fmt: skip
        yield made


@pytest.fixture
def small_units(monkeypatch: pytest.MonkeyPatch) -> None:
    """Many units even in a small still."""
    monkeypatch.setattr(units, "UNIT_SIZE", 64 * 8 * 3)


def rendered(folder: Path, **changes: Any) -> dict[str, np.ndarray]:
    """Layers of a still rendered in a folder."""
    folder.mkdir(exist_ok=True)
    made = StillRun(order(folder, half=False, **changes), quiet).render()
    assert made is not None
    return read_layers(Path(made["exr"]))


def assert_same(a: dict[str, np.ndarray], b: dict[str, np.ndarray]) -> None:
    """Every layer bit for bit."""
    assert a.keys() == b.keys()
    for name in a:
        np.testing.assert_array_equal(a[name], b[name], err_msg=name)


@pytest.mark.usefixtures("small_units")
def test_two_workers_make_the_bits_of_one(
    tmp_path: Path, workers: LocalCluster, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A still of a scheduler's workers equals one of this process; each got the scene once."""
    alone = rendered(tmp_path / "alone")
    sent: list[str] = []
    monkeypatch.setenv("WESTLIGHT_SCHEDULER", workers.scheduler_address)
    run_before = Client.run

    def counted(self: Client, function: Any, *args: Any, **kwargs: Any) -> Any:
        if function is units.keep_package:
            sent.extend(kwargs["workers"])
        return run_before(self, function, *args, **kwargs)

    monkeypatch.setattr(Client, "run", counted)
    assert_same(alone, rendered(tmp_path / "shared"))
    assert len(sent) == len(set(sent)) == 2


@pytest.mark.usefixtures("small_units")
def test_a_killed_worker_changes_nothing(
    tmp_path: Path, workers: LocalCluster, monkeypatch: pytest.MonkeyPatch
) -> None:
    """One of two workers is killed in the middle; its units are traced again."""
    alone = rendered(tmp_path / "alone")
    monkeypatch.setenv("WESTLIGHT_SCHEDULER", workers.scheduler_address)
    folder = tmp_path / "shared"
    folder.mkdir()
    run = StillRun(order(folder, half=False), quiet)
    killed: list[int] = []

    def kill_one(message: dict[str, Any]) -> None:
        if not killed and message.get("passes", 0) >= 2:
            with Client(workers) as client:
                pids = client.run(os.getpid)
            killed.append(next(iter(pids.values())))
            os.kill(killed[0], signal.SIGKILL)

    run.report = kill_one
    made = run.render()
    assert made is not None
    assert killed
    assert_same(alone, read_layers(Path(made["exr"])))


@pytest.mark.usefixtures("small_units")
def test_finished_units_outlive_the_process(tmp_path: Path) -> None:
    """Stopped between two units of a round, a still goes on from the units that were done."""
    whole = rendered(tmp_path / "whole")
    folder = tmp_path / "broken"
    folder.mkdir()
    first = StillRun(order(folder, half=False), quiet)
    seen = 0

    def stop_soon(message: dict[str, Any]) -> None:
        nonlocal seen
        seen += "passes" in message
        if seen == 3:
            first.stop()

    first.report = stop_soon
    assert first.render() is None
    kept = sorted((folder / "units").glob("*.npz"))
    assert len(kept) >= 2
    # As a killed process leaves it: nothing but units. One of them is cut short.
    (folder / "gathered.npz").unlink(missing_ok=True)
    kept[0].write_bytes(kept[0].read_bytes()[:100])
    traced: list[str] = []
    before = cluster_module.Workers.run

    def noted(self: Any, todo: Any, *args: Any) -> bool:
        traced.extend(u.name for u in todo)
        return before(self, todo, *args)

    cluster_module.Workers.run = noted  # type: ignore[method-assign]
    try:
        again = StillRun(order(folder, half=False), quiet).render()
    finally:
        cluster_module.Workers.run = before  # type: ignore[method-assign]
    assert again is not None
    assert_same(whole, read_layers(Path(again["exr"])))
    assert kept[0].stem in traced
    assert not {k.stem for k in kept[1:]} & set(traced)


def test_a_killed_process_goes_on_to_the_same_bits(tmp_path: Path) -> None:
    """Killed without a word in the middle of a render, a still ends as if nothing had happened."""
    wanted = order(tmp_path, half=False, files=["exr"]).model_copy(update={"samples": 10})
    wanted.spec.width_px = 256
    whole = wanted.model_copy(update={"folder": str(tmp_path / "whole")})
    (tmp_path / "whole").mkdir()
    made = StillRun(whole, quiet).render()
    assert made is not None
    file = tmp_path / "order.json"
    file.write_text(wanted.model_dump_json())
    command = [sys.executable, "-m", "westlight.engine.still", str(file)]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    for line in process.stdout:
        if json.loads(line).get("passes", 0) >= 2:
            process.kill()
            break
    process.wait(60)
    assert not (tmp_path / "still.exr").exists()
    assert list((tmp_path / "units").glob("*.npz"))
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    assert json.loads(done.stdout.splitlines()[-1])["kind"] == "done"
    assert_same(read_layers(Path(made["exr"])), read_layers(tmp_path / "still.exr"))


def test_workers_of_another_version_are_left_alone(
    tmp_path: Path, workers: LocalCluster, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Nothing is sent to a stranger; the artist reads why it waits."""
    monkeypatch.setenv("WESTLIGHT_SCHEDULER", workers.scheduler_address)
    monkeypatch.setattr(cluster_module, "engine_version", lambda: "another")
    run = StillRun(order(tmp_path), quiet)
    told: list[str] = []

    def note(message: dict[str, Any]) -> None:
        told.append(message.get("text", ""))
        if "another version" in told[-1]:
            run.stop()

    run.report = note
    assert run.render() is None
    assert all(f.samples == 0 for f in run.film.accumulators.values())


@pytest.mark.parametrize("other", ["there", "new"])
def test_a_lagging_worker_is_helped_out(
    tmp_path: Path, workers: LocalCluster, monkeypatch: pytest.MonkeyPatch, other: str
) -> None:
    """A unit that does not come back from a suspended worker is traced by the other, also if that one came late."""
    if other == "new":
        with Client(workers) as client:
            os.kill(max(client.run(os.getpid).values()), signal.SIGKILL)
    monkeypatch.setenv("WESTLIGHT_SCHEDULER", workers.scheduler_address)
    monkeypatch.setattr(units, "UNIT_SIZE", 64 * 8 * 3)
    alone = None
    run = StillRun(order(tmp_path, half=False), quiet)
    halted: list[int] = []

    def halt_one(message: dict[str, Any]) -> None:
        if not halted and message.get("passes", 0) >= 2:
            with Client(workers) as client:
                halted.append(sorted(client.run(os.getpid).values())[0])
            os.kill(halted[0], signal.SIGSTOP)
            net.start()

    def go_on() -> None:
        woken.append(1)
        os.kill(halted[0], signal.SIGCONT)

    # Should nobody help out, the test ends all the same, and fails.
    woken: list[int] = []
    net = threading.Timer(PATIENCE * 60, go_on)
    run.report = halt_one
    try:
        made = run.render()
    finally:
        net.cancel()
        if halted:
            os.kill(halted[0], signal.SIGCONT)
    assert made is not None
    assert halted
    assert not woken
    monkeypatch.delenv("WESTLIGHT_SCHEDULER")
    alone = rendered(tmp_path / "alone")
    assert_same(alone, read_layers(Path(made["exr"])))


def test_no_scheduler_is_said_in_words(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """An address where nobody answers is an error that says what to do."""
    monkeypatch.setenv("WESTLIGHT_SCHEDULER", "tcp://127.0.0.1:9")
    monkeypatch.setattr(cluster_module, "ANSWER_S", 1.0)
    begun = time.monotonic()
    with pytest.raises(WestlightError, match="No scheduler answers"):
        StillRun(order(tmp_path), quiet).render()
    assert time.monotonic() - begun < 60


def test_a_package_is_the_scene_wherever_it_is(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Equal content has an equal key; exposure and finish do not matter; files travel along."""
    (tmp_path / "a").mkdir()
    (tmp_path / "b").mkdir()
    one, two = order(tmp_path / "a").spec, order(tmp_path / "b").spec
    assert one.model is not None
    assert two.model is not None
    made = Package.of(one)
    brighter = two.model_copy(
        update={"exposure": two.exposure.model_copy(update={"shutter_s": 9.0})}
    )
    assert made.key == Package.of(brighter).key
    moved = two.model_copy(update={"bounces": 5})
    assert made.key != Package.of(moved).key
    there = made.unpacked(tmp_path / "there")
    assert there.model is not None
    lost = file_of(one.model.asset, ".glb")
    assert (place(tmp_path / "there", one.model.asset, ".glb")).read_bytes() == lost.read_bytes()
    monkeypatch.setenv("WESTLIGHT_FILES", str(tmp_path / "elsewhere"))
    with pytest.raises(WestlightError, match="cannot be read"):
        Package.of(one)


def test_units_cover_a_window_once() -> None:
    """Every band and pass of a window belongs to one unit, whatever its size."""
    for size in ((360, 640), (1080, 1920), (4320, 7680), (16, 64)):
        window = Window(0, size[0], 0, size[1])
        seen: dict[tuple[int, int], int] = {}
        for unit in units.units_of(window, [0, 1, 2], 4, 5, True):
            assert unit.window.row0 % 8 == 0
            for row in range(unit.window.row0, unit.window.row1):
                for n in range(unit.first, unit.first + unit.passes):
                    seen[(row, n)] = seen.get((row, n), 0) + 1
        assert set(seen.values()) == {1}
        assert len(seen) == size[0] * 5


def test_a_damaged_unit_is_not_taken(tmp_path: Path) -> None:
    """What was cut short on disk counts as not there."""
    from westlight.core.transport.film import Accumulator, GuideFilm

    made = units.Traced([Accumulator.empty(8, 16)], GuideFilm.empty(8, 16))
    made.films[0].light[:] = 3.0
    write_unit(tmp_path / "u.npz", made)
    back = read_unit(tmp_path / "u.npz")
    assert back is not None
    assert back.guide is not None
    np.testing.assert_array_equal(back.films[0].light, made.films[0].light)
    (tmp_path / "u.npz").write_bytes((tmp_path / "u.npz").read_bytes()[:-200])
    assert read_unit(tmp_path / "u.npz") is None
    assert read_unit(tmp_path / "none.npz") is None


def test_beyond_this_machine_a_certificate_is_needed(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Without one no scheduler is served or spoken to; with one both ends must show it."""
    monkeypatch.delenv(secrecy.VARIABLE, raising=False)
    assert secrecy.security_for("tcp://127.0.0.1:8786") is None
    for address in ("tcp://10.0.0.7:8786", "tcp://0.0.0.0:8786", "studio:8786"):
        with pytest.raises(WestlightError, match="certificate"):
            secrecy.security_for(address)
    monkeypatch.setenv(secrecy.VARIABLE, str(tmp_path))
    with pytest.raises(WestlightError, match="is missing"):
        secrecy.security_for("tcp://10.0.0.7:8786")
    secrecy.make(tmp_path)
    assert (tmp_path / "key.pem").stat().st_mode & 0o077 == 0
    made = secrecy.security_for("tcp://10.0.0.7:8786")
    assert made is not None
    assert made.require_encryption
    assert secrecy.scheme(made) == "tls"


def test_strangers_do_not_reach_a_scheduler(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Another certificate, or none, gets no answer; the right one does."""
    keys = [tmp_path / name for name in ("ours", "theirs")]
    security = []
    for folder in keys:
        secrecy.make(folder)
        monkeypatch.setenv(secrecy.VARIABLE, str(folder))
        security.append(secrecy.security_for("tls://127.0.0.1"))

    async def served() -> list[str]:
        told = []
        async with Scheduler(
            host="127.0.0.1", port=0, protocol="tls://", security=security[0], dashboard=False,
            dashboard_address="127.0.0.1:0",
        ) as scheduler:  # fmt: skip
            plain = scheduler.address.replace("tls://", "tcp://")
            ways = (
                (scheduler.address, security[0]),
                (scheduler.address, security[1]),
                (plain, None),
            )
            for address, shown in ways:
                try:
                    async with Client(address, asynchronous=True, timeout=5, security=shown):
                        told.append("in")
                except (OSError, TimeoutError, ValueError):
                    told.append("out")
        return told

    assert asyncio.run(served()) == ["in", "out", "out"]
