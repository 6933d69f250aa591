"""Quantities that settings share, and the base of all settings."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar

from pydantic import BaseModel, ConfigDict, Field, model_validator

#: A file, by the SHA-256 of its content; see `engine.files`.
FileId = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
#: Metres from the origin: what single precision still tells apart.
Metres = Annotated[float, Field(ge=-1e7, le=1e7)]
Point = tuple[Metres, Metres, Metres]
#: Stops a source can be moved from its set amount, either way.
MOST_STOPS = 20.0
Level = Annotated[float, Field(ge=-MOST_STOPS, le=MOST_STOPS)]
Hex = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]
Kelvin = Annotated[float, Field(ge=1000, le=25000)]


class Settings(BaseModel):
    """Base of all settings: unknown fields are an error, so a typing slip is noticed.

    Fields that earlier versions had are dropped where they stand in what was kept.
    """

    model_config = ConfigDict(
        extra="forbid", allow_inf_nan=False, json_schema_serialization_defaults_required=True
    )
    #: Fields of earlier versions.
    gone: ClassVar[frozenset[str]] = frozenset()

    @model_validator(mode="before")
    @classmethod
    def _without_gone(cls, told: Any) -> Any:
        if isinstance(told, dict) and not cls.gone.isdisjoint(told):
            return {name: value for name, value in told.items() if name not in cls.gone}
        return told


Share = Annotated[float, Field(ge=0, le=1)]
Signed = Annotated[float, Field(ge=-1, le=1)]
