"""Films of half the size laid into a mix of the full one: paint is sharp, and no light is made up beside the sky."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.transport.film import Accumulator, GuideFilm
from westlight.engine.live.films import Film, FilmKey, FilmStore, Guide, Size


def guide(albedo: np.ndarray) -> Guide:
    return Guide(GuideFilm.empty(*albedo.shape[:2]), albedo.astype(np.float32))


def film(picture: np.ndarray) -> Film:
    made = Film(Size(*picture.shape[:2]), Accumulator.empty(*picture.shape[:2], split=False))
    made.clean = picture.astype(np.float32)
    return made


def test_even_light_takes_the_paint_of_the_larger_guide() -> None:
    """A fine pattern of paint that the small picture cannot hold comes out as it is."""
    paint = np.where(np.indices((8, 8)).sum(axis=0) % 2, 0.8, 0.2)[..., None].repeat(3, 2)
    small = np.full((4, 4, 3), 0.5)
    got = film(small * 10.0).enlarged(2, guide(small), guide(paint), Size(8, 8))
    assert got[3, 4, 0] == pytest.approx(
        min(10 * 0.5 / 0.52 * (paint[3, 4, 0] + 0.02), 5.0), rel=1e-5
    )
    assert got[3, 3, 0] == pytest.approx(10 * 0.5 / 0.52 * 0.22, rel=1e-5)


def test_the_sky_in_a_window_has_no_halo() -> None:
    """Left sky without paint, right a white wall: nothing is brighter than what it lies between."""
    small = np.zeros((4, 4, 3))
    small[:, 2:] = 0.8
    light = np.full((4, 4, 3), 3.0)
    large = small.repeat(2, 0).repeat(2, 1)
    got = film(light).enlarged(2, guide(small), guide(large), Size(8, 8))
    assert got.max() <= 3.0 + 1e-5


def test_what_is_made_of_a_film_counts_as_memory() -> None:
    """The store holds its limit whatever was reduced and enlarged, and gives up what nobody shows first."""
    one = FilmKey("one", Size(32, 32))
    bare = Film(one.size, Accumulator.empty(32, 32, split=False)).nbytes
    store = FilmStore(limit_bytes=3 * bare)
    shown = store.film(one)
    store.show("page", [one])
    shown.keep(np.ones((32, 32, 3), np.float32))
    shown.enlarged(4, None, None, Size(128, 128))
    assert store.bytes() >= bare + 128 * 128 * 3 * 4
    for name in ("two", "three", "four"):
        store.film(FilmKey(name, one.size))
    assert store.find(one) is shown
    assert store.find(FilmKey("two", one.size)) is None
