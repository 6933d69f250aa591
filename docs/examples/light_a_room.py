"""Lighting a room from scratch with the core alone: no server, no database, no browser.

Run it with `.venv/bin/python docs/examples/light_a_room.py [FOLDER]`; it writes three pictures there.
"""

# %% Geometry: a room with one window, a table, and a lamp above it. Metres, z up, x east, y north.
import sys
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from westlight import core
from westlight.core.files import write_exr, write_picture
from westlight.core.finish import Finish, develop
from westlight.core.transport.denoise import Denoiser

out = Path(sys.argv[1] if len(sys.argv) > 1 else ".")
width = int(sys.argv[2]) if len(sys.argv) > 2 else 480
scene = core.Scene()


def block(low, high, material, name):
    """A box from corner to corner."""
    p = [[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])]
    faces = [[0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1],
             [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3]]  # fmt: skip
    scene.add_mesh(p, faces, material, name=name)


plaster = core.Material(reflectance=0.75, roughness=1.0)
boards = core.Material(reflectance=(0.35, 0.22, 0.12), roughness=0.5)
block((-3, -2, -0.2), (3, 2, 0), boards, "floor")
block((-3, -2, 2.7), (3, 2, 2.9), plaster, "ceiling")
block((-3.2, -2, 0), (-3, 2, 2.7), plaster, "west wall")
block((3, -2, 0), (3.2, 2, 2.7), plaster, "east wall")
block((-3, 2, 0), (3, 2.2, 2.7), plaster, "north wall")
block((-3, -2.2, 0), (-0.8, -2, 2.7), plaster, "south wall, left")
block((0.8, -2.2, 0), (3, -2, 2.7), plaster, "south wall, right")
block((-0.8, -2.2, 0), (0.8, -2, 0.9), plaster, "below the window")
block((-0.8, -2.2, 2.2), (0.8, -2, 2.7), plaster, "above the window")
block((-0.7, -0.2, 0.7), (0.9, 0.7, 0.74), boards, "table")
block((-0.6, -0.1, 0), (-0.55, 0.6, 0.7), boards, "trestle, west")
block((0.75, -0.1, 0), (0.8, 0.6, 0.7), boards, "trestle, east")

# %% Daylight: sun and clear sky of a place and hour; the window as a portal, so that noise falls sooner.
sun = core.sun.sun_position(datetime(2026, 10, 11, 11, 30, tzinfo=UTC), 43.6, -9.1)
sky = core.sky.clear_sky(sun.apparent_elevation_deg, sun.azimuth_deg, haze=2.4)
scene.add_source(core.sources.Sun("sun", sun.azimuth_deg, sun.apparent_elevation_deg))
scene.add_source(core.sources.SkySource("sky", sky))
scene.add_portal((0, -2.1, 1.55), (0, 1, 0), 1.6, 1.3)
print(
    f"sun {sun.azimuth_deg:.0f}° at {sun.apparent_elevation_deg:.0f}°, sky {sky.horizontal_illuminance():.0f} lx"
)

# %% A lamp of 900 lm above the table.
scene.add_source(
    core.sources.Disc("lamp", (0.1, 0.25, 1.7), (0, 0, -1), 0.18, luminous_flux_lm=900, kelvin=2700)
)
lux = core.irradiance(scene, [[0.1, 0.25, 0.75]], [[0, 0, 1]], samples=512)
print(f"on the table {core.colour.luminance(lux[0]):.0f} lx")

# %% Render: every source is a contribution of its own.
view = core.View((-2.6, 1.6, 1.5), (1.2, -0.6, 0.9), 22, width, width * 9 // 16)
film = core.render(scene, view, samples=24, cache_rounds=40)
for name in film.names:
    print(f"{name}: mean {float(core.colour.luminance(film.contribution(name)).mean()):.1f} cd/m²")
write_exr(out / "room.exr", film.beauty, {n: film.contribution(n) for n in film.names})

# %% Mix and develop twice from the same light: by day, and the lamp alone as if at night.
clean = Denoiser()
albedo, normal = film.output_pass("albedo"), film.output_pass("normal")
by_day = clean(film.beauty, albedo, normal)
at_night = clean(np.ascontiguousarray(film.contribution("lamp")), albedo, normal)
for name, picture, ev, kelvin in (("day", by_day, 9.8, 5600.0), ("night", at_night, 4.2, 3400.0)):
    shown = develop(picture, ev, kelvin, 0.0, Finish())
    write_picture(out / f"room-{name}.png", shown.pixels)
    print(f"{name}: EV {ev}, {shown.burnt:.1%} burnt")
