"""What a part of a building is taken for, by the words of its name and what it is made of."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from .material import Material

Tag = Literal["building", "glass", "ground", "surroundings", "plant", "lamp body", "furniture"]

#: Words in a part's name that make it a lamp.
LAMP_WORDS = ("lamp", "pendant", "lantern", "bulkhead", "luminaire", "downlight", "spot", "sconce",
              "chandelier", "light fitting", "strip light")  # fmt: skip
#: Words in names that tell what a part is, the first that fits.
_WORDS: dict[Tag, tuple[str, ...]] = {
    "lamp body": LAMP_WORDS,
    "plant": ("tree", "bush", "hedge", "shrub", "plant", "leaf", "leaves"),
    "surroundings": ("neighbour", "house", "hill", "shore", "horizon", "context", "surround", "shed"),
    "ground": ("ground", "terrain", "meadow", "lawn", "grass", "quay", "pavement", "road", "yard",
               "water", "site"),
    "furniture": ("table", "chair", "stool", "bench", "shelf", "shelves", "desk", "sofa", "bed",
                  "cabinet", "rack", "pot", "vase", "bowl", "cup", "book", "board"),
}  # fmt: skip


def guessed_tag(name: str, materials: Sequence[Material] = ()) -> Tag:
    """What a part is taken for, by its material and the words of its name.

    >>> guessed_tag("Pendant 3"), guessed_tag("East wall")
    ('lamp body', 'building')
    """
    if materials and all(m.is_pane for m in materials):
        return "glass"
    low = name.lower()
    return next((t for t, words in _WORDS.items() if any(w in low for w in words)), "building")
