"""Paths, regions and the exact operations on them."""
