"""Films and sheets: what is cut, with the limits they bear.

Shipped entries are generic, with starting figures to edit; a maker's label comes first.
"""

from __future__ import annotations

from msgspec import Struct


class Film(Struct, frozen=True, kw_only=True):
    """A film or sheet with its limits in mm and mm2; editable starting figures, not a maker's word."""

    name: str
    colour: str = "#2f6f8f"
    thinnest_line: float = 0.8
    thinnest_gap: float = 0.5
    join_neck: float = 1.0
    smallest_area: float = 2.0
    smallest_circle: float = 1.2


DECAL_FILM = Film(name="Decal film, teal")
FINE_DECAL_FILM = Film(
    name="Fine decal film, plum", colour="#6d3f63", thinnest_line=0.5, thinnest_gap=0.35, join_neck=0.7,
    smallest_area=1.2, smallest_circle=0.8,
)  # fmt: skip
GLITTER_FILM = Film(
    name="Glitter film, amber", colour="#b9822b", thinnest_line=1.6, thinnest_gap=1.0, join_neck=1.8,
    smallest_area=6.0, smallest_circle=2.2,
)  # fmt: skip
STENCIL_FILM = Film(name="Stencil film", colour="#c9a227", thinnest_gap=0.6)
FINE_STENCIL_FILM = Film(
    name="Fine stencil film", colour="#8f9a3c", thinnest_line=0.5, thinnest_gap=0.4, join_neck=0.7,
    smallest_area=1.2, smallest_circle=0.8,
)  # fmt: skip
RIGID_SHEET = Film(name="Rigid sheet", colour="#7d8ca3", thinnest_line=1.5, thinnest_gap=0.6)
THICK_RIGID_SHEET = Film(
    name="Thick rigid sheet", colour="#5f6b7d", thinnest_line=2.2, thinnest_gap=1.2, smallest_area=6.0,
    smallest_circle=2.0,
)  # fmt: skip
HEAT_FILM = Film(name="Heat film", colour="#a8433f")
FLOCK_HEAT_FILM = Film(
    name="Flock heat film", colour="#3f5fa8", thinnest_line=1.4, thinnest_gap=0.9, join_neck=1.6,
    smallest_area=4.0, smallest_circle=1.8,
)  # fmt: skip

BAND_FILM, BAND_COLOUR = "Film for the answers", "#d9a441"
"""Bands over answers stand out from the letters on them."""
