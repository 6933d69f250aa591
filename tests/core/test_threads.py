"""How many threads the tracer takes: what was asked for, else what the machine and its container allow."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest

from westlight.core.transport import threads


@pytest.fixture(autouse=True)
def asked_anew() -> Iterator[None]:
    """The count is asked once in a process."""
    threads.thread_count.cache_clear()
    yield
    threads.thread_count.cache_clear()


def test_what_was_asked_for_counts(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("WESTLIGHT_THREADS", "7")
    assert threads.thread_count() == 7


@pytest.mark.parametrize("told", ["", "0", "many", "-2"])
def test_anything_else_is_the_cores_it_may_run_on(
    monkeypatch: pytest.MonkeyPatch, told: str
) -> None:
    monkeypatch.setenv("WESTLIGHT_THREADS", told)
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: set(range(5)))
    monkeypatch.setattr(threads, "_share_of_cores", lambda _: None)
    assert threads.thread_count() == 5


@pytest.mark.parametrize(("share", "count"), [(1.5, 2), (0.4, 1), (64.0, 5)])
def test_a_container_has_its_share(
    monkeypatch: pytest.MonkeyPatch, share: float, count: int
) -> None:
    monkeypatch.delenv("WESTLIGHT_THREADS", raising=False)
    monkeypatch.setattr(os, "sched_getaffinity", lambda _: set(range(5)))
    monkeypatch.setattr(threads, "_share_of_cores", lambda _: share)
    assert threads.thread_count() == count


def test_shares_are_read_from_both_kinds_of_groups(tmp_path: Path) -> None:
    assert threads._share_of_cores(tmp_path) is None
    (tmp_path / "cpu").mkdir()
    (tmp_path / "cpu/cpu.cfs_quota_us").write_text("-1\n")
    (tmp_path / "cpu/cpu.cfs_period_us").write_text("100000\n")
    assert threads._share_of_cores(tmp_path) is None
    (tmp_path / "cpu/cpu.cfs_quota_us").write_text("250000\n")
    assert threads._share_of_cores(tmp_path) == pytest.approx(2.5)
    (tmp_path / "cpu.max").write_text("max 100000\n")
    assert threads._share_of_cores(tmp_path) == pytest.approx(2.5)
    (tmp_path / "cpu.max").write_text("150000 100000\n")
    assert threads._share_of_cores(tmp_path) == pytest.approx(1.5)
