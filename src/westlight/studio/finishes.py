"""Finishes the artist keeps under a name, for any look of any building."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import Field
from sqlalchemy import select

from westlight.engine.spec import FinishSettings, Settings
from westlight.store import Asset, AssetStore, Store

from .errors import BadEdit, NotFound
from .settings import LookState

MEDIA_TYPE = "application/x-westlight-finish"
#: What belongs to one building and is not kept.
_OF_THE_BUILDING = {"parts", "backdrop"}


class KeptFinish(Settings):
    """A finish with the tone and green–magenta that go with it."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    tone: Literal["natural", "linear", "film"]
    tint: float
    finish: FinishSettings


class Finishes:
    """The shelf of kept finishes; one of a name."""

    def __init__(self, store: Store, assets: AssetStore) -> None:
        self.store, self.assets = store, assets

    def keep(self, name: str, look: LookState) -> None:
        """Keep the finish of a look, without its backdrop and single parts; an equal name is replaced."""
        name = name.strip()
        if not name:
            raise BadEdit("Give the finish a name that says what it does.")
        plain = look.finish.model_copy(
            update={k: FinishSettings.model_fields[k].get_default(call_default_factory=True)
                    for k in _OF_THE_BUILDING}
        )  # fmt: skip
        kept = KeptFinish(name=name[:60], tone=look.exposure.tone, tint=look.exposure.tint,
                          finish=plain)  # fmt: skip
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "finish.json"
            file.write_text(kept.model_dump_json(), encoding="utf-8")
            asset, size = self.assets.put(file), file.stat().st_size
        with self.store.session() as session:
            same = select(Asset).where(Asset.media_type == MEDIA_TYPE, Asset.name == kept.name)
            for old in session.scalars(same).all():
                session.delete(old)
            session.flush()
            session.add(Asset(id=asset, name=kept.name, media_type=MEDIA_TYPE, size_bytes=size))

    def shelf(self) -> list[dict[str, Any]]:
        """All kept finishes, by name: what a look takes over of each."""
        with self.store.session() as session:
            ids = session.scalars(select(Asset.id).where(Asset.media_type == MEDIA_TYPE)).all()
        found = []
        for asset in ids:
            file = self.assets.path(asset, ".json")
            if not file.is_file():
                # Lost with its folder: one card less, not no shelf at all.
                continue
            kept = KeptFinish.model_validate_json(file.read_text(encoding="utf-8"))
            finish = kept.finish.model_dump(mode="json", exclude=_OF_THE_BUILDING)
            found.append({"id": asset, "name": kept.name, "settings": {
                "finish": finish, "exposure": {"tone": kept.tone, "tint": kept.tint}}})  # fmt: skip
        return sorted(found, key=lambda k: str(k["name"]).lower())

    def remove(self, asset: str) -> None:
        """Take a finish off the shelf; looks that use it stay as they are."""
        with self.store.session() as session:
            row = session.get(Asset, asset)
            if row is None or row.media_type != MEDIA_TYPE:
                raise NotFound("This finish is no longer on the shelf.")
            session.delete(row)
