"""Edits of a picture in a job, and what a person needs to see of it to decide how it is taken."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from msgspec.structs import replace
from numpy.typing import NDArray
from shapely import MultiPolygon

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.edits.drawings import without_followers
from vivid_thimble.core.evaluate.picture_stages import (
    drawn_portrait,
    films_of,
    previewed,
    raster_of,
    ready_picture,
    sized_picture,
)
from vivid_thimble.core.evaluate.placing import size_factor
from vivid_thimble.core.job.edits import with_element
from vivid_thimble.core.job.values import Assets, Element, Job, Placement, source_as
from vivid_thimble.core.sources.colours import from_hex
from vivid_thimble.core.sources.drawing import Colour
from vivid_thimble.core.sources.line_portrait import LinePortrait, seen_from_afar, smallest_diameter
from vivid_thimble.core.sources.picture import BrushStroke, Picture, Spot
from vivid_thimble.core.sources.separation import Separated
from vivid_thimble.core.tracing.centre_lines import PenTrace
from vivid_thimble.core.tracing.label_map import ColourImage
from vivid_thimble.core.tracing.leftovers import Leftover
from vivid_thimble.core.tracing.prepare import Share

SHOWN_PX = 800
"""The longer side of the picture that is shown beside the controls."""
PORTRAIT_SHARE = 0.85
"""Of the item's shorter side that a new portrait takes."""
USUAL_TIES = 3
"""In a turn of a portrait that is cut out of a rigid sheet."""
DIMMED = 0.72
"""How far what is not kept fades to white."""


@dataclass(frozen=True, eq=False)
class PictureLook:
    """``shown`` (rows, columns, 3): the prepared picture, small, what is not kept faded. ``says``: how it was parted.
    ``leftovers`` with their areas in mm2 at the final size; ``areas``: the share of each colour, ``films`` the film of
    each, LEFT_OUT for none; ``nodes`` of the trace. ``plain``: the picture as it was prepared. ``lies`` tells where it
    lies round the middle of what is kept, at the final size: left, top, width, height in mm. ``outlines`` of each film
    in shares of the picture."""

    shown: ColourImage
    says: str
    leftovers: tuple[tuple[Leftover, float], ...]
    areas: dict[Colour, float]
    films: dict[Colour, int]
    nodes: int
    plain: ColourImage
    lies: tuple[float, float, float, float]
    outlines: tuple[MultiPolygon, ...]
    pen_width: float | None = None
    """Of a drawing traced by the middle of its lines, the width of most of them as measured, in mm."""


def look_at_picture(picture: Picture, placement: Placement, assets: Assets, cache: Cache) -> PictureLook:
    """Raises ThimbleError when the picture cannot be read or nothing of it is left."""
    raster = raster_of(picture, assets, cache)
    sized = sized_picture(raster, picture, placement, cache)
    parted = sized.separated
    mm2 = sized.mm_per_px**2
    told = tuple((one, one.area_px * mm2) for one in parted.leftovers)
    areas, films = _colours(parted, picture)
    columns, rows = parted.size
    left, top, right, bottom = sized.frame
    wide, high = columns * sized.mm_per_px, rows * sized.mm_per_px
    lies = -(left + right) / 2.0, -(top + bottom) / 2.0, wide, high
    small = _small(sized.ready)
    nodes = sized.traced.node_count
    shares = np.array([1.0 / wide, 1.0 / high])
    outlines = tuple(shapely.transform(one.polygons, lambda points: points * shares) for one in sized.regions)
    pen = None
    if isinstance(sized.traced, PenTrace) and sized.traced.widths:
        pen = float(np.median(sized.traced.widths)) * sized.mm_per_px
    shown = _shown(small, parted)
    return PictureLook(shown, parted.says, told, areas, films, nodes, small, lies, outlines, pen)


def preview_picture(picture: Picture, assets: Assets, cache: Cache) -> tuple[ColourImage, ColourImage, str]:
    """The prepared picture, small; the same with faded what is not kept; how it was parted. Quick, for what changes
    while a slider is moved. Raises PictureNotReadable."""
    ready, parted = previewed(raster_of(picture, assets, cache), picture, cache)
    small = _small(ready)
    if parted is None:
        return small, small, "Nothing is left to cut."
    return small, _shown(small, parted), parted.says


def _colours(parted: Separated, picture: Picture) -> tuple[dict[Colour, float], dict[Colour, int]]:
    """The share of each colour and its film."""
    if parted.labels is None:
        return {}, {}
    counts = np.bincount(parted.labels.ravel(), minlength=len(parted.colours)) / parted.labels.size
    colours = [from_hex(text) for text in parted.colours]
    return dict(zip(colours, counts.tolist(), strict=True)), dict(zip(colours, films_of(parted, picture), strict=True))


def _small(pixels: ColourImage) -> ColourImage:
    import cv2  # here: it delays the first paint

    rows, columns = pixels.shape[:2]
    share = SHOWN_PX / max(rows, columns)
    if share >= 1.0:
        return pixels
    size = max(round(columns * share), 1), max(round(rows * share), 1)
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)


@dataclass(frozen=True, eq=False)
class PortraitLook:
    """``shown``: the prepared photo, small. ``from_afar``: the portrait as it looks from two metres. ``smallest``: the
    size in mm below which these turns lose tones; where to begin pulling is told in mm from the middle."""

    shown: ColourImage
    from_afar: ColourImage
    turns: float
    most_turns: float
    smallest: float
    kept_end: tuple[float, float] | None
    waste_end: tuple[float, float] | None


def look_at_portrait(portrait: LinePortrait, placement: Placement, assets: Assets, cache: Cache) -> PortraitLook:
    """Raises ThimbleError when the photo cannot be read or the portrait not be drawn."""
    raster = raster_of(portrait, assets, cache)
    drawn = drawn_portrait(raster, portrait, placement, cache)
    halvings = max(math.ceil(math.log2(max(raster.size) / SHOWN_PX)), 0)
    size = size_factor(placement, 1.0, 1.0, None)
    far = seen_from_afar(drawn.kept, size)
    return PortraitLook(
        ready_picture(raster, portrait, halvings, cache),
        np.repeat(far[:, :, None], 3, axis=2),
        drawn.turns,
        drawn.most_turns,
        smallest_diameter(drawn.turns, portrait.min_line, portrait.min_gap) * size / drawn.circle,
        drawn.kept_end,
        drawn.waste_end,
    )


def as_portrait(job: Job, element_id: str) -> Job:
    """A picture as one line instead, as large as fits the item, within the limits of its film; further films go."""
    film = next(la.film for la in job.item.layers if any(e.id == element_id for e in la.elements))
    width = PORTRAIT_SHARE * min(job.item.width, job.item.height)

    def changed(element: Element) -> Element:
        own = source_as(element, Picture)
        if own is None:
            return element
        source = LinePortrait(
            asset=own.asset,
            name=own.name,
            preparing=own.preparing,
            min_line=film.thinnest_line,
            min_gap=film.thinnest_gap,
            ties=USUAL_TIES if job.item.method == "rigid-stencil" else 0,
        )
        return replace(element, source=source, placement=element.placement.sized(width=width))

    return without_followers(with_element(job, element_id, changed), element_id)


def as_picture(job: Job, element_id: str) -> Job:
    """A portrait as a plain picture again."""

    def changed(element: Element) -> Element:
        own = source_as(element, LinePortrait)
        if own is None:
            return element
        return replace(element, source=Picture(asset=own.asset, name=own.name, preparing=own.preparing))

    return with_element(job, element_id, changed)


def _shown(small: ColourImage, parted: Separated) -> ColourImage:
    """A small picture in which what is not kept is faded."""
    import cv2  # here: it delays the first paint

    size = small.shape[1], small.shape[0]
    kept: NDArray[np.float32] = cv2.resize(parted.ink.astype(np.float32), size, interpolation=cv2.INTER_AREA)  # type: ignore[assignment]  # of that kind
    fade = (DIMMED * (1.0 - kept))[:, :, None]
    return np.asarray(np.clip(small * (1.0 - fade) + 255.0 * fade, 0, 255), dtype=np.uint8)


def with_spot(picture: Picture, at: Share, tolerance: float, *, connected: bool) -> Picture:
    """Background clicked away at one more place."""
    spot = Spot(at=at, tolerance=tolerance, connected=connected)
    return replace(picture, background=(*picture.background, spot))


def with_crop(picture: Picture, crop: tuple[float, float, float, float]) -> Picture:
    """Another crop (shares of the whole picture); what was clicked and painted stays on its place."""
    old = picture.preparing.crop
    new = (min(crop[0], crop[2]), min(crop[1], crop[3]), max(crop[0], crop[2]), max(crop[1], crop[3]))
    wide, high = max(new[2] - new[0], 1e-6), max(new[3] - new[1], 1e-6)

    def moved(at: Share) -> Share:
        x = old[0] + at[0] * (old[2] - old[0])
        y = old[1] + at[1] * (old[3] - old[1])
        return (x - new[0]) / wide, (y - new[1]) / high

    def painted(stroke: BrushStroke) -> BrushStroke:
        return replace(stroke, points=tuple(moved(at) for at in stroke.points))

    return replace(
        picture,
        preparing=replace(picture.preparing, crop=new),
        background=tuple(replace(spot, at=moved(spot.at)) for spot in picture.background),
        strokes=tuple(painted(one) for one in picture.strokes),
        scribbles=tuple(painted(one) for one in picture.scribbles),
        kept_places=tuple(moved(at) for at in picture.kept_places),
    )


def with_circled_kept(picture: Picture, leftovers: Sequence[Leftover], circle: Sequence[Share]) -> Picture:
    """Leftovers that lie in what was drawn round them are to stay."""
    if len(circle) < 3:
        return picture
    ring = np.array(circle)
    x, y = ring.T
    after_x, after_y = np.roll(x, -1), np.roll(y, -1)
    kept = list(picture.kept_places)
    for one in leftovers:
        px, py = one.at
        crosses = (y > py) != (after_y > py)
        with np.errstate(divide="ignore", invalid="ignore"):
            where = x + (py - y) / (after_y - y) * (after_x - x)
        if int((crosses & (px < where)).sum()) % 2 == 1 and one.at not in kept:
            kept.append(one.at)
    return replace(picture, kept_places=tuple(kept))


def with_leftover_kept(picture: Picture, at: Share) -> Picture:
    """A leftover that is to stay."""
    return replace(picture, kept_places=(*picture.kept_places, at))
