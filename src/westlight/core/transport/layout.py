"""What each array of the transport kernels holds: the one place where columns are named.

A kernel receives `SceneArrays`, a tuple of flat arrays. Lengths are metres, z is up, radiance is
working-space RGB with luminance in cd/m², all floats are float32.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

F4 = npt.NDArray[np.float32]
I4 = npt.NDArray[np.int32]
I8 = npt.NDArray[np.int64]
U1 = npt.NDArray[np.uint8]

#: Columns of `material_floats`.
M_RED, M_GREEN, M_BLUE, M_ROUGHNESS, M_METALLIC, M_IOR, M_TRANSMISSION = range(7)
M_EMIT_RED, M_EMIT_GREEN, M_EMIT_BLUE = 7, 8, 9
M_NORMAL_SCALE = 10
MATERIAL_FLOATS = 12
#: Columns of `material_ints`: texture rows (−1 for none), kind, 1 if it glows.
M_TEX_BASE, M_TEX_ROUGH, M_TEX_NORMAL, M_TEX_EMIT, M_KIND, M_GLOWS = range(6)
MATERIAL_INTS = 6
#: Kinds of material: surface; pane passed straight, one sheet or one side of a solid pane.
KIND_SURFACE, KIND_SHEET, KIND_INTERFACE = 0, 1, 2

#: Columns of `corners`: for each of three corners the normal (object space) and u, v; then the
#: material row as an integer. All a bounce needs to know of a triangle, in one cache line.
N_CORNER, N_MATERIAL = 5, 15
CORNER_COLUMNS = 16

#: Columns of `texture_ints`: first texel, width, height, 1 for sRGB encoding; then first texel,
#: width and height of the reduced copy that bounced light uses.
T_FIRST, T_WIDTH, T_HEIGHT, T_SRGB, T_SMALL = range(5)
TEXTURE_INTS = 7

#: Columns of `emitter_floats`: centre (or corner), edges u and v, normal, radius, area,
#: radiance RGB, weight for choosing (luminous power in lm).
E_POSITION, E_U, E_V, E_NORMAL = 0, 3, 6, 9
E_RADIUS, E_AREA, E_RED, E_GREEN, E_BLUE, E_WEIGHT = 12, 13, 14, 15, 16, 17
EMITTER_FLOATS = 18
#: Columns of `emitter_ints`.
E_KIND, E_SOURCE, E_SIDES, E_VISIBLE = range(4)
EMITTER_INTS = 4
#: Shapes of emitters.
SHAPE_RECTANGLE, SHAPE_DISC, SHAPE_SPHERE, SHAPE_TRIANGLE = range(4)

#: Columns of `source_ints`: kind; first emitter and count, or first pixel, width and height.
S_KIND, S_FIRST, S_COUNT, S_WIDTH, S_HEIGHT = range(5)
SOURCE_INTS = 5
#: Columns of `source_floats`: direction to the sun; 1 − cos of its radius; radiance RGB;
#: extent in sr.
S_DIRECTION, S_ONE_MINUS_COS, S_RED, S_GREEN, S_BLUE, S_SOLID_ANGLE = 0, 3, 4, 5, 6, 7
SOURCE_FLOATS = 8
#: Kinds of sources.
SOURCE_SUN, SOURCE_SKY, SOURCE_EMITTERS = range(3)

#: Columns of a sky pixel, one cache line each: RGB, probability per steradian, alias table (share
#: kept, other pixel relative to its sky). Row 0 of a sky is the zenith, column 0 north.
K_RED, K_GREEN, K_BLUE, K_DENSITY, K_ACCEPT, K_ALIAS = range(6)
SKY_COLUMNS = 8

#: Channels of the guide picture: albedo RGB, normal XYZ, distance, coverage.
GUIDE_CHANNELS = 8


class SceneArrays(NamedTuple):
    """Everything a kernel reads. ``scene`` is the address of the top Embree scene.

    Instances 0…I−1 of the top scene are placed meshes; geometries I, I+1, I+2 are rectangles
    (two triangles each), discs and spheres, whose primitives map to emitters through
    ``emitter_first`` (3,) and ``emitter_of_primitive``.
    """

    scene: np.uint64
    panes: np.uint64  # scene of the panes alone, same instance numbers; 0 without panes
    positions: F4  # (V, 3) object space
    triangles: I4  # (T, 3) rows of `positions`
    corners: F4  # (T, 16) one cache line a triangle, columns N_*
    corner_words: I4  # the same memory as integers
    triangle_emitter: I4  # (T,) emitter row or −1
    instance_first: I8  # (I,) first triangle
    instance_matrix: F4  # (I, 3, 4) object to world
    instance_normal: F4  # (I, 3, 3) inverse transpose
    material_floats: F4  # (M, MATERIAL_FLOATS)
    material_ints: I4  # (M, MATERIAL_INTS)
    texels: U1  # (N, 4)
    texture_ints: I8  # (K, TEXTURE_INTS)
    decode: F4  # (2, 256) linear light of a byte: plain, sRGB
    energy: F4  # (2, R, C) albedo of a white GGX lobe; of the dielectric coat, compensated
    energy_mean: F4  # (R,) cosine-weighted mean of the coat's albedo
    emitter_first: I8  # (3,)
    emitter_of_primitive: I4
    emitter_floats: F4  # (E, EMITTER_FLOATS)
    emitter_ints: I4  # (E, EMITTER_INTS)
    source_ints: I8  # (S, SOURCE_INTS)
    source_floats: F4  # (S, SOURCE_FLOATS)
    sky: F4  # (P, 8) pixels of the skies one after another, columns K_*


#: Columns of a camera array: position, corner direction, step right, step down, lens axes.
C_POSITION, C_CORNER, C_RIGHT, C_DOWN = 0, 3, 6, 9
C_LENS_U, C_LENS_V, C_LENS_RADIUS, C_FOCUS = 12, 15, 18, 19
CAMERA_FLOATS = 20
