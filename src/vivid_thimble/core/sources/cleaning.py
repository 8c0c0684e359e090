"""What is cleaned in a drawing: the switches, the report, and the part that needs no size.

Each matter is found and counted whether it is switched on or not, so that a person sees what would
change. ``tidy`` does what depends on the size of the finished design.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import shapely
from msgspec import Struct

from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Box, Contour, Path, box_round, diagonal
from vivid_thimble.core.geometry.repeats import repeats
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.ranges import Area, Tolerance
from vivid_thimble.core.sources.drawing import WHITE, Colour, Drawing, DrawingPart
from vivid_thimble.core.sources.page import is_far_off, off_page, page_clip, reach
from vivid_thimble.core.sources.stairs import step_of, without_steps

CleanKind = Literal[
    "page", "background", "hidden", "doubled", "open", "crossings", "hairlines", "specks", "pinholes", "stairs", "nodes"
]
KINDS: tuple[CleanKind, ...] = (
    "background", "page", "hidden", "doubled", "open", "crossings", "hairlines", "specks", "pinholes", "stairs", "nodes"
)  # fmt: skip
Point = tuple[float, float]
PAPER_FROM = 217
"""A patch under everything is taken for paper when all three values reach this."""
PATCH_SHARE = 0.9
"""A background patch covers this much of the drawing's box at least."""
SQUARE_SHARE = 0.97
"""And fills this much of its own box."""
DOUBLED_SHARE = 2e-4
"""Outlines closer than this share of the drawing's diagonal all along are one line drawn twice."""
CLOSED_SHARE = 5e-5
"""Ends closer than this share of the diagonal meet."""
MOST_HIDDEN_LOOKED_AT = 400
"""In drawings of more parts the hidden ones are not counted: the visible picture is the same."""


class Cleaning(Struct, frozen=True, kw_only=True):
    """Which matters are cleaned. ``background`` None: a patch as light as paper goes, a coloured one stays.

    Areas in mm2 and lengths in mm at the final size.
    """

    page: bool = True
    background: bool | None = None
    hidden: bool = True
    doubled: bool = True
    open: bool = True
    crossings: bool = True
    hairlines: bool = True
    specks: bool = True
    speck_area: Area = 0.5
    pinholes: bool = True
    pinhole_area: Area = 0.5
    stairs: bool = True
    nodes: bool = True
    node_tolerance: Tolerance = 0.02


UNTOUCHED = Cleaning(
    page=False, background=False, hidden=False, doubled=False, specks=False, pinholes=False, stairs=False, nodes=False
)
"""Only what no cut can do without: how drawings were taken before there was a choice."""


def at_any_size(cleaning: Cleaning) -> Cleaning:
    """The switches that ``cleaned_parts`` heeds; those that ``tidy`` does are as a new drawing has them."""
    return Cleaning(
        page=cleaning.page,
        background=cleaning.background,
        hidden=cleaning.hidden,
        doubled=cleaning.doubled,
        open=cleaning.open,
        crossings=cleaning.crossings,
        stairs=cleaning.stairs,
    )


@dataclass(frozen=True)
class Cleaned:
    """One line of the report. ``at`` are some of the places, in mm on the item once it is placed."""

    kind: CleanKind
    count: int
    on: bool
    at: tuple[Point, ...] = ()
    before: int | None = None
    after: int | None = None
    largest: float | None = None
    """The largest gap in mm, for outlines left open."""

    def placed(self, affine: Affine) -> Cleaned:
        """The same with its places mapped."""
        if not self.at:
            return self
        places = affine.apply(np.array(self.at))
        largest = None if self.largest is None else self.largest * abs(affine.determinant) ** 0.5
        return replace(self, at=tuple((float(x), float(y)) for x, y in places), largest=largest)


MOST_PLACES = 300
WORDS: dict[CleanKind, tuple[str, str]] = {
    "background": ("background patch left out", "background patches left out"),
    "page": ("shape beyond the page left out or cut at its edge", "shapes beyond the page left out or cut at its edge"),
    "hidden": ("shape hidden under others left out", "shapes hidden under others left out"),
    "doubled": ("shape drawn twice taken once", "shapes drawn twice taken once"),
    "open": ("open outline closed", "open outlines closed"),
    "crossings": ("outline that crosses itself parted as shown", "outlines that cross themselves parted as shown"),
    "hairlines": ("hairline gap or sliver closed or dropped", "hairline gaps or slivers closed or dropped"),
    "specks": ("speck left out", "specks left out"),
    "pinholes": ("pinhole filled", "pinholes filled"),
    "stairs": ("outline with tiny steps smoothed", "outlines with tiny steps smoothed"),
    "nodes": ("outline drawn with fewer nodes", "outlines drawn with fewer nodes"),
}


def in_words(one: Cleaned) -> str:
    """A line of the report as a person reads it."""
    text = f"{one.count} {WORDS[one.kind][one.count != 1]}"
    if one.kind == "nodes" and one.before is not None and one.after is not None:
        text = f"{one.before - one.after} of {one.before} nodes left out"
    if one.kind == "open" and one.largest is not None:
        text += f", largest gap {one.largest:.2f} mm"
    return text


def cleaned_parts(drawing: Drawing, cleaning: Cleaning, *, by_lines: bool = False) -> tuple[Drawing, list[Cleaned]]:
    """The drawing without what is cleaned away, and the report; places in the drawing's units.

    Parts hidden under others are found later, when their areas are known (``hidden_parts``). ``by_lines``: see
    ``off_page``.
    """
    size = diagonal(box_round(map(reach, drawing.parts)))
    report: list[Cleaned] = []
    dropped: set[int] = set()
    parts = list(drawing.parts)

    off = off_page(drawing, by_lines=by_lines)
    cuts_page = cleaning.page or is_far_off(drawing)
    report += told_parts("page", (*off.beyond, *off.cut), cuts_page, parts)
    if cuts_page:
        dropped |= set(off.beyond)
        clip = page_clip(drawing)
        for k in off.cut:
            parts[k] = replace(parts[k], clips=(*parts[k].clips, clip))

    patches = background_patches(parts, dropped, size)
    light = bool(patches) and all(min(parts[k].colour) >= PAPER_FROM for k in patches)
    on = light if cleaning.background is None else cleaning.background
    report += told_parts("background", patches, on, parts)
    dropped |= set(patches) if on else set()

    twice = doubled_parts(parts, size)
    report += told_parts("doubled", twice, cleaning.doubled, parts)
    dropped |= set(twice) if cleaning.doubled else set()

    kept = [part for k, part in enumerate(parts) if k not in dropped]
    if on and patches:
        kept = _with_paper(kept, [drawing.parts[k].colour for k in patches])
    kept = _open_outlines(kept, cleaning.open, size, report)
    kept = _stairs(kept, cleaning.stairs, size, report)
    kept = _crossings(kept, cleaning.crossings, report)
    return replace(drawing, parts=tuple(kept)), report


def told_parts(kind: CleanKind, which: Sequence[int], on: bool, parts: Sequence[DrawingPart]) -> list[Cleaned]:
    """The line of the report for some parts; nothing when there are none."""
    if not which:
        return []
    places = []
    for k in list(which)[:MOST_PLACES]:
        box = parts[k].lines.bounds
        if box:
            places.append(((box[0] + box[2]) / 2.0, (box[1] + box[3]) / 2.0))
    return [Cleaned(kind, len(which), on, tuple(places))]


def background_patches(parts: Sequence[DrawingPart], without: set[int], size: float) -> list[int]:
    """Numbers of the lowest parts that are rectangles under (nearly) everything else."""
    boxes = [None if k in without else reach(part) for k, part in enumerate(parts)]
    found: list[int] = []
    for k, part in enumerate(parts):
        if k in without:
            continue
        own, rest = boxes[k], box_round(boxes[k + 1 :])
        if part.stroke is not None or not part.is_opaque or own is None or rest is None or part.clips:
            break
        alone = not any(other.colour != part.colour for other in parts[k + 1 :])
        if alone or _shared(own, rest) < PATCH_SHARE * _area(rest) or not _is_rectangle(part, _area(own), size):
            break
        found.append(k)
    return found


def _area(box: Box) -> float:
    return (box[2] - box[0]) * (box[3] - box[1])


def _shared(one: Box, other: Box) -> float:
    """The area that two boxes have in common."""
    wide, high = (min(one[k + 2], other[k + 2]) - max(one[k], other[k]) for k in (0, 1))
    return max(wide, 0.0) * max(high, 0.0)


def _is_rectangle(part: DrawingPart, box_area: float, size: float) -> bool:
    if len(part.path.contours) > 3 or size <= 0.0 or box_area <= 0.0:
        return False
    scale = Affine.scaling(100.0 / size)
    covered = part.region(scale).area / scale.determinant
    return bool(covered >= SQUARE_SHARE * box_area)


def doubled_parts(parts: Sequence[DrawingPart], size: float) -> list[int]:
    """Numbers of opaque parts that a later one of the same kind repeats all along: the lower of each pair."""
    if size <= 0.0:
        return []
    scale = Affine.scaling(1.0 / size)
    lines = [_laid_out(part, scale) if part.is_opaque else () for part in parts]
    owner = [k for k, contours in enumerate(lines) for contour in contours if len(contour)]
    contours = [contour for own in lines for contour in own if len(contour)]
    met: Counter[tuple[int, int]] = Counter()
    for one, other, _ in repeats(contours, DOUBLED_SHARE):
        met[min(owner[one], owner[other]), max(owner[one], owner[other])] += 1
    found = set()
    for (lower, upper), count in met.items():
        below, above = parts[lower], parts[upper]
        same_pen = (below.stroke is None) == (above.stroke is None)
        alike = same_pen and above.inks == below.inks and below.clips == above.clips
        if lower != upper and alike and count == sum(1 for contour in lines[lower] if len(contour)):
            found.add(lower)
    return sorted(found)


def _laid_out(part: DrawingPart, scale: Affine) -> tuple[Contour, ...]:
    pause()
    return part.lines.transformed(scale).contours


def hidden_parts(parts: Sequence[DrawingPart], covered: Sequence[shapely.MultiPolygon]) -> list[int]:
    """Numbers of parts of which nothing is seen because later opaque ones lie over them."""
    if len(parts) > MOST_HIDDEN_LOOKED_AT:
        return []
    tree = shapely.STRtree(list(covered))
    found = []
    for k, area in enumerate(covered):
        pause()
        if area.is_empty:
            continue
        over = [int(j) for j in tree.query(area, predicate="intersects") if j > k and parts[j].is_opaque]
        if not over or sum(covered[j].area for j in over) < 0.999 * area.area:
            continue
        left = shapely.difference(area, shapely.union_all([covered[j] for j in over]))
        if left.area <= 1e-4 * area.area:
            found.append(k)
    return found


def _with_paper(parts: list[DrawingPart], colours: Sequence[Colour]) -> list[DrawingPart]:
    """Parts in the colour of the paper that was left out cut away what lies below them, as white does."""
    return [replace(part, colour=WHITE) if part.colour in colours else part for part in parts]


def _stairs(parts: list[DrawingPart], on: bool, size: float, report: list[Cleaned]) -> list[DrawingPart]:
    """Filled outlines with tiny steps, replaced by the lines that they stand for."""
    places: list[Point] = []
    out = []
    for part in parts:
        pause()
        steps = [step_of(c, size) for c in part.path.contours] if part.stroke is None else []
        found = [c for c, step in zip(part.path.contours, steps, strict=False) if step is not None]
        for contour in found:
            at = part.own.apply(contour.segments[0, 0])
            places.append((float(at[0]), float(at[1])))
        if found and on:
            contours = (
                c if step is None else without_steps(c, step) for c, step in zip(part.path.contours, steps, strict=True)
            )
            part = replace(part, path=Path(tuple(contours)))
        out.append(part)
    if places:
        report.append(Cleaned("stairs", len(places), on, tuple(places[:MOST_PLACES])))
    return out


def _open_outlines(parts: list[DrawingPart], on: bool, size: float, report: list[Cleaned]) -> list[DrawingPart]:
    """Filled outlines whose ends do not meet: closed by a straight line, or left out when switched off."""
    places: list[Point] = []
    largest = 0.0
    out = []
    for part in parts:
        pause()
        open_ones = [] if part.stroke is not None else [c for c in part.path.contours if c.gap > CLOSED_SHARE * size]
        for contour in open_ones:
            start, end = contour.segments[0, 0], contour.segments[-1, 3]
            middle = part.own.apply((start + end) / 2.0)
            places.append((float(middle[0]), float(middle[1])))
            largest = max(largest, contour.gap)
        if open_ones and not on:
            part = replace(part, path=Path(tuple(c for c in part.path.contours if c not in open_ones)))
        if part.stroke is not None or not part.path.is_empty:
            out.append(part)
    if places:
        report.append(Cleaned("open", len(places), on, tuple(places[:MOST_PLACES]), largest=largest))
    return out


def _crossings(parts: list[DrawingPart], on: bool, report: list[Cleaned]) -> list[DrawingPart]:
    """Filled outlines that cross themselves: parted by the fill rule, or filled solid when switched off."""
    places: list[Point] = []
    out = []
    for part in parts:
        pause()
        crossing = [] if part.stroke is not None else _self_crossing(part.path)
        places += [(float(x), float(y)) for x, y in (part.own.apply(np.array(at)) for at in crossing)]
        out.append(replace(part, rule="nonzero") if crossing and not on else part)
    if places:
        report.append(Cleaned("crossings", len(places), on, tuple(places[:MOST_PLACES])))
    return out


def _self_crossing(path: Path) -> list[Point]:
    """One place for each contour that crosses itself."""
    contours = [c for c in path.contours if len(c) > 2 or (len(c) and not c.is_line.all())]
    if not contours:
        return []
    box = Path(tuple(contours)).bounds
    assert box is not None
    size = max(box[2] - box[0], box[3] - box[1])
    if size <= 0.0:
        return []
    rings = flatten(Path(tuple(contours)), size * 1e-4).rings()
    found = []
    for ring in rings:
        if len(ring) < 4:
            continue
        line = shapely.LinearRing(ring)
        if not shapely.is_simple(line):
            reason = shapely.is_valid_reason(shapely.Polygon(ring))
            found.append(_place_in(reason) or (float(ring[0, 0]), float(ring[0, 1])))
    return found


def _place_in(reason: str) -> Point | None:
    """The point that GEOS names in brackets."""
    inside = reason.partition("[")[2].rstrip("]").split()
    try:
        return float(inside[0]), float(inside[1])
    except (IndexError, ValueError):
        return None
