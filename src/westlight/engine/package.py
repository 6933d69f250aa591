"""A scene as one package that can travel: what tracing depends on, with its files, by content."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from westlight.core.errors import WestlightError

from .spec import ExposureSettings, FinishSettings, PictureSpec

#: Settings that name a file.
_PATHS = ("path", "photometry_path", "picture_path", "other_path")


@dataclass(frozen=True)
class Package:
    """A picture's scene: its spec with the names of its files in place of paths, and the files.

    ``key`` is a hash of all of it: equal packages are equal scenes, wherever they were made.
    """

    key: str
    spec: str
    files: dict[str, bytes]

    @staticmethod
    def of(spec: PictureSpec) -> Package:
        """The package of a spec, without exposure and finish; raises `WestlightError` for a lost file."""
        # A backdrop hides the sky from the camera, so that much of the finish is traced.
        hides = spec.finish.backdrop.path is not None
        bare = spec.model_copy(update={"exposure": ExposureSettings(), "finish": FinishSettings()})
        plain = bare.model_dump(mode="json")
        files: dict[str, bytes] = {}
        for holder, name in _named(plain):
            path = Path(holder[name])
            try:
                content = path.read_bytes()
            except OSError as error:
                raise WestlightError(
                    f"The file {path.name} of this scene cannot be read."
                ) from error
            holder[name] = hashlib.sha256(content).hexdigest()[:24] + path.suffix
            files[holder[name]] = content
        if hides:
            plain["finish"]["backdrop"]["path"] = "behind"
        text = PictureSpec.model_validate(plain).model_dump_json()
        key = hashlib.blake2b(text.encode(), digest_size=12).hexdigest()
        return Package(key, text, files)

    def unpacked(self, folder: Path) -> PictureSpec:
        """Write the files into a folder and return the spec that names them there."""
        folder.mkdir(parents=True, exist_ok=True)
        for name, content in self.files.items():
            if not (folder / name).exists():
                part = folder / f"{name}.part"
                part.write_bytes(content)
                part.replace(folder / name)
        plain = PictureSpec.model_validate_json(self.spec).model_dump(mode="json")
        for holder, name in _named(plain):
            if holder[name] in self.files:
                holder[name] = str(folder / holder[name])
        return PictureSpec.model_validate(plain)


def _named(node: Any) -> Iterator[tuple[dict[str, Any], str]]:
    """Every place in nested settings that names a file."""
    if isinstance(node, dict):
        for key, value in node.items():
            if key in _PATHS and isinstance(value, str):
                yield node, key
            else:
                yield from _named(value)
    elif isinstance(node, list):
        for value in node:
            yield from _named(value)
