"""Adding a traced band to the film of one source."""

from numba import njit

from .. import layout as L
from .numbers import ENTRY, ZERO, brightness, rgb, total


@njit(**ENTRY)
def deposit(out, slot, odd, left, light, bounced, odd_sums, removed, apart, seen):
    """Add slot ``slot`` of a band ``out`` (rows, columns, slots, OUT_CHANNELS) to rows of a film,
    from column ``left`` on.

    ``apart`` (rows, columns, 6), or without rows, gets mirrored light and light through glass.
    """
    wanted = apart.shape[0] > 0
    for r in range(light.shape[0]):
        for k in range(out.shape[1]):
            o, c = out[r, k, slot], left + k
            for j in range(3):
                light[r, c, j] += o[L.O_LIGHT + j]
            if bounced.shape[2] == 1:
                bounced[r, c, 0] += brightness(rgb(o, L.O_BOUNCED))
            else:
                for j in range(3):
                    bounced[r, c, j] += o[L.O_BOUNCED + j]
            # Memory that is never written is never given: most films have no clamp, and most lamps are not seen.
            if o[L.O_REMOVED] > ZERO:
                removed[r, c] += o[L.O_REMOVED]
            if total(rgb(o, L.O_SEEN)) > ZERO:
                for j in range(3):
                    seen[r, c, j] += o[L.O_SEEN + j]
            if wanted:
                for j in range(6):
                    apart[r, c, j] += o[L.O_MIRRORED + j]
            if odd == 1:
                odd_sums[r, c, 0] += brightness(rgb(o, L.O_LIGHT))
                odd_sums[r, c, 1] += brightness(rgb(o, L.O_BOUNCED))
