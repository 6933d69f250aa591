"""A question about one opening: how it would be dressed, where it stands and which glass is in it."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from pydantic import Field

from westlight.core.model.dressing import panes_of

from ..scenery import frame_of, parts_of
from ..spec import Dress, Settings
from .asked import Answer, Asked
from .hands import MOST_M


class OpeningNamed(Settings):
    """An opening by its name."""

    opening: Annotated[str, Field(max_length=80)]


class Dressed(Answer):
    """The opening with nothing before it yet, and as its glass is; none if there is no such opening."""

    dress: Dress | None = None


def dress(a: Asked, of: OpeningNamed) -> Dressed:
    """An opening as it can be dressed."""
    scene, model = a.p.scene, a.p.spec.model
    if scene is None or model is None:
        return Dressed()
    portal = next((p for p in scene.openings(model.model_copy(update={"edits": model.edits.model_copy(
        update={"openings": {}})})) if p.name == of.opening), None)  # fmt: skip
    if portal is None or max(portal.width, portal.height) > MOST_M:
        return Dressed()
    x, y, z = (round(float(v), 4) for v in np.asarray(portal.position, float))
    i, j, k = (round(float(v), 6) for v in np.asarray(portal.inward, float))
    made = Dress(
        opening=portal.name, position=(x, y, z), inward=(i, j, k), width=round(float(portal.width), 4),
        height=round(float(portal.height), 4), roll_deg=portal.roll_deg,
    )  # fmt: skip
    bare = parts_of(model.model_copy(update={"dress": []}))
    return Dressed(dress=made.model_copy(update={"panes": panes_of(bare, frame_of(made))[:40]}))
