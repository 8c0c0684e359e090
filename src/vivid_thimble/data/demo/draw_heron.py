"""Draws heron-and-reeds.svg, the layered drawing of the demonstration job.

Run from the project's root: ``python src/vivid_thimble/data/demo/draw_heron.py``. Layers
from back to front: moon, reeds, a white halo that knocks the heron out of both, the
heron, and its white eye.
"""

from __future__ import annotations

from pathlib import Path as FilePath

import numpy as np
import shapely

from vivid_thimble.core.geometry.fitting.fit import fit_rings
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.path_text import write_path_data

Stroke = list[tuple[float, float, float]]

SPINE: Stroke = [  # (x, y, half width) from the tip of the beak over neck and back to the tail
    (104, 27, 0.3),
    (92, 24.5, 1.6),
    (82, 22.5, 2.9),
    (74, 22, 5.0),
    (68, 24, 5.2),
    (64.5, 29, 4.2),
    (66, 36, 3.6),
    (70.5, 43, 3.6),
    (72.5, 50, 4.2),
    (70, 57, 6.2),
    (63, 62.5, 9.6),
    (53, 67, 11.2),
    (42, 72, 9.6),
    (31, 78.5, 6.2),
    (21, 85, 2.6),
    (14, 89.5, 0.4),
]
CREST: Stroke = [(72, 19.5, 2.4), (63, 16.2, 1.7), (53, 15.4, 0.3)]
LEGS: list[Stroke] = [
    [(53, 74, 2.6), (55, 90, 1.5), (52.5, 103, 1.35), (54, 121, 1.35)],
    [(44, 76, 2.6), (44.5, 92, 1.5), (38, 104, 1.35), (39, 121, 1.35)],
]
FEET: list[Stroke] = [
    [(46, 122, 0.6), (54, 120.6, 1.6), (66, 122.4, 0.6)],
    [(31, 122, 0.6), (39, 120.6, 1.6), (50, 122.4, 0.6)],
]
REEDS: list[Stroke] = [
    [(8, 124, 2.0), (9, 92, 1.7), (5, 58, 1.2), (1, 40, 0.2)],
    [(16, 124, 2.2), (20, 80, 1.9), (28, 46, 1.3), (38, 22, 0.2)],
    [(84, 124, 2.1), (82, 96, 1.8), (86, 70, 1.3), (94, 48, 0.2)],
    [(92, 124, 2.2), (96, 90, 1.9), (98, 62, 1.5), (97, 44, 1.0)],
    [(101, 124, 2.0), (106, 100, 1.7), (114, 80, 1.2), (124, 66, 0.2)],
]
CATTAIL: Stroke = [(98, 62, 2.2), (98.2, 52, 3.3), (97.4, 42, 2.2)]


def main() -> None:
    heron = shapely.union_all([brush(SPINE), brush(CREST), *map(brush, LEGS), *map(brush, FEET)])
    reeds = shapely.union_all([*map(brush, REEDS), brush(CATTAIL)])
    moon = shapely.Point(60, 48).buffer(43, quad_segs=64)
    halo = heron.buffer(2.0, quad_segs=32)
    eye = shapely.Point(74.5, 21.2).buffer(1.25, quad_segs=16)
    water = shapely.union_all(
        [brush([(0, 124, 0.5), (30, 126.5, 2.2), (62, 124, 2.4), (96, 126.5, 2.2), (126, 124, 0.5)])]
    )
    layers = [
        ("moon", "#e8c95b", moon),
        ("water", "#2b6a80", water),
        ("reeds", "#3f7046", reeds),
        ("halo", "#ffffff", halo),
        ("heron", "#33465c", heron),
        ("eye", "#ffffff", eye),
    ]
    body = "\n".join(
        f'  <g id="{name}"><path fill="{colour}" d="{data(shape)}"/></g>' for name, colour, shape in layers
    )
    text = (
        '<?xml version="1.0" encoding="UTF-8"?>\n<svg xmlns="http://www.w3.org/2000/svg" width="128mm" height="130mm" '
        f'viewBox="-1 0 128 130">\n  <title>Heron and reeds</title>\n{body}\n</svg>\n'
    )
    (FilePath(__file__).parent / "heron-and-reeds.svg").write_text(text, encoding="utf-8")


def brush(points: Stroke) -> shapely.Geometry:
    """A stroke of changing width through points (x, y, half width), smoothed by a Catmull-Rom spline."""
    p = np.array([points[0], *points, points[-1]], dtype=float)
    t = np.linspace(0, 1, 24, endpoint=False)[:, None]
    rows = []
    for a, b, c, d in zip(p[:-3], p[1:-2], p[2:-1], p[3:], strict=True):
        rows.append(0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3))
    dense = np.concatenate([*rows, p[-1:]])
    discs = [shapely.Point(x, y).buffer(max(r, 0.15), quad_segs=24) for x, y, r in dense]
    hulls = [shapely.convex_hull(shapely.union(a, b)) for a, b in zip(discs[:-1], discs[1:], strict=True)]
    return shapely.union_all(hulls)


def data(shape: shapely.Geometry) -> str:
    even = shapely.simplify(shape, 0.004)
    polygons = shapely.get_parts(even)
    rings = [np.asarray(r.coords) for p in polygons for r in (p.exterior, *p.interiors)]
    return write_path_data(Path(tuple(fit_rings(rings, 0.02))), 3)


if __name__ == "__main__":
    main()
