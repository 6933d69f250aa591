"""A look book for the client: the stills of a project on one page, which is one file and asks for nothing from anywhere."""

from __future__ import annotations

import base64
import io
from collections.abc import Sequence
from dataclasses import dataclass
from html import escape
from pathlib import Path

from PIL import Image

from .errors import BadEdit

#: Widths in pixels and qualities of the pictures that are tried until the file is small enough, and bytes it may have.
SIZES = ((1920, 88), (1600, 84), (1280, 80), (960, 76), (720, 70))
MOST_BYTES = 19_000_000
#: What base64 makes of three bytes, and what the page itself takes.
_GROWS, _PAGE_BYTES = 4 / 3, 60_000


@dataclass(frozen=True)
class Leaf:
    """A still of the book: its name, view and look, its light in words, a note, and its file."""

    name: str
    view: str
    described: str
    note: str
    file: Path


def look_book(
    project: str, place: str, leaves: Sequence[Leaf], note: str, day: str, small: int = MOST_BYTES
) -> bytes:
    """The page as HTML; raises `BadEdit` for no stills, or more than fit into ``small`` bytes.

    Two stills of one view and one shape can be compared by a wipe. Printed, each still stands whole on its page.
    """
    if not leaves:
        raise BadEdit("No still is finished yet; save one first.")
    pictures = _small_enough([leaf.file for leaf in leaves], small - _PAGE_BYTES)
    sources = [f"data:image/jpeg;base64,{base64.b64encode(data).decode()}" for data, _ in pictures]
    pages = [_leaf(n, leaf, sources[n]) for n, leaf in enumerate(leaves)]
    groups: dict[tuple[str, float], list[int]] = {}
    for n, (leaf, (_, aspect)) in enumerate(zip(leaves, pictures, strict=True)):
        groups.setdefault((leaf.view, round(aspect, 2)), []).append(n)
    wipes = [_wipe(view, [leaves[n].name for n in of], of)
             for (view, _), of in groups.items() if len(of) > 1]  # fmt: skip
    return _PAGE.format(
        title=escape(project), place=escape(place), day=escape(day),
        note=f"<p class=note>{_lines(note)}</p>" if note else "",
        leaves="\n".join(pages), wipes="\n".join(wipes), style=_STYLE,
        script=_SCRIPT if wipes else "",
    ).encode()  # fmt: skip


def _small_enough(files: Sequence[Path], most: float) -> list[tuple[bytes, float]]:
    """Every picture as JPEG with its aspect, as large as all of them together may be."""
    for width, quality in SIZES:
        made = [_jpeg(f, width, quality) for f in files]
        if sum(len(data) for data, _ in made) * _GROWS <= most:
            return made
    raise BadEdit("So many stills are more than one page can hold; choose some of them.")


def _jpeg(file: Path, width: int, quality: int) -> tuple[bytes, float]:
    with Image.open(file) as opened:
        picture = opened.convert("RGB")
    picture.thumbnail((width, 4 * width), Image.Resampling.LANCZOS)
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=quality, optimize=True)
    return out.getvalue(), picture.width / picture.height


def _lines(text: str) -> str:
    return "<br>".join(escape(line) for line in text.splitlines())


def _leaf(n: int, leaf: Leaf, source: str) -> str:
    words = f"<p>{escape(leaf.described)}</p>" if leaf.described else ""
    note = f"<p class=note>{_lines(leaf.note)}</p>" if leaf.note else ""
    alt = escape(leaf.described or leaf.name, quote=True)
    return (
        f'<figure><img id="s{n}" src="{source}" alt="{alt}">'
        f"<figcaption><h2>{escape(leaf.name)}</h2>{words}{note}</figcaption></figure>"
    )


def _wipe(view: str, names: Sequence[str], of: Sequence[int]) -> str:
    """Two stills of a view over each other; which, and where one ends, is the reader's choice."""

    def choice(side: str, chosen: int) -> str:
        options = "".join(
            f'<option value="s{n}"{" selected" if k == chosen else ""}>{escape(name)}</option>'
            for k, (n, name) in enumerate(zip(of, names, strict=True))
        )
        return f'<label>{side} <select class="{side.lower()}">{options}</select></label>'

    return (
        f"<section class=wipe><h2>{escape(view)}, compared</h2><div class=pair>"
        '<img class=under alt=""><img class=over alt=""></div>'
        f"<p class=controls>{choice('Left', 0)}<input type=range min=0 max=100 value=50 "
        f'aria-label="Where the left picture ends">{choice("Right", 1)}</p></section>'
    )


_STYLE = """
:root { color-scheme: light; --ink: #1c1c1c; --pale: #5a5a5a; }
* { box-sizing: border-box; }
body { margin: 0 auto; max-width: 1240px; padding: 32px 24px 64px; color: var(--ink); background: #f2f1ef;
  font: 15px/1.5 system-ui, sans-serif; }
header { border-bottom: 1px solid #c9c6c1; margin-bottom: 28px; padding-bottom: 14px; }
h1 { font-size: 28px; line-height: 1.2; margin: 0 0 4px; }
h2 { font-size: 17px; margin: 0 0 2px; }
p { margin: 0 0 4px; color: var(--pale); max-width: 78ch; }
.note { color: var(--ink); margin-top: 6px; }
figure, .wipe { margin: 0 0 40px; }
figure img { display: block; width: 100%; height: auto; background: #ccc; }
figcaption { padding-top: 10px; }
.wipe { display: none; }
.js .wipe { display: block; }
.pair { position: relative; margin-top: 8px; background: #ccc; }
.pair img { display: block; width: 100%; }
.pair .over { position: absolute; inset: 0; clip-path: inset(0 calc(100% - var(--at, 50%)) 0 0); }
.controls { display: flex; gap: 16px; align-items: center; padding-top: 10px; max-width: none; }
.controls input { flex: 1; min-width: 80px; accent-color: #c8701a; }
select { font: inherit; max-width: 260px; }
@media print {
  body { background: #fff; max-width: none; padding: 0; }
  .js .wipe { display: none; }
  figure { break-inside: avoid; margin-bottom: 24px; }
  figure img { max-height: 75vh; width: auto; max-width: 100%; }
}
"""

_SCRIPT = """<script>
document.documentElement.classList.add("js");
for (const w of document.querySelectorAll(".wipe")) {
  const at = (c) => w.querySelector(c), show = () => {
    at(".over").src = document.getElementById(at(".left").value).src;
    at(".under").src = document.getElementById(at(".right").value).src;
    at(".pair").style.setProperty("--at", at("input").value + "%");
  };
  w.addEventListener("input", show);
  show();
}
</script>"""

_PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; img-src data:; style-src 'unsafe-inline'; script-src 'unsafe-inline'">
<title>{title}</title><style>{style}</style></head>
<body><header><h1>{title}</h1><p>{place}</p><p>{day}</p>{note}</header>
<main>
{wipes}
{leaves}
</main>{script}</body></html>
"""
