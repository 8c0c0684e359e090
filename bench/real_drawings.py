"""Real drawings: smallest clean size checked, and figures under shift, turn, mirror, save and reopen.

    PYTHONPATH=src python bench/real_drawings.py [FOLDER] [--sizes N] [--stable N]

FOLDER holds SVG files, searched below it; by default Debian's openclipart-svg. Drawings are picked
with a fixed seed, those between 1,000 and 200,000 vertices. Words are set in the bundled faces. Lines and
gaps over 60 mm are not searched for, so a design whose thinnest line is near that has other figures when larger.

*Sizes*: with 1 % less than the smallest clean width a place that a larger size cures must remain,
with 1 % more none; from starting sizes 0.5, 1.6 and 2.2 times as large the answer must be the same.
*Stable*: the thinnest line and gap must not move by more than 0.01 mm, nor the counts change.
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
from msgspec.structs import replace
from shapely import MultiPolygon
from shapely.affinity import affine_transform, scale

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.formats.svg_write import CutLayer, svg_text
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.inspect.inspection import Inspection, Limits, inspect_shape
from vivid_thimble.core.job.edits import with_layer
from vivid_thimble.core.job.values import Element, Placement, new_job
from vivid_thimble.core.sources.artwork import film_region
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.steps import Join, Weld

LIMITS = Limits(0.8, 0.5, 2.0, 1.2)
WIDTH_MM = 200.0
FOLDER = "/usr/share/openclipart/svg"
STARTS = (0.5, 1.6, 2.2)


def drawings(folder: str, count: int, seed: int) -> Iterator[tuple[str, MultiPolygon]]:
    files = sorted(FilePath(folder).rglob("*.svg"))
    random.Random(seed).shuffle(files)
    for file in files:
        if count == 0:
            return
        try:
            drawing = read_svg(file.read_bytes(), file.name)
            box = Path.joined(part.path for part in drawing.parts).bounds
            if box is None or box[2] <= box[0]:
                continue
            shape = film_region(drawing, Affine.scaling(WIDTH_MM / (box[2] - box[0]))).polygons
        except ThimbleError:
            continue
        if 1000 <= shapely.get_num_coordinates(shape) <= 200_000:
            count -= 1
            yield file.stem[:26], shape


def words() -> Iterator[tuple[str, MultiPolygon]]:
    """Twenty words, joined and welded."""
    for face in ("Pacifico", "League Spartan", "Courier Prime", "Stardos Stencil"):
        for text in ("Wandering Heron", "Second Supper", "Moth & Ember", "Quillfen 469", "Bramble"):
            steps = (Join(id="j"), Weld(id="w"))
            source = Words(text=text, face=f"bundled:{face}")
            element = Element(id="e", name=text, source=source, placement=Placement(width=WIDTH_MM), steps=steps)
            job = with_layer(new_job(), lambda layer, e=element: replace(layer, elements=(e,)))
            yield f"{face[:9]} {text}", evaluate(job, {}).layers[0].kept.polygons


def inspected(shape: MultiPolygon) -> Inspection:
    return inspect_shape(shape, LIMITS, is_sheet=False, weeding_box=shape.bounds)


def scaled(shape: MultiPolygon, by: float) -> MultiPolygon:
    return scale(shape, by, by, origin=(0, 0))


def stops(found: Inspection) -> int:
    return sum(1 for f in found.findings if f.severity == "stop" and f.cured_by_size)


def check_sizes(shapes: Iterator[tuple[str, MultiPolygon]]) -> None:
    print(f"{'shape':28s} {'vertices':>8s} {'clean at':>8s} {'1% less':>8s} {'1% more':>8s}  from other sizes")
    bad = count = 0
    for name, shape in shapes:
        count += 1
        clean = inspected(shape).smallest_clean_scale
        if clean is None:
            print(f"{name:28s} nothing that a size cures")
            continue
        below, above = stops(inspected(scaled(shape, clean * 0.99))), stops(inspected(scaled(shape, clean * 1.01)))
        others = []
        for start in STARTS:
            other = inspected(scaled(shape, start)).smallest_clean_scale
            others.append((other or np.inf) * start / clean)
        is_bad = not below or above or any(abs(r - 1) > 0.01 for r in others)
        bad += bool(is_bad)
        vertices = int(shapely.get_num_coordinates(shape))
        ratios = " ".join(f"{r:.3f}" for r in others)
        print(
            f"{name:28s} {vertices:8d} {clean:8.3f} {below:8d} {above:8d}  {ratios} {'BAD' if is_bad else ''}",
            flush=True,
        )
    print(f"{bad} of {count} off\n")


def figures(shape: MultiPolygon) -> tuple[float, float, tuple[int, ...]]:
    found = inspected(shape)
    thinnest = [np.inf if figure is None else figure for figure in (found.thinnest_line, found.thinnest_gap)]
    counts = (len(found.kept), len(found.waste), len([f for f in found.findings if f.severity == "stop"]))
    return thinnest[0], thinnest[1], counts


def reopened(shape: MultiPolygon) -> MultiPolygon:
    region = Region.from_polygons(shape)
    left, top, right, bottom = shape.bounds
    outline = region.outline.transformed(Affine.translation(-left, -top))
    text = svg_text([CutLayer("layer", "#335577", (outline,))], right - left, bottom - top)
    drawing = read_svg(text.encode(), "again.svg")
    return film_region(drawing, Affine.scaling(drawing.mm_per_unit or 1.0)).polygons


def check_stable(folder: str, count: int, seed: int) -> None:
    angle = np.radians(27.0)
    turn = (np.cos(angle), -np.sin(angle), np.sin(angle), np.cos(angle), 0.0, 0.0)
    changes = {
        "shift": lambda s: affine_transform(s, (1, 0, 0, 1, 137.123, -41.77)),
        "turn": lambda s: affine_transform(s, turn),
        "mirror": lambda s: affine_transform(s, (-1, 0, 0, 1, 0, 0)),
        "reopen": reopened,
    }
    print(f"{'drawing':28s} {'vertices':>8s} {'s':>6s} {'line':>7s} {'gap':>7s}  moved by (line, gap), counts changed")
    bad = dict.fromkeys(changes, 0)
    for name, shape in drawings(folder, count, seed):
        start = time.perf_counter()
        line, gap, counts = figures(shape)
        took = time.perf_counter() - start
        words = []
        for change, move in changes.items():
            line2, gap2, counts2 = figures(move(shape))
            moved = [abs(a - b) if np.isfinite(a) or np.isfinite(b) else 0.0 for a, b in ((line, line2), (gap, gap2))]
            if max(moved) > 0.01:
                bad[change] += 1
                words.append(f"{change} {moved[0]:.3f} {moved[1]:.3f}")
            if counts != counts2:
                words.append(f"{change} counts {counts} {counts2}")
        vertices = int(shapely.get_num_coordinates(shape))
        print(f"{name:28s} {vertices:8d} {took:6.2f} {line:7.3f} {gap:7.3f}  {'; '.join(words)}", flush=True)
    print(f"figures moved by more than 0.01 mm: {bad}")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", nargs="?", default=FOLDER)
    parser.add_argument("--sizes", type=int, default=20)
    parser.add_argument("--stable", type=int, default=60)
    parser.add_argument("--words", action="store_true", help="check twenty words as well")
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    if not FilePath(options.folder).is_dir():
        sys.exit(f"{options.folder} is not there: name a folder of SVG files.")
    check_sizes(drawings(options.folder, options.sizes, options.seed))
    if options.words:
        check_sizes(words())
    check_stable(options.folder, options.stable, options.seed)


if __name__ == "__main__":
    main()
