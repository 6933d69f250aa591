"""Finishes the artist keeps under a name, for any look of any building."""

from __future__ import annotations

from typing import Any

from westlight.engine.spec import FinishSettings, ToneName

from .errors import BadEdit
from .settings import LookState
from .shelf import Kept, NamedShelf

#: What belongs to one building and is not kept.
_OF_THE_BUILDING = {"parts", "backdrop"}


class KeptFinish(Kept):
    """A finish with the tone and green–magenta that go with it."""

    tone: ToneName
    tint: float
    finish: FinishSettings


class Finishes(NamedShelf[KeptFinish]):
    """The shelf of kept finishes; one of a name."""

    media_type, what = "application/x-westlight-finish", "finish"
    kind = KeptFinish

    def keep(self, name: str, look: LookState) -> None:
        """Keep the finish of a look, without its backdrop and single parts; an equal name is replaced."""
        name = name.strip()
        if not name:
            raise BadEdit("Give the finish a name that says what it does.")
        plain = look.finish.model_copy(
            update={k: FinishSettings.model_fields[k].get_default(call_default_factory=True)
                    for k in _OF_THE_BUILDING}
        )  # fmt: skip
        self.put(KeptFinish(name=name[:60], tone=look.exposure.tone, tint=look.exposure.tint,
                            finish=plain))  # fmt: skip

    def cards(self) -> list[dict[str, Any]]:
        """All kept finishes, by name: what a look takes over of each."""
        return [
            {"id": asset, "name": kept.name, "settings": {
                "finish": kept.finish.model_dump(mode="json", exclude=_OF_THE_BUILDING),
                "exposure": {"tone": kept.tone, "tint": kept.tint}}}
            for asset, kept in self.all()
        ]  # fmt: skip
