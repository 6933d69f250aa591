"""The light cache: irradiance kept on surfaces in the room, so that bounced light is found at once.

Path space filtering in a hash table (Binder et al. 2018): places where light bounces are read by the
ordinary tracer as white matte surfaces, and their readings are averaged over small cells that face
one way. A path that meets such a cell ends there. Readings themselves end in the cache too, so each
round brings light one reflection further. What is biased: light after the first bounce is an average
over a cell (12 cm within 5 m of the camera, growing with distance), never what is seen directly.

Cells belong to the building, not to a view or a source: a moving camera keeps them, and a changed
source clears only its own light.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from ..view import View
from . import layout as L
from .assemble import Assembled
from .embree import ray_buffer
from .kernels.cells import take_readings
from .kernels.passes import trace_rows
from .kernels.places import find_places
from .threads import Bench, run_in_threads, slots_of, thread_count

F4 = npt.NDArray[np.float32]
#: Width of the finest cell in metres, and the distance from the eye up to which it is used.
FINEST_M, FINEST_WITHIN_M = 0.12, 5.0
#: Cells there may be, and slots of the hash table over them.
CELLS, SLOTS = 1 << 16, 1 << 18
#: Paths of a round, surfaces each of them reads, places traced by a thread at a time.
PATHS, VERTICES, CHUNK = 2048, 3, 256
#: Readings of a cell that weigh alike; later ones replace old ones slowly.
MOST_READINGS = 1024.0
#: Least roughness of what readings meet after their first bounce. More would cost light: at 0.3 a pond outside
#: sends a tenth less of the sky into a room, and a tenth more of the sun.
CALM = 0.1
_NO_CAMERA = np.zeros(L.CAMERA_FLOATS, np.float32)
NO_GLANCES = np.zeros((1, 1, 1), np.uint8)
_NO_EYE = np.zeros(L.EYE_FLOATS, np.float32)
#: For pictures traced without a cache.
NO_CACHE = L.CacheArrays(
    np.zeros(1, np.uint64), np.zeros(1, np.int32), np.zeros((1, 1, 4), np.float32),
    np.zeros(1, np.int32), _NO_EYE,
)  # fmt: skip


class LightCache:
    """Light kept on the surfaces of one building for up to ``sources`` sources at a time."""

    def __init__(self, sources: int = 32, finest_m: float = FINEST_M, cells: int = CELLS) -> None:
        self.finest_m = finest_m
        self._keys = np.zeros(SLOTS, np.uint64)
        self._rows = np.zeros(SLOTS, np.int32)
        self._used = np.zeros(1, np.int64)
        self._light = np.zeros((sources, cells, 4), np.float32)
        self._places: OrderedDict[str, int] = OrderedDict()
        self._rounds: dict[str, dict[str, int]] = {}
        self._round = 0

    @property
    def cells(self) -> int:
        """Cells in use."""
        return int(self._used[0])

    def rounds(self, key: str, seen_from: str = "") -> int:
        """Rounds of readings the light of a source has had from a view."""
        return self._rounds.get(key, {}).get(seen_from, 0)

    def columns(self, keys: Sequence[str]) -> L.I4:
        """Places of sources by their keys; a new one starts without light, the oldest make room."""
        if len(keys) > len(self._light):
            raise ValueError(f"The cache keeps light of {len(self._light)} sources at most.")
        for key in keys:
            if key in self._places:
                self._places.move_to_end(key)
        for key in keys:
            if key in self._places:
                continue
            if len(self._places) < len(self._light):
                self._places[key] = len(self._places)
            else:
                old, self._places[key] = self._places.popitem(last=False)
                self._rounds.pop(old, None)
            self._light[self._places[key]] = 0.0
        return np.array([self._places[k] for k in keys] or [0], np.int32)

    def arrays(self, columns: L.I4, view: View) -> L.CacheArrays:
        """What kernels read, for sources at some columns and the eye of a view."""
        eye = np.array(
            [*view.position, 1.0 / FINEST_WITHIN_M, self.finest_m], np.float32
        )  # fmt: skip
        return L.CacheArrays(
            self._keys, self._rows, self._light, np.ascontiguousarray(columns), eye
        )

    def read(
        self,
        assembled: Assembled,
        view: View,
        active: Sequence[int],
        keys: Sequence[str],
        *,
        bounces: int,
        seed: int = 0,
        seen_from: str = "",
        paths: int = PATHS,
        threads: int | None = None,
    ) -> None:
        """One round: read the light of some sources at places where paths of a view bounce.

        ``seen_from`` names the view for `rounds`.
        The same rounds in the same order give the same cache, bit for bit, on any number of threads.
        """
        number, self._round = self._round, self._round + 1
        columns = self.columns(keys)
        arrays = self.arrays(columns, view)
        places = np.zeros((paths, VERTICES, L.FIRST_COLUMNS), np.float32)
        find_places(
            assembled.arrays, view.camera_array(), seed, view.width_px, view.height_px,
            number * paths, VERTICES, places, ray_buffer(), np.zeros(1, np.int64),
        )  # fmt: skip
        kept = places.reshape(1, -1, L.FIRST_COLUMNS)
        kept = np.ascontiguousarray(kept[:, kept[0, :, L.F_THERE] > 0])
        rows, slot_of = slots_of(assembled, active)
        slots, count = len(rows), kept.shape[1]
        readings = [
            np.zeros((1, min(CHUNK, count - i), slots, L.OUT_CHANNELS), np.float32)
            for i in range(0, count, CHUNK)
        ]
        clamp = np.full(slots, L.F4_MAX, np.float32)
        passes = L.Passes(bounces, np.float32(CALM), NO_GLANCES, True, seed * 7919 + number, 0, 1)
        queue, lock = iter(range(len(readings))), threading.Lock()

        def work() -> None:
            bench = Bench(assembled, slots, CHUNK)
            while True:
                with lock:
                    k = next(queue, None)
                if k is None:
                    return
                first = k * CHUNK
                block = L.Block(0, 1, first, first + readings[k].shape[1])
                trace_rows(
                    assembled.arrays, arrays, assembled.air, _NO_CAMERA, kept, L.Sources(rows, slot_of), passes,
                    block, L.Into(readings[k], bench.guide, clamp), bench.tools(slots),
                )  # fmt: skip

        if slots:
            run_in_threads(work, threads or thread_count())
        for k, out in enumerate(readings):
            places_read = np.ascontiguousarray(kept[:, k * CHUNK : k * CHUNK + out.shape[1]])
            take_readings(
                self._keys, self._rows, self._used, self._light, columns, arrays.eye, places_read,
                out, np.float32(MOST_READINGS),
            )  # fmt: skip
        for key in keys:
            done = self._rounds.setdefault(key, {})
            done[seen_from] = done.get(seen_from, 0) + 1
