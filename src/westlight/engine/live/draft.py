"""What is shown under a moving hand: which sources it moves, and the draft of a view that moves.

Under a moving camera, or a building that is edited, the direct light of its strongest sources is traced; all other
light is laid on evenly, as it was before the hand took hold.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from westlight.core.colour import AP1_LUMINANCE
from westlight.core.transport.film import F4

from ..spec import SkySettings
from .films import cropped
from .pictures import Pictures
from .prepared import Prepared, built_otherwise

#: Sources traced under a moving camera, and the reflectance its even light is reckoned with.
DRAFT_SOURCES = 2
MEAN_ALBEDO = 0.35
#: Share of the light below which a source is not worth tracing in a draft.
WORTH_DRAFTING = 0.02
#: Of a source that is traced about so much comes by bounces, which the draft leaves out.
BOUNCED_SHARE = 0.4


@dataclass(frozen=True)
class Draft:
    """The picture under a moving camera: direct light of its strongest sources, the rest evenly.

    ``ambient`` is what an even white surface sends back of all other light, ``outside`` what is seen
    through openings, RGB in cd/m²; both from the last picture before the camera moved.
    """

    sources: tuple[str, ...]
    ambient: F4
    outside: F4


class Hand:
    """What the hand has moved since it took hold."""

    def __init__(self) -> None:
        self.moved: frozenset[str] = frozenset()
        self.draft: Draft | None = None

    def note(self, before: Prepared, now: Prepared, pictures: Pictures) -> None:
        """Take in a new spec: what is moved in it, and whether the view is drafted."""
        a, b = before.spec, now.spec
        otherwise = a.view != b.view or built_otherwise(a, b)
        if not b.moving:
            self.moved = frozenset()
            if otherwise:
                self.draft = None
            return
        moved = set(self.moved)
        if otherwise:
            if self.draft is None:
                self.draft = draft_of(before, pictures)
            moved |= set(self.draft.sources)
        old, new = before.keys.own, now.keys.own
        moved |= {
            s.id for s in b.sources
            if not isinstance(s.settings, SkySettings) and old.get(s.id) != new[s.id]
        }  # fmt: skip
        self.moved = frozenset(moved)

    def settle(self, p: Prepared, pictures: Pictures) -> None:
        """Let the draft go once the hand is off and every source has light in the new view."""
        if p.spec.moving or self.draft is None:
            return
        if all(pictures.best_fresh(p, s) is not None for s in p.counting):
            self.draft = None

    def waits(self, p: Prepared, pictures: Pictures) -> bool:
        """Whether a draft has no surfaces yet to lay its even light on: without it, it is black."""
        return self.draft is not None and pictures.guide(p, p.moving_scale) is None


def draft_of(before: Prepared, pictures: Pictures) -> Draft:
    """What a moving camera shows, from the films of the view it starts from."""
    light: list[tuple[float, str, F4]] = []
    rest = np.zeros(3, np.float32)
    outside = np.zeros(3, np.float32)
    for s in before.counting:
        found = pictures.best(before, s, frozenset())
        if found is None or found.film.mean is None:
            continue
        picture = found.film.at(1) * before.gains[s.id].astype(np.float32)
        guide = pictures.guide(before, found.scale)
        seen = np.zeros((*picture.shape[:2], 1), np.float32)
        if guide is not None:
            seen = guide.film.output_pass("outside")[..., None]
        outside += (picture * seen).sum(axis=(0, 1)) / max(float(seen.sum()), 1.0)
        inside = (picture * (1 - seen)).mean(axis=(0, 1))
        if isinstance(s.settings, SkySettings):
            rest += inside
        else:
            light.append((float(inside @ AP1_LUMINANCE), s.id, inside))
    light.sort(key=lambda entry: entry[0], reverse=True)
    whole = sum(y for y, _, _ in light) + float(rest @ AP1_LUMINANCE)
    chosen = tuple(i for y, i, _ in light[:DRAFT_SOURCES] if y > WORTH_DRAFTING * whole)
    for y, i, inside in light:
        rest += inside * np.float32(BOUNCED_SHARE if i in chosen else 1.0) if y > 0 else 0
    return Draft(chosen, rest / np.float32(MEAN_ALBEDO), outside)


def drawn(draft: Draft, p: Prepared, pictures: Pictures) -> F4:
    """The scene-linear picture (h, w, 3) of a draft at the scale of a moving hand."""
    size = p.size(p.moving_scale)
    picture = np.zeros((*size, 3), np.float32)
    for s in p.counting:
        if s.id not in draft.sources:
            continue
        film = pictures.film(p, s, 0, p.moving_scale)
        if film is None or film.clean is None:
            film = pictures.last(s.id, size)
        if film is not None and film.clean is not None:
            picture += cropped(film.clean, size) * p.gains[s.id].astype(np.float32)
    guide = pictures.guide(p, p.moving_scale)
    if guide is not None:
        albedo, normal = guide.film.output_pass("albedo"), guide.film.output_pass("normal")
        # A little of the ceiling's shade, so that edges between like surfaces stay.
        picture += (0.8 + 0.2 * normal[..., 2:3]) * albedo * draft.ambient
        picture += guide.film.output_pass("outside")[..., None] * draft.outside
    return picture
