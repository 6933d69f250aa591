"""Quantities that settings share, and the base of all settings."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Point = tuple[float, float, float]
#: Stops a source can be moved from its set amount, either way.
MOST_STOPS = 20.0
Level = Annotated[float, Field(ge=-MOST_STOPS, le=MOST_STOPS)]
Hex = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]
Kelvin = Annotated[float, Field(ge=1000, le=25000)]


class Settings(BaseModel):
    """Base of all settings: unknown fields are an error, so a typing slip is noticed."""

    model_config = ConfigDict(extra="forbid", json_schema_serialization_defaults_required=True)


Share = Annotated[float, Field(ge=0, le=1)]
Signed = Annotated[float, Field(ge=-1, le=1)]
