"""The look book: one page that holds everything, says nothing unescaped, and stays small."""

from __future__ import annotations

import base64
import io
import re
from html.parser import HTMLParser
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from westlight.studio.errors import BadEdit
from westlight.studio.look_book import MOST_BYTES, Leaf, look_book


class Page(HTMLParser):
    """What a page is made of, read by the standard library."""

    def __init__(self, page: bytes) -> None:
        super().__init__()
        self.tags: list[tuple[str, dict[str, str | None]]] = []
        self.text = ""
        self.feed(page.decode())

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        """Remember a tag."""
        self.tags.append((tag, dict(attrs)))

    def handle_data(self, data: str) -> None:
        """Remember text."""
        self.text += data

    def all(self, tag: str) -> list[dict[str, str | None]]:
        """Attributes of all tags of a kind."""
        return [attrs for name, attrs in self.tags if name == tag]


def still(folder: Path, name: str, width: int = 64, height: int = 36, noise: bool = False) -> Path:
    """A picture file."""
    file = folder / f"{name}.png"
    rng = np.random.default_rng(len(name))
    pixels = rng.integers(0, 255, (height, width, 3)) if noise else np.full((height, width, 3), 90)
    Image.fromarray(pixels.astype(np.uint8)).save(file)
    return file


def leaf(folder: Path, name: str, words: str = "", note: str = "", **of: int | bool) -> Leaf:
    return Leaf(name, name.partition(", ")[0], words, note, still(folder, name, **of))  # type: ignore[arg-type]


def test_the_page_asks_for_nothing_from_anywhere(tmp_path: Path) -> None:
    """All it shows is in it; names, notes and words are text whatever is written in them."""
    rude = '<script>alert("x")</script> & “Dinner”'
    made = look_book("Barn & Byre", "43.60° N, 9.10° W", [
        leaf(tmp_path, "Hall, Noon", 'Low sun "here".', rude), leaf(tmp_path, "Hall, Dusk"),
        leaf(tmp_path, "Yard, Noon"),
    ], rude, "2026-11-30")  # fmt: skip
    page = Page(made)
    assert page.text.count(rude) == 2
    assert len(page.all("script")) == 1
    pictures = [p for p in page.all("img") if p.get("src")]
    assert len(pictures) == 3
    for p in pictures:
        assert (p["src"] or "").startswith("data:image/jpeg;base64,")
    assert [p["alt"] for p in pictures] == ['Low sun "here".', "Hall, Dusk", "Yard, Noon"]
    assert not [a for _, attrs in page.tags for a in attrs if a in ("href", "srcset")]
    assert not re.search(rb"https?:|//[a-z]", re.sub(rb"base64,[^\"]*", b"", made))
    (policy,) = [m["content"] for m in page.all("meta") if m.get("http-equiv")]
    assert (policy or "").startswith("default-src 'none'; img-src data:")


def test_stills_of_one_view_and_shape_can_be_compared(tmp_path: Path) -> None:
    """The two of the hall; its upright one and the yard stand alone, and alone nothing is compared."""
    leaves = [
        leaf(tmp_path, "Hall, Noon"), leaf(tmp_path, "Hall, Dusk"),
        leaf(tmp_path, "Hall, Tall", width=36, height=64), leaf(tmp_path, "Yard, Noon"),
    ]  # fmt: skip
    page = Page(look_book("B", "", leaves, "", ""))
    assert len(page.all("select")) == 2
    assert [o["value"] for o in page.all("option")] == ["s0", "s1"] * 2
    chosen = [o["value"] for o in page.all("option") if "selected" in o]
    assert chosen == ["s0", "s1"]
    alone = Page(look_book("B", "", leaves[2:], "", ""))
    assert not alone.all("select") + alone.all("script")


def test_pictures_are_smaller_when_there_are_many(tmp_path: Path) -> None:
    """All of them fit into what a page may have, as large as that allows; what never fits is refused in words."""
    leaves = [
        leaf(tmp_path, f"V{n}, L", width=1920, height=1080, noise=True) for n in range(3)
    ]  # fmt: skip
    sizes = []
    for most in (MOST_BYTES, 3_000_000, 1_500_000):
        made = look_book("B", "", leaves, "", "", most)
        assert len(made) <= most
        first = base64.b64decode(re.search(rb"base64,([^\"]*)", made)[1])  # type: ignore[index]
        with Image.open(io.BytesIO(first)) as picture:
            sizes.append(picture.width)
    assert sizes == sorted(sizes, reverse=True)
    assert sizes[0] == 1920
    assert sizes[-1] < 1920
    with pytest.raises(BadEdit, match="choose some"):
        look_book("B", "", leaves, "", "", 200_000)
    with pytest.raises(BadEdit, match="No still"):
        look_book("B", "", [], "", "")
