"""Kept light: mixed again it is the picture that rendering would have made; what it cannot, it says."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from westlight.core.errors import PictureFileError, WestlightError
from westlight.core.files import read_layers, write_exr
from westlight.engine.kept_light import mix_again, read_light
from westlight.engine.scenery import gains_of
from westlight.engine.spec import FixtureSettings, PictureSpec, SkySettings
from westlight.engine.still import FIRST_PASSES, MixOrder, StillRun, mix

from .. import stored
from .test_still import order, quiet


@pytest.fixture(scope="module")
def done(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, PictureSpec]:
    """A rendered still with its kept light, and its spec."""
    folder = tmp_path_factory.mktemp("still")
    wanted = order(folder, files=["exr"], half=False).model_copy(update={"samples": FIRST_PASSES})
    files = StillRun(wanted, quiet).render()
    assert files is not None
    return Path(files["light"]), wanted.spec


def changed(spec: PictureSpec, which: str, **changes: object) -> PictureSpec:
    """A spec with one source changed."""
    sources = [s.model_copy(update=changes) if s.id == which else s for s in spec.sources]
    return spec.model_copy(update={"sources": sources})


def lamp(spec: PictureSpec, which: str, **changes: object) -> PictureSpec:
    """A spec with the settings of one lamp changed."""
    found = next(s for s in spec.sources if s.id == which)
    assert isinstance(found.settings, FixtureSettings)
    return changed(spec, which, settings=found.settings.model_copy(update=changes))


def test_levels_colour_and_mute_equal_a_new_rendering(
    done: tuple[Path, PictureSpec], tmp_path: Path
) -> None:
    """+2 stops on one lamp, another kelvin and lumen on the second, the sky dimmed: the same sums."""
    light, spec = done
    now = changed(lamp(spec, "b", kelvin=6500.0, lumen=300.0), "a", level=2.0)
    now = changed(now, "sky", level=-3.0)
    mixed = read_light(light)
    assert mix_again(mixed, now, gains_of(now)) == []
    # As many passes as every source gets: after those it depends on the levels.
    fresh = order(tmp_path, files=["exr"], half=False, sources=False).model_copy(
        update={"spec": now, "samples": FIRST_PASSES}
    )
    files = StillRun(fresh, quiet).render()
    assert files is not None
    rendered = read_layers(Path(files["exr"]))[""]
    assert rendered.max() > 0
    # Half floats keep eleven bits.
    np.testing.assert_allclose(mixed.beauty, rendered, rtol=2e-3, atol=1e-4 * rendered.max())


def test_files_are_finished_anew_without_rendering(
    done: tuple[Path, PictureSpec], tmp_path: Path
) -> None:
    """A mixture writes the files asked for; a brighter exposure is a brighter picture."""
    light, spec = done
    from PIL import Image

    means = []
    for i, iso in enumerate((100.0, 400.0)):
        exposure = spec.exposure.model_copy(update={"iso": iso})
        wanted = MixOrder(spec=spec.model_copy(update={"exposure": exposure}), light=stored.asset(light),
                          folder=str(tmp_path / str(i)), files=["png", "exr"])  # fmt: skip
        files, remarks = mix(wanted, quiet)
        assert remarks == []
        means.append(float(np.asarray(Image.open(files["png"])).mean()))
        layers = read_layers(Path(files["exr"]))
        parts = [a for name, a in layers.items() if name]
        np.testing.assert_allclose(layers[""], sum(parts), rtol=5e-3, atol=1e-2)
    assert means[1] > means[0] + 5


def test_what_was_moved_or_added_since_is_named(done: tuple[Path, PictureSpec]) -> None:
    """What was changed keeps its rendered light and is named, a new lamp is left out."""
    light, spec = done
    lower = changed(spec, "sky", settings=SkySettings(elevation_deg=15))
    (remark,) = mix_again(read_light(light), lower, gains_of(lower))
    assert remark.startswith("Sky: changed since")
    sized = lamp(lower, "b", radius=0.4)
    (remark,) = mix_again(read_light(light), sized, gains_of(sized))
    assert remark.startswith("Sky and Lamp (2): changed since")
    off = changed(spec, "sky", counts=False)
    mixed = read_light(light)
    assert mix_again(mixed, off, gains_of(off)) == []
    assert not mixed.contribution("Sky").any()
    assert mixed.beauty.any()
    new = spec.sources[1].model_copy(update={"id": "c", "name": "Late lamp"})
    more = spec.model_copy(update={"sources": [*spec.sources, new]})
    assert any(r.startswith("Late lamp: not in this still")
               for r in mix_again(read_light(light), more, gains_of(more)))  # fmt: skip


def test_another_building_is_refused(done: tuple[Path, PictureSpec], tmp_path: Path) -> None:
    """Where nothing holds any more, the artist is told to save a new still."""
    light, spec = done
    clay = spec.model_copy(update={"clay": 0.5})
    with pytest.raises(WestlightError, match="Save a new still"):
        mix_again(read_light(light), clay, gains_of(clay))
    with pytest.raises(WestlightError, match="Render it again"):
        read_light(light).output_pass("position")
    plain = tmp_path / "plain.exr"
    write_exr(plain, np.ones((4, 4, 3), np.float32), {})
    with pytest.raises(PictureFileError):
        read_light(plain)
