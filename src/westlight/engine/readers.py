"""What is made of files from outside: each reader checks one and writes what is kept of it into a folder.

Readers of a stranger's files run in a child with limits (`engine.reading`); those of our own are called directly.
A reader gets the file, what the artist calls it, and the folder; it returns a report that JSON can hold.
"""

from __future__ import annotations

import math
import re
import shutil
import zipfile
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from PIL import Image

from westlight import core
from westlight.core.analysis import standpoints
from westlight.core.colour import AP1_LUMINANCE, AP1_TO_SRGB, nearest_kelvin, srgb_encode
from westlight.core.errors import ModelError, PhotometricError, PictureFileError, WestlightError
from westlight.core.files import read_linear, write_exr
from westlight.core.files.photograph import LARGEST_SIDE, PHOTOGRAPHS, read_photograph
from westlight.core.finish import CubeError, backdrop_of, metered_ev, parse_cube, show
from westlight.core.finish.baked_lut import KINDS, baked_cube
from westlight.core.luminaires import read_photometric, write_lm63
from westlight.core.model import near_origin
from westlight.core.model.gltf import is_declared, is_packed
from westlight.core.model.read import IN_WORDS, SUFFIXES
from westlight.core.model.sound import is_sound
from westlight.core.model.usd import read_usd
from westlight.core.model.write import write_glb
from westlight.core.sky import Hdri
from westlight.core.sky.hdri import reduced, row_solid_angles
from westlight.core.transport.film import F4

from . import project_file

Report = dict[str, Any]
#: Lights of a file beyond this number are left out.
MOST_LIGHTS = 500
#: Pictures whose values are encoded for screens.
_ENCODED = (".jpg", ".jpeg", ".png", ".tif", ".tiff")
THUMB_PX = 256
#: A table of 129 steps as text is about this large; photometric files are far smaller.
LARGEST_TABLE, LARGEST_PHOTOMETRY = 80_000_000, 8_000_000
#: A .cube that is more than one three-dimensional table: a curve, or one before a table.
_NOT_PLAIN = re.compile(rb"LUT_1D_SIZE|LUT_[13]D_INPUT_RANGE", re.IGNORECASE)
#: Other sets of lamps of a photometric file that are kept.
MOST_LAMP_SETS = 12
#: Models of a zip that are offered.
MOST_CHOICES = 60
#: Bytes and entries of what a zip unpacks to.
MOST_UNPACKED, MOST_ENTRIES = 4_000_000_000, 20_000


def unpacked(file: Path, folder: Path) -> list[Path]:
    """The models inside a zip, unpacked with what belongs to them; raises `ModelError`.

    Those of the first kind in `SUFFIXES` come first, the largest before others.
    """
    try:
        with zipfile.ZipFile(file) as opened:
            entries = [e for e in opened.infolist() if not e.is_dir()]
            if sum(e.file_size for e in entries) > MOST_UNPACKED or len(entries) > MOST_ENTRIES:
                raise ModelError("The zip unpacks to more than 4 GB; leave the surroundings out.")
            for entry in entries:
                # Some packers write the ways of their own system.
                entry.filename = entry.filename.replace("\\", "/")
                if entry.filename.endswith("/"):
                    continue
                # extract() keeps names inside the folder, whatever they say.
                opened.extract(entry, folder)
    except (zipfile.BadZipFile, zlib.error, EOFError, RuntimeError, OSError,
            ValueError) as error:  # fmt: skip
        raise ModelError(
            f"“{file.name}” is not a zip file or is damaged; pack it again."
        ) from error
    models = [p for p in sorted(folder.rglob("*")) if p.is_file() and not p.name.startswith(".")
              and p.suffix.lower() in SUFFIXES]  # fmt: skip
    if not models:
        raise ModelError(f"The zip holds no building that can be read: {IN_WORDS}.")
    kinds = {p: SUFFIXES.index(p.suffix.lower()) for p in models}
    return sorted(models, key=lambda p: (kinds[p], -p.stat().st_size))


def model(
    file: Path, name: str, out: Path, up: str = "y", first: bool = True, wanted: str = ""
) -> Report:
    """A building: one GLB with all it needs, and what was found in it. Raises `ModelError`.

    For the ``first`` building of a project it is told where to look from. Of a zip with several models the
    one at the path ``wanted`` is read; where none is, the report holds but their names and sizes: ``choose``.
    """
    here = out / "read"
    here.mkdir()
    if name.lower().endswith((".zip", ".ifczip")):
        found = {p.relative_to(here).as_posix(): p for p in unpacked(file, here)}
        if len(found) > 1 and not wanted:
            sizes = [{"name": n, "bytes": p.stat().st_size} for n, p in found.items()]
            shutil.rmtree(here)
            return {"choose": sizes[:MOST_CHOICES]}
        if wanted and wanted not in found:
            raise ModelError(f"“{name}” holds no “{wanted}”. Choose the file again.")
        file = found[wanted or next(iter(found))]
    else:
        file = Path(shutil.copyfile(file, here / (Path(name).name or "model")))
    made = core.read_model(file, up)
    made, offset = near_origin(made)
    low, high = made.bounds()
    # A sound file stays as it is; what others would stumble over is mended in the one that is kept.
    plain = file.suffix.lower() == ".glb" and not any(offset) and not is_packed(file)
    if plain and is_declared(file) and is_sound(made):
        kept = Path(shutil.move(file, out / "model.glb"))
    else:
        kept, up = out / "model.glb", "y"
        write_glb(made, kept)
    shutil.rmtree(here)
    # A camera of the file says where to look from.
    standing = standpoints(made.parts) if first and not made.cameras else []
    return {
        "file": kept.name,
        "up": up,
        "standing": [asdict(s) for s in standing],
        "triangles": made.triangle_count,
        "parts": len(made.parts),
        "materials": len(made.materials),
        "size_m": [round(float(v), 2) for v in high - low],
        "low": [round(float(v), 3) for v in low],
        "high": [round(float(v), 3) for v in high],
        "offset_m": offset,
        "remarks": made.remarks[-30:],
        "glows": [m.name for m in made.materials if m.emits],
        "cameras": [
            {"name": c.name, "position": c.position, "target": c.target,
             "vertical_fov_deg": c.vertical_fov_deg, "aspect": c.aspect, "shift": c.shift}
            for c in made.cameras
        ],
        "lights": [asdict(light) for light in made.lights[:MOST_LIGHTS]],
    }  # fmt: skip


def lights(file: Path, name: str, out: Path) -> Report:
    """Lights and cameras of a glTF or OpenUSD file; raises `ModelError`."""
    suffix = Path(name).suffix.lower()
    if suffix in (".usd", ".usda", ".usdc"):
        named = shutil.copyfile(file, out / f"lights{suffix}")
        found, cameras = read_usd(Path(named), name)
    elif suffix in (".gltf", ".glb"):
        made = core.read_model(shutil.copyfile(file, out / f"lights{suffix}"))
        found, cameras = list(made.lights), list(made.cameras)
    else:
        raise ModelError("Lights come in from .usda, .usdc, .usd, .gltf or .glb files.")
    return {
        "lights": [asdict(light) for light in found[:MOST_LIGHTS]],
        "cameras": [asdict(camera) for camera in cameras[:MOST_LIGHTS]],
    }


@contextmanager
def _called(file: Path, name: str, out: Path) -> Iterator[Path]:
    """A file by the name the artist knows it by, so that what is said of it names it."""
    here = out / "given"
    here.mkdir()
    try:
        link = here / (Path(name).name or file.name)
        if not link.suffix:
            link = link.with_suffix(file.suffix)
        link.symlink_to(file.absolute())
        yield link
    finally:
        shutil.rmtree(here)


def sky(file: Path, name: str, out: Path) -> Report:
    """A picture (EXR or Radiance HDR) as a sky: EXR, thumbnail, card. Raises `PictureFileError`."""
    with _called(file, name, out) as named:
        made = Hdri.of(named)
    if Path(name).suffix.lower() in _ENCODED:
        said = "It is a picture for screens: it holds no sun, and its brightest light is cut off."
        made = Hdri(made.pixels, (*made.remarks, said))
    # Kept as read: calibrated pixels, mended, middle column north again.
    turned = np.roll(made.pixels, made.pixels.shape[1] // 2, axis=1)
    write_exr(out / "sky.exr", turned, {}, half=float(turned.max()) < 65_000, dated=False)
    small = reduced(made.pixels, THUMB_PX, THUMB_PX // 2)
    small = np.roll(small, small.shape[1] // 2, axis=1)
    shown = show(small, metered_ev(small) or 10.0)
    Image.fromarray(shown.pixels).save(out / "thumbnail.jpg", quality=88)
    return {"file": "sky.exr", "card": sky_card(made), "title": Path(name).stem}


def sky_card(sky: Hdri) -> dict[str, Any]:
    """What a picture gives: lux on the ground, its sun if it has one, contrast and colour."""
    lobe = sky.brightest()
    luminance = sky.pixels @ AP1_LUMINANCE.astype(np.float32)
    upper = luminance[: max(len(luminance) // 2, 1)]
    weight = row_solid_angles(*luminance.shape)[: len(upper), None] * np.ones_like(upper)
    order = np.argsort(upper, axis=None)
    filled = np.cumsum(weight.ravel()[order])
    dark, bright = (
        float(upper.ravel()[order][np.searchsorted(filled, q * filled[-1])]) for q in (0.1, 0.99)
    )
    return {
        "width_px": int(sky.pixels.shape[1]), "remarks": list(sky.remarks),
        "lux": float(f"{sky.horizontal_illuminance():.5g}"),
        "kelvin": round(nearest_kelvin(sky.horizontal_rgb()), -2),
        "stops": round(math.log2(max(bright, 1e-9) / max(dark, 1e-9)), 1),
        "sun": None if lobe is None else {
            "azimuth_deg": round(lobe.azimuth_deg, 2), "elevation_deg": round(lobe.elevation_deg, 2),
            "lux": float(f"{lobe.normal_illuminance_lx:.4g}")},
    }  # fmt: skip


def backdrop(file: Path, name: str, out: Path) -> Report:
    """A picture that hangs behind a view: EXR and thumbnail. Raises `PictureFileError`."""
    with _called(file, name, out) as named:
        picture = backdrop_of(named)
    return _backdrop(picture, name, out)


def kept_backdrop(file: Path, name: str, out: Path) -> Report:
    """A backdrop that was kept before: as it is. Raises `PictureFileError`."""
    return _backdrop(backdrop_of(file, exposed=True), name, out)


def _backdrop(picture: F4, name: str, out: Path) -> Report:
    write_exr(out / "backdrop.exr", picture, {}, half=True, dated=False)
    step = max(1, picture.shape[1] // THUMB_PX)
    shown = srgb_encode(np.clip(picture[::step, ::step] @ AP1_TO_SRGB.T, 0, 1))
    pixels = (np.asarray(shown) * 255).round().astype(np.uint8)
    Image.fromarray(pixels).save(out / "thumbnail.jpg", quality=88)
    return {"file": "backdrop.exr", "title": Path(name).stem}


def reference(file: Path, name: str, out: Path) -> Report:
    """A picture that is lit towards, as it is shown: PNG and thumbnail. Raises `PictureFileError`."""
    if Path(name).suffix.lower() in PHOTOGRAPHS:
        pixels = read_photograph(file, name)
    else:
        with _called(file, name, out) as named:
            light = np.maximum(np.nan_to_num(read_linear(named, LARGEST_SIDE)), 0)
        # A picture without a white is exposed as the meter would.
        pixels = show(light, metered_ev(light) or 10.0).pixels
    Image.fromarray(pixels).save(out / "reference.png")
    step = max(1, pixels.shape[1] // THUMB_PX)
    Image.fromarray(pixels).reduce(step).save(out / "thumbnail.jpg", quality=88)
    return {"file": "reference.png", "title": Path(name).stem}


def photometry(file: Path, name: str, out: Path) -> Report:
    """A photometric file as LM-63, whatever it was. Raises `PhotometricError`."""
    if file.stat().st_size > LARGEST_PHOTOMETRY:
        raise PhotometricError(f"“{name}” is too large for a photometric file.")
    d = read_photometric(file.read_bytes())
    (out / "photometry.ies").write_text(write_lm63(d))
    others = []
    for n, other in enumerate(d.others[:MOST_LAMP_SETS]):
        (out / f"photometry-{n}.ies").write_text(write_lm63(other))
        others.append({"file": f"photometry-{n}.ies", "title": other.name})
    return {
        "file": "photometry.ies",
        "title": d.name or Path(name).stem,
        "remarks": list(d.remarks),
        "others": others,
    }


def table(file: Path, name: str, out: Path) -> Report:
    """A film table as a three-dimensional .cube, whatever it was. Raises `CubeError`."""
    if file.stat().st_size > LARGEST_TABLE:
        raise CubeError(f"“{name}” is too large for a film table; export it with 33 or 65 steps.")
    kind = Path(name).suffix.lower()
    if kind not in KINDS:
        raise CubeError(f"A film table is one of {', '.join(KINDS)}; export it as .cube.")
    raw = file.read_bytes()
    if kind == ".cube" and not _NOT_PLAIN.search(raw[:100_000]):
        try:
            parse_cube(raw.decode("utf-8-sig"), name)
        except UnicodeDecodeError as error:
            raise CubeError(
                f"“{name}” is not a .cube text file; export the table again."
            ) from error
        shutil.copyfile(file, out / "table.cube")
    else:
        with _called(file, name, out) as named:
            (out / "table.cube").write_text(baked_cube(named))
    return {"file": "table.cube", "title": Path(name).stem}


class Reader(NamedTuple):
    """A reader and what it may take: address space in GB, seconds, gigabytes of a file it writes; the error that it ends in,
    and what to do with a file that cannot be read at all."""

    read: Callable[..., Report]
    memory_gb: float
    seconds: float
    file_gb: float
    wrong: type[WestlightError]
    remedy: str


_NO_SKY = "Save it again as EXR or Radiance HDR, not larger than 16384 × 8192."
READERS = {
    "model": Reader(
        model, 12.0, 180.0, 4.0, ModelError, "Export it again, in smaller pieces if it is large."
    ),
    "lights": Reader(lights, 4.0, 60.0, 0.5, ModelError, "Export it again."),
    "sky": Reader(sky, 6.0, 120.0, 2.0, PictureFileError, _NO_SKY),
    "backdrop": Reader(
        backdrop, 4.0, 60.0, 1.0, PictureFileError, "Save it again as EXR, PNG or JPEG."
    ),
    "kept backdrop": Reader(
        kept_backdrop, 4.0, 60.0, 1.0, PictureFileError, "Export the project again."
    ),
    "reference": Reader(
        reference, 4.0, 60.0, 0.2, PictureFileError, "Save it again as JPEG or PNG."
    ),
    "photometry": Reader(
        photometry,
        2.0,
        30.0,
        0.1,
        PhotometricError,
        "Fetch it again from the maker of the luminaire.",
    ),
    "table": Reader(table, 3.0, 60.0, 0.1, WestlightError, "Export it again as .cube."),
    "project": Reader(
        project_file.read,
        4.0,
        300.0,
        4.0,
        project_file.ProjectFileError,
        "Export the project again.",
    ),
}
