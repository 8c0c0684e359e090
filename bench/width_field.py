"""Both width fields against a Voronoi medial axis of the same shape; growth; memory.

The baseline is what SciPy's Voronoi diagram of the boundary samples costs alone, without
judging its ridges.
"""

from __future__ import annotations

import subprocess
import sys
import time
from pathlib import Path as FilePath

import numpy as np
import shapely
from msgspec.structs import replace
from scipy.spatial import Voronoi
from shapely import MultiPolygon
from shapely.affinity import translate

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.inspect.inspection import Limits, inspect_shape
from vivid_thimble.core.inspect.pieces import kept_pieces, waste_pieces
from vivid_thimble.core.job.edits import with_layer
from vivid_thimble.core.job.values import Element, Placement, new_job
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.steps import Join, Weld
from vivid_thimble.core.widths.field import SAMPLES_PER_LIMIT, width_fields
from vivid_thimble.core.widths.places import thin_places
from vivid_thimble.core.widths.resurvey import resurvey
from vivid_thimble.core.widths.survey import survey_walls, survey_widths
from vivid_thimble.core.widths.walls import rings_of, sample_walls

LINE, GAP = 0.8, 0.5


def wavy(count: int, vertices: int, seed: int = 0) -> MultiPolygon:
    """Wavy blobs in rows, some of which nearly touch."""
    rng = np.random.default_rng(seed)
    side = int(np.ceil(np.sqrt(count)))
    t = np.linspace(0, 2 * np.pi, vertices, endpoint=False)
    shapes = []
    for k in range(count):
        wave = sum(0.15 * rng.normal() * np.cos(n * t + rng.uniform(0, 6)) for n in range(2, 9))
        points = np.c_[np.cos(t), np.sin(t)] * (9 * (1 + wave))[:, None] + [20 * (k % side), 20 * (k // side)]
        shapes.append(shapely.Polygon(points).buffer(0))
    return MultiPolygon([p for p in shapely.get_parts(shapely.union_all(shapes)) if p.geom_type == "Polygon"])


def timed(job: object, repeats: int = 3) -> float:
    best = np.inf
    for _ in range(repeats):
        start = time.perf_counter()
        job()  # type: ignore[operator]  # any callable without arguments
        best = min(best, time.perf_counter() - start)
    return float(best)


def fields(shape: MultiPolygon) -> None:
    rings = rings_of(shape)
    samples = sample_walls(rings, LINE / SAMPLES_PER_LIMIT)
    kept, waste = width_fields(samples, LINE)
    thin_places(rings, samples, kept, LINE, "kept")
    thin_places(rings, samples, waste, GAP, "waste")


def main() -> None:
    head = ("vertices", "fields s", "survey s", "voronoi s", "ratio", "inspect s")
    print(" ".join(f"{word:>10s}" for word in head))
    before: tuple[int, float] | None = None
    for count in (50, 160, 500):
        shape = wavy(count, 460)
        vertices = int(shapely.get_num_coordinates(shape))
        samples = sample_walls(rings_of(shape), LINE / SAMPLES_PER_LIMIT)
        box = shape.bounds
        took = timed(lambda s=shape: fields(s))
        survey = timed(lambda s=shape: survey_widths(s, LINE, GAP))
        baseline = timed(lambda p=samples.point: Voronoi(p), 1)
        whole = timed(
            lambda s=shape, b=box: inspect_shape(s, Limits(LINE, GAP, 2.0, 1.2), is_sheet=False, weeding_box=b), 1
        )
        row = f"{vertices:10d} {took:10.3f} {survey:10.3f} {baseline:10.3f} {took / baseline:10.2f} {whole:10.3f}"
        if before is not None:
            growth = np.log(took / before[1]) / np.log(vertices / before[0])
            row += f"   growth exponent {growth:.2f}"
        print(row)
        before = (vertices, took)
    recheck(shape)
    memory = subprocess.run([sys.executable, __file__, "--memory"], capture_output=True, text=True, check=True).stdout
    print(f"memory for both fields and the survey of {vertices} vertices: {memory.strip()}")
    kinds()
    rings = nested(5000)
    left, top, right, bottom = rings.bounds
    box = (left - 5.0, top - 5.0, right + 5.0, bottom + 5.0)
    print(f"containment of 5000 contours {timed(lambda: waste_pieces(rings, box, 0.0)):.3f} s")
    dots = MultiPolygon(
        [shapely.Point(4 * (k % 50), 4 * (k // 50)).buffer(0.3 + 0.001 * k, quad_segs=12) for k in range(1000)]
        + [shapely.box(4 * (k % 50), -4 - 4 * (k // 50), 4 * (k % 50) + 3, -3.5 - 4 * (k // 50)) for k in range(1000)]
    )
    print(f"inscribed circles of 2000 contours {timed(lambda: kept_pieces(dots, 5.0)):.3f} s")


def recheck(shape: MultiPolygon) -> None:
    """One contour moved: the survey brought up to date against a survey of the whole."""
    pieces = list(shape.geoms)
    for which in (len(pieces) // 2, len(pieces) // 3):
        moved = [*pieces[:which], translate(pieces[which], 0.05, 0.05), *pieces[which + 1 :]]
        before, after = rings_of(shape), rings_of(MultiPolygon(moved))
        surveys = survey_walls(before, LINE, GAP)
        whole = timed(lambda a=after: survey_walls(a, LINE, GAP))
        again = timed(lambda b=before, s=surveys, a=after: resurvey(b, s, a, LINE, GAP))
        print(f"re-check after moving one contour {again:.3f} s, of the whole {whole:.3f} s: {again / whole:.3f}")


def discs(vertices: int) -> MultiPolygon:
    """Wavy discs of 500 points, a hand's breadth apart: far from any limit."""
    rng, t = np.random.default_rng(1), np.linspace(0, 2 * np.pi, 500, endpoint=False)
    shapes = []
    for k in range(vertices // 500):
        wave = sum(0.05 * rng.normal() * np.cos(n * t + rng.uniform(0, 6)) for n in range(2, 6))
        points = np.c_[np.cos(t), np.sin(t)] * (9 * (1 + wave))[:, None]
        shapes.append(shapely.Polygon(points + np.array([30.0 * (k % 20), 30.0 * (k // 20)])))
    return MultiPolygon(shapes)


def combs(vertices: int) -> MultiPolygon:
    """Combs of 50 teeth of 3 mm, 15 mm long."""
    x = np.repeat(6.0 * np.arange(50), 4) + np.tile([0.0, 3.0, 3.0, 6.0], 50)
    comb = shapely.Polygon(np.r_[[(0.0, 0.0)], np.c_[x, np.tile([20.0, 20.0, 5.0, 5.0], 50)], [(300.0, 0.0)]])
    return MultiPolygon([translate(comb, 310.0 * (k % 8), 28.0 * (k // 8)) for k in range(vertices // 200)])


def spirals(vertices: int) -> MultiPolygon:
    """Spirals of 8 turns."""
    t = np.linspace(1, 8, 5000) * 2 * np.pi
    radius = 9.0 * t / (2 * np.pi)
    inner, outer = (np.c_[r * np.cos(t), r * np.sin(t)] for r in (radius, radius + 4.0))
    one = shapely.Polygon(np.r_[inner, outer[::-1]])
    return MultiPolygon([translate(one, 175.0 * (k % 5), 175.0 * (k // 5)) for k in range(vertices // 10_000)])


def lace(vertices: int) -> MultiPolygon:
    """A cloth with scalloped holes of 60 points."""
    side = int(np.ceil(np.sqrt(vertices // 60)))
    t = np.linspace(0, 2 * np.pi, 60, endpoint=False)
    hole = np.c_[np.cos(t), np.sin(t)] * (2.6 * (1 + 0.1 * np.cos(5 * t)))[:, None]
    holes = [hole + np.array([8.0 * (k % side) + 4, 8.0 * (k // side) + 4]) for k in range(side * side)]
    return MultiPolygon([shapely.Polygon(shapely.box(0, 0, 8 * side, 8 * side).exterior, holes)])


def words(vertices: int) -> MultiPolygon:
    """Joined words in two bundled faces, in rows of twenty."""
    shapes = []
    for k, text in enumerate(("Heron", "Marsh Hen", "Lantern", "Oarsmen", "Regatta", "Quillfen")):
        source = Words(text=text, face=("bundled:Pacifico", "bundled:League Spartan")[k % 2])
        steps = (Join(id="join"), Weld(id="weld"))
        element = Element(id="w", name=text, source=source, placement=Placement(width=120.0), steps=steps)
        job = with_layer(new_job("Words", 400.0, 200.0), lambda layer, one=element: replace(layer, elements=(one,)))  # type: ignore[misc]  # bound at once
        shape = evaluate(job, {}, Cache()).layers[0].kept.as_cut()
        shapes.append(translate(shape, -shape.bounds[0], -shape.bounds[1]))
    pieces: list[shapely.Polygon] = []
    total = k = 0
    while total < vertices:
        placed = translate(shapes[k % len(shapes)], 140.0 * (k % 20), 80.0 * (k // 20))
        pieces, total, k = [*pieces, *placed.geoms], total + int(shapely.get_num_coordinates(placed)), k + 1
    return MultiPolygon(pieces)


KINDS = {
    "words": words,
    "discs": discs,
    "combs": combs,
    "spirals": spirals,
    "lace": lace,
    "blobs": lambda n: wavy(n // 460, 460),
}


def kinds() -> None:
    """Each kind of design in processes of its own: seconds, memory beyond the shape, growth."""
    for name in KINDS:
        took = []
        for vertices in (50_000, 200_000):
            command = [sys.executable, __file__, "--kind", name, str(vertices)]
            answer = subprocess.run(command, capture_output=True, text=True, check=True).stdout
            print(answer.strip())
            took.append(float(answer.split()[2]))
        print(f"{name:10s} growth exponent {np.log(took[1] / took[0]) / np.log(4.0):.2f}")


def one_kind(name: str, vertices: int) -> None:
    shape = KINDS[name](vertices)
    survey_widths(wavy(4, 100), LINE, GAP)  # what is imported late is there
    before = peak_mb()
    took = timed(lambda: survey_widths(shape, LINE, GAP), 1)
    count = int(shapely.get_num_coordinates(shape))
    print(f"{name:10s} {count:8d} {took:8.2f} s {peak_mb() - before:6.0f} MB")


def memory() -> None:
    """Printed by a process of its own: what the survey needs beyond the shape and the program."""
    shape = wavy(500, 460)
    before = peak_mb()
    survey_widths(shape, LINE, GAP)
    print(f"{peak_mb():.0f} MB in all, {before:.0f} MB before")


def peak_mb() -> float:
    """The largest memory of this process so far (Linux)."""
    status = FilePath("/proc/self/status").read_text()
    return float(status.split("VmHWM:")[1].split()[0]) / 1024.0


def nested(contours: int) -> MultiPolygon:
    """Rings, each with an island inside: three contours a place."""
    shapes = []
    for k in range(contours // 3 + 1):
        at = shapely.Point(12 * (k % 40), 12 * (k // 40))
        shapes += [at.buffer(5, quad_segs=8).difference(at.buffer(4, quad_segs=8)), at.buffer(2, quad_segs=8)]
    return MultiPolygon(shapes)


if __name__ == "__main__":
    if "--kind" in sys.argv:
        one_kind(sys.argv[-2], int(sys.argv[-1]))
    else:
        memory() if "--memory" in sys.argv else main()
