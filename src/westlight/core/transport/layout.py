"""What each array of the transport kernels holds: the one place where columns are named.

A kernel receives `SceneArrays`, a tuple of flat arrays. Lengths are metres, z is up, radiance is
working-space RGB with luminance in cd/m², all floats are float32.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

F4 = npt.NDArray[np.float32]
I4 = npt.NDArray[np.int32]
I8 = npt.NDArray[np.int64]
F8 = npt.NDArray[np.float64]
U1 = npt.NDArray[np.uint8]

#: Columns of Embree's record of a ray and what it met: origin, nearest distance, direction, time, farthest
#: distance (then that of the hit; below 0 where it was only asked whether anything is met); as integers mask, number,
#: flags; face normal before it is placed, place on the triangle; as integers triangle, geometry, placed
#: geometry, copy in that.
X_ORIGIN, X_NEAR, X_WAY, X_TIME, X_FAR, X_MASK, X_ID, X_FLAGS = 0, 3, 4, 7, 8, 9, 10, 11
X_NORMAL, X_U, X_V, X_PRIMITIVE, X_GEOMETRY, X_INSTANCE, X_COPY = 12, 15, 16, 17, 18, 19, 20

#: Columns of `material_floats`: reflectance, roughness, metal, index, transmission, absorption of a
#: solid glass per metre (RGB, natural), normal scale, strength and roughness of a clear coat,
#: roughness of the faces of a refracting solid; of cloth and the like the share scattered through, the
#: colour of that (RGB), and the share of holes between its threads.
M_RED, M_GREEN, M_BLUE, M_ROUGHNESS, M_METALLIC, M_IOR, M_TRANSMISSION = range(7)
M_ABSORB_RED, M_ABSORB_GREEN, M_ABSORB_BLUE = 7, 8, 9
M_NORMAL_SCALE, M_COAT, M_COAT_ROUGH, M_FROST = range(10, 14)
M_TRANSLUCENT, M_THROUGH_RED, M_THROUGH_GREEN, M_THROUGH_BLUE, M_OPEN = range(14, 19)
MATERIAL_FLOATS = 20
#: Columns of `material_ints`: texture rows (−1 for none), kind, 1 if it glows, 1 if vertex colours.
M_TEX_BASE, M_TEX_ROUGH, M_TEX_NORMAL, M_TEX_EMIT, M_KIND, M_GLOWS, M_PAINTED = range(7)
MATERIAL_INTS = 7
#: Kinds of material: surface; clear pane that light passes straight, one sheet or one side of a
#: solid pane; the same without the clear path: a solid that refracts, and a sheet that shades; a surface
#: with holes too small to see, between which light passes straight.
KIND_SURFACE, KIND_SHEET, KIND_INTERFACE, KIND_GLASS, KIND_SHADING_SHEET, KIND_WOVEN = range(6)

#: Columns of `corners`: for each of three corners the normal (object space) and u, v; then the
#: material row as an integer. All a bounce needs to know of a triangle, in one cache line.
N_CORNER, N_MATERIAL = 5, 15
CORNER_COLUMNS = 16

#: Columns of `texture_ints`: first texel, width, height, 1 for sRGB encoding; then first texel,
#: width and height of the reduced copy that bounced light uses; how it goes on across and down.
T_FIRST, T_WIDTH, T_HEIGHT, T_SRGB, T_SMALL = range(5)
T_ACROSS, T_DOWN = 7, 8
TEXTURE_INTS = 9
#: How a texture goes on beyond its edges.
WRAP_REPEAT, WRAP_CLAMP, WRAP_MIRROR = range(3)

#: Columns of `emitter_floats`: centre (or corner), edges u and v, normal or axis, radius, area,
#: radiance RGB, weight for choosing (proportional to its power), length of a tube (along u), range
#: (0 for none), diffuse reflectance of the body.
E_POSITION, E_U, E_V, E_NORMAL = 0, 3, 6, 9
E_RADIUS, E_AREA, E_RED, E_GREEN, E_BLUE, E_WEIGHT, E_LENGTH, E_RANGE, E_BODY = range(12, 21)
EMITTER_FLOATS = 21
#: Columns of `emitter_ints`: shape, source, sides that shine, 1 if rays can meet it, profile row,
#: triangle row, texture row (−1 for none), leaf in the light tree (−1 outside).
E_KIND, E_SOURCE, E_SIDES, E_VISIBLE, E_PROFILE, E_TRIANGLE, E_TEXTURE, E_LEAF = range(8)
EMITTER_INTS = 8
#: Shapes of emitters.
SHAPE_RECTANGLE, SHAPE_DISC, SHAPE_SPHERE, SHAPE_TRIANGLE, SHAPE_TUBE, SHAPE_POINT = range(6)
#: Columns of `profile_ints`: first value, rows (vertical angle 0…π), columns (azimuth 0…2π).
PROFILE_INTS = 3

#: Columns of `tree_floats`: mean place by power, mean axis (short where axes differ, 0 where light goes
#: everywhere), half the mean square of the distance to that place, distance to the farthest, what
#: directions that differ from the mean axis still get, power. Of `tree_ints`: left and right child (or
#: −1 and emitter), parent.
B_PLACE, B_AXIS, B_SPREAD, B_RADIUS, B_EVERY, B_POWER = 0, 3, 6, 7, 8, 9
TREE_FLOATS = 10
B_LEFT, B_RIGHT, B_PARENT = range(3)
TREE_INTS = 3

#: Columns of `source_ints`: kind; of emitters the first, their count and the root of their tree
#: (−1 without); of a sky its first pixel, width, height, first row, width and height of its sampling
#: table, and the row of its first portal map; first pixel, width and height of the picture of it
#: that is mirrored (the sky itself unless another was chosen).
S_KIND, S_FIRST, S_COUNT, S_TREE = range(4)
S_WIDTH, S_HEIGHT, S_TABLE, S_TABLE_WIDTH, S_TABLE_HEIGHT, S_MAPS, S_SKY = range(4, 11)
S_OTHER, S_OTHER_WIDTH, S_OTHER_HEIGHT = range(11, 14)
SOURCE_INTS = 14
#: Columns of `source_floats`: direction to the sun; 1 − cos of its radius; radiance RGB;
#: extent in sr; total of a sky's luminance over the sphere; factors where the camera sees it, on
#: light that surfaces scatter evenly, and on light they mirror.
S_DIRECTION, S_ONE_MINUS_COS, S_RED, S_GREEN, S_BLUE, S_SOLID_ANGLE = 0, 3, 4, 5, 6, 7
S_TOTAL, S_SEEN, S_EVEN, S_MIRRORED = 8, 9, 10, 11
SOURCE_FLOATS = 12
#: Kinds of sources.
SOURCE_SUN, SOURCE_SKY, SOURCE_EMITTERS = range(3)

#: Columns of a row of a sky's sampling table: probability per steradian, alias table (share kept,
#: other row relative to its sky). Row 0 of a sky is the zenith, column 0 north. A second table follows,
#: compensated for what rays sampled by surfaces find as well; see `skytables`.
K_DENSITY, K_ACCEPT, K_ALIAS = range(3)
TABLE_COLUMNS = 4

#: Columns of `portal_floats`: corner, unit edges, unit normal into the room, width, height, gain. Of
#: `portal_ints`: its first pane, and panes along its width and its height; they are numbered along
#: the width first.
P_CORNER, P_U, P_V, P_NORMAL, P_WIDTH, P_HEIGHT, P_GAIN = 0, 3, 6, 9, 12, 13, 14
PORTAL_FLOATS = 16
W_FIRST, W_ACROSS, W_UP = range(3)
PORTAL_INTS = 3
#: Ways a surface may face in `pane_chances`: along +x, −x, +y, −y, +z, −z, and any (air).
FACES, FACE_ANY = 7, 6
#: Columns of `cells`: share of the open sky seen; the same from those places of the cell that see a
#: portal (below 0: none does); whether a portal is close.
N_SKY, N_INSIDE, N_CLOSE = range(3)
CELL_COLUMNS = 3
#: What a thread remembers of the last place a sky's light was asked for: chance of the whole sky;
#: whether that is drawn evenly; how portals are drawn (0: not in use); chances of three rows of
#: `pane_chances`, and those rows; 1 if the sky's compensated table is used.
R_SKY, R_EVEN, R_MODE, R_SHARE, R_ROW, R_COMPENSATED = 0, 1, 2, 3, 6, 9
MEMORY = 10
#: Side of a portal map: luminance × solid angle × what is not built up outside, of each cell, as a
#: summed-area table.
MAP_SIDE = 128
MAP_SIZE = (MAP_SIDE + 1) * (MAP_SIDE + 1)
#: `portal_state`: whether outside light enters only by portals, whether any has a gain, cells of
#: the grid along x, y, z; whether any source is told apart by `S_EVEN` and `S_MIRRORED`.
#: `cell_box`: lowest corner of the grid and cells per metre.
G_CLOSED, G_GAINED, G_X, G_Y, G_Z, G_PARTED = range(6)
GRID_LOW, GRID_PER_METRE = 0, 3

#: Columns of a box of air: lower and upper corner; scattering and extinction per metre at its bottom,
#: RGB; mean extinction; how fast it thins with height, per metre; forward scattering (g).
A_LOW, A_HIGH, A_SCATTER, A_EXTINCTION, A_MEAN, A_FALL, A_FORWARD = 0, 3, 6, 9, 12, 13, 14
AIR_COLUMNS = 16

#: Channels of the guide picture: albedo RGB, normal XYZ, distance, coverage, how much of the
#: pixel looks straight outside (through panes, less what they keep), and the share of what the first
#: surface sends on that it scatters evenly instead of mirroring it.
GUIDE_CHANNELS = 10
G_ALBEDO, G_NORMAL, G_DISTANCE, G_COVERED, G_OPEN, G_DIFFUSE = 0, 3, 6, 7, 8, 9


#: Columns of `glints`, flat smooth surfaces by which way they face: unit normal towards the sun, GGX
#: alpha, share of the rays that look for the sun in them.
H_NORMAL, H_ALPHA, H_SHARE = 0, 3, 4
GLINT_COLUMNS = 5


class SceneArrays(NamedTuple):
    """Everything a kernel reads. ``scene`` is the address of the top Embree scene.

    Geometries 0…G−1 of the top scene are placed meshes, many copies of one mesh in a single geometry;
    geometry G + k holds emitters of one shape
    and visibility, whose primitives map to rows through ``emitter_first`` (k,) and
    ``emitter_of_primitive``; ``emitter_triangles`` (k,) tells how many primitives make one emitter.
    """

    scene: np.uint64
    panes: np.uint64  # scene of the panes alone, same instance numbers; 0 without panes
    positions: F4  # (V, 3) object space
    triangles: I4  # (T, 3) rows of `positions`
    corners: F4  # (T, 16) one cache line a triangle, columns N_*
    corner_words: I4  # the same memory as integers
    paint: F4  # (T, 9) colours of the three corners; (1, 9) if no material uses them
    triangle_emitter: I4  # (T,) emitter row or −1
    geometry_first: I8  # (G,) first of the placed meshes of a geometry
    instance_first: I8  # (I,) first triangle
    instance_cut: I8  # (I,) triangles before its cut-outs
    instance_matrix: F4  # (I, 3, 4) object to world
    instance_normal: F4  # (I, 3, 3) inverse transpose
    material_floats: F4  # (M, MATERIAL_FLOATS)
    material_ints: I4  # (M, MATERIAL_INTS)
    texels: U1  # (N, 4)
    texture_ints: I8  # (K, TEXTURE_INTS)
    decode: F4  # (2, 256) linear light of a byte: plain, sRGB
    energy: F4  # (2, R, C) albedo of a white GGX lobe; of the dielectric coat, compensated
    energy_mean: F4  # (R,) cosine-weighted mean of the coat's albedo
    emitter_first: I8  # (G,)
    emitter_triangles: I8  # (G,)
    emitter_of_primitive: I4
    emitter_floats: F4  # (E, EMITTER_FLOATS)
    emitter_ints: I4  # (E, EMITTER_INTS)
    profiles: F4  # candela of a unit amount, tables one after another
    profile_ints: I4  # (P, PROFILE_INTS)
    tree_floats: F4  # (B, TREE_FLOATS)
    tree_ints: I4  # (B, TREE_INTS)
    source_ints: I8  # (S, SOURCE_INTS)
    source_floats: F4  # (S, SOURCE_FLOATS)
    sky: F4  # (P, 3) pixels of the skies one after another
    sky_table: F4  # (Q, TABLE_COLUMNS) their sampling tables, columns K_*
    portal_floats: F4  # (W, PORTAL_FLOATS)
    portal_maps: F8  # (skies · W · MAP_SIZE,) summed-area tables
    portal_state: I8  # (6,) columns G_*
    cell_box: F4  # (4,)
    portal_ints: I4  # (W, PORTAL_INTS)
    pane_portal: I4  # (K,) portal of each pane
    cell_rows: I4  # (X·Y·Z,) row of `cells` that a cell of the grid reads, −1 for none
    cells: F4  # (C, CELL_COLUMNS)
    pane_totals: F4  # (skies · C · FACES,) illuminance expected through all panes, lux
    pane_chances: F4  # (skies · C · FACES, K) share of panes in it, summed up
    glint_sources: (
        I8  # (2,) source rows of the sun and the sky looked for in smooth surfaces, −1 for none
    )
    glints: F4  # (H, GLINT_COLUMNS)


#: Columns of a camera array: position, corner direction, step right, step down, lens axes.
C_POSITION, C_CORNER, C_RIGHT, C_DOWN = 0, 3, 6, 9
C_LENS_U, C_LENS_V, C_LENS_RADIUS, C_FOCUS = 12, 15, 18, 19
CAMERA_FLOATS = 23
#: Number of blades of the aperture (0 for a round one) and its turn in radians.
C_BLADES, C_TURN = 20, 21
#: What lies nearer along the axis is cut away, in metres.
C_NEAR = 22

#: Columns of a kept first surface: position, face normal, shading normal, direction to the viewer,
#: reflectance RGB, roughness, metal, share of light that reaches the viewer RGB, 1 if it is there.
F_POSITION, F_FACE, F_NORMAL, F_VIEWER, F_RED, F_ROUGHNESS, F_METALLIC = 0, 3, 6, 9, 12, 15, 16
F_KEPT, F_THERE = 17, 20
FIRST_COLUMNS = 21

#: Channels of a traced picture: all light RGB; of it bounced, mirrored by the first surface, seen
#: through glass, and shared with glances (what is seen itself, and the sun there), RGB each; luminance taken by the clamp.
O_LIGHT, O_BOUNCED, O_MIRRORED, O_THROUGH, O_SEEN, O_REMOVED = 0, 3, 6, 9, 12, 15
OUT_CHANNELS = 16
#: Channels of one sample: direct but for what glances share, bounced, mirrored, through glass, shared with glances, RGB each.
SAMPLE_CHANNELS = 15

#: A clamp that never takes anything.
F4_MAX = np.float32(3.0e38)

#: Columns of a cache's ``eye``: its place, levels per metre of distance, width of the finest cell in m.
Q_PLACE, Q_PER_DISTANCE, Q_WIDTH = 0, 3, 4
EYE_FLOATS = 5
#: Levels of cells, each twice as wide as the one before.
CACHE_LEVELS = 8


class CacheArrays(NamedTuple):
    """Light kept on surfaces, as kernels read it; without cells (one key of 0) it is not in use."""

    keys: npt.NDArray[np.uint64]  # (N,) a power of two; 0 where free
    rows: I4  # (N,) row of each cell in `light`
    light: F4  # (sources, cells, 4) sums of irradiance / π of a unit amount RGB, and their number
    columns: I4  # (slots,) place in `light` of each source that is being traced
    eye: F4  # (EYE_FLOATS,) columns Q_*


class Sources(NamedTuple):
    """Which sources are traced."""

    active: Any  #: their rows
    slot_of: Any  #: where the light of each source of the scene goes, −1: nowhere


class Passes(NamedTuple):
    """How passes are traced, and which."""

    bounces: Any
    calm: Any  #: least roughness after the first bounce (a named bias; 0 for none)
    glances: Any  #: (passes, rows, columns); the last pass stands for all later ones, one row or column for all
    paths: Any  #: false: glances alone
    seed: Any
    first: Any
    count: Any


class Block(NamedTuple):
    """Pixels of a picture, each end the first one that is left out."""

    row0: Any
    row1: Any
    column0: Any
    column1: Any


class Into(NamedTuple):
    """Where passes over a block go."""

    out: Any  #: (rows, columns, slots, OUT_CHANNELS)
    guide: Any  #: (rows, columns, GUIDE_CHANNELS)
    clamp: Any  #: (slots,) most luminance of one bounced sample


class Tools(NamedTuple):
    """What one thread works with."""

    light: Any  #: (slots, SAMPLE_CHANNELS) of one sample
    scratch: Any  #: columns R_* by sky, twice: for surfaces and for air
    ray: Any  #: Embree's record
    counts: Any  #: rays sent


class Survey(NamedTuple):
    """What is looked for at the first surfaces of a picture."""

    seed: Any
    samples: Any
    radius: Any  #: within which the air above them is open, in metres; 0: not wanted
    part_of: Any  #: (T,) part of each triangle
    part_of_copy: Any  #: (I,) part of each placed mesh, −1: its triangles tell


class Surveyed(NamedTuple):
    """Sums over samples of whole pictures."""

    position: Any  #: (h, w, 4) metres and hits
    occlusion: Any  #: (h, w) cosine-weighted openness
    objects: Any  #: (h, w, ranks, 2) identity and weight
    materials: Any  #: the same
