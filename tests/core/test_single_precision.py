"""Kernels keep to single precision: one double would spread through all that is computed from it."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
import pytest
from numba import typeof

from westlight.core.transport import layout as L
from westlight.core.transport.kernels import (
    camera,
    emitters,
    hit,
    numbers,
    rays,
    skies,
    surface,
    textures,
)
from westlight.core.transport.kernels.numbers import BLACK, UP
from westlight.core.transport.kernels.points import pixel_seed

from .pieces import callable_piece

F = np.float32(0.4)
SEED = np.uint64(callable_piece(pixel_seed)(1, 2, 3))
TABLE = np.ones((4, 4), np.float32)
LOBES = surface.Lobes(BLACK, F, F, F, F, F, F, F, F, UP)


class Tables(NamedTuple):
    """What of a scene evaluating surfaces reads."""

    energy: np.ndarray
    energy_mean: np.ndarray


TABLES = Tables(np.stack([TABLE, TABLE]), TABLE[0])


def test_a_piece_called_from_python_is_an_error_and_not_the_end() -> None:
    with pytest.raises(SystemError):
        numbers.dot(UP, UP)


@pytest.mark.parametrize(
    ("piece", "arguments"),
    [
        (camera.camera_ray, (np.zeros(L.CAMERA_FLOATS, np.float32), SEED, np.uint32(0), 1, 2)),
        (numbers.frame, (UP,)),
        (numbers.normalise, (UP,)),
        (numbers.along, (UP, UP, F)),
        (hit.blend, (UP, UP, UP, F, F)),
        (rays.offset, (UP, UP, UP)),
        (skies.sample_sun, (np.ones(L.SOURCE_FLOATS, np.float32), F, F)),
        (emitters.sample_shape, (np.ones(L.EMITTER_FLOATS, np.float32), 0, 1, UP, F, F)),
        (emitters.shape_density, (np.ones(L.EMITTER_FLOATS, np.float32), 0, UP, UP, F)),
        (surface.prepare, (TABLES, BLACK, F, F, UP)),
        (surface.evaluate, (TABLES, LOBES, F, UP)),
        (surface.sample, (LOBES, F, F, np.bool_(True))),
        (textures.look_up, (np.zeros((4, 4), np.uint8), np.ones((1, L.TEXTURE_INTS), np.int64),
                            np.ones((2, 256), np.float32), 0, False, F, F)),
    ],
)  # fmt: skip
def test_a_piece_returns_single_precision(piece: Any, arguments: tuple[object, ...]) -> None:
    piece.compile(tuple(typeof(a) for a in arguments))
    returned = [str(s.signature.return_type) for s in piece.overloads.values()]
    assert returned
    assert not [t for t in returned if "float64" in t]
