"""Files of a still: the layered EXR with its output passes, and the finished picture."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Annotated, Literal

import numpy as np
from pydantic import AfterValidator, Field

from westlight.core.files import IdMatte, read_layers, write_exr, write_jpeg, write_picture
from westlight.core.files.pictures import layer_name
from westlight.core.finish import develop, developed_exactly
from westlight.core.transport.denoise import Denoiser
from westlight.core.transport.film import F4, Film

from .described import described_plainly
from .kept_light import KeptLight
from .spec import PictureSpec, Settings
from .spec.base import listed, one_of
from .translate import ev_of, exposed, finish_of, seen_softly, view_of

Kind = Literal["exr", "png", "png16", "tiff", "jpeg"]
#: Output passes of an EXR, with what the artist reads.
PASSES = {
    "direct": "direct", "bounced": "bounced", "reflection": "reflection",
    "transmission": "through glass", "albedo": "albedo", "normal": "normal", "depth": "depth",
    "position": "position", "occlusion": "occlusion", "alpha": "alpha", "speckle": "speckle",
    "denoised": "denoised beauty", "objects": "object mattes", "materials": "material mattes",
}  # fmt: skip
PassName = Annotated[str, AfterValidator(one_of(PASSES)), listed(PASSES)]
#: Those that are mattes with names, not pictures.
MATTES = ("objects", "materials")


#: Output passes of the guide that a finish may use.
_FOR_FINISH = ("depth", "alpha", "outside", "diffuse")


class Recipe(Settings):
    """A picture and the files that are wanted of it."""

    spec: PictureSpec
    folder: str
    stem: str = "still"
    files: list[Kind] = Field(default=["exr", "png"], min_length=1)
    passes: list[PassName] = Field(default_factory=list)
    sources: bool = True
    half: bool = True
    compression: Literal["zip", "zips", "piz", "none"] = "zip"
    screen: Literal["sRGB", "Display P3", "Rec.709"] = "sRGB"
    #: Pixels per inch that a print is meant at.
    dpi: float | None = Field(default=None, ge=30, le=2400)


def write_files(
    order: Recipe, film: Film | KeptLight, extra: Mapping[str, F4], mattes: Sequence[IdMatte] = ()
) -> dict[str, str]:
    """Write the files an order asks for; returns their paths by kind."""
    Path(order.folder).mkdir(parents=True, exist_ok=True)
    beauty = film.beauty
    made: dict[str, str] = {}
    for kind in order.files:
        ending = {"png16": "16.png", "jpeg": "jpg"}.get(kind, kind)
        file = Path(order.folder) / f"{order.stem}.{ending}"
        if kind == "exr":
            write_exr(file, beauty, layers_of(order, film, extra), half=order.half,
                      recipe=order.spec.model_dump_json(), mattes=mattes,
                      compression=order.compression,
                      described=described_plainly(order.spec, exposed(order.spec.exposure, beauty)))  # fmt: skip
        else:
            _write_finished(order, kind, file, _clean(order, film, beauty), film, extra)
        made[kind] = str(file)
    return made


def layers_of(order: Recipe, film: Film | KeptLight, extra: Mapping[str, F4]) -> dict[str, F4]:
    """Layers beside the beauty: one per source, then the output passes asked for."""
    layers = {name: film.contribution(name) for name in film.names} if order.sources else {}
    for name in order.passes:
        if name in MATTES:
            continue
        if name == "denoised":
            layers[name] = _denoised(order, film, film.beauty)
            continue
        layer = extra[name] if name in extra else film.output_pass(name)
        # Where nothing is met the sky is infinitely far, not at the lens.
        layers[name] = np.where(layer > 0, layer, np.float32(np.inf)) if name == "depth" else layer
    return layers


def sums_differ(file: Path, sources: Sequence[str]) -> float:
    """How far the sources of a written EXR are from adding up to its beauty, relative to its mean."""
    layers = read_layers(file)
    total = sum(layers[layer_name(n)] for n in sources)
    mean = float(np.abs(layers[""]).mean())
    return float(np.abs(total - layers[""]).mean()) / mean if mean > 0 else 0.0


def _clean(order: Recipe, film: Film | KeptLight, beauty: F4) -> F4:
    return _denoised(order, film, beauty) if order.spec.denoise else beauty


def _denoised(order: Recipe, film: Film | KeptLight, beauty: F4) -> F4:
    albedo, normal = film.output_pass("albedo"), film.output_pass("normal")
    return Denoiser()(beauty, albedo, normal, "best", film.seen, seen_softly(order.spec))


def _write_finished(
    order: Recipe,
    kind: Kind,
    file: Path,
    picture: F4,
    film: Film | KeptLight,
    extra: Mapping[str, F4],
) -> None:
    spec, e = order.spec, exposed(order.spec.exposure, picture)
    view = view_of(spec.view, spec.width_px, spec.height_px)
    finish = finish_of(spec.finish, e.tone, view.horizon())
    # The light of an older still may lack the last one.
    named = [n for n in _FOR_FINISH if isinstance(film, Film) or n in film.layers]
    passes = {n: film.output_pass(n) for n in named} | dict(extra)
    if kind in ("png", "jpeg"):
        shown = develop(
            picture, ev_of(e), e.kelvin, e.tint, finish, passes, order.screen, True, "fine"
        )
        write = write_jpeg if kind == "jpeg" else write_picture
        write(file, shown.pixels, order.screen, order.dpi, described_plainly(spec, e))
    else:
        exact = developed_exactly(picture, ev_of(e), e.kelvin, e.tint, finish, passes, order.screen)
        pixels = np.round(exact * 65535).astype(np.uint16)
        write_picture(file, pixels, order.screen, order.dpi, described_plainly(spec, e))
