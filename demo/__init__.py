"""Saltmarsh Pottery: the invented building that Westlight opens with, made by script."""
