"""Lights and cameras in glTF 2.0 with `KHR_lights_punctual`: out, and in again.

Intensities follow the extension: candela for point and spot, lux on a plane facing a directional
light; colours are linear sRGB; lights and cameras look along −z of their node.
"""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from .parts import ModelCamera, ModelLight

Point = tuple[float, float, float]
#: From z up (x east, y north) to y up.
_TO_Y_UP = np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]])


def _turn(direction: Sequence[float]) -> list[float]:
    """Rotation (x, y, z, w) that turns −z to a direction, both y up."""
    d = np.asarray(direction, float)
    d = _TO_Y_UP @ (d / max(float(np.linalg.norm(d)), 1e-12))
    z = -d
    helper = np.array([0.0, 1, 0]) if abs(z[1]) < 0.999 else np.array([1.0, 0, 0])
    x = np.cross(helper, z)
    x /= np.linalg.norm(x)
    m = np.stack([x, np.cross(z, x), z], axis=1)
    return _quaternion(m)


def _quaternion(m: npt.NDArray[np.float64]) -> list[float]:
    """Unit quaternion (x, y, z, w) of a rotation matrix (Shepperd 1978)."""
    q = np.array([
        1 + m[0, 0] - m[1, 1] - m[2, 2], 1 - m[0, 0] + m[1, 1] - m[2, 2],
        1 - m[0, 0] - m[1, 1] + m[2, 2], 1 + m[0, 0] + m[1, 1] + m[2, 2],
    ])  # fmt: skip
    k = int(np.argmax(q))
    s = 0.5 / math.sqrt(q[k])
    rows = [
        [q[0], m[0, 1] + m[1, 0], m[0, 2] + m[2, 0], m[2, 1] - m[1, 2]],
        [m[0, 1] + m[1, 0], q[1], m[1, 2] + m[2, 1], m[0, 2] - m[2, 0]],
        [m[0, 2] + m[2, 0], m[1, 2] + m[2, 1], q[2], m[1, 0] - m[0, 1]],
        [m[2, 1] - m[1, 2], m[0, 2] - m[2, 0], m[1, 0] - m[0, 1], q[3]],
    ]
    return [float(v * s) for v in rows[k]]


def write_lights(path: Path, lights: Sequence[ModelLight], cameras: Sequence[ModelCamera]) -> None:
    """Write lights and cameras as a glTF of their own, y up."""
    nodes: list[dict[str, Any]] = []
    kinds: list[dict[str, Any]] = []
    for light in lights:
        made: dict[str, Any] = {
            "name": light.name, "type": light.kind, "intensity": light.intensity,
            "color": list(light.rgb),
        }  # fmt: skip
        if light.kind == "spot":
            outer = math.radians(min(light.outer_deg, 179.0)) / 2
            inner = min(math.radians(light.inner_deg) / 2, outer * 0.999)
            made["spot"] = {"innerConeAngle": inner, "outerConeAngle": outer}
        node: dict[str, Any] = {
            "name": light.name, "rotation": _turn(light.direction),
            "extensions": {"KHR_lights_punctual": {"light": len(kinds)}},
        }  # fmt: skip
        if light.kind != "directional":
            node["translation"] = [float(v) for v in _TO_Y_UP @ np.asarray(light.position)]
        kinds.append(made)
        nodes.append(node)
    seen: list[dict[str, Any]] = []
    for camera in cameras:
        way = np.asarray(camera.target, float) - np.asarray(camera.position, float)
        nodes.append({
            "name": camera.name, "rotation": _turn(way), "camera": len(seen),
            "translation": [float(v) for v in _TO_Y_UP @ np.asarray(camera.position)],
        })  # fmt: skip
        seen.append({
            "name": camera.name, "type": "perspective",
            "perspective": {"yfov": math.radians(camera.vertical_fov_deg), "znear": 0.01,
                            **({"aspectRatio": camera.aspect} if camera.aspect else {})},
        })  # fmt: skip
    document: dict[str, Any] = {
        "asset": {"version": "2.0", "generator": "Westlight"}, "scene": 0,
        "scenes": [{"nodes": list(range(len(nodes)))}], "nodes": nodes,
    }  # fmt: skip
    if kinds:
        document["extensionsUsed"] = ["KHR_lights_punctual"]
        document["extensions"] = {"KHR_lights_punctual": {"lights": kinds}}
    if seen:
        document["cameras"] = seen
    path.write_text(json.dumps(document, indent=1))


def light_of(
    entry: dict[str, Any], name: str, matrix: npt.NDArray[np.float64]
) -> ModelLight | None:
    """A light as a glTF node places it (matrix to metres, z up); None for an unknown kind."""
    kind = entry.get("type")
    if kind not in ("directional", "point", "spot"):
        return None
    axis = -matrix[:3, 2] / max(float(np.linalg.norm(matrix[:3, 2])), 1e-12)
    cone = entry.get("spot") or {}
    colour = [float(v) for v in (entry.get("color") or (1, 1, 1))]
    return ModelLight(
        name, kind, _point(matrix[:3, 3]), _point(axis),
        max(float(entry.get("intensity", 1.0)), 0.0), _point(colour),
        2 * math.degrees(float(cone.get("innerConeAngle", 0.0))),
        2 * math.degrees(float(cone.get("outerConeAngle", math.pi / 4))),
    )  # fmt: skip


def _point(values: Any) -> Point:
    x, y, z = (float(v) for v in values)
    return x, y, z
