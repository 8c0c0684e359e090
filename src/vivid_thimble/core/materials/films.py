"""Films and sheets: what is cut, with the limits they bear.

Shipped entries are generic, with starting figures to edit; a maker's label comes first.
"""

from __future__ import annotations

from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from vivid_thimble.core.ranges import Amount, Area, Fine, Gentle, Limit, Room, Thickness

Heat = Literal["ask", "never", "allowed"]
"""Whether a film may be heated: never, as its maker's label allows, or not known yet."""


class Film(Struct, frozen=True, kw_only=True):
    """A film or sheet with its limits in mm and mm2; editable starting figures, not a maker's word."""

    name: str
    colour: str = "#2f6f8f"
    thinnest_line: Limit = 0.8
    thinnest_gap: Limit = 0.5
    join_neck: Fine = 1.0
    smallest_area: Area = 2.0
    smallest_circle: Gentle = 1.2
    bridge: Fine = 1.0
    """Width of a bridge at the final size."""
    material: str = ""
    thickness: Thickness | None = None
    heat: Heat = "ask"
    price: Amount | None = None
    """Of a whole roll or sheet, in the user's own money."""
    stock_width: Room | None = None
    stock_length: Room | None = None
    """Of the roll or sheet as it is bought."""
    note: str = ""

    def cost_of(self, area: float) -> float | None:
        """What so many mm2 cost; None when price or size are not told."""
        if self.price is None or not self.stock_width or not self.stock_length:
            return None
        return self.price * area / (self.stock_width * self.stock_length)


def with_price_of(film: Film, bought: Film) -> Film:
    """A film of a job with what another entry of the same name costs; its limits stay."""
    if film.name != bought.name or bought.price is None:
        return film
    return replace(film, price=bought.price, stock_width=bought.stock_width, stock_length=bought.stock_length)


DECAL_FILM = Film(name="Decal film, teal", material="vinyl (PVC)", thickness=0.08, heat="never")
FINE_DECAL_FILM = Film(
    name="Fine decal film, plum",
    material="vinyl (PVC)",
    thickness=0.06,
    heat="never",
    colour="#6d3f63",
    thinnest_line=0.5,
    thinnest_gap=0.35,
    join_neck=0.7,
    smallest_area=1.2,
    smallest_circle=0.8,
)
GLITTER_FILM = Film(
    name="Glitter film, amber",
    material="vinyl (PVC) with glitter",
    thickness=0.2,
    heat="never",
    colour="#b9822b",
    thinnest_line=1.6,
    thinnest_gap=1.0,
    join_neck=1.8,
    smallest_area=6.0,
    smallest_circle=2.2,
)
STENCIL_FILM = Film(
    name="Stencil film",
    colour="#c9a227",
    thinnest_gap=0.6,
    material="vinyl or polyethylene",
    thickness=0.08,
    heat="never",
)
FINE_STENCIL_FILM = Film(
    name="Fine stencil film",
    material="vinyl or polyethylene",
    thickness=0.06,
    heat="never",
    colour="#8f9a3c",
    thinnest_line=0.5,
    thinnest_gap=0.4,
    join_neck=0.7,
    smallest_area=1.2,
    smallest_circle=0.8,
)
RIGID_SHEET = Film(
    name="Rigid sheet",
    colour="#7d8ca3",
    thinnest_line=1.5,
    thinnest_gap=0.6,
    bridge=1.5,
    material="polyester",
    thickness=0.125,
)
THICK_RIGID_SHEET = Film(
    name="Thick rigid sheet",
    bridge=2.2,
    material="polypropylene",
    thickness=0.3,
    colour="#5f6b7d",
    thinnest_line=2.2,
    thinnest_gap=1.2,
    smallest_area=6.0,
    smallest_circle=2.0,
)
HEAT_FILM = Film(name="Heat film", colour="#a8433f", material="polyurethane", thickness=0.09, heat="allowed")
FLOCK_HEAT_FILM = Film(
    name="Flock heat film",
    material="polyurethane with flock",
    thickness=0.5,
    heat="allowed",
    colour="#3f5fa8",
    thinnest_line=1.4,
    thinnest_gap=0.9,
    join_neck=1.6,
    smallest_area=4.0,
    smallest_circle=1.8,
)

BAND_FILM, BAND_COLOUR = "Film for the answers", "#d9a441"
"""Bands over answers stand out from the letters on them."""
