"""Lantern Row: a top-floor flat with plain walls, coves, curtains and glass, over a made-up river town."""
