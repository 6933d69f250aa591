"""The end of a path where the light cache knows what arrives."""

from numba import njit

from .. import layout as L
from .light import add
from .numbers import ONE, PIECE
from .surface import look_up_energy


@njit(**PIECE)
def add_kept(
    Q, row, slot_of, active, acc, also, share, S, tr, tg, tb, r, g, b, roughness, metallic, cz
):
    """Light a surface sends on of what the cache says arrives there, for every active source."""
    taken = look_up_energy(S.energy[1], roughness, cz) * (ONE - metallic)
    base = (ONE - metallic) - taken + metallic
    wr, wg, wb = tr * (r * base + taken), tg * (g * base + taken), tb * (b * base + taken)
    for a in range(active.shape[0]):
        slot = slot_of[active[a]]
        c = Q.light[Q.columns[slot], row]
        k = ONE / c[3]
        add(acc, slot, L.O_BOUNCED, also, share, wr * c[0] * k, wg * c[1] * k, wb * c[2] * k)
