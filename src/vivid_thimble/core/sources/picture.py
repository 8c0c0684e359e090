"""A picture of pixels as a source: how it is prepared, separated and traced. Plain values only."""

from __future__ import annotations

from typing import ClassVar, Literal

from msgspec import Struct

from vivid_thimble.core.ranges import Area, Factor, FilmNumber, Films, Fine, Fraction, Gentle, Level, SharePlace
from vivid_thimble.core.sources.provenance import Provenance
from vivid_thimble.core.sources.source import OneFile, SourceKind
from vivid_thimble.core.tracing.prepare import AS_IT_IS, Preparing

Separate = Literal["automatic", "level", "local", "colours", "tones"]
Corners = Literal["found", "clear", "none"]
Overlap = Literal["abutting", "stacked"]
TracedAs = Literal["areas", "pen"]
MOST_COLOURS = 12


class Spot(Struct, frozen=True, kw_only=True):
    """A click on the background: all of that colour within ``tolerance`` (in CIE Lab), or only what is connected."""

    at: SharePlace
    tolerance: Level = 18.0
    connected: bool = False


class BrushStroke(Struct, frozen=True, kw_only=True):
    """Painted by hand: added to the ink, or taken away. ``radius`` in shares of the picture's longer side."""

    adds: bool
    radius: Fraction
    points: tuple[SharePlace, ...]


class Picture(OneFile, Struct, frozen=True, tag="picture", kw_only=True):
    """A picture kept with the job: the key of its file, the name it came with, and how it is taken.

    ``level`` (0 to 255) parts ink from ground; None: found. ``colours``: how many, for separating by colours.
    ``speck_area``, ``pinhole_area`` in mm2 at the final size. ``ease``: how freely curves may follow the edges, 1 as
    closely as the picture allows; ``corners``: all that are found, only those that turn clearly, or none.
    ``kept_places`` are leftovers to keep although ``leftovers_go``. ``scribbles`` cut an object out: those that add are
    on what stays, the others on what goes. ``colour_films`` tells the film of a colour (#rrggbb), -1 for none; without
    it the first film takes all but the background.

    ``traced_as``: areas by their outlines, or pen lines by their middle, ``pen_width`` mm wide (None: as measured).

    Films lie side by side, each under the next ones by ``trap`` mm; or ``stacked``, the first one whole under all
    others.
    """

    WORD: ClassVar[str] = "picture"
    asset: str
    name: str
    preparing: Preparing = AS_IT_IS
    separate: Separate = "automatic"
    level: Level | None = None
    colours: Films = 4
    background: tuple[Spot, ...] = ()
    strokes: tuple[BrushStroke, ...] = ()
    speck_area: Area = 0.5
    pinhole_area: Area = 0.5
    leftovers_go: bool = True
    kept_places: tuple[SharePlace, ...] = ()
    scribbles: tuple[BrushStroke, ...] = ()
    ease: Factor = 1.0
    corners: Corners = "found"
    traced_as: TracedAs = "areas"
    pen_width: Fine | None = None
    overlap: Overlap = "abutting"
    trap: Gentle = 0.0
    films: Films = 1
    colour_films: tuple[tuple[str, FilmNumber], ...] = ()
    provenance: Provenance = Provenance()

    @property
    def origin(self) -> Provenance:
        return self.provenance

    def film_shown(self, film: int) -> PictureFilm:
        return PictureFilm(picture=self, film=film)


class PictureFilm(SourceKind, Struct, frozen=True, tag="picture-film", kw_only=True):
    """What one film shows of a picture, as it is evaluated; ``film`` counts from 0."""

    picture: Picture
    film: FilmNumber
