"""The live picture: sessions of one engine, and what each is made of (see docs/architecture.md)."""

from .films import Film, FilmKey, FilmStore, Size
from .prepared import Prepared
from .schedule import Job, Policy, next_job
from .session import Session, Shared

__all__ = [
    "Film", "FilmKey", "FilmStore", "Job", "Policy", "Prepared", "Session", "Shared", "Size", "next_job",
]  # fmt: skip
