"""The shelf of photometric files: kept as assets, described for the browser."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from westlight.core.analysis import lit_wall
from westlight.core.luminaires import IntensityDistribution, read_photometric, write_lm63

from .errors import BadEdit
from .shelf import ReadShelf

#: Steps of the polar curve that is drawn, in degrees.
_STEP_DEG = 2.5


class Photometry(ReadShelf):
    """Photometric files, each as LM-63 whatever it came in; beside them pictures of the walls they light."""

    media_type, suffix, what = "text/x-photometry", ".ies", "photometric file"
    readers = ("photometry",)

    def keep(self, report: dict[str, Any], folder: Path) -> dict[str, Any]:
        """Keep what the reader of photometric files made, other lamps of the file by their names; returns its card."""
        for other in report.get("others", []):
            self.keep_file(other, folder)
        asset = self.keep_file(report, folder)
        made = card(asset, report["title"], self.distribution(asset))
        # The canonical file has no faults of its own; what the reader noticed is told once.
        return made | {"remarks": report["remarks"]}

    def cards(self) -> list[dict[str, Any]]:
        """Cards of all files on the shelf, by name."""
        return [_kept_card(i, name, self.assets.path(i, self.suffix)) for i, name in self.names()]

    def distribution(self, asset: str) -> IntensityDistribution:
        """The distribution of a file; raises `NotFound`."""
        return read_photometric(self.file(asset))

    def wall(self, asset: str) -> Path:
        """Picture of a wall lit by a file."""
        return wall_picture(self.file(asset), self.folder)

    def copy(self, asset: str, name: str, **changes: Any) -> dict[str, Any]:
        """Put an edited copy of a file on the shelf: ``scale``, ``turn_deg``, ``symmetrise``; returns its card."""
        return self.put(copied(self.distribution(asset), name, **changes), f"{name}.ies")


@lru_cache(maxsize=512)
def _kept_card(asset: str, name: str, file: Path) -> dict[str, Any]:
    """A card by content hash: files on the shelf never change, and their integrals take time."""
    return card(asset, name, read_photometric(file))


def card(asset: str, name: str, d: IntensityDistribution) -> dict[str, Any]:
    """What the shelf shows of a file: flux, angles, lux below it, its curve in two planes."""
    gamma = np.arange(0, 180 + _STEP_DEG, _STEP_DEG)
    planes = {c: d.candela(gamma, c) for c in (0, 90, 180, 270)}
    peak = max(d.maximum_cd, 1e-9)
    return {
        "asset": asset, "name": name, "flux_lm": round(d.flux_lm, 1), "watts": d.watts,
        "peak_cd": round(d.maximum_cd, 1),
        "beam_deg": round(d.beam_angle_deg, 1), "field_deg": round(d.field_angle_deg, 1),
        "efficacy": round(d.flux_lm / d.watts, 1) if d.watts else None,
        "remarks": list(d.remarks),
        "tags": d.character,
        "flux_codes": [round(100 * n) for n in d.flux_codes],
        "cone": [
            {"distance_m": h, "lux": round(float(d.candela(0.0)) / h**2, 1),
             "diameter_m": round(2 * h * math.tan(math.radians(min(d.beam_angle_deg / 2, 80))), 2)}
            for h in (1.0, 2.0, 3.0)
        ],
        "step_deg": _STEP_DEG,
        "curve": {str(c): [round(float(v) / peak, 4) for v in values] for c, values in planes.items()},
    }  # fmt: skip


def copied(
    d: IntensityDistribution, name: str, scale: float, turn_deg: float, symmetrise: bool
) -> bytes:
    """An edited copy of a distribution as an LM-63 file; raises `BadEdit` without a name."""
    if not name.strip():
        raise BadEdit("Give the copy a name of its own.")
    made = d.symmetrised() if symmetrise else d.turned(turn_deg) if turn_deg else d
    made = made if scale == 1.0 else made.scaled(scale)
    return write_lm63(replace(made, name=name.strip()[:80], stated_flux_lm=None)).encode()


def wall_picture(file: Path, folder: Path) -> Path:
    """JPEG of a wall lit by a photometric file, made once and kept in a folder."""
    target = folder / f"{file.stem}.jpg"
    if not target.is_file():
        folder.mkdir(parents=True, exist_ok=True)
        part = target.with_suffix(".part")
        Image.fromarray(lit_wall(read_photometric(file))).save(part, "jpeg", quality=90)
        part.replace(target)
    return target
