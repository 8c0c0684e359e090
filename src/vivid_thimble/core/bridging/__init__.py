"""Bridges: strips of sheet across the openings of a stencil, so that no middle falls out."""
