"""Material libraries of Wavefront OBJ files (MTL), as exporters write them: options, Windows paths, and the later PBR words."""

from __future__ import annotations

import re
from dataclasses import replace
from functools import lru_cache
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from ..colour import srgb_to_working
from .material import Material, Texture, Wrap
from .parts import Missing

#: Luminance in cd/m² of an emission (Ke) of 1: the format gives no unit.
GLOW_CD_M2 = 1000.0
#: Dissolve below which a surface is glass; for kinds of shading that are glass (4, 6, 7, 9), and for others.
_GLASS_BELOW, _PLAIN_BELOW = 0.95, 0.6
_GLASS_KINDS = (4, 6, 7, 9)
#: Numbers that follow each option of a map; of -s, -o and -t one to three.
_OPTIONS = {"-blendu": 1, "-blendv": 1, "-boost": 1, "-mm": 2, "-o": 3, "-s": 3, "-t": 3, "-texres": 1,
            "-clamp": 1, "-bm": 1, "-imfchan": 1, "-type": 1, "-cc": 1}  # fmt: skip
_A_NUMBER = re.compile(r"[-+]?[\d.]+(e[-+]?\d+)?", re.IGNORECASE)
_MOST_PX, _LARGEST_PX = 4096, 16_384
#: Values below this exponent of a highlight are matte.
_MATTE = 1.0


def text_of(raw: bytes) -> str:
    """Text of a file in whatever it was written: UTF-8, UTF-16 with its mark, or the Windows code page."""
    if raw[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return raw.decode("utf-16", "replace")
    try:
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        return raw.decode("cp1252", "replace")


def found_beside(folder: Path, name: str) -> Path | None:
    """A file that an OBJ or MTL names, looked for beside it: by its path, or by its last part, in whatever case."""
    plain = name.strip().strip('"').replace("\\", "/")
    parts = [p for p in plain.split("/") if p not in ("", ".", "..")]
    if not parts or re.match(r"^[A-Za-z]:$", parts[-1]):
        return None
    known = _files(folder)
    for n in range(len(parts)):
        wanted = "/".join(parts[n:]).lower()
        if wanted in known:
            return known[wanted]
    last = parts[-1].lower()
    return next((p for at, p in sorted(known.items()) if at.rsplit("/", 1)[-1] == last), None)


@lru_cache(maxsize=4)
def _files(folder: Path) -> dict[str, Path]:
    """Every file in a folder by its path in small letters."""
    return {p.relative_to(folder).as_posix().lower(): p for p in folder.rglob("*") if p.is_file()}


def map_name(words: str) -> str:
    """File that a map line names, its options left out.

    >>> map_name("-s 2 2 1 -bm 0.3 Oak floor.jpg")
    'Oak floor.jpg'
    """
    tokens = words.split()
    while tokens and tokens[0].lower() in _OPTIONS:
        many = _OPTIONS[tokens.pop(0).lower()]
        # Of three numbers the last ones may be left out; one word of an option may be anything.
        for _ in range(many):
            if tokens and (many < 3 or _A_NUMBER.fullmatch(tokens[0])):
                tokens.pop(0)
    first = words.find(tokens[0]) if tokens else -1
    # Blanks inside a name stay as they are written.
    at = words.rfind(" ".join(tokens)) if " ".join(tokens) in words else first
    return words[at:].strip().strip('"') if at >= 0 else ""


def wrap_of(words: str) -> tuple[Wrap, Wrap]:
    """How the picture of a map line goes on beyond its edges: drawn out with ``-clamp on``.

    >>> wrap_of("-clamp on label.png")
    ('clamp', 'clamp')
    """
    tokens = words.lower().split()
    held = ("-clamp", "on") in pairwise(tokens)
    return ("clamp", "clamp") if held else ("repeat", "repeat")


class Library:
    """Materials of one or more libraries, made when they are asked for."""

    def __init__(self, folder: Path, remarks: list[str]) -> None:
        self._folder, self._remarks = folder, remarks
        self._entries: dict[str, dict[str, str]] = {}
        self._made: dict[str, Material] = {}
        self._painted: dict[str, Material] = {}
        _files.cache_clear()
        self._pictures: dict[str, np.ndarray[Any, Any] | None] = {}
        self.plain = Material(0.5, name="plain")

    def read(self, names: str) -> None:
        """Read the library of a ``mtllib`` line: one name with blanks in it, or several."""
        whole = found_beside(self._folder, names)
        files = [whole] if whole else [found_beside(self._folder, n) for n in names.split()]
        here = [f for f in files if f is not None]
        if not here:
            self._remarks.append(
                Missing(
                    f"The material library “{names.strip()}” is missing; all surfaces are plain. "
                    "Put it beside the OBJ and import both as a zip."
                )
            )
        for file in here:
            self._parse(text_of(file.read_bytes()))

    def tell(self, name: str, entry: dict[str, str]) -> None:
        """Add a material: its lines by their first words, in small letters."""
        self._entries[name] = entry

    def _parse(self, text: str) -> None:
        entry: dict[str, str] = {}
        for line in text.splitlines():
            key, _, rest = line.strip().partition(" ")
            if key.lower() == "newmtl":
                entry = self._entries.setdefault(rest.strip(), {})
            elif key and not key.startswith("#"):
                entry[key.lower()] = rest.strip()

    def material(self, name: str) -> Material:
        """A material by name; plain for one that no library holds."""
        if name not in self._made:
            entry = self._entries.get(name)
            self._made[name] = (
                Material(0.5, name=name or "plain")
                if entry is None
                else self._material(name, entry)
            )
        return self._made[name]

    def painted(self, name: str) -> Material:
        """A material for surfaces whose points bring colours of their own."""
        if name not in self._painted:
            made = replace(self.material(name), vertex_colours=True)
            # Colours multiply the paint: where there is none, they are it.
            self._painted[name] = made if name in self._entries else replace(made, reflectance=1.0)
        return self._painted[name]

    def _material(self, name: str, e: dict[str, str]) -> Material:
        rgb = _colour(e.get("kd"), (0.5, 0.5, 0.5))
        base = self._texture(e, "map_kd", srgb=True)
        cover = self._picture(e.get("map_d") or e.get("map_tr") or "")
        if cover is not None:
            wrap = wrap_of(e.get("map_d") or e.get("map_tr") or "")
            base = _covered(base, cover, rgb, wrap)
        working = np.ones(3) if base is not None else np.clip(srgb_to_working(rgb), 0.0, 0.95)
        dissolve = _dissolve(e)
        glass = _number(e.get("illum"), 2) in _GLASS_KINDS
        see = 1.0 - dissolve if dissolve < (_GLASS_BELOW if glass else _PLAIN_BELOW) else 0.0
        emission = _colour(e.get("ke"), (0.0, 0.0, 0.0))
        glow = self._texture(e, "map_ke", srgb=True)
        if glow is not None and not max(emission):
            emission = (1.0, 1.0, 1.0)
        bump = self._picture(e.get("norm") or e.get("map_bump") or e.get("bump") or "")
        normal = None
        if bump is not None and ("norm" in e or _is_normal_map(bump)):
            told = e.get("norm") or e.get("map_bump") or e.get("bump") or ""
            normal = Texture(f"{name} normals", bump, srgb=False, wrap=wrap_of(told))
        r, g, b = (float(v) for v in working)
        shine = tuple(float(v) * GLOW_CD_M2 for v in np.maximum(srgb_to_working(np.clip(emission, 0, 1)), 0)
                      * max(1.0, max(emission)))  # fmt: skip
        return Material(
            (r, g, b), roughness=_roughness(e), metallic=min(max(_number(e.get("pm"), 0.0), 0.0), 1.0),
            transmission=min(max(see, 0.0), 1.0), ior=min(max(_number(e.get("ni"), 1.52), 1.0), 3.0) if see else 1.52,
            emission_cd_m2=(shine[0], shine[1], shine[2]), name=name, base_texture=base,
            normal_texture=normal, emission_texture=glow, rough_texture=self._rough(e),
            cutout=0.5 if cover is not None else None,
        )  # fmt: skip

    def _rough(self, e: dict[str, str]) -> Texture | None:
        """Maps of roughness and metal as one picture: roughness in green, metal in blue."""
        rough, metal = (self._picture(e.get(k, "")) for k in ("map_pr", "map_pm"))
        first = rough if rough is not None else metal
        if first is None:
            return None
        out = np.full_like(first, 255)
        out[..., 1] = first[..., 0] if rough is not None else 255 * _roughness(e)
        if metal is None:
            out[..., 2] = 255
        elif metal.shape == first.shape:
            out[..., 2] = metal[..., 0]
        else:
            size = first.shape[1], first.shape[0]
            out[..., 2] = np.asarray(Image.fromarray(metal).resize(size))[..., 0]
        told = wrap_of(e.get("map_pr" if rough is not None else "map_pm", ""))
        return Texture("roughness", out, srgb=False, wrap=told)

    def _texture(self, e: dict[str, str], key: str, srgb: bool) -> Texture | None:
        picture = self._picture(e.get(key, ""))
        if picture is None:
            return None
        return Texture(map_name(e[key]), picture, srgb, wrap_of(e[key]))

    def _picture(self, words: str) -> np.ndarray[Any, Any] | None:
        name = map_name(words)
        if not name:
            return None
        if name not in self._pictures:
            self._pictures[name] = self._read_picture(name)
        return self._pictures[name]

    def _read_picture(self, name: str) -> np.ndarray[Any, Any] | None:
        file = found_beside(self._folder, name)
        if file is None:
            self._remarks.append(
                Missing(f"The texture “{name}” is missing; put it beside the model, in one zip.")
            )
            return None
        try:
            with Image.open(file) as opened:
                if max(opened.size) > _LARGEST_PX:
                    raise ValueError(f"it is larger than {_LARGEST_PX} pixels")
                opened.thumbnail((_MOST_PX, _MOST_PX))
                return np.asarray(opened.convert("RGBA"))
        except (OSError, ValueError) as error:
            self._remarks.append(f"The texture “{name}” is unreadable: {error}")
            return None


def _number(text: str | None, otherwise: float) -> float:
    try:
        value = float((text or "").split()[-1])
    except (ValueError, IndexError):
        return otherwise
    return value if np.isfinite(value) else otherwise


def _colour(text: str | None, otherwise: tuple[float, float, float]) -> tuple[float, float, float]:
    """Three numbers, or one for all; anything else (spectra, XYZ) is what it is otherwise."""
    try:
        values = [float(v) for v in (text or "").split()]
    except ValueError:
        return otherwise
    if len(values) not in (1, 3) or not np.isfinite(values).all():
        return otherwise
    r, g, b = values if len(values) == 3 else values * 3
    return max(r, 0.0), max(g, 0.0), max(b, 0.0)


def _dissolve(e: dict[str, str]) -> float:
    """How much of a surface is there, by d or by Tr, which is the rest; ``d -halo`` has a word before its number."""
    if "d" in e:
        return min(max(_number(e["d"], 1.0), 0.0), 1.0)
    return min(max(1.0 - _number(e.get("tr"), 0.0), 0.0), 1.0)


def _roughness(e: dict[str, str]) -> float:
    if "pr" in e:
        return min(max(_number(e["pr"], 1.0), 0.0), 1.0)
    shininess = _number(e.get("ns"), 0.0)
    # Blinn's exponent n matches a microfacet width α² = 2/(n+2); exporters write 0 for matte.
    return 1.0 if shininess <= _MATTE else float(np.clip((2 / (shininess + 2)) ** 0.25, 0.05, 1))


def _is_normal_map(picture: np.ndarray[Any, Any]) -> bool:
    """Whether a bump picture holds directions: mostly blue, red and green about the middle."""
    r, g, b = (float(picture[..., c].mean()) for c in range(3))
    return b > 170 and abs(r - 128) < 30 and abs(g - 128) < 30


def _covered(
    base: Texture | None,
    cover: np.ndarray[Any, Any],
    rgb: tuple[float, float, float],
    wrap: tuple[Wrap, Wrap],
) -> Texture:
    """A paint with the picture of its coverage as alpha."""
    if base is None:
        pixels = np.empty_like(cover)
        pixels[..., :3] = np.round(255 * np.clip(rgb, 0, 1))
        name = "coverage"
    else:
        pixels, name, wrap = base.pixels.copy(), base.name, base.wrap
    alpha = cover[..., 3] if int(cover[..., 3].min()) < 250 else cover[..., 0]
    if alpha.shape != pixels.shape[:2]:
        alpha = np.asarray(Image.fromarray(alpha).resize((pixels.shape[1], pixels.shape[0])))
    pixels[..., 3] = alpha
    return Texture(name, pixels, srgb=True, wrap=wrap)
