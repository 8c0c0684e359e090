"""What one makes: the methods, the films for each, the room that paint wants."""

from __future__ import annotations

from typing import Literal

from vivid_thimble.core.materials.films import (
    DECAL_FILM,
    FINE_DECAL_FILM,
    FINE_STENCIL_FILM,
    FLOCK_HEAT_FILM,
    GLITTER_FILM,
    HEAT_FILM,
    RIGID_SHEET,
    STENCIL_FILM,
    THICK_RIGID_SHEET,
    Film,
)

Method = Literal["decal", "film-stencil", "rigid-stencil", "screen-stencil", "heat-film"]


FILMS_FOR: dict[Method, tuple[Film, ...]] = {
    "decal": (DECAL_FILM, FINE_DECAL_FILM, GLITTER_FILM),
    "film-stencil": (STENCIL_FILM, FINE_STENCIL_FILM),
    "rigid-stencil": (RIGID_SHEET, THICK_RIGID_SHEET),
    "screen-stencil": (STENCIL_FILM, FINE_STENCIL_FILM),
    "heat-film": (HEAT_FILM, FLOCK_HEAT_FILM),
}
"""The films that a method can be cut from, the usual one first."""
USUAL_FILM: dict[Method, Film] = {method: films[0] for method, films in FILMS_FOR.items()}
STENCIL_METHODS: tuple[Method, ...] = ("film-stencil", "rigid-stencil", "screen-stencil")
Paint = Literal["dabbed", "sprayed", "stripped"]
SURROUND_FOR: dict[Paint, float] = {"dabbed": 20.0, "sprayed": 40.0, "stripped": 40.0}
"""Room round a stencil in mm by how paint or paste gets through it; screens reach up to their frame."""
