"""The visible picture: which area each colour keeps when upper shapes hide lower ones.

Runs of one colour are united, then what lies over them is taken away; only shapes whose boxes
meet are looked at. Translucent shapes are mixed with what lies below them, as a painter's eye
would see it; on bare paper they are mixed with white.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.booleans.clip import polygons_of
from vivid_thimble.core.geometry.region import Region, intersection
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.sources.drawing import OPAQUE_FROM, WHITE, Clip, Colour, DrawingPart, Veil, mixed, regions_of

MOST_TOGETHER = 6
"""What lies over a shape is united up to so many, else taken away one by one."""
MOST_MIXTURES = 200
"""With more colours than this a new mixture takes the nearest one there is."""


@dataclass(frozen=True, eq=False)
class PaintedArea:
    """What one part covers, in mm, clips applied."""

    colour: Colour
    opacity: float
    area: shapely.MultiPolygon
    veils: tuple[Veil, ...] = ()

    @property
    def is_opaque(self) -> bool:
        return self.opacity >= OPAQUE_FROM


def painted_areas(parts: Sequence[DrawingPart], affine: Affine) -> list[Region]:
    """The covered area of each part, mapped by ``affine``, with clips and within its own; in the order of the parts."""
    clips: dict[tuple[int, ...], Region] = {}
    found = []
    for part, region in zip(parts, regions_of(parts, affine), strict=True):
        if part.clips and not region.is_empty:
            region = _clipped(region, part.clips, clips, affine)
        found.append(region)
    return found


def _clipped(region: Region, clips: tuple[Clip, ...], known: dict[tuple[int, ...], Region], affine: Affine) -> Region:
    key = tuple(id(clip) for clip in clips)
    if key not in known:
        seen = clips[0].region(affine)
        for clip in clips[1:]:
            seen = intersection(seen, clip.region(affine))
        known[key] = seen
    seen = known[key]
    if seen.bounds is None:
        return Region()
    if shapely.contains_properly(seen.polygons, region.polygons):
        return region
    return intersection(region, seen)


def visible_by_colour(areas: Sequence[PaintedArea]) -> dict[Colour, shapely.MultiPolygon]:
    """The area in which each colour is seen, in painting order of its first use; empty ones left out.

    Areas do not overlap; where they abut, their edges need not have the same vertices yet (see ``mosaic``).
    """
    found: dict[Colour, list[shapely.Geometry]] = {}
    for run in _seen(areas, 0):
        for (colour, opacity), area in run.items():
            found.setdefault(mixed(WHITE, colour, opacity), []).append(area)
    whole = {colour: polygons_of(shapely.union_all(pieces)) for colour, pieces in found.items()}
    return {colour: area for colour, area in whole.items() if not area.is_empty}


Tone = tuple[Colour, float]
"""A colour and how much of what lies below it hides, 0 to 1."""
Seen = dict[Tone, shapely.Geometry]


def _seen(areas: Sequence[PaintedArea], depth: int) -> list[Seen]:
    """What is seen of the runs of some areas; translucent groups from ``depth`` on are resolved first."""
    runs = _runs(_unveiled(areas, depth))
    seen = _uncovered(runs)
    _mix(runs, seen)
    return seen


def _unveiled(areas: Sequence[PaintedArea], depth: int) -> list[PaintedArea]:
    """Each translucent group at a depth as the areas that it shows, side by side, seen through the group."""
    out: list[PaintedArea] = []
    for veil, members in groupby(areas, key=lambda one: one.veils[depth] if len(one.veils) > depth else None):
        if veil is None:
            out += members
            continue
        shown: dict[Tone, list[shapely.Geometry]] = {}
        for run in _seen(list(members), depth + 1):
            for tone, area in run.items():
                shown.setdefault(tone, []).append(area)
        out += [
            PaintedArea(colour, opacity * veil.opacity, polygons_of(shapely.union_all(pieces)))
            for (colour, opacity), pieces in shown.items()
        ]
    return out


def _runs(areas: Sequence[PaintedArea]) -> list[PaintedArea]:
    """Consecutive opaque areas of one colour as one; translucent ones stay apart, since their overlaps are darker."""
    runs: list[PaintedArea] = []
    held: list[PaintedArea] = []
    for one in [*areas, None]:
        if held and (one is None or not one.is_opaque or one.colour != held[0].colour):
            runs.append(PaintedArea(held[0].colour, 1.0, shapely.union_all([painted.area for painted in held])))
            held = []
        if one is None or one.area.is_empty:
            continue
        if one.is_opaque:
            held.append(one)
        else:
            runs.append(one)
    return runs


def _uncovered(runs: list[PaintedArea]) -> list[Seen]:
    """What each run shows under the opaque runs over it; translucent runs are not mixed yet."""
    if not runs:
        return []
    areas = np.array([run.area for run in runs], dtype=object)
    boxes = shapely.box(*shapely.bounds(areas).T)
    tree = shapely.STRtree(boxes)
    hides = np.array([run.is_opaque for run in runs])
    left, many = areas.copy(), {}
    for k, run in enumerate(runs):
        near = np.sort(tree.query(boxes[k], predicate="intersects"))
        over = [j for j in near.tolist() if j > k and hides[j] and not (run.is_opaque and runs[j].colour == run.colour)]
        if len(over) > MOST_TOGETHER:
            many[k] = over
        elif over:
            pause()
            left[k] = shapely.difference(run.area, shapely.union_all(areas[over]))
    if many:
        _take_away(left, areas, many)
    return [{} if left[k].is_empty else {_tone(run): left[k]} for k, run in enumerate(runs)]


def _take_away(left: NDArray[np.object_], areas: NDArray[np.object_], over: dict[int, list[int]]) -> None:
    """From ``left`` (n) at each key the areas with the numbers under it; most is soon gone.

    One of each, the largest first, from all that is still there at once: a sixth of the time of uniting what lies over
    each shape, for thousands of overlapping blobs.
    """
    sizes = shapely.area(areas)
    todo = {k: sorted(each, key=lambda j: sizes[j]) for k, each in over.items()}
    while todo:
        pause()
        keys = list(todo)
        left[keys] = shapely.difference(left[keys], areas[[todo[k].pop() for k in keys]])
        gone = shapely.is_empty(left[keys])
        todo = {k: todo[k] for k, empty in zip(keys, gone.tolist(), strict=True) if todo[k] and not empty}


def _tone(run: PaintedArea) -> Tone:
    return run.colour, 1.0 if run.is_opaque else run.opacity


def _mix(runs: list[PaintedArea], seen: list[Seen]) -> None:
    """Mix translucent runs, from the lowest up, with what is seen of the runs below them."""
    if all(run.is_opaque for run in runs):
        return
    tones = {tone for run in seen for tone in run}
    for k, run in enumerate(runs):
        if run.is_opaque or not seen[k]:
            continue
        veil = seen[k][_tone(run)]
        shapely.prepare(veil)
        under_all: list[shapely.Geometry] = []
        for j, below in enumerate(seen[:k]):
            after: Seen = {}
            for tone, area in below.items():
                under = polygons_of(shapely.intersection(area, veil)) if shapely.intersects(veil, area) else None
                if under is None or under.is_empty:
                    _add(after, tone, area)
                    continue
                left = polygons_of(shapely.difference(area, veil))
                if not left.is_empty:
                    _add(after, tone, left)
                _add(after, _mixture(tone, run, tones), under)
                under_all.append(under)
            seen[j] = after
        bare = polygons_of(shapely.difference(veil, shapely.union_all(under_all))) if under_all else veil
        seen[k] = {} if bare.is_empty else {_tone(run): bare}


def _add(seen: Seen, tone: Tone, area: shapely.Geometry) -> None:
    seen[tone] = shapely.union(seen[tone], area) if tone in seen else area


def _mixture(below: Tone, run: PaintedArea, tones: set[Tone]) -> Tone:
    """What a run makes of a tone below it (Porter and Duff 1984, "over")."""
    (colour, hides), share = below, run.opacity
    whole = share + hides * (1.0 - share)
    tone = (mixed(colour, run.colour, share / whole), round(whole, 4))
    if tone not in tones and len(tones) >= MOST_MIXTURES:
        return min(tones, key=lambda one: _unlike(one, tone))
    tones.add(tone)
    return tone


def _unlike(one: Tone, other: Tone) -> float:
    hidden = 255.0 * (one[1] - other[1])
    return sum((a - b) ** 2 for a, b in zip(one[0], other[0], strict=True)) + 3.0 * hidden * hidden
