"""The weeding forecast: every piece of waste as a numbered pick in the order to pull, with what to
watch, the effort, and relief cuts that make it easier.

Outside first when many small or slender kept pieces hang in it (they stay put while
the rest is done), inside first when the counters are few and large.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import LineString, MultiPolygon
from shapely.geometry.polygon import orient

from vivid_thimble.core.finish.effort import Effort, effort_of
from vivid_thimble.core.finish.relief import relief_cuts, relief_in, weeding_box
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.inspect.inspection import Inspection
from vivid_thimble.core.inspect.pieces import Piece
from vivid_thimble.core.widths.places import ThinPlace

FIDDLY_MM2 = 30.0
"""A waste piece below this is fiddly: easier while everything round it is still held."""
MANY_FRAGILE = 4
"""From so many small kept pieces on, the surround goes first."""
FRAGILE_MM2 = 60.0
TINY_MM2 = 8.0
WRAPPED = 2
"""A piece of waste with so many kept pieces in it wraps the design."""
STRIP_MM, STRIP_RATIO = 3.0, 20.0
"""Waste narrower than this on average, and so many times longer, is a long thin strip."""
SHARP_DEG = 40.0
"""Waste tips sharper than this tend to stay behind."""
TIP_DETAIL_MM = 0.05
"""Outlines are simplified by this much before their tips are counted."""


@dataclass(frozen=True, eq=False)
class Pick:
    """One piece to pull: its number, place (mm on the item), area, what to do and what to watch."""

    number: int
    piece: Piece
    what: str
    at: tuple[float, float]
    area: float
    watch: tuple[str, ...] = ()


@dataclass(frozen=True, eq=False)
class WeedingPlan:
    """The picks in order with the reason; the effort; the weeding box and suggested relief cuts."""

    picks: tuple[Pick, ...]
    outside_first: bool
    reason: str
    effort: Effort
    box: Box | None
    relief: tuple[LineString, ...]


def weeding_plan(
    inspection: Inspection,
    kept: MultiPolygon,
    *,
    is_sheet: bool,
    flipped: bool = False,
    margin: float | None = None,
    parted: bool = True,
) -> WeedingPlan:
    """The picks of one layer whose film is ``kept``. For a stencil's sheet the openings are pulled in
    reading order. ``flipped`` takes the other order than the recommended one. ``margin``: of a weeding box that is cut
    (None: the box is a suggestion). ``parted``: relief cuts may go through its waste."""
    surround = [p for p in inspection.waste if p.is_surround]
    inner = sorted((p for p in inspection.waste if not p.is_surround), key=_reading_order)
    outside_first, reason = _order(inspection, inner, is_sheet=is_sheet)
    if flipped and surround and inner:
        outside_first, reason = not outside_first, f"Your order. Recommended was the other: {reason}"
    order = inner if is_sheet else [*surround, *inner] if outside_first else [*inner, *surround]
    tips = _tips(order)
    picks = _numbered(order, "Opening" if is_sheet else "Middle", inspection, tips, parted=parted)
    box = surround[0].box if surround and not is_sheet else None
    relief: tuple[LineString, ...] = ()
    if box is not None and margin is not None:
        box = weeding_box(kept, margin)
        relief = relief_in(kept, box) if parted else ()
    elif box is not None and parted:
        relief = relief_cuts(kept, box, surround[0].polygon)
    return WeedingPlan(picks, outside_first, reason, _effort(inspection, kept, picks, tips), box, relief)


def _order(inspection: Inspection, inner: Sequence[Piece], *, is_sheet: bool) -> tuple[bool, str]:
    if is_sheet:
        return False, "Stencil: pull the design out of the sheet and leave the surround."
    fragile = sum(1 for piece in inspection.kept if piece.area < FRAGILE_MM2)
    thin = sum(1 for place in inspection.lines.places if not place.is_needle)
    if fragile >= MANY_FRAGILE:
        return True, f"Outside first: {fragile} small pieces hang in it and stay put while the rest is done."
    if inner and thin >= MANY_FRAGILE:
        return True, f"Outside first: {thin} thin lines are safer while their middles still hold them."
    if inner:
        return False, "Inside first: the middles are few, and the film round them still holds everything."
    return False, "One pull: only the surround comes off."


def _effort(inspection: Inspection, kept: MultiPolygon, picks: Sequence[Pick], tips: Sequence[int]) -> Effort:
    return effort_of(
        picks=len(picks),
        tiny=sum(1 for pick in picks if pick.area < TINY_MM2),
        outline_mm=float(kept.length),
        necks=sum(1 for place in inspection.gaps.places if _is_neck(place)),
        thin_lines=sum(1 for place in inspection.lines.places if not place.is_needle),
        small_pieces=sum(1 for f in inspection.findings if f.kind == "small-piece"),
        tips=sum(tips),
    )


def _is_neck(place: ThinPlace) -> bool:
    return not place.is_needle and place.open_ends >= 2


def _tips(pieces: Sequence[Piece]) -> list[int]:
    """How many tips sharper than SHARP_DEG each piece has."""
    return [_sharp_tips(piece.polygon) for piece in pieces]


def _sharp_tips(polygon: shapely.Polygon) -> int:
    """Corners of a polygon that are sharper than SHARP_DEG inside."""
    plain = orient(shapely.simplify(polygon, TIP_DETAIL_MM), 1.0)  # the inside is on the left of every edge
    count = 0
    for ring in (plain.exterior, *plain.interiors):
        points = shapely.get_coordinates(ring)[:-1]
        before, after = points - np.roll(points, 1, axis=0), np.roll(points, -1, axis=0) - points
        cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
        turn = np.degrees(np.arctan2(cross, (before * after).sum(axis=1)))
        count += int((turn > 180.0 - SHARP_DEG).sum())
    return count


def _reading_order(piece: Piece) -> tuple[float, float]:
    return piece.at[0], piece.at[1]


def _numbered(
    pieces: Sequence[Piece], word: str, inspection: Inspection, tips: Sequence[int], *, parted: bool
) -> tuple[Pick, ...]:
    necks = [place for place in inspection.gaps.places if _is_neck(place)]
    tree = shapely.STRtree([piece.polygon for piece in pieces])
    places = np.array([shapely.Point(place.at) for place in necks], dtype=object)
    in_piece = tree.query(places, predicate="intersects")[1].tolist()
    picks = []
    for k, piece in enumerate(pieces):
        if piece.is_surround and not parted:
            what = "Surround and strip in one: begin at the outer end of the strip, then round and round"
        elif piece.is_surround:
            what = "Surround: peel it off from a corner, folded back flat"
        elif piece.area < TINY_MM2:
            what = f"{word}, tiny: lift it with a pin hook"
        elif piece.area < FIDDLY_MM2:
            what = f"{word}, small: lift a corner with the hook"
        else:
            what = f"{word}: lift a corner and pull"
        watch = _watch(piece, in_piece.count(k), tips[k])
        picks.append(Pick(k + 1, piece, what, piece.at, piece.area, watch))
    return tuple(picks)


def _watch(piece: Piece, necks: int, tips: int) -> tuple[str, ...]:
    """What makes a piece hard to pull."""
    polygon, notes = piece.polygon, []
    inside = len(polygon.interiors)
    if inside >= WRAPPED:
        notes.append(f"wraps {inside} pieces of the design")
    if necks:
        notes.append(f"{necks} narrow {'neck tears' if necks == 1 else 'necks tear'} easily")
    if tips:
        notes.append(f"{tips} pointed {'tip stays' if tips == 1 else 'tips stay'} behind easily")
    width = 2.0 * piece.area / max(polygon.length, 1e-12)
    if width < STRIP_MM and polygon.length / 2.0 > STRIP_RATIO * width:
        notes.append(f"a strip only {width:.1f} mm wide on average: pull slowly")
    return tuple(notes)
