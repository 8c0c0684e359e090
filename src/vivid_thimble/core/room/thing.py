"""What a blank means for an item: the thing, the room on it, the sheet round a design.

Places are those of the item: (0, 0) is the corner of the *room*. The edges of the *thing*, from which a hand measures,
lie outside it (``thing_box``).
"""

from __future__ import annotations

import math

import shapely

from vivid_thimble.core.blanks.bend import Bend
from vivid_thimble.core.blanks.kinds import ROUND, Ball, Cylinder, Tapered
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.values import Item
from vivid_thimble.core.lengths import Unit, format_length


def bend_of(item: Item) -> Bend | None:
    """How a tapered side bends the film; None when it lies flat as it is."""
    blank = item.blank
    if not isinstance(blank, Tapered) or not math.isfinite(blank.fan_radius):
        return None
    return Bend(blank.fan_radius, (item.width / 2.0, item.height / 2.0))


def room_box(item: Item) -> Box:
    """The room for the design on the level rectangle."""
    return 0.0, 0.0, item.width, item.height


def thing_box(item: Item) -> Box:
    """The true edges of the thing on the level rectangle; a plain rectangle is its own room."""
    left, top, right, bottom = (0.0, 0.0, 0.0, 0.0) if item.blank is None else item.blank.kept_free
    return -left, -top, item.width + right, item.height + bottom


def has_edges_beside(item: Item) -> bool:
    """Whether the thing ends at the left and right, so that a tape can begin there."""
    return not isinstance(item.blank, Cylinder | Tapered | Ball)


def sheet_room(item: Item) -> Box:
    """Where the film of a stencil may lie: up to the edges of the thing; on round things as wide as the room."""
    left, top, right, bottom = thing_box(item)
    if isinstance(item.blank, Ball):
        return room_box(item)
    return (left, top, right, bottom) if has_edges_beside(item) else (0.0, top, item.width, bottom)


def wanted_stencil_box(item: Item, design: Box) -> Box:
    """The sheet of a stencil round a design on the level rectangle, as its frame asks."""
    return item.frame.box(design, item.surround, sheet_room(item))


def stencil_box(item: Item, design: Box) -> Box:
    """The sheet of a stencil: on round things it ends at rim and foot."""
    left, top, right, bottom = wanted_stencil_box(item, design)
    if isinstance(item.blank, ROUND):
        _, rim, _, foot = sheet_room(item)
        top, bottom = max(top, rim), min(bottom, foot)
    return left, top, right, bottom


def edges_of(item: Item, bounds: Box) -> tuple[float, float, float, float]:
    """Left, right, top and bottom from the thing's edges to a box of the level rectangle; negative over the edge.

    On a tapered side left and right are those round the side where the middle of the box is.
    """
    left, top, right, bottom = thing_box(item)
    grown = true_share(item, (bounds[1] + bounds[3]) / 2.0)
    return (bounds[0] - left) * grown, (right - bounds[2]) * grown, bounds[1] - top, bottom - bounds[3]


def true_share(item: Item, y: float) -> float:
    """How long a mm of the level rectangle is round the side, ``y`` mm below the upper edge of the room."""
    blank = item.blank
    return max(blank.girth_at(blank.rim + y) / blank.girth, 0.0) if isinstance(blank, Tapered) else 1.0


def measured_from(item: Item) -> str:
    """A sentence about where distances to the left and right begin, where that is not plain to see."""
    blank = item.blank
    if isinstance(blank, Ball):
        return "On a ball from the ends of the half that is seen, over its surface."
    if isinstance(blank, Cylinder | Tapered):
        if blank.handle > 0.0:
            return "Left and right from the edges of the handle, round the side."
        return "Left and right from the line at the back, opposite the middle, round the side."
    return ""


def outline_of(item: Item, box: Box | None = None) -> shapely.Polygon:
    """A box of the level rectangle (None: the room) as it lies flat on the table."""
    box = box or room_box(item)
    flat = shapely.box(*box)
    bend = bend_of(item)
    if bend is None:
        return flat
    return shapely.transform(shapely.segmentize(flat, max((box[2] - box[0]) / 200.0, 0.5)), bend.apply)


def thing_outline(item: Item) -> shapely.Polygon:
    """The thing as it lies flat on the table; of a ball the half that is seen, laid down from its middle."""
    if isinstance(item.blank, Ball):
        return shapely.Point(item.width / 2.0, item.height / 2.0).buffer(item.blank.front / 2.0, quad_segs=48)
    return outline_of(item, thing_box(item))


def shown_box(item: Item) -> Box:
    """What of the thing is worth seeing at once: all of it, of round things the half that is seen from the front."""
    if not isinstance(item.blank, Cylinder | Tapered):
        left, top, right, bottom = thing_outline(item).bounds
        return left, top, right, bottom
    left, top, right, bottom = thing_box(item)
    middle, reach = item.width / 2.0, max(item.blank.girth / 4.0, item.width / 2.0)
    seen = max(left, middle - reach), top, min(right, middle + reach), bottom
    left, top, right, bottom = outline_of(item, seen).bounds
    return left, top, right, bottom


def size_in_words(item: Item, unit: Unit, *, briefly: bool = False) -> str:
    """The size of the thing as a tape tells it; ``briefly``: in the fewest letters."""

    def bare(mm: float) -> str:
        return format_length(mm, unit, with_unit=False)

    def say(mm: float) -> str:
        return format_length(mm, unit)

    words = f"{bare(item.width)} × {say(item.height)}" if item.blank is None else item.blank.size(bare, say)
    return " ".join(word for word in words.split() if word != "round") if briefly else words
