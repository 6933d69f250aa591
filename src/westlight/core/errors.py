"""Errors the artist can act on: each message says what is wrong and what to do."""

from __future__ import annotations


class WestlightError(Exception):
    """Base of all errors whose message is meant for the artist."""


class ModelError(WestlightError):
    """A building model cannot be read or used."""


class SourceError(WestlightError):
    """A source is set in a way that cannot emit light."""


class PictureFileError(WestlightError):
    """A picture file cannot be read or written."""


class Cancelled(WestlightError):
    """A long computation was stopped on request."""


class PhotometricError(WestlightError):
    """A photometric file that cannot be used."""
