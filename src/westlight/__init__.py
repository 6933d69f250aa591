"""Westlight: light for architectural pictures."""
