"""Lights and cameras in OpenUSD (UsdLux, UsdGeom): out, and in again, through its own package.

Lights are written with ``normalize``, so that their strength does not depend on their size: a sphere's
intensity is then four times its candela (area 4πr² against a disc of πr²), a distant light's is its lux on a
plane facing it. Metres, z up; other units and axes are turned when read.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from typing import Any

import numpy as np
import numpy.typing as npt

from ..errors import ModelError
from .parts import ModelCamera, ModelLight

Array = npt.NDArray[np.float64]
#: Radius of the sphere a point of light is written as, in metres.
RADIUS_M = 0.03
_SUN_DEG = 0.533


def _placed(position: Sequence[float], direction: Sequence[float]) -> npt.NDArray[np.float64]:
    """Matrix (row vectors) that puts a thing looking along −z, y up, at a place looking a way."""
    d = np.asarray(direction, float)
    z = -d / max(float(np.linalg.norm(d)), 1e-12)
    up = np.array([0.0, 0, 1]) if abs(z[2]) < 0.999 else np.array([0.0, 1, 0])
    x = np.cross(up, z)
    x /= np.linalg.norm(x)
    m = np.eye(4)
    m[0, :3], m[1, :3], m[2, :3], m[3, :3] = x, np.cross(z, x), z, position
    return m


def write_usd(path: Path, lights: Sequence[ModelLight], cameras: Sequence[ModelCamera]) -> None:
    """Write lights and cameras as a stage of their own; raises `ModelError` if it cannot be written."""
    from pxr import Gf, Sdf, Tf, Usd, UsdGeom, UsdLux

    # Views know the transport's arrays, which know models.
    from ..view import FILM_WIDTH_MM

    stage = Usd.Stage.CreateInMemory()
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.z)
    UsdGeom.SetStageMetersPerUnit(stage, 1.0)
    root = UsdGeom.Xform.Define(stage, "/Westlight")
    stage.SetDefaultPrim(root.GetPrim())
    taken: set[str] = set()

    def free(name: str) -> str:
        plain = Tf.MakeValidIdentifier(name) or "light"
        found, n = plain, 1
        while found in taken:
            n += 1
            found = f"{plain}_{n}"
        taken.add(found)
        return f"/Westlight/{found}"

    for light in lights:
        at = free(light.name)
        made: Any
        if light.kind == "directional":
            made = UsdLux.DistantLight.Define(stage, at)
            made.CreateAngleAttr(_SUN_DEG)
            made.CreateIntensityAttr(light.intensity)
        else:
            made = UsdLux.SphereLight.Define(stage, at)
            made.CreateRadiusAttr(RADIUS_M)
            made.CreateTreatAsPointAttr(True)
            made.CreateIntensityAttr(4.0 * light.intensity)
            if light.kind == "spot":
                shape = UsdLux.ShapingAPI.Apply(made.GetPrim())
                outer = max(light.outer_deg, 1e-3)
                shape.CreateShapingConeAngleAttr(outer / 2)
                shape.CreateShapingConeSoftnessAttr(min(max(1 - light.inner_deg / outer, 0.0), 1.0))
        made.CreateNormalizeAttr(True)
        made.CreateColorAttr(Gf.Vec3f(*light.rgb))
        made.GetPrim().SetDisplayName(light.name)
        matrix = _placed(light.position, light.direction)
        made.AddTransformOp().Set(Gf.Matrix4d(*matrix.reshape(-1).tolist()))
    for camera in cameras:
        seen = UsdGeom.Camera.Define(stage, free(camera.name))
        height = FILM_WIDTH_MM / (camera.aspect or 1.5)
        focal = height / 2 / math.tan(math.radians(camera.vertical_fov_deg) / 2)
        # Lengths of the film are tenths of the stage's unit: of a metre here.
        seen.CreateFocalLengthAttr(focal / 100)
        seen.CreateVerticalApertureAttr(height / 100)
        seen.CreateHorizontalApertureAttr(FILM_WIDTH_MM / 100)
        seen.CreateHorizontalApertureOffsetAttr(camera.shift[0] * focal / 100)
        seen.CreateVerticalApertureOffsetAttr(camera.shift[1] * focal / 100)
        seen.CreateClippingRangeAttr(Gf.Vec2f(0.01, 10_000.0))
        seen.GetPrim().SetDisplayName(camera.name)
        way = np.subtract(camera.target, camera.position)
        matrix = _placed(camera.position, way.tolist())
        seen.AddTransformOp().Set(Gf.Matrix4d(*matrix.reshape(-1).tolist()))
        seen.GetPrim().CreateAttribute("westlight:distance", Sdf.ValueTypeNames.Double).Set(
            float(np.linalg.norm(way))
        )
    if not stage.Export(str(path)):
        raise ModelError(f"“{path.name}” cannot be written.")


@contextmanager
def sound(name: str) -> Iterator[None]:
    """What only a damaged stage brings about, an unknown transform or a colour that is none, becomes a `ModelError`."""
    from pxr import Tf

    try:
        yield
    except (
        Tf.ErrorException, RuntimeError, ValueError, IndexError, TypeError, OverflowError
    ) as error:  # fmt: skip
        raise ModelError(f"“{name}” is damaged; export it again.") from error


def opened_stage(path: Path, name: str) -> Any:
    """The stage of a file; raises `ModelError` for one that is no stage, or that pulls in others: they would be read from
    wherever it says."""
    from pxr import Sdf, Tf, Usd

    try:
        layer = Sdf.Layer.OpenAsAnonymous(str(path))
        if layer is None:
            raise ModelError(f"“{name}” cannot be read as OpenUSD; export it again.")
        # An empty one is a reference to another place of the same file.
        if any(layer.GetCompositionAssetDependencies()):
            raise ModelError(
                f"“{name}” pulls in other files; flatten it into one and bring that in."
            )
        return Usd.Stage.Open(layer)
    except Tf.ErrorException as error:
        raise ModelError(f"“{name}” cannot be read as OpenUSD; export it again.") from error


def read_usd(path: Path, name: str = "") -> tuple[list[ModelLight], list[ModelCamera]]:
    """As `things_of`, of a file; raises `ModelError`."""
    stage = opened_stage(path, name or path.name)
    with sound(name or path.name):
        return things_of(stage)


def things_of(stage: Any) -> tuple[list[ModelLight], list[ModelCamera]]:
    """Distant, dome, sphere, disc, rectangle and cylinder lights and cameras of a stage, in metres and z up; what is invisible is
    left out. Lights without `normalize` are taken by their size."""
    from pxr import UsdGeom, UsdLux

    scale = UsdGeom.GetStageMetersPerUnit(stage)
    turn = np.eye(3)
    if UsdGeom.GetStageUpAxis(stage) == UsdGeom.Tokens.y:
        turn = np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]])
    cache = UsdGeom.XformCache()
    lights: list[ModelLight] = []
    cameras: list[ModelCamera] = []
    for prim in stage.Traverse():
        m = np.array(cache.GetLocalToWorldTransform(prim))
        place = turn @ m[3, :3] * scale
        axis = turn @ -m[2, :3]
        axis = axis / max(float(np.linalg.norm(axis)), 1e-12)
        name = prim.GetDisplayName() or prim.GetName()
        if prim.IsA(UsdGeom.Camera):
            c = UsdGeom.Camera(prim)
            wide, high, focal = (
                float(a.Get()) for a in (c.GetHorizontalApertureAttr(), c.GetVerticalApertureAttr(),
                                         c.GetFocalLengthAttr())
            )  # fmt: skip
            if not (wide > 0 and high > 0 and focal > 0):
                continue
            fov = 2 * math.atan(high / 2 / focal)
            offsets = (c.GetHorizontalApertureOffsetAttr(), c.GetVerticalApertureOffsetAttr())
            across, up = (float(a.Get() or 0.0) / focal for a in offsets)
            far = prim.GetAttribute("westlight:distance").Get() or 5.0
            target = place + axis * far
            cameras.append(ModelCamera(name, _three(place), _three(target), math.degrees(fov),
                                       wide / high, (across, up)))  # fmt: skip
        elif prim.HasAPI(UsdLux.LightAPI):
            if UsdGeom.Imageable(prim).ComputeVisibility() == UsdGeom.Tokens.invisible:
                continue
            rows = m[:3, :3]
            lengths = np.maximum(np.linalg.norm(rows, axis=1), 1e-12)
            axes = (rows / lengths[:, None]) @ turn.T
            light = _light(prim, UsdLux, name, place, axes, lengths * scale)
            if light is not None:
                lights.append(light)
    return lights, cameras


def _light(
    prim: Any, lux: Any, name: str, place: Array, axes: Array, scale: Array
) -> ModelLight | None:
    """A light of a stage; None for kinds without a place here (portals, shining meshes).

    ``axes`` (3, 3) are unit ways of its x, y and z; ``scale`` what its lengths along them become in metres.
    """
    api = lux.LightAPI(prim)
    strength = api.GetIntensityAttr().Get() * 2.0 ** api.GetExposureAttr().Get()
    even = bool(api.GetNormalizeAttr().Get())
    rgb = np.clip(np.array(api.GetColorAttr().Get(), float), 0, None)
    if api.GetEnableColorTemperatureAttr().Get():
        rgb = rgb * np.array(lux.BlackbodyTemperatureAsRgb(api.GetColorTemperatureAttr().Get()))
    brightest = max(float(rgb.max()), 1e-9)
    rgb, strength = rgb / brightest, strength * brightest
    axis, across = -axes[2], axes[0]
    if prim.IsA(lux.DistantLight):
        if not even:
            angle = math.radians(lux.DistantLight(prim).GetAngleAttr().Get())
            strength *= math.pi * math.sin(angle / 2) ** 2
        return ModelLight(name, "directional", (0, 0, 0), _three(axis), strength, _three(rgb))
    if prim.IsA(lux.DomeLight) or prim.IsA(lux.DomeLight_1):
        picture = prim.GetAttribute("inputs:texture:file").Get()
        named = PurePosixPath(picture.path.replace("\\", "/")).name if picture else ""
        return ModelLight(
            name, "dome", (0, 0, 0), _three(axis), strength, _three(rgb), picture=named
        )
    kind: Any = "point"
    shape: Any = ""
    sizes: tuple[float, ...] = ()
    if prim.IsA(lux.SphereLight):
        radius = float(lux.SphereLight(prim).GetRadiusAttr().Get() * scale.mean())
        candela = strength / 4 if even else strength * math.pi * radius**2
        if not lux.SphereLight(prim).GetTreatAsPointAttr().Get():
            shape, sizes = "sphere", (radius,)
    elif prim.IsA(lux.DiskLight):
        radius = float(lux.DiskLight(prim).GetRadiusAttr().Get() * scale[:2].mean())
        candela = strength if even else strength * math.pi * radius**2
        kind, shape, sizes = "spot", "disc", (radius,)
    elif prim.IsA(lux.RectLight):
        rect = lux.RectLight(prim)
        wide = float(rect.GetWidthAttr().Get() * scale[0])
        high = float(rect.GetHeightAttr().Get() * scale[1])
        candela = strength if even else strength * wide * high
        kind, shape, sizes = "spot", "rectangle", (wide, high)
    elif prim.IsA(lux.CylinderLight):
        tube = lux.CylinderLight(prim)
        length = float(tube.GetLengthAttr().Get() * scale[0])
        radius = float(tube.GetRadiusAttr().Get() * scale[1:].mean())
        candela = strength / math.pi if even else strength * 2 * radius * length
        shape, sizes = "tube", (length, radius)
    else:
        return None
    shaping = lux.ShapingAPI(prim)
    cone = shaping.GetShapingConeAngleAttr().Get() if prim.HasAPI(lux.ShapingAPI) else None
    at, way, colour = _three(place), _three(axis), _three(rgb)
    if cone is not None and cone < (90 if kind == "spot" else 180):
        soft = shaping.GetShapingConeSoftnessAttr().Get() or 0.0
        return ModelLight(name, "spot", at, way, candela, colour, 2 * cone * (1 - soft), 2 * cone)
    outer = 180.0 if kind == "spot" else 90.0
    return ModelLight(name, kind, at, way, candela, colour, outer if kind == "spot" else 0.0, outer,
                      shape, sizes, _three(across))  # fmt: skip


def _three(values: npt.NDArray[np.float64]) -> tuple[float, float, float]:
    x, y, z = (float(v) for v in values)
    return x, y, z
