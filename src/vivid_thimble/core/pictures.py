"""Edits of a picture in a job, and what a person needs to see of it to decide how it is taken."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.elements import Assets
from vivid_thimble.core.job import Element, Job, Placement, with_element
from vivid_thimble.core.picture_stages import drawn_portrait, raster_of, ready_picture, sized_picture
from vivid_thimble.core.placing import size_factor
from vivid_thimble.core.sources.line_portrait import LinePortrait, seen_from_afar, smallest_diameter
from vivid_thimble.core.sources.picture import Picture, Spot
from vivid_thimble.core.sources.separation import Separated
from vivid_thimble.core.tracing.label_map import ColourImage
from vivid_thimble.core.tracing.leftovers import Leftover
from vivid_thimble.core.tracing.prepare import Share

SHOWN_PX = 560
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
    ``leftovers`` with their areas in mm2 at the final size; ``nodes`` of the trace."""

    shown: ColourImage
    says: str
    leftovers: tuple[tuple[Leftover, float], ...]
    colours: tuple[str, ...]
    nodes: int


def look_at_picture(picture: Picture, placement: Placement, assets: Assets, cache: Cache) -> PictureLook:
    """Raises ThimbleError when the picture cannot be read or nothing of it is left."""
    raster = raster_of(picture, assets, cache)
    sized = sized_picture(raster, picture, placement, cache)
    parted = sized.separated
    mm2 = sized.mm_per_px**2
    colours = tuple(c for k, c in enumerate(parted.colours) if k != parted.background)
    told = tuple((one, one.area_px * mm2) for one in parted.leftovers)
    return PictureLook(_shown(sized.ready, parted), parted.says, told, colours, sized.traced.node_count)


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
    far = seen_from_afar(drawn.kept, size_factor(placement, 1.0, 1.0, None))
    return PortraitLook(
        ready_picture(raster, portrait, halvings, cache),
        np.repeat(far[:, :, None], 3, axis=2),
        drawn.turns,
        drawn.most_turns,
        smallest_diameter(drawn.turns, portrait.min_line, portrait.min_gap),
        drawn.kept_end,
        drawn.waste_end,
    )


def as_portrait(job: Job, element_id: str) -> Job:
    """A picture as one line instead, as large as fits the item, within the limits of its film."""
    film = next(la.film for la in job.item.layers if any(e.id == element_id for e in la.elements))
    width = PORTRAIT_SHARE * min(job.item.width, job.item.height)

    def changed(element: Element) -> Element:
        if not isinstance(element.source, Picture):
            return element
        own = element.source
        source = LinePortrait(
            asset=own.asset,
            name=own.name,
            preparing=own.preparing,
            min_line=film.thinnest_line,
            min_gap=film.thinnest_gap,
            ties=USUAL_TIES if job.item.method == "rigid-stencil" else 0,
        )
        return replace(element, source=source, placement=element.placement.sized(width=width))

    return with_element(job, element_id, changed)


def as_picture(job: Job, element_id: str) -> Job:
    """A portrait as a plain picture again."""

    def changed(element: Element) -> Element:
        if not isinstance(element.source, LinePortrait):
            return element
        own = element.source
        return replace(element, source=Picture(asset=own.asset, name=own.name, preparing=own.preparing))

    return with_element(job, element_id, changed)


def _shown(pixels: ColourImage, parted: Separated) -> ColourImage:
    import cv2  # here: it delays the first paint

    rows, columns = pixels.shape[:2]
    share = min(SHOWN_PX / max(rows, columns), 1.0)
    size = max(round(columns * share), 1), max(round(rows * share), 1)
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA).astype(np.float32)
    kept: NDArray[np.float32] = cv2.resize(parted.ink.astype(np.float32), size, interpolation=cv2.INTER_AREA)  # type: ignore[assignment]  # of that kind
    fade = (DIMMED * (1.0 - kept))[:, :, None]
    return np.asarray(np.clip(small * (1.0 - fade) + 255.0 * fade, 0, 255), dtype=np.uint8)


def with_spot(picture: Picture, at: Share, tolerance: float, *, connected: bool) -> Picture:
    """Background clicked away at one more place."""
    spot = Spot(at=at, tolerance=tolerance, connected=connected)
    return replace(picture, background=(*picture.background, spot))


def with_leftover_kept(picture: Picture, at: Share) -> Picture:
    """A leftover that is to stay."""
    return replace(picture, kept_places=(*picture.kept_places, at))
