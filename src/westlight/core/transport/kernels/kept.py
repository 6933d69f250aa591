"""The end of a path where the light cache knows what arrives."""

from numba import njit

from .light import add
from .numbers import ONE, PIECE, Rgb, dimmed, rgb, times
from .records import BOUNCED, Goes
from .surface import look_up_energy


@njit(**PIECE)
def add_kept(path, row, goes, weight, lobes):
    """Light a surface sends on of what the cache says arrives there, for every active source."""
    Q, metallic = path.Q, lobes.metallic
    energy = path.rays.S.energy[1]
    taken = look_up_energy(energy, lobes.roughness, lobes.viewer.z) * (ONE - metallic)
    base = (ONE - metallic) - taken + metallic
    c = lobes.colour
    sent = times(weight, Rgb(c.r * base + taken, c.g * base + taken, c.b * base + taken))
    bounced = Goes(BOUNCED, goes.also, goes.share)
    for a in range(path.active.shape[0]):
        slot = path.slot_of[path.active[a]]
        known = Q.light[Q.columns[slot], row]
        add(path.light, slot, bounced, times(sent, dimmed(rgb(known, 0), ONE / known[3])))
