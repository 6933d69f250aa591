"""Ground of the tests of the engine."""

from __future__ import annotations

from pathlib import Path

import pytest

from .stage import write_room


@pytest.fixture
def room(tmp_path: Path) -> Path:
    """A room of 4 × 4 × 3 m without its roof's middle, as a file."""
    return write_room(tmp_path)
