"""Hierarchies: what is split and what is not, and that rays meet the same things either way."""

from __future__ import annotations

import numpy as np
import pytest

from westlight.core.transport import embree
from westlight.core.transport.embree import EmbreeScene, sprawls

from .shapes import BOX_FACES

FACES = np.array(BOX_FACES, np.int32)


def boxes(count: int, turned: float, pitched: float) -> tuple[np.ndarray, np.ndarray]:
    """Beams of 8 m by some centimetres anywhere in a hall of 12 m, turned and pitched by angles, and the hall itself."""
    rng = np.random.default_rng(0)
    c, s, up, over = np.cos(turned), np.sin(turned), np.sin(pitched), np.cos(pitched)
    turn = np.array([[c * over, -s, -c * up], [s * over, c, -s * up], [up, 0, over]])
    beam = np.array([[x, y, z] for x in (-4, 4) for y in (-0.05, 0.05) for z in (-0.08, 0.08)])
    hall = np.array([[x, y, z] for x in (-6, 6) for y in (-6, 6) for z in (0, 6)], float)
    places = rng.uniform((-4, -4, 1), (4, 4, 3), (count, 3))
    points = np.concatenate([*(beam @ turn.T + p for p in places), hall]).astype(np.float32)
    return points, np.concatenate([FACES + 8 * i for i in range(count + 1)]).astype(np.int32)


def met_by_hand(points: np.ndarray, faces: np.ndarray, at: np.ndarray, way: np.ndarray) -> float:
    """Distance to the first triangle along a ray, one after the other (Möller and Trumbore 1997)."""
    a, b, c = (points[faces[:, i]].astype(float) for i in range(3))
    normal = np.cross(way, c - a)
    flat = (normal * (b - a)).sum(axis=1)
    with np.errstate(all="ignore"):
        u = (normal * (at - a)).sum(axis=1) / flat
        other = np.cross(at - a, b - a)
        v = (other * way).sum(axis=1) / flat
        far = (other * (c - a)).sum(axis=1) / flat
    hit = (u >= 0) & (v >= 0) & (u + v <= 1) & (far > 0)
    return float(far[hit].min(initial=np.inf))


def test_what_lies_askew_is_split() -> None:
    """Long beams at an angle to the axes, but neither those along them nor many small things at any angle."""
    assert sprawls(*boxes(80, 0.8, 0.5))
    assert not sprawls(*boxes(80, 0.0, 0.0))
    points, faces = boxes(400, 0.8, 0.5)
    small = points.copy()
    middles = points[:-8].reshape(-1, 8, 3).mean(axis=1).repeat(8, axis=0)
    small[:-8] = middles + (points[:-8] - middles) * 0.02
    assert not sprawls(small, faces)
    assert not sprawls(points, faces[:0])


@pytest.mark.parametrize("quality", [embree._QUALITY_MEDIUM, embree._QUALITY_HIGH])
def test_rays_meet_the_same_in_every_build(quality: int, monkeypatch: pytest.MonkeyPatch) -> None:
    points, faces = boxes(40, 0.8, 0.5)
    for name in ("_QUALITY_MEDIUM", "_QUALITY_HIGH"):
        monkeypatch.setattr(embree, name, quality)
    scene = EmbreeScene()
    scene.add_triangles(points, faces)
    scene.commit()
    rng = np.random.default_rng(1)
    starts, ways = rng.uniform((-5, -5, 0.2), (5, 5, 5), (200, 3)), rng.normal(size=(200, 3))
    ways /= np.linalg.norm(ways, axis=1)[:, None]
    by_hand = [met_by_hand(points, faces, a, w) for a, w in zip(starts, ways, strict=True)]
    np.testing.assert_allclose(scene.distances(starts, ways), by_hand, rtol=1e-4, atol=1e-4)


@pytest.mark.parametrize(
    ("turned", "wanted"), [(0.8, embree._QUALITY_HIGH), (0.0, embree._QUALITY_MEDIUM)]
)
def test_a_scene_is_built_as_its_triangles_lie(
    turned: float, wanted: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Also with something along the axes beside it, and again after it was moved."""
    built: list[int] = []
    monkeypatch.setattr(embree, "_set_quality", lambda _, quality: built.append(quality))
    scene = EmbreeScene()
    scene.add_triangles(*boxes(80, turned, turned / 2))
    scene.add_triangles(*boxes(0, 0.0, 0.0), geometry_id=1)
    for quickly in (False, True, False):
        scene.commit(quickly)
    assert built == [wanted, embree._QUALITY_LOW, wanted]
