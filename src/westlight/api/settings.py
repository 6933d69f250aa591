"""Where things are, from the environment."""

from __future__ import annotations

from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


class ServerSettings(BaseSettings):
    """Settings of one server, read from variables that begin with ``WESTLIGHT_``."""

    model_config = SettingsConfigDict(env_prefix="WESTLIGHT_")

    database_url: str = ""
    data: Path = Path("var")
    web: Path = Path("web/dist")
    demo: Path | None = None
    #: Names it is asked under beside those of this machine itself.
    names: tuple[str, ...] = ()
    #: What a browser must know to be let in; nothing on loopback, where only this machine asks.
    key: str = ""
    #: Passes after which a live picture stops, noise or not: fewer leave a shared machine to others.
    live_passes: int = Field(default=512, ge=1, le=65536)
    #: Most pixels across a live picture; the page draws a smaller one as large as it wants it.
    live_width: int = Field(default=8192, ge=64, le=8192)
    #: Set up the building that was worked on last before anybody asks for it.
    look_ahead: bool = False
