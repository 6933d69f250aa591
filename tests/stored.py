"""Files as settings name them: by their content, in a folder of this run."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from westlight.engine.files import look_in
from westlight.engine.spec import ModelSpec
from westlight.store import AssetStore

_FOLDER = tempfile.TemporaryDirectory(prefix="wl-files-")


def asset(file: Path) -> str:
    """The id of a file, which is found by it from now on."""
    look_in(Path(_FOLDER.name))
    return AssetStore(Path(_FOLDER.name)).put(file)


def model(file: Path, **settings: Any) -> ModelSpec:
    """A building's file with settings."""
    return ModelSpec(asset=asset(file), suffix=file.suffix, **settings)
