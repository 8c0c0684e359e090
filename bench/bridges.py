"""Bridges on lettering, rings and silhouettes: what must hold, measured on the sheet itself, and how long it takes.

    PYTHONPATH=src python bench/bridges.py [FOLDER of drawings] [--pictures FOLDER]

Of every stencil it is told: islands before and after; the narrowest bridge by erosion of the sheet; area that changed
outside the strips; bridges that touch another opening; and bridges more than 1.5 times as long as the shortest way
from their island (measured between walls, whatever lies behind them). *Time*: 100 and 500 islands.
"""

from __future__ import annotations

import argparse
import random
import sys
import time
from collections.abc import Iterator
from pathlib import Path as FilePath

import numpy as np
import shapely
from shapely import MultiPolygon

from vivid_thimble.core.bridging.plan import LEAST_ISLAND_MM2, Bridge, BridgeRules, plan_bridges, strip_of
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.recipe import stencil_sheet
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.holding.strips import straight_strip
from vivid_thimble.core.sources.lettering import Words, shape_words
from vivid_thimble.core.sources.line_portrait import LinePortrait, draw_lines
from vivid_thimble.core.steps import Bridges
from vivid_thimble.core.steps.bridges import with_bridges

ROOT = FilePath(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))
from tests.trace_truth import photo  # noqa: E402  tests are no package that is installed

FACES = (
    "bundled:Pacifico",
    "bundled:League Spartan",
    "bundled:Courier Prime",
    "family:DejaVu Sans",
    "family:DejaVu Serif",
)
WORDS = (
    "0123456789", "QUILLFEN", "Bramble", "Ember", "Heron", "Moth&Ember", "Regatta", "Lantern", "Supper", "Wandering",
    "Oarsmen", "ABOARD", "Paddle", "Goose", "Bobbing", "4689", "REED&HERON", "Mill-pond", "Pepper", "BOAT@8", "glow",
    "dapper", "Quayside",
)  # fmt: skip
WIDTH = 1.5
HIGH = 60.0


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", nargs="?", default="/usr/share/openclipart/svg")
    parser.add_argument("--pictures", default="")
    options = parser.parse_args()
    for name, stencils in (("words", words()), ("rings", rings()), ("silhouettes", silhouettes(options.folder))):
        told = [(label, *judged(openings)) for label, openings in stencils]
        whole = np.array([row[1:7] for row in told], dtype=float)
        weak = sum(row[7] for row in told)
        print(
            f"{name}: {len(told)} stencils, {whole[:, 0].sum():.0f} islands, {whole[:, 2].sum():.0f} bridges, of them "
            f"{weak} weak; islands left {whole[:, 1].sum():.0f}; narrowest {whole[:, 3].min():.3f} mm; changed outside "
            f"{whole[:, 4].max():.1e} mm2; touching another opening {whole[:, 5].sum():.0f}"
        )
        for label, *_, few, long in told:
            if few or long:
                which = f"{len(long)} longer than 1.5 times the shortest ({', '.join(long[:8])})" if long else ""
                print(f"    {label}: {few} weak {which}")
    for count in (100, 500):
        grid = many(count)
        start = time.perf_counter()
        plan = plan_bridges(grid, BridgeRules(WIDTH))
        print(f"{plan.islands} islands, {len(plan.bridges)} bridges: {time.perf_counter() - start:.2f} s")
    return 0


def lettered(text: str, face: str, high: float = HIGH) -> Region:
    letters = shape_words(Words(text=text, face=face)).letters
    whole = union([Region.from_path(one.path.transformed(Affine.scaling(100.0))) for one in letters])
    assert whole.bounds is not None
    return whole.transformed(Affine.scaling(high / (whole.bounds[3] - whole.bounds[1])))


def words() -> Iterator[tuple[str, Region]]:
    for face in FACES:
        for text in WORDS:
            yield f"{text} in {face.split(':')[1]}", lettered(text, face)


def rings() -> Iterator[tuple[str, Region]]:
    held = LinePortrait(asset="bench", name="bench", lines="rings", min_line=1.5, min_gap=1.5)
    yield "rings of a portrait", draw_lines(photo(600, 600), held, 200.0).kept


def silhouettes(folder: str, count: int = 100, seed: int = 11) -> Iterator[tuple[str, Region]]:
    paths = sorted(FilePath(folder).rglob("*.svg"))
    random.Random(seed).shuffle(paths)
    found = 0
    for path in paths:
        if found == count or path.stat().st_size > 400_000:
            continue
        try:
            drawing = read_svg(path.read_bytes(), path.name)
        except ThimbleError:
            continue
        filled = [part for part in drawing.parts if part.stroke is None and sum(part.colour) < 690]
        if not 1 <= len(filled) <= 40:
            continue
        shape = union([Region.from_path(part.lines, part.rule) for part in filled])
        if shape.bounds is None or not any(p.interiors for p in shape.polygons.geoms):
            continue
        size = max(shape.bounds[2] - shape.bounds[0], shape.bounds[3] - shape.bounds[1])
        if size <= 0:
            continue
        found += 1
        yield path.stem, shape.transformed(Affine.scaling(150.0 / size))


def judged(openings: Region) -> tuple[int, int, int, float, float, int, int, list[str]]:
    step = Bridges(id="b", width=WIDTH)
    plan = step.planned((Part("", openings),)).plan
    (after,) = with_bridges((Part("", openings),), plan.bridges)
    sheet_before, sheet = stencil_sheet(openings, 20.0), stencil_sheet(after.region, 20.0)
    strips = shapely.union_all([strip_of(one) for one in plan.bridges]) if plan.bridges else MultiPolygon()
    changed = shapely.symmetric_difference(openings.polygons, after.region.polygons)
    outside = float(shapely.difference(changed, shapely.buffer(strips, 1e-4)).area)
    touching = sum(_touched(one, openings.polygons) != 1 for one in plan.bridges if not one.weak)
    widths = [_eroded_width(one, sheet.polygons) for one in plan.bridges if not one.weak]
    long = [f"{ratio:.2f}" for one in plan.bridges if (ratio := _ratio(one, openings.polygons)) > 1.5]
    return (
        _pieces(sheet_before) - 1,
        _pieces(sheet) - 1,
        len(plan.bridges),
        min(widths, default=WIDTH),
        outside,
        touching,
        sum(one.weak for one in plan.bridges),
        long,
    )


def _pieces(sheet: Region) -> int:
    """Of any size worth the name."""
    return int((shapely.area(sheet.polygons.geoms) > LEAST_ISLAND_MM2).sum())


def _touched(bridge: Bridge, openings: MultiPolygon) -> int:
    return sum(shapely.intersection(strip_of(bridge), one).area > 1e-6 for one in openings.geoms)


def _eroded_width(bridge: Bridge, sheet: MultiPolygon) -> float:
    """The largest width by which the sheet can be eroded until the middle line of a bridge is cut."""
    start, end = np.array(bridge.start), np.array(bridge.end)
    way = (end - start) / max(bridge.length, 1e-9)
    line = shapely.LineString([start + way * 0.02, end - way * 0.02])
    near = shapely.intersection(sheet, shapely.buffer(line, 4.0))
    low, high = 0.0, bridge.width
    for tried in (bridge.width - 0.002, bridge.width - 0.02, bridge.width / 2.0):
        if shapely.covers(shapely.buffer(near, -tried / 2.0), line):
            return tried
    for _ in range(12):
        middle = (low + high) / 2.0
        fits = shapely.covers(shapely.buffer(near, -middle / 2.0), line)
        low, high = (middle, high) if fits else (low, middle)
    return low


def _ratio(bridge: Bridge, openings: MultiPolygon) -> float:
    """Its length over that of the shortest clean strip of the islands at its ends."""
    home = next((one for one in openings.geoms if one.distance(shapely.Point(bridge.middle)) < 1e-9), None)
    if home is None or bridge.weak:
        return 1.0
    walls = [home.exterior, *home.interiors]
    feet = [shapely.Point(at) for at in (bridge.start, bridge.end)]
    ends = [min(range(len(walls)), key=lambda k: walls[k].distance(foot)) for foot in feet]
    least = [_shortest(walls, e, home, bridge) for e in ends if e > 0]
    return bridge.length / max(max(least, default=bridge.length), 1e-9)


def _shortest(walls: list[shapely.LinearRing], island: int, home: shapely.Polygon, bridge: Bridge) -> float:
    """The shortest clean strip, looked for every 0.2 mm along the island towards the nearest other wall."""
    others = shapely.union_all([wall for k, wall in enumerate(walls) if k != island])
    if bridge.length <= 1.5 * walls[island].distance(others):
        return bridge.length
    along = np.arange(0.0, walls[island].length, 0.2)
    places = shapely.line_interpolate_point(walls[island], along)
    lines = shapely.shortest_line(places, others)
    for k in np.argsort(shapely.length(lines)).tolist():
        (x0, y0), (x1, y1) = lines[k].coords
        if shapely.length(lines[k]) < 1e-6:
            continue
        if shapely.length(lines[k]) >= bridge.length / 1.5:
            return bridge.length
        strip = straight_strip(np.array([x0, y0]), np.array([x1, y1]), bridge.width, 0.6 * bridge.width)
        inside = shapely.get_parts(shapely.intersection(strip, home))
        outside = shapely.get_parts(shapely.difference(strip, home))
        if (shapely.area(inside) > 1e-6).sum() == 1 and (shapely.area(outside) > 1e-6).sum() == 2:
            way = np.array([x1 - x0, y1 - y0]) / shapely.length(lines[k])
            return float(np.ptp(shapely.get_coordinates(inside) @ way))
    return bridge.length


def many(count: int) -> MultiPolygon:
    row = lettered("ABDOPQRae@8g", "bundled:Courier Prime", 50.0).polygons
    inside = sum(len(one.interiors) for one in row.geoms)
    rows = -(-count // inside)
    moved = [shapely.transform(row, lambda p, k=k: p + np.array([0.0, 70.0 * k])) for k in range(rows)]
    return MultiPolygon([one for part in moved for one in part.geoms])


if __name__ == "__main__":
    sys.exit(main())
