"""The part of cleaning that depends on the final size: hairlines, specks, pinholes, nodes.

For one film the outline keeps its curves where nothing is cleaned. For several films, areas that abut are
cleaned together: what is taken from one goes to the neighbour that it borders most, so that no hole is torn.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import shapely
from shapely import MultiPolygon, Polygon

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.booleans.clip import polygons_of, sound
from vivid_thimble.core.geometry.fitting.fit import fit_rings
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.geometry.region import Region, difference, union
from vivid_thimble.core.geometry.seams import hairs_in, seams_in
from vivid_thimble.core.geometry.shared_edges.mosaic import mosaic
from vivid_thimble.core.geometry.tolerances import FIT_MM, FLATTEN_MM
from vivid_thimble.core.sources.cleaning import MOST_PLACES, Cleaned, Cleaning, CleanKind, Point

SLIVER_MM = 0.12
"""Where films abut, slivers up to this width go to the neighbour: no knife leaves them whole."""
FEWEST_NODES = 9
"""Outlines of fewer nodes, such as circles, stay as they were drawn."""
TOUCHING_MM = 2e-4
"""Areas this close border each other."""
CRUMB_MM2 = 1e-5
"""Pieces this small are left over where patches were fitted in; nobody drew them."""
EDGE_SAMPLES = 48
"""Places along the edge of a patch at which its neighbours are looked for."""
WORTH_IT = 0.8
"""An outline is drawn anew only if it gets by with this share of its nodes."""


def tidy(region: Region, cleaning: Cleaning) -> tuple[Region, list[Cleaned]]:
    """A region at its final size cleaned, and the report; places in mm where the region lies."""
    report: list[Cleaned] = []
    region = _without_hairlines(region, cleaning.hairlines, report)
    region = _without_specks(region, cleaning, report)
    region = _without_pinholes(region, cleaning, report)
    return _redrawn(region, cleaning, report), report


def _told(report: list[Cleaned], kind: CleanKind, places: Sequence[Point], on: bool) -> None:
    if places:
        report.append(Cleaned(kind, len(places), on, tuple(places[:MOST_PLACES])))


def _middle(shape: shapely.Geometry) -> Point:
    point = shapely.point_on_surface(shape)
    return float(point.x), float(point.y)


def _without_hairlines(region: Region, on: bool, report: list[Cleaned]) -> Region:
    seams = seams_in(region.polygons)
    closed = union([region, *seams]) if seams else region
    hairs = hairs_in(closed.polygons)
    _told(report, "hairlines", [_middle(patch.polygons) for patch in (*seams, *hairs) if not patch.is_empty], on)
    if not on:
        return region
    cleaned = difference(closed, hairs) if hairs else closed
    return region if cleaned.is_empty else cleaned


def _without_specks(region: Region, cleaning: Cleaning, report: list[Cleaned]) -> Region:
    areas = shapely.area(list(region.polygons.geoms))
    small = np.flatnonzero(areas <= cleaning.speck_area)
    if not len(small) or len(small) == len(areas):
        return region
    _told(report, "specks", [_middle(region.polygons.geoms[int(k)]) for k in small], cleaning.specks)
    if not cleaning.specks:
        return region
    keep = set(np.flatnonzero(areas > cleaning.speck_area).tolist())
    return _chosen(region, lambda polygon, _: polygon in keep)


def _without_pinholes(region: Region, cleaning: Cleaning, report: list[Cleaned]) -> Region:
    holes = [
        (p, h, shapely.Polygon(ring))
        for p, polygon in enumerate(region.polygons.geoms)
        for h, ring in enumerate(polygon.interiors)
    ]
    small = {(p, h): shape for p, h, shape in holes if shape.area <= cleaning.pinhole_area}
    _told(report, "pinholes", [_middle(shape) for shape in small.values()], cleaning.pinholes)
    if not small or not cleaning.pinholes:
        return region
    inside = shapely.STRtree(list(small.values())).query(list(region.polygons.geoms), predicate="within")[0]
    islands = set(inside.tolist())  # the filling covers them
    return _chosen(region, lambda polygon, hole: (polygon, hole) not in small and polygon not in islands)


def _chosen(region: Region, keeps: Callable[[int, int], bool]) -> Region:
    """The rings for which ``keeps(polygon, hole)`` holds; the outer ring is hole -1."""
    polygons, contours = [], []
    at = 0
    matches = sum(1 + len(p.interiors) for p in region.polygons.geoms) == len(region.outline.contours)
    for number, polygon in enumerate(region.polygons.geoms):
        inner = [h for h in range(len(polygon.interiors)) if keeps(number, h)]
        if keeps(number, -1):
            polygons.append(shapely.Polygon(polygon.exterior, [polygon.interiors[h] for h in inner]))
            if matches:
                contours += [region.outline.contours[at], *(region.outline.contours[at + 1 + h] for h in inner)]
        at += 1 + len(polygon.interiors)
    whole = MultiPolygon(polygons)
    return Region(whole, Path(tuple(contours))) if matches else Region.from_polygons(whole)


def _redrawn(region: Region, cleaning: Cleaning, report: list[Cleaned]) -> Region:
    """Outlines with more nodes than their shape needs drawn anew."""
    contours = list(region.outline.contours)
    before = sum(len(contour) for contour in contours)
    fewer = _with_fewer_nodes(contours, cleaning.node_tolerance)
    if fewer:
        after = before - sum(len(contours[k]) - len(contour) for k, contour in fewer.items())
        places = tuple(_start(contours[k]) for k in fewer)[:MOST_PLACES]
        report.append(Cleaned("nodes", len(fewer), cleaning.nodes, places, before, after))
    if not fewer or not cleaning.nodes:
        return region
    for k, contour in fewer.items():
        contours[k] = contour
    redrawn = Region.from_path(Path(tuple(contours)), "evenodd")
    return region if redrawn.is_empty else redrawn


def _start(contour: Contour) -> Point:
    return float(contour.segments[0, 0, 0]), float(contour.segments[0, 0, 1])


def _with_fewer_nodes(contours: Sequence[Contour], tolerance: float) -> dict[int, Contour]:
    """Contours drawn anew within a tolerance, by their number, where that saves enough nodes."""
    room = tolerance - FLATTEN_MM
    which = [k for k, contour in enumerate(contours) if len(contour) >= FEWEST_NODES]
    if room <= 0.0 or not which:
        return {}
    rings = flatten(Path(tuple(contours[k] for k in which))).rings()
    fitted = zip(which, fit_rings(rings, room), strict=True)
    return {k: contour for k, contour in fitted if len(contour) <= WORTH_IT * len(contours[k])}


def tidy_side_by_side(areas: Sequence[MultiPolygon], cleaning: Cleaning) -> tuple[list[Region], list[Cleaned]]:
    """Areas of several films at their final size cleaned together; they come out as regions that share their edges."""
    report: list[Cleaned] = []
    held = [sound(area) for area in areas]
    whole = polygons_of(shapely.union_all(held))
    seams = [patch.polygons for patch in seams_in(whole)]
    hairs = [(k, patch.polygons) for k, area in enumerate(held) for patch in hairs_in(area, SLIVER_MM)]
    places = [_middle(patch) for patch in seams] + [_middle(patch) for _, patch in hairs]
    _told(report, "hairlines", places, cleaning.hairlines)
    if cleaning.hairlines:
        # patches reach into each other by a hair: as one they cannot be given to two areas
        held = _given(held, [(None, piece) for piece in _pieces(shapely.difference(shapely.union_all(seams), whole))])
        own = [shapely.union_all([patch for k, patch in hairs if k == number]) for number in range(len(held))]
        cut = [_pieces(shapely.intersection(area, patch)) for area, patch in zip(held, own, strict=True)]
        held = _given(held, [(k, piece) for k, pieces in enumerate(cut) for piece in pieces])
        whole = _with(whole, seams)
    specks = [(k, piece) for k, area in enumerate(held) for piece in area.geoms if piece.area <= cleaning.speck_area]
    if len(specks) < sum(len(area.geoms) for area in held):
        _told(report, "specks", [_middle(piece) for _, piece in specks], cleaning.specks)
        if cleaning.specks:
            held = _given(held, [(k, piece) for k, piece in specks])
    holes = [shapely.Polygon(ring) for polygon in whole.geoms for ring in polygon.interiors]
    holes = [hole for hole in holes if hole.area <= cleaning.pinhole_area]
    _told(report, "pinholes", [_middle(hole) for hole in holes], cleaning.pinholes)
    if cleaning.pinholes:
        pieces = np.array([piece for area in held for piece in area.geoms], dtype=object)
        tree = shapely.STRtree(pieces)
        islands = [shapely.union_all(pieces[tree.query(hole, predicate="contains")]) for hole in holes]
        held = _given(held, [(None, shapely.difference(*pair)) for pair in zip(holes, islands, strict=True)])
    held = _given(held, [(k, piece) for k, area in enumerate(held) for piece in area.geoms if piece.area < CRUMB_MM2])
    before = int(shapely.get_num_coordinates(held).sum())
    tolerance = cleaning.node_tolerance - FLATTEN_MM if cleaning.nodes else FIT_MM / 2.0
    regions = mosaic(held, max(tolerance, FIT_MM / 2.0))
    after = sum(region.outline.node_count for region in regions)
    if before > after:
        report.append(Cleaned("nodes", len(regions), cleaning.nodes, (), before, after))
    return regions, report


def _pieces(geometry: shapely.Geometry) -> list[Polygon]:
    return list(polygons_of(geometry).geoms)


def _given(held: list[MultiPolygon], patches: Sequence[tuple[int | None, shapely.Geometry]]) -> list[MultiPolygon]:
    """Patches taken from their area (None: from nobody) and given to the other area that they border most.

    A patch whose edge is bare for half of its length or more is only taken away.
    """
    shapes = [(owner, polygons_of(patch)) for owner, patch in patches]
    shapes = [(owner, patch) for owner, patch in shapes if not patch.is_empty]
    if not shapes:
        return held
    shares = _bordered_shares(held, [patch for _, patch in shapes])
    gains: list[list[MultiPolygon]] = [[] for _ in held]
    losses: list[list[MultiPolygon]] = [[] for _ in held]
    for (owner, patch), share in zip(shapes, shares, strict=True):
        if owner is not None:
            losses[owner].append(patch)
            share[owner] = 0.0
        best = int(np.argmax(share))
        if share.sum() > 0.5 or (owner is None and share[best] > 0.0):
            gains[best].append(patch)
    return [_with(_without(area, less), more) for area, less, more in zip(held, losses, gains, strict=True)]


def _without(area: MultiPolygon, patches: Sequence[shapely.Geometry]) -> MultiPolygon:
    """Patches taken away; pieces that none of them meets stay as they are."""
    if not patches:
        return area
    met, rest = _parted_by(area, patches)
    return MultiPolygon([*rest, *polygons_of(shapely.difference(MultiPolygon(met), shapely.union_all(patches))).geoms])


def _with(area: MultiPolygon, patches: Sequence[shapely.Geometry]) -> MultiPolygon:
    """Patches added; pieces that none of them touches stay as they are."""
    if not patches:
        return area
    met, rest = _parted_by(area, patches)
    return MultiPolygon([*rest, *polygons_of(shapely.union_all([*met, *patches])).geoms])


def _parted_by(area: MultiPolygon, patches: Sequence[shapely.Geometry]) -> tuple[list[Polygon], list[Polygon]]:
    """The pieces of an area that any patch meets, and the others."""
    pieces = np.array(area.geoms, dtype=object)
    met = np.zeros(len(pieces), dtype=bool)
    met[shapely.STRtree(patches).query(pieces, predicate="intersects")[0]] = True
    return list(pieces[met]), list(pieces[~met])


def _bordered_shares(areas: Sequence[MultiPolygon], patches: Sequence[MultiPolygon]) -> FloatArray:
    """For each patch and area the share of the patch's edge that lies on the area's edge, (patches, areas)."""
    pieces, area_of_piece = shapely.get_parts(areas, return_index=True)
    rings, piece_of_ring = shapely.get_rings(pieces, return_index=True)
    points, size = shapely.get_coordinates(rings), shapely.get_num_coordinates(rings)
    begins = np.delete(np.arange(len(points)), np.cumsum(size) - 1)
    area_of_edge = np.repeat(area_of_piece[piece_of_ring], size - 1)
    tree = shapely.STRtree(shapely.linestrings(np.stack([points[begins], points[begins + 1]], axis=1)))
    edges = np.repeat(shapely.boundary(np.array(patches, dtype=object)), EDGE_SAMPLES)
    along = np.tile((np.arange(EDGE_SAMPLES) + 0.5) / EDGE_SAMPLES, len(patches))
    samples = shapely.line_interpolate_point(edges, along, normalized=True)
    sample, edge = tree.query(samples, predicate="dwithin", distance=TOUCHING_MM)
    seen = np.unique(np.column_stack([sample, area_of_edge[edge]]), axis=0)
    found = np.zeros((len(patches), len(areas)))
    np.add.at(found, (seen[:, 0] // EDGE_SAMPLES, seen[:, 1]), 1.0 / EDGE_SAMPLES)
    return found
