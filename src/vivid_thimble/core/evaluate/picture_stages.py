"""A picture on its way to film, in stages that are each worked out once.

Decoded; reduced to what the final size needs and prepared; separated; traced; at its final size. A change of smoothness
starts after the third, a change of size before the second only when it asks for other pixels. The evaluator, the
picture's panel and the command line take the same stages from one cache.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache, content_key
from vivid_thimble.core.errors import InputRefused, NothingToDraw
from vivid_thimble.core.evaluate.placing import size_factor
from vivid_thimble.core.formats.raster_read import Raster, read_picture
from vivid_thimble.core.geometry.offset import offset
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.geometry.region import Region, intersection, union
from vivid_thimble.core.geometry.tolerances import FLATTEN_MM
from vivid_thimble.core.job.values import Placement, plain
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.sources.colours import LEFT_OUT, film_of, from_hex
from vivid_thimble.core.sources.line_portrait import DrawnLines, LinePortrait, draw_to_size
from vivid_thimble.core.sources.picture import Picture
from vivid_thimble.core.sources.separation import PHOTO_BLUR, Separated, separated, trace
from vivid_thimble.core.tracing.centre_lines import PenTrace
from vivid_thimble.core.tracing.curves import FINEST_TOLERANCE_PX
from vivid_thimble.core.tracing.label_map import ColourImage
from vivid_thimble.core.tracing.prepare import prepared_picture
from vivid_thimble.core.tracing.traced import Traced

FINEST_PX_PER_MM = 6.0
"""More pixels than this tell nothing that a knife could follow: they are averaged, which keeps edges exact. The
thinnest lines that films bear are still several pixels wide, and edges known within 0.01 mm."""
PHOTO_TOLERANCE_MM = 0.05
"""Outlines of a photo may stray by this at the final size: they run through shades, and a knife follows no closer."""
PORTRAIT_PX = 500
"""Lines never show more than so many pixels across their circle, twice over."""
SHARPEST_PHOTO_PX = 1.0
"""Photos are blurred by at least so many pixels: more pixels would show nothing else."""
POLYGON_SHARE = 0.95
"""Of the usual error of polygons, since the size in pixels is known nearly."""
PREVIEW_PX = 800
"""The longer side of the copy on which changes are seen at once."""
LOOKED_AT_PX = 900
"""The longer side of the picture from which the inked box is told before the final size is known."""


def raster_of(picture: Picture | LinePortrait, assets: Mapping[str, bytes], cache: Cache) -> Raster:
    """The decoded file of a picture; raises InputRefused."""
    if picture.asset not in assets:
        raise InputRefused(f"The file of {picture.name} is missing from the project: add the picture again.")
    return raster_once(assets[picture.asset], picture.asset, picture.name, cache)


def raster_once(data: bytes, asset: str, name: str, cache: Cache) -> Raster:
    """The picture in a file whose content has the key ``asset``; raises PictureNotReadable."""
    return cache.get(content_key("raster", asset), lambda: read_picture(data, name))


def ready_picture(raster: Raster, picture: Picture | LinePortrait, halvings: int, cache: Cache) -> ColourImage:
    """The picture averaged over 2 ** ``halvings`` pixels each way, and prepared."""
    key = content_key("ready", picture.asset, plain(picture.preparing), str(halvings))
    small = content_key("halved", picture.asset, str(halvings))

    def make() -> ColourImage:
        pixels = cache.get(small, lambda: _halved(raster.pixels, halvings)) if halvings else raster.pixels
        return prepared_picture(pixels, picture.preparing)

    return cache.get(key, make)


def _halved(pixels: ColourImage, halvings: int) -> ColourImage:
    import cv2  # here: it delays the first paint

    if halvings <= 0:
        return pixels
    rows, columns = pixels.shape[:2]
    size = max(round(columns / 2**halvings), 1), max(round(rows / 2**halvings), 1)
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)


def separated_picture(raster: Raster, picture: Picture, halvings: int, px_per_mm: float, cache: Cache) -> Separated:
    """``px_per_mm`` of the averaged picture at the final size tells how large specks are. Raises NothingToDraw."""
    speck, pinhole = (round(area * px_per_mm**2, 1) for area in (picture.speck_area, picture.pinhole_area))
    key = content_key("separated", _separation_key(picture), str(halvings), repr((speck, pinhole)))
    return cache.get(key, lambda: separated(ready_picture(raster, picture, halvings, cache), picture, speck, pinhole))


def _separation_key(picture: Picture) -> str:
    own = (picture.separate, picture.level, picture.colours, picture.background, picture.strokes)
    left = (picture.leftovers_go, picture.kept_places)
    by_hand = (picture.scribbles, picture.traced_as)
    return content_key(picture.asset, plain(picture.preparing), plain(own), plain(by_hand), plain(left))


@dataclass(frozen=True, eq=False)
class SizedPicture:
    """A picture at its final size, its top-left at the origin. ``ready``: the prepared picture that was
    separated. ``regions``: of each film, in mm;
    ``mm_per_px`` of the separated picture."""

    ready: ColourImage
    separated: Separated
    traced: Traced | PenTrace
    regions: tuple[Region, ...]
    frame: Box
    mm_per_px: float


def sized_picture(raster: Raster, picture: Picture, placement: Placement, cache: Cache) -> SizedPicture:
    """All films of a picture at the size that a placement gives it; raises NothingToDraw, InputRefused."""
    px_per_mm, halvings = _resolution(raster, picture, placement, cache)
    parted = separated_picture(raster, picture, halvings, px_per_mm / 2**halvings, cache)
    films = films_of(parted, picture)
    ease = picture.ease
    if parted.is_photo:
        ease *= max(PHOTO_TOLERANCE_MM * px_per_mm / 2**halvings / FINEST_TOLERANCE_PX, 1.0)
    within = POLYGON_SHARE * FLATTEN_MM * px_per_mm / 2**halvings
    size = halvings, round(px_per_mm, 3), picture.speck_area, picture.pinhole_area
    own = picture.ease, films, picture.corners, picture.traced_as, picture.pen_width
    key = content_key(_separation_key(picture), repr(size), repr(own))
    found = cache.get(content_key("traced", key), lambda: trace(parted, picture, films, ease, within))
    laid = placement.width, placement.height, picture.overlap, picture.trap
    key = content_key("sized picture", key, repr(laid))
    box = found.box
    if box is None:
        raise NothingToDraw(f"Nothing of {picture.name} is left to cut: choose another level.")
    factor = size_factor(placement, box[2] - box[0], box[3] - box[1], None)
    regions = cache.get(key, lambda: _layered(found.regions(factor), picture))
    ready = ready_picture(raster, picture, halvings, cache)
    frame = box[0] * factor, box[1] * factor, box[2] * factor, box[3] * factor
    return SizedPicture(ready, parted, found, regions[: picture.films], frame, factor)


def separated_at(raster: Raster, picture: Picture, placement: Placement, cache: Cache) -> Separated:
    """The picture parted at the size that a placement gives it; raises NothingToDraw, InputRefused."""
    px_per_mm, halvings = _resolution(raster, picture, placement, cache)
    return separated_picture(raster, picture, halvings, px_per_mm / 2**halvings, cache)


def _resolution(raster: Raster, picture: Picture, placement: Placement, cache: Cache) -> tuple[float, int]:
    """Pixels of the whole picture for a mm at the final size, and how often they are halved."""
    px_per_mm = _px_per_mm(raster, picture, placement, cache)
    halvings = max(math.ceil(math.log2(px_per_mm / FINEST_PX_PER_MM)), 0)
    if picture.separate in ("colours", "tones") and picture.traced_as == "areas":  # blurred before they are parted
        halvings = max(halvings, math.floor(math.log2(PHOTO_BLUR * max(raster.size) / SHARPEST_PHOTO_PX)))
    return px_per_mm, halvings


def previewed(raster: Raster, picture: Picture, cache: Cache) -> tuple[ColourImage, Separated | None]:
    """A small copy of the picture, prepared, and how it is parted; None when nothing of it is left."""
    halvings = max(math.ceil(math.log2(max(*raster.size, 1) / PREVIEW_PX)), 0)
    ready = ready_picture(raster, picture, halvings, cache)
    try:
        return ready, separated_picture(raster, picture, halvings, 0.0, cache)
    except NothingToDraw:
        return ready, None


def _layered(regions: list[Region], picture: Picture) -> tuple[Region, ...]:
    """Films side by side, each a little under the next ones; or the first one whole under all others."""
    films = regions[: picture.films]
    stacked = picture.overlap == "stacked"
    if len(films) < 2 or (not stacked and picture.trap <= 0.0):
        return tuple(films)
    above = Region()
    found = []
    for film in reversed(films):
        pause("Laying films over each other")
        if stacked:
            film = above = union([film, above])
        elif not above.is_empty:
            own, film = film, union([film, intersection(offset(film, picture.trap), above)])
            above = union([own, above])
        else:
            above = film
        found.append(film)
    return tuple(reversed(found))


def _px_per_mm(raster: Raster, picture: Picture, placement: Placement, cache: Cache) -> float:
    """Pixels of the whole picture for a mm at the final size, told from a small copy."""
    halvings, (wide, high), _ = _ink_box(raster, picture, cache)
    return float(2**halvings) / size_factor(placement, wide, high, None)


def ink_share(raster: Raster, picture: Picture, cache: Cache) -> float:
    """How wide what is kept is, as a share of the whole picture."""
    _, (wide, _), columns = _ink_box(raster, picture, cache)
    return wide / columns


def _ink_box(raster: Raster, picture: Picture, cache: Cache) -> tuple[int, tuple[float, float], int]:
    """How often a small copy is halved, width and height of what is kept of it in pixels, and its columns."""
    halvings = max(math.ceil(math.log2(max(*raster.size, 1) / LOOKED_AT_PX)), 0)
    ink = separated_picture(raster, picture, halvings, 0.0, cache).ink
    across, down = np.flatnonzero(ink.any(axis=0)), np.flatnonzero(ink.any(axis=1))
    return halvings, (float(across[-1] - across[0] + 1), float(down[-1] - down[0] + 1)), ink.shape[1]


def drawn_portrait(raster: Raster, portrait: LinePortrait, placement: Placement, cache: Cache) -> DrawnLines:
    """A photo as lines, as wide or high as a placement says, the middle at the origin; raises InputRefused."""
    size, axis = size_factor(placement, 1.0, 1.0, None), int(placement.width is None)
    key = content_key("portrait", plain(replace(portrait, name="")), repr((size, axis)))
    halvings = max(int(math.log2(max(min(raster.size) * portrait.radius / PORTRAIT_PX, 1.0))), 0)

    def make() -> DrawnLines:
        return draw_to_size(ready_picture(raster, portrait, halvings, cache), portrait, size, axis)

    return cache.get(key, make)


def films_of(parted: Separated, picture: Picture) -> tuple[int, ...]:
    """The film of each colour, LEFT_OUT for none. Raises NothingToDraw when all are left out."""
    if parted.palette is None:
        return (0,)
    named = [text for text, _ in picture.colour_films]
    ground = None if parted.background is None else parted.colours[parted.background]
    films = tuple(
        LEFT_OUT if colour == ground and not named else film_of(from_hex(colour), picture) for colour in parted.colours
    )
    if all(film == LEFT_OUT for film in films):
        raise NothingToDraw(f"Every colour of {picture.name} is left out: give at least one to a film.")
    return films
