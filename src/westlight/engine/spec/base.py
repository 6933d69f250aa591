"""Quantities that settings share, and the base of all settings."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Annotated, Any, ClassVar

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, WithJsonSchema, model_validator

from westlight.core.colour.display import TONES
from westlight.core.sources import SHAPES

#: A file, by the SHA-256 of its content; see `engine.files`.
FileId = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
#: Metres from the origin: what single precision still tells apart.
Metres = Annotated[float, Field(ge=-1e7, le=1e7)]
Point = tuple[Metres, Metres, Metres]
#: Stops a source can be moved from its set amount, either way.
MOST_STOPS = 20.0
Level = Annotated[float, Field(ge=-MOST_STOPS, le=MOST_STOPS)]
Hex = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]


def one_of(table: Mapping[str, object]) -> Callable[[str], str]:
    """A check that a word is one of a table."""

    def known(word: str) -> str:
        if word not in table:
            raise ValueError(f"this is one of {', '.join(table)}")
        return word

    return known


def listed(table: Mapping[str, object]) -> WithJsonSchema:
    """The words of a table as generated clients see them."""
    return WithJsonSchema({"type": "string", "enum": list(table)})


ShapeName = Annotated[str, AfterValidator(one_of(SHAPES)), listed(SHAPES)]
ToneName = Annotated[str, AfterValidator(one_of(TONES)), listed(TONES)]
Kelvin = Annotated[float, Field(ge=1000, le=25000)]


def dial(
    normal: float, least: float, most: float, label: str, step: float, unit: str = "",
    shown: tuple[float, float] | None = None, logarithmic: bool = False, whole: bool = False,
    above: bool = False, optional: bool = False,
) -> Any:  # fmt: skip
    """A number that is set on a slider: its default and limits, and everything that a page draws it by.

    ``unit``: how it is written; ``%`` for a share of 1, ``-EV`` for stops below. ``shown``: what the slider spans, where
    that is less than what is allowed. ``above``: the least value itself is not allowed. ``optional``: not set by default.
    """
    default = None if optional else int(normal) if whole else float(normal)
    extra: Any = drawn(label, *(shown or (least, most)), step, unit, normal, logarithmic)
    if above:
        return Field(default, gt=least, le=most, json_schema_extra=extra)
    return Field(default, ge=least, le=most, json_schema_extra=extra)


def drawn(
    label: str, low: float, high: float, step: float, unit: str = "", normal: float = 0.0, logarithmic: bool = False
) -> dict[str, Any]:  # fmt: skip
    """What a page draws a number by: as `dial`, for a field whose limits are its own."""
    return {"dial": {"label": label, "min": low, "max": high, "step": step, "normal": normal, "unit": unit,
                     "logarithmic": logarithmic}}  # fmt: skip


def dials(of: type[BaseModel]) -> dict[str, dict[str, Any]]:
    """What the numbers of some settings are drawn by, by their names in order."""
    found: dict[str, dict[str, Any]] = {}
    for name, field in of.model_fields.items():
        extra = field.json_schema_extra
        drawn = extra.get("dial") if isinstance(extra, dict) else None
        if isinstance(drawn, dict):
            found[name] = dict(drawn)
    return found


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
