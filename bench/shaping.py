"""Weld, slice, knock out and offset against an independent renderer, and their times against two other libraries.

    PYTHONPATH=src python bench/shaping.py [FOLDER of drawings] [--pairs N]

*Areas*: random pairs of real drawings, drawn by resvg at 50 pixels for a mm straight from their outlines; what a
boolean or offset should cover is worked out on those pixels and compared with ours: at most 0.1 % of the area and
0.02 mm times the perimeter may be off. *Degenerate*: the same with copies moved by a micron or less, turned a hair,
touching, doubled. *Weld*: 500 letters of a script against shapely (make_valid and union_all). *Offset*: of the same
letters against Clipper2 (pyclipr, installed by hand) at the same tolerance; nodes against its polygons; the distance of
the curves from the exact parallel both ways.
"""

from __future__ import annotations

import argparse
import io
import random
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path as FilePath
from typing import Any

import numpy as np
import resvg_py
import shapely
from numpy.typing import NDArray
from PIL import Image

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.offset import offset, quadrant_segments
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.path_text import write_path_data
from vivid_thimble.core.geometry.region import Region, difference, intersection, union
from vivid_thimble.core.geometry.tolerances import FLATTEN_MM
from vivid_thimble.core.sources.lettering import Words, shape_words
from vivid_thimble.core.steps import Slice

PX_PER_MM = 50
SIZE_MM, CANVAS_MM = 26.0, 52.0
HALO_MM, OFFSET_MM = 1.0, 0.6
Mask = NDArray[np.bool_]
Shape = tuple[Path, str]
"""A path and its fill rule."""


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", nargs="?", default="/usr/share/openclipart/svg")
    parser.add_argument("--pairs", type=int, default=300)
    options = parser.parse_args()
    if options.pairs:
        areas(options.folder, options.pairs)
    timed()
    return 0


def areas(folder: str, count: int) -> None:
    shapes = drawings(folder)
    chance = random.Random(7)
    wide = [next(shapes) for _ in range(2 * count)]
    pairs = [(placed(wide[2 * k], chance), placed(wide[2 * k + 1], chance)) for k in range(count)]
    compared("random pairs", pairs)
    compared("degenerate", [pair for one in wide[:12] for pair in degenerate(one)])


def drawings(folder: str, seed: int = 5) -> Iterator[Shape]:
    """Single filled outlines of real drawings, SIZE_MM across, from the origin."""
    paths = sorted(FilePath(folder).rglob("*.svg"))
    random.Random(seed).shuffle(paths)
    for path in paths:
        if path.stat().st_size > 200_000:
            continue
        try:
            drawing = read_svg(path.read_bytes(), path.name)
        except ThimbleError:
            continue
        filled = [part for part in drawing.parts if part.stroke is None and part.lines.bounds is not None]
        if not filled:
            continue
        part = max(filled, key=lambda one: len(one.lines.contours) * 1000 + one.lines.node_count)
        left, top, right, bottom = part.lines.bounds
        if min(right - left, bottom - top) <= 0.0:
            continue
        factor = SIZE_MM / max(right - left, bottom - top)
        yield part.lines.transformed(Affine.translation(-left, -top).then(Affine.scaling(factor))), part.rule


def placed(shape: Shape, chance: random.Random) -> Shape:
    """Somewhere on the canvas, turned."""
    path, rule = shape
    middle = SIZE_MM / 2.0
    turn = Affine.translation(-middle, -middle).then(Affine.turning(chance.uniform(0.0, 360.0)))
    x, y = (CANVAS_MM / 2.0 + chance.uniform(-4.0, 4.0) for _ in range(2))
    return path.transformed(turn.then(Affine.translation(x, y))), rule


def degenerate(shape: Shape) -> list[tuple[Shape, Shape]]:
    """A drawing with copies of itself that nearly or exactly coincide, or just touch."""
    path, rule = shape
    path = path.transformed(Affine.scaling(0.8).then(Affine.translation(27.0, 8.0)))
    left, _, right, _ = path.bounds
    moves = [
        Affine(),
        Affine.translation(1e-3, 0.0),
        Affine.translation(1e-6, 1e-6),
        Affine.translation(0.0, 1e-4),
        Affine.translation(left - right, 0.0),
        Affine.translation(left - right + 1e-3, 0.0),
        Affine.turning(1e-3),
    ]
    doubled = Path((*path.contours, *path.contours)), "nonzero"
    return [((path, rule), (path.transformed(move), rule)) for move in moves] + [((path, "nonzero"), doubled)]


def compared(name: str, pairs: list[tuple[Shape, Shape]]) -> None:
    import cv2

    operations: dict[str, tuple[Callable[[Region, Region], Region], Callable[[Mask, Mask], Mask]]] = {
        "weld": (lambda a, b: union([a, b]), lambda a, b: a | b),
        "slice away": (lambda a, b: difference(a, [b]), lambda a, b: a & ~b),
        "slice overlap": (intersection, lambda a, b: a & b),
        "knock out": (
            lambda a, b: _whole(Slice(id="s", by=("b",), halo=HALO_MM).sliced((Part("", a),), [b])),
            lambda a, b: a & ~_grown(cv2, b, HALO_MM),
        ),
        "thicken": (lambda a, _: offset(a, OFFSET_MM), lambda a, _: _grown(cv2, a, OFFSET_MM)),
        "thin": (lambda a, _: offset(a, -OFFSET_MM), lambda a, _: ~_grown(cv2, ~a, OFFSET_MM)),
    }
    told = {one: [0, 0, 0, 0.0] for one in operations}
    for first, second in pairs:
        pictures = _mask(first), _mask(second)
        regions = [Region.from_path(path, rule) for path, rule in (first, second)]  # type: ignore[arg-type]
        for one, (ours, expected) in operations.items():
            row = told[one]
            row[0] += 1
            try:
                result = ours(*regions)
            except Exception as error:
                print(f"  {one}: {error!r}")
                row[1] += 1
                continue
            row[2] += not result.polygons.is_valid
            truth = float(expected(*pictures).sum()) / PX_PER_MM**2
            allowed = 0.001 * truth + 0.02 * max(result.polygons.length, 1.0)
            off = abs(result.area - truth)
            if one == "thin" and off > allowed:  # slits about as wide as a pixel are drawn or not
                off = min(off, abs(offset(_without_hairs(regions[0]), -OFFSET_MM).area - truth))
            row[3] = max(row[3], off / allowed)
    for one, (count, failed, invalid, worst) in told.items():
        print(
            f"{name}, {one}: {count} cases, exceptions {failed}, invalid {invalid}, worst error {worst:.2f} of allowed"
        )


def _without_hairs(region: Region) -> Region:
    """Slits that are narrower than a pixel closed: the renderer does not show them, yet thinning opens them wide."""
    reach = 0.5 / PX_PER_MM
    return Region.from_polygons(shapely.buffer(shapely.buffer(region.polygons, reach), -reach))


def _whole(parts: Any) -> Region:
    return union([part.region for part in parts])


def _mask(shape: Shape) -> Mask:
    path, rule = shape
    data = write_path_data(path)
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{CANVAS_MM}" height="{CANVAS_MM}" '
        f'viewBox="0 0 {CANVAS_MM} {CANVAS_MM}"><path fill-rule="{rule}" d="{data}"/></svg>'
    )
    png = resvg_py.svg_to_bytes(svg_string=svg, zoom=PX_PER_MM, background="white")
    return np.asarray(Image.open(io.BytesIO(bytes(png))).convert("L")) < 128


def _grown(cv2: Any, mask: Mask, by: float) -> Mask:
    """Pixels within so many mm of a mask; the edge lies half a pixel before the first pixel's centre."""
    away = cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.asarray(away <= by * PX_PER_MM + 0.5)


LINES = ("Wandering Heron Second Supper Moth & Ember Bramble",) * 14


def timed() -> None:
    for name, joined in (("in one row", " "), ("in lines", "\n")):
        letters = shape_words(Words(text=joined.join(LINES), face="bundled:Pacifico")).letters
        paths = [one.path.transformed(Affine.scaling(40.0)) for one in letters][:500]
        print(f"{len(paths)} letters {name}, {sum(len(flatten(path).points) for path in paths)} points")
        weld_timed(paths)
        offset_timed(Region.from_path(Path.joined(paths)))


def weld_timed(paths: list[Path]) -> None:
    flat = [flatten(path).rings() for path in paths]
    ours = _best(lambda: Region.from_path(Path.joined(paths)))
    theirs = _best(lambda: _welded_by_shapely(flat))
    print(f"  weld of outlines: ours {ours:.3f} s with curves, shapely {theirs:.3f} s: {ours / theirs:.2f}")
    regions = [Region.from_path(path) for path in paths]
    polygons = [p for region in regions for p in region.polygons.geoms]
    ours = _best(lambda: union(regions))
    theirs = _best(lambda: shapely.union_all(shapely.make_valid(polygons)))
    print(f"  weld of letters in order: ours {ours:.3f} s with curves, shapely {theirs:.3f} s: {ours / theirs:.2f}")


def _welded_by_shapely(letters: list[list[NDArray[np.float64]]]) -> shapely.Geometry:
    """Every letter put in order, counters cut out of strokes, then all united."""
    each = []
    for rings in letters:
        shapes = shapely.polygons([shapely.linearrings(ring) for ring in rings])
        outer = shapely.is_ccw(shapely.get_exterior_ring(shapes))
        strokes = shapely.union_all(shapely.make_valid(shapes[outer]))
        counters = shapely.union_all(shapely.make_valid(shapes[~outer]))
        each.append(shapely.difference(strokes, counters))
    return shapely.union_all(each)


def offset_timed(welded: Region) -> None:
    own = _best(lambda: offset(welded, OFFSET_MM))
    segments = quadrant_segments(OFFSET_MM)
    plain = _best(lambda: shapely.buffer(welded.polygons, OFFSET_MM, quad_segs=segments))
    grown = offset(welded, OFFSET_MM)
    print(f"  offset: ours {own:.3f} s with curves, of them {plain:.3f} s for the polygons")
    try:
        import pyclipr
    except ImportError:
        print("  offset: pyclipr is not installed")
    else:
        clipper = _best(lambda: _clipper_offset(pyclipr, welded), 1)
        print(f"  offset: Clipper2 {clipper:.3f} s: {own / clipper:.2f} (polygons alone {plain / clipper:.2f})")
    points = shapely.get_num_coordinates(shapely.buffer(welded.polygons, OFFSET_MM, quad_segs=segments))
    exact = shapely.buffer(welded.polygons, OFFSET_MM, quad_segs=8 * segments)
    there, back = _farthest(grown.polygons, exact), _farthest(exact, grown.polygons)
    share = grown.outline.node_count / points
    print(f"  offset: {grown.outline.node_count} nodes against {points} points of the polygons: {share:.3f}")
    print(f"  offset: off by {there:.4f} mm and {back:.4f} mm (both ways)")


def _clipper_offset(pyclipr: Any, region: Region) -> list[Any]:
    tool = pyclipr.ClipperOffset()
    tool.scaleFactor = int(1e6)
    tool.arcTolerance = FLATTEN_MM * 1e6
    rings = [shapely.get_coordinates(ring)[:-1] for p in region.polygons.geoms for ring in (p.exterior, *p.interiors)]
    tool.addPaths(rings, pyclipr.JoinType.Round, pyclipr.EndType.Polygon)
    return list(tool.execute(OFFSET_MM))


def _farthest(one: shapely.MultiPolygon, other: shapely.MultiPolygon) -> float:
    points = shapely.points(shapely.get_coordinates(shapely.segmentize(one.boundary, 0.05)))
    lines = shapely.get_parts(other.boundary)
    tree = shapely.STRtree(
        [piece for line in lines for piece in shapely.linestrings(_pairs(shapely.get_coordinates(line)))]
    )
    _, away = tree.query_nearest(points, return_distance=True, all_matches=False)
    return float(away.max())


def _pairs(points: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.stack([points[:-1], points[1:]], axis=1)


def _best(work: Callable[[], object], rounds: int = 3) -> float:
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


if __name__ == "__main__":
    sys.exit(main())
