"""Storage: typed rows in PostgreSQL and files by content hash."""

from .assets import AssetStore
from .rows import (
    Asset,
    Base,
    History,
    LightScene,
    Look,
    LookVersion,
    Model,
    Project,
    Proof,
    Source,
    Still,
    View,
)
from .session import AUTHOR, Store, require_lock

__all__ = [
    "AUTHOR", "Asset", "AssetStore", "Base", "History", "LightScene", "Look", "LookVersion", "Model",
    "Project", "Proof", "Source", "Still", "Store", "View", "require_lock",
]  # fmt: skip
