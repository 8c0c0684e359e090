"""Named shapes with known answers, empties included, for all functions to run over."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely import MultiPolygon, Point, Polygon, box
from shapely.affinity import rotate, translate

from vivid_thimble.core.geometry.path import Contour, Path
from vivid_thimble.core.geometry.path_text import arc_cubics


def circle(x: float, y: float, r: float) -> Contour:
    """A circle of four cubics."""
    segments = np.array(arc_cubics(0.0, 2 * math.pi)) * r + [x, y]
    segments[-1, 3] = segments[0, 0]
    return Contour(segments, np.zeros(4, dtype=bool), True)


def square(x: float, y: float, side: float) -> Contour:
    return Contour.from_points(np.array([[x, y], [x + side, y], [x + side, y + side], [x, y + side]]))


def paths() -> dict[str, Path]:
    """Awkward outlines: every operation must survive each of them."""
    bow = Contour.from_points(np.array([[0, 0], [10, 10], [10, 0], [0, 10.0]]))
    spike = Contour.from_points(np.array([[0, 0], [10, 0], [10, 5], [20, 5], [10, 5], [10, 10], [0, 10.0]]))
    dust = Contour.from_points(np.array([[0, 0], [1e-7, 0], [0, 1e-7]]))
    opened = Contour.from_points(np.array([[0, 0], [10, 0], [10, 10.0]]), closed=False)
    return {
        "nothing": Path(),
        "contour without segments": Path((Contour(np.zeros((0, 4, 2)), np.zeros(0, dtype=bool), True),)),
        "square": Path((square(0, 0, 10),)),
        "circle": Path((circle(0, 0, 5),)),
        "crossing itself": Path((bow,)),
        "with a spike": Path((spike,)),
        "dust": Path((dust,)),
        "left open": Path((opened,)),
        "drawn twice": Path((square(0, 0, 10), square(0, 0, 10))),
        "touching in a corner": Path((square(0, 0, 10), square(10, 10, 10))),
        "sharing an edge": Path((square(0, 0, 10), square(10, 0, 10))),
        "one micron overlap": Path((square(0, 0, 10), square(9.999, 0, 10))),
        "wound backwards": Path((circle(0, 0, 5).reversed(),)),
        "far away": Path((square(9e4, -9e4, 10),)),
    }


def turned(shape: shapely.Geometry, angle: float, dx: float = 0.0, dy: float = 0.0) -> MultiPolygon:
    """A shape turned about its middle and shifted, as the polygons an inspection takes."""
    moved = translate(rotate(shape, angle, origin="centroid"), dx, dy)
    return MultiPolygon([p for p in shapely.get_parts(moved) if p.geom_type == "Polygon"])


def bar(width: float, length: float) -> Polygon:
    return box(0, 0, length, width)


def ring(radius: float, width: float) -> Polygon:
    return Point(0, 0).buffer(radius, quad_segs=90).difference(Point(0, 0).buffer(radius - width, quad_segs=90))


def dumbbell(neck: float, gap: float = 4.0, radius: float = 5.0) -> Polygon:
    ends = [Point(x, 0).buffer(radius, quad_segs=64) for x in (-radius - gap / 2, radius + gap / 2)]
    return shapely.union_all([*ends, box(-radius, -neck / 2, radius, neck / 2)])


def comb(teeth: int, width: float, length: float = 4.0) -> Polygon:
    return shapely.union_all(
        [box(0, 0, 3 * teeth, 4), *(box(3 * k, 0, 3 * k + width, 4 + length) for k in range(teeth))]
    )


def notched(neck: float) -> Polygon:
    """A plate with two pointed notches that leave a neck between their tips."""
    h = neck / 2
    return Polygon(
        [(0, 0), (4.5, 0), (5, 2.5 - h), (5.5, 0), (10, 0), (10, 5), (5.5, 5), (5, 2.5 + h), (4.5, 5), (0, 5)]
    )


def blobs(count: int, vertices: int, seed: int = 0) -> MultiPolygon:
    """Wavy separate blobs, some close to their neighbours."""
    rng = np.random.default_rng(seed)
    side = math.ceil(math.sqrt(count))
    t = np.linspace(0, 2 * np.pi, vertices, endpoint=False)
    shapes = []
    for k in range(count):
        wave = sum(0.12 * rng.normal() * np.cos(n * t + rng.uniform(0, 6)) for n in range(2, 7))
        points = np.c_[np.cos(t), np.sin(t)] * (9 * (1 + wave))[:, None] + [20 * (k % side), 20 * (k // side)]
        shapes.append(Polygon(points).buffer(0))
    return MultiPolygon([p for p in shapely.get_parts(shapely.union_all(shapes)) if p.geom_type == "Polygon"])
