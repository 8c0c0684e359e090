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
STENCIL_FILM = Film(name="Stencil film", colour="#c9a227", thinnest_gap=0.6)
RIGID_SHEET = Film(name="Rigid sheet", colour="#7d8ca3", thinnest_line=1.5, thinnest_gap=0.6)
HEAT_FILM = Film(name="Heat film", colour="#a8433f")
