"""A scene as one package that can travel: what tracing depends on, with its files, by content."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from westlight.core.errors import WestlightError

from .files import file_of, look_in, place
from .spec import BackdropSettings, ExposureSettings, FinishSettings, PictureSpec

#: Settings that name a file, and its suffix where none stands beside.
_FILES = {"asset": ".exr", "other": ".exr", "picture": ".exr", "photometry": ".ies"}
#: Stands for any backdrop: it hides the sky from the camera, so that much of the finish is traced.
_BEHIND = "0" * 64


@dataclass(frozen=True)
class Package:
    """A picture's scene: its spec, and the files it names, by id and suffix.

    ``key`` is a hash of all of it: equal packages are equal scenes, wherever they were made.
    """

    key: str
    spec: str
    files: dict[tuple[str, str], bytes]

    @staticmethod
    def of(spec: PictureSpec) -> Package:
        """The package of a spec, without exposure and finish; raises `WestlightError` for a lost file."""
        bare = spec.model_copy(update={"exposure": ExposureSettings(), "finish": FinishSettings()})
        files: dict[tuple[str, str], bytes] = {}
        for asset, suffix in _named(bare.model_dump(mode="json")):
            path = file_of(asset, suffix)
            try:
                files[asset, suffix] = path.read_bytes()
            except OSError as error:
                raise WestlightError(
                    f"The file {path.name} of this scene cannot be read."
                ) from error
        if spec.finish.backdrop.asset is not None:
            bare.finish.backdrop = BackdropSettings(asset=_BEHIND)
        text = bare.model_dump_json()
        key = hashlib.blake2b(text.encode(), digest_size=12).hexdigest()
        return Package(key, text, files)

    def unpacked(self, folder: Path) -> PictureSpec:
        """Write the files into a folder, have them found there, and return the spec."""
        for (asset, suffix), content in self.files.items():
            file = place(folder, asset, suffix)
            if not file.exists():
                file.parent.mkdir(parents=True, exist_ok=True)
                part = file.with_suffix(".part")
                part.write_bytes(content)
                part.replace(file)
        look_in(folder)
        return PictureSpec.model_validate_json(self.spec)


def _named(node: Any) -> Iterator[tuple[str, str]]:
    """Id and suffix of every file that nested settings name."""
    if isinstance(node, dict):
        for key, value in node.items():
            if key in _FILES and isinstance(value, str):
                yield value, node.get("suffix", _FILES[key])
            else:
                yield from _named(value)
    elif isinstance(node, list):
        for value in node:
            yield from _named(value)
