"""What a viewer shows of a drawing: only what lies on its page."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from vivid_thimble.core.geometry.path import Box, Contour, Path, box_round
from vivid_thimble.core.sources.drawing import Clip, Drawing, DrawingPart

HAIR_SHARE = 1e-4
"""Shapes may reach this share of the page beyond it, since files are rounded."""
FAR_OFF = 50.0
"""Drawings that are so many times larger than their page are cut at its edge in any case."""


@dataclass(frozen=True)
class OffPage:
    """Numbers of the parts that lie wholly beyond the page, and of those that its edge cuts."""

    beyond: tuple[int, ...] = ()
    cut: tuple[int, ...] = ()


def off_page(drawing: Drawing, *, by_lines: bool = False) -> OffPage:
    """Which parts a viewer would not show whole. Nothing when there is no page, or nothing at all lies on it.

    ``by_lines``: strokes are judged by their middle alone, because their width is about to change.
    """
    page = drawing.page
    if page is None:
        return OffPage()
    boxes = [part.lines.bounds if by_lines and part.stroke is not None else reach(part) for part in drawing.parts]
    beyond = tuple(k for k, box in enumerate(boxes) if box is None or not _meet(box, page))
    if len(beyond) == len(boxes):
        return OffPage()
    out = set(beyond)
    room = HAIR_SHARE * max(page[2] - page[0], page[3] - page[1])
    roomy = page[0] - room, page[1] - room, page[2] + room, page[3] + room
    cut = tuple(k for k, box in enumerate(boxes) if k not in out and box is not None and not _holds(roomy, box))
    return OffPage(beyond, cut)


def is_far_off(drawing: Drawing) -> bool:
    """Whether shapes reach so far beyond the page that what is on it would be lost in their size."""
    if drawing.page is None:
        return False
    left, top, right, bottom = drawing.page
    boxes = [box for part in drawing.parts if (box := reach(part))]
    whole = box_round(boxes)
    if whole is None or not any(_meet(box, drawing.page) for box in boxes):
        return False
    return max(whole[2] - whole[0], whole[3] - whole[1]) > FAR_OFF * max(right - left, bottom - top)


def on_page(drawing: Drawing) -> Drawing:
    """The drawing as a viewer shows it."""
    off = off_page(drawing)
    if not off.beyond and not off.cut:
        return drawing
    clip = page_clip(drawing)
    cut, beyond = set(off.cut), set(off.beyond)
    parts = tuple(
        replace(part, clips=(*part.clips, clip)) if k in cut else part
        for k, part in enumerate(drawing.parts)
        if k not in beyond
    )
    return replace(drawing, parts=parts)


def page_clip(drawing: Drawing) -> Clip:
    """The page as a clip."""
    left, top, right, bottom = drawing.page or (0.0, 0.0, 0.0, 0.0)
    corners = np.array([[left, top], [right, top], [right, bottom], [left, bottom]])
    return Clip(((DrawingPart("page", Path((Contour.from_points(corners),)), "nonzero", (0, 0, 0)), True),))


def reach(part: DrawingPart) -> Box | None:
    """A box that holds everything a part paints, in the drawing's units; somewhat large for strokes with mitres."""
    box = part.lines.bounds
    if part.dots is not None and len(part.dots):
        dots = part.own.apply(part.dots)
        box = box_round([box, (*dots.min(axis=0).tolist(), *dots.max(axis=0).tolist())])
    if box is None or part.stroke is None:
        return box
    own = part.own
    grow = part.stroke.width / 2.0 * float(np.linalg.norm([[own.a, own.b], [own.c, own.d]], 2))
    grow *= part.stroke.miter_limit if part.stroke.join == "miter" else 1.0
    return (box[0] - grow, box[1] - grow, box[2] + grow, box[3] + grow)


def _meet(one: Box, other: Box) -> bool:
    return one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3]


def _holds(outer: Box, inner: Box) -> bool:
    return outer[0] <= inner[0] and outer[1] <= inner[1] and outer[2] >= inner[2] and outer[3] >= inner[3]
