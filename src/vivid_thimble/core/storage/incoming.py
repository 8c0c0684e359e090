"""Files that are brought into a job: read once, told apart, and taken as they most likely are meant."""

from __future__ import annotations

import math
from dataclasses import dataclass
from pathlib import Path as FilePath

from msgspec.structs import replace
from shapely import MultiPolygon, Polygon

from vivid_thimble.core.cache import Cache, asset_key
from vivid_thimble.core.errors import DrawingNotReadable, InputRefused, NothingToDraw, PictureNotReadable
from vivid_thimble.core.evaluate.drawing_stages import read_once
from vivid_thimble.core.evaluate.picture_stages import ink_share, raster_once
from vivid_thimble.core.files import read_file, shown_name
from vivid_thimble.core.formats.bundle import Bundle, Entry, contents, is_bundle, notes_in, unpacked
from vivid_thimble.core.formats.limits import LARGEST_PICTURE_BYTES
from vivid_thimble.core.formats.raster_read import ENDINGS as PICTURE_ENDINGS
from vivid_thimble.core.formats.raster_read import is_picture
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.sources.artwork import Artwork, artwork_for
from vivid_thimble.core.sources.drawing import Drawing
from vivid_thimble.core.sources.picture import Picture
from vivid_thimble.core.sources.provenance import LICENCE_WORDS, Provenance, licence_in

SKETCH_SHARE = 800.0
"""A sketch is off by at most this part of the size of its drawing."""
LONGEST_NOTE = 300
"""Characters of a zip's notes that go into a drawing's provenance."""


@dataclass(frozen=True)
class OpenedDrawing:
    """A drawing ready to join a job; ``says`` is what its user should hear, or empty."""

    data: bytes
    artwork: Artwork
    says: str = ""
    colours: int = 1
    """How many colours are drawn."""
    sketch: MultiPolygon | None = None
    """Its outlines as they came, in its own units, coarse and crossing: to be seen while it is worked on."""

    @property
    def colours_said(self) -> str:
        """A sentence where several colours go onto one film."""
        if self.colours < 2 or self.artwork.films > 1:
            return ""
        return f"{self.colours} colours, cut as 1 film: Gather, Colours parts them."


@dataclass(frozen=True)
class OpenedPicture:
    """A picture of pixels ready to join a job; ``says`` is what its user should hear, or empty."""

    data: bytes
    picture: Picture
    says: str = ""


@dataclass(frozen=True)
class OpenedBundle:
    """A zip of which a person has to choose."""

    path: FilePath
    data: bytes
    bundle: Bundle
    notes: str


def open_file(path: FilePath, cache: Cache) -> OpenedDrawing | OpenedPicture | OpenedBundle:
    """A drawing of any format, a picture, or a zip; one that holds just one drawing and no font is opened to that.

    Raises DrawingNotReadable, PictureNotReadable or NothingToDraw with one sentence.
    """
    name = shown_name(path)
    try:
        data = read_file(path, LARGEST_PICTURE_BYTES)
    except OSError as error:
        why = (error.strerror or "").lower()
        raise DrawingNotReadable(f"{name} cannot be opened ({why}): choose it again.") from error
    if is_picture(data) or path.suffix.lower() in PICTURE_ENDINGS:
        return open_picture(data, name, cache)
    if not is_bundle(data):
        return open_drawing(data, name, cache)
    bundle = contents(data, name)
    opened = OpenedBundle(path, data, bundle, notes_in(data, bundle))
    drawings, fonts = bundle.of_kind("drawing"), bundle.of_kind("font")
    if not drawings and not fonts:
        raise DrawingNotReadable(f"{name} holds no drawing and no font: unpack it and look inside.")
    return open_entry(opened, drawings[0], cache) if len(drawings) == 1 and not fonts else opened


def open_entry(opened: OpenedBundle, entry: Entry, cache: Cache) -> OpenedDrawing | OpenedPicture:
    """One drawing out of a zip, with what the zip tells about its origin."""
    name, notes = shown_name(opened.path), opened.notes
    found = open_drawing(unpacked(opened.data, entry.inside, name), entry.name, cache)
    provenance = Provenance(origin=name, licence=licence_in(notes), note=" ".join(notes.split())[:LONGEST_NOTE])
    says = f"{entry.name} was taken out of {name}."
    if notes:
        says += f" Its notes seem to say: {LICENCE_WORDS[provenance.licence]}."
    if isinstance(found, OpenedPicture):
        return OpenedPicture(found.data, replace(found.picture, provenance=provenance), says)
    return OpenedDrawing(found.data, replace(found.artwork, provenance=provenance), says, found.colours, found.sketch)


def open_drawing(data: bytes, name: str, cache: Cache) -> OpenedDrawing | OpenedPicture:
    """A drawing, or the picture in one that holds nothing else.

    Raises DrawingNotReadable when a drawing cannot be read, NothingToDraw when it shows nothing.
    """
    asset = asset_key(data)
    drawing = read_once(data, asset, name, 0, cache)
    if not drawing.parts and drawing.pictures:
        return open_picture(drawing.pictures[0].data, name, cache)
    if not drawing.parts:
        missing = ", ".join(f"{n} x {what}" for what, n in drawing.not_understood.items()) or "no shape"
        raise NothingToDraw(f"{name} holds nothing that can be cut (found: {missing}): choose another drawing.")
    return OpenedDrawing(data, artwork_for(drawing, asset, name), colours=_inks(drawing), sketch=_sketch(drawing))


def _inks(drawing: Drawing) -> int:
    """Colours other than white."""
    return len({part.colour for part in drawing.parts if part.inks})


def _sketch(drawing: Drawing) -> MultiPolygon:
    path = Path.joined(part.lines for part in drawing.parts)
    box = path.bounds
    if box is None:
        return MultiPolygon()
    rings = flatten(path, max(box[2] - box[0], box[3] - box[1]) / SKETCH_SHARE).rings()
    return MultiPolygon([Polygon(ring) for ring in rings if len(ring) >= 3])


@dataclass(frozen=True)
class PictureInside:
    """A picture out of a drawing; ``width`` of what is kept of it, as large as it is there, in mm."""

    opened: OpenedPicture
    width: float


def pictures_inside(drawing: Drawing, mm_per_unit: float, name: str, cache: Cache) -> tuple[PictureInside, ...]:
    """The pictures of pixels in a drawing of which a unit is so many mm; those that yield nothing are left out.

    Raises PictureNotReadable or NothingToDraw when none can.
    """
    found: list[PictureInside] = []
    refused: InputRefused | None = None
    for number, held in enumerate(drawing.pictures, 1):
        label = name if len(drawing.pictures) == 1 else f"{name}, picture {number}"
        try:
            opened = open_picture(held.data, label, cache)
            share = ink_share(raster_once(held.data, opened.picture.asset, label, cache), opened.picture, cache)
        except (PictureNotReadable, NothingToDraw) as error:
            refused = error
            continue
        found.append(PictureInside(opened, math.hypot(held.own.a, held.own.b) * mm_per_unit * share))
    if refused is not None and not found:
        raise refused
    return tuple(found)


def open_picture(data: bytes, name: str, cache: Cache) -> OpenedPicture:
    """Raises PictureNotReadable when a picture cannot be read."""
    asset = asset_key(data)
    raster_once(data, asset, name, cache)
    return OpenedPicture(data, Picture(asset=asset, name=name))
