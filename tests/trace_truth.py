"""Pictures of which the true outlines are known, for the benches and tests of tracing.

Words are set in the faces that ship with the application, drawn by an independent renderer at OVER times the size
and averaged, which gives the coverage of each pixel to about a thousandth.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
import resvg_py
import shapely
from numpy.typing import NDArray
from PIL import Image

from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Path, evaluate_cubic
from vivid_thimble.core.geometry.path_text import write_path_data
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.sources.lettering import Words, shape_words

OVER = 8
"""Drawn so many times as large, then averaged."""
MARGIN_PX = 12.0


@dataclass(frozen=True, eq=False)
class Truth:
    """A picture's gray levels (rows, columns), 0 ink to 255 paper, and its outlines in pixels."""

    gray: NDArray[np.float64]
    path: Path


def word(text: str, face: str, height_px: float, turn_deg: float = 0.0) -> Truth:
    """A word whose ink is ``height_px`` tall."""
    shaped = shape_words(Words(text=text, face=face))
    whole = union([Region.from_path(letter.path.transformed(Affine.scaling(100.0))) for letter in shaped.letters])
    return drawn(whole.outline, height_px, turn_deg)


def drawn(outline: Path, height_px: float, turn_deg: float = 0.0) -> Truth:
    """Any outline, brought to a height and turned."""
    if turn_deg:
        outline = outline.transformed(Affine.turning(turn_deg))
    left, top, right, bottom = outline.bounds or (0.0, 0.0, 1.0, 1.0)
    scale = height_px / (bottom - top)
    path = outline.transformed(
        Affine.translation(-left, -top)
        .then(Affine.scaling(scale))
        .then(Affine.translation(MARGIN_PX + 0.37, MARGIN_PX + 0.21))
    )
    size = (
        int(np.ceil((bottom - top) * scale + 2 * MARGIN_PX + 1)),
        int(np.ceil((right - left) * scale + 2 * MARGIN_PX + 1)),
    )
    return Truth(rendered(path, size), path)


def rendered(path: Path, size: tuple[int, int], ink: int = 0, paper: int = 255) -> NDArray[np.float64]:
    """The gray levels of a filled path (rows, columns)."""
    covered = coverage(path, size)
    return paper + (ink - paper) * covered


def coverage(path: Path, size: tuple[int, int]) -> NDArray[np.float64]:
    """The share of each pixel that a path covers (rows, columns)."""
    rows, columns = size
    text = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{columns * OVER}" height="{rows * OVER}"'
        f' viewBox="0 0 {columns} {rows}"><path fill-rule="evenodd" d="{write_path_data(path, 5)}"/></svg>'
    )
    picture = Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=text, background="white"))))
    fine = 1.0 - np.asarray(picture.convert("L"), dtype=np.float64) / 255.0
    return fine.reshape(rows, OVER, columns, OVER).mean(axis=(1, 3))


def compressed(
    picture: NDArray[Any], blur: float = 0.8, noise: float = 4.0, quality: int = 60, seed: int = 1
) -> NDArray[np.float64]:
    """As a picture, gray (rows, columns) or in colour, that was soft, noisy and saved as JPEG."""
    soft = cv2.GaussianBlur(picture.astype(np.float64), (0, 0), blur)
    soft += np.random.default_rng(seed).normal(0.0, noise, picture.shape)
    held = io.BytesIO()
    Image.fromarray(np.clip(np.rint(soft), 0, 255).astype(np.uint8)).save(held, "JPEG", quality=quality)
    return np.asarray(Image.open(held), dtype=np.float64)


def along(path: Path, apart: float = 0.25) -> NDArray[np.float64]:
    """Points (n, 2) along all curves, about so far apart, evenly in the length of the way."""
    found = [np.zeros((0, 2))]
    t = np.linspace(0.0, 1.0, 65)
    for contour in path.contours:
        for segment in contour.segments:
            fine = evaluate_cubic(np.broadcast_to(segment, (65, 4, 2)), t)
            run = np.r_[0.0, np.cumsum(np.hypot(*np.diff(fine, axis=0).T))]
            count = max(int(run[-1] / apart), 1)
            at = (np.arange(count) + 0.5) * run[-1] / count
            found.append(np.column_stack([np.interp(at, run, fine[:, k]) for k in (0, 1)]))
    return np.concatenate(found)


@dataclass(frozen=True)
class Distance:
    """Both ways between two sets of outlines, in pixels."""

    rms: float
    p99: float
    most: float


def distance(one: Path, two: Path) -> Distance:
    """Distances from each outline to the other, both ways."""

    def polylines(path: Path) -> shapely.Geometry:
        t = np.linspace(0.0, 1.0, 33)
        return shapely.MultiLineString(
            [evaluate_cubic(np.broadcast_to(s, (33, 4, 2)), t) for c in path.contours for s in c.segments]
        )

    away = []
    for points, path in ((along(one), two), (along(two), one)):
        tree = shapely.STRtree(shapely.get_parts(polylines(path)))
        _, found = tree.query_nearest(shapely.points(points), return_distance=True, all_matches=False)
        away.append(found)
    both = np.concatenate(away)
    return Distance(float(np.sqrt((both**2).mean())), float(np.quantile(both, 0.99)), float(both.max()))


def corners(path: Path, least_deg: float) -> NDArray[np.float64]:
    """Joints (n, 2) where the way turns by at least so many degrees."""
    found = [np.zeros((0, 2))]
    for contour in path.contours:
        arrive, leave = _tangents(contour.segments)
        before = np.roll(arrive, 1, axis=0)
        turn = np.abs(
            np.degrees(
                np.arctan2(before[:, 0] * leave[:, 1] - before[:, 1] * leave[:, 0], (before * leave).sum(axis=1))
            )
        )
        found.append(contour.segments[turn >= least_deg, 0])
    return np.concatenate(found)


def _tangents(segments: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Directions at the end and at the start of each segment (n, 2)."""

    def first_way(points: NDArray[np.float64]) -> NDArray[np.float64]:
        ways = points[:, 1:] - points[:, :1]
        size = np.hypot(ways[:, :, 0], ways[:, :, 1])
        pick = (size > 1e-9).argmax(axis=1)
        return ways[np.arange(len(ways)), pick]

    return -first_way(segments[:, ::-1]), first_way(segments)


def corners_found(truth: Path, trace: Path, within: float = 1.0) -> tuple[int, int, int]:
    """True corners (turning 30 degrees or more), how many of them are corners of the trace, and corners it adds."""
    wanted, got = corners(truth, 30.0), corners(trace, 15.0)
    if not len(wanted) or not len(got):
        return len(wanted), 0, len(got)
    away = np.hypot(*(wanted[:, None] - got[None, :]).transpose(2, 0, 1))
    return len(wanted), int((away.min(axis=1) <= within).sum()), int((away.min(axis=0) > 2.0 * within).sum())


def stroke_picture(width: float) -> tuple[Region, tuple[int, int]]:
    """Lines of one width: level, slanting, wavy, a circle and two with blunt ends; and the picture's rows and columns."""
    shapes = []
    way = np.linspace(0.0, 1.0, 60)
    for k in range(6):
        y = (
            25.0
            + k * 50.0
            + 12.0 * np.sin(way * 6.0 + k) * (k > 2)
            + way * (31.0 if k == 1 else 17.0 if k == 2 else 0.0)
        )
        shapes.append(shapely.LineString(np.column_stack([20.0 + way * 300.0, y])).buffer(width / 2.0, quad_segs=16))
    centre = shapely.Point(400, 120)
    shapes.append(centre.buffer(50.0 + width / 2.0, 64).difference(centre.buffer(50.0 - width / 2.0, 64)))
    for line in ([(340, 200), (460, 280)], [(360, 20.3), (470, 20.3)]):
        shapes.append(shapely.LineString(line).buffer(width / 2.0, cap_style="flat"))
    return Region.from_polygons(shapely.union_all(shapes)), (340, 490)


def colour_picture(size: int) -> tuple[NDArray[np.float64], list[shapely.Geometry], NDArray[np.uint8]]:
    """Four flat colours side by side: (4, 3), the area of each in pixels, and the picture."""
    scale = size / 300.0
    colours = np.array([(250.0, 246, 235), (196, 60, 48), (40, 90, 150), (240, 190, 60)])
    disc = shapely.Point(150 * scale, 140 * scale).buffer(95 * scale, 64)
    crest = [(x * scale, (190 + 25 * np.sin(x / 40)) * scale) for x in range(0, 301, 2)]
    hill = shapely.Polygon([*crest, (300 * scale, 300 * scale), (0, 300 * scale)])
    radii = [60.0 if k % 2 == 0 else 25.0 for k in range(10)]
    star = shapely.Polygon(
        [
            ((150 + r * np.sin(k * np.pi / 5)) * scale, (130 - r * np.cos(k * np.pi / 5)) * scale)
            for k, r in enumerate(radii)
        ]
    )
    panel = shapely.Polygon([(x * scale, y * scale) for x, y in [(40, 30), (120, 50), (100, 110), (30, 90)]])
    top = star.union(panel)
    areas = [disc.difference(hill.union(top)), hill.difference(top), top]
    areas.insert(0, shapely.box(0, 0, size, size).difference(shapely.union_all(areas)))
    mixed = sum(
        coverage(Region.from_polygons(area).outline, (size, size))[:, :, None] * colour
        for area, colour in zip(areas, colours, strict=True)
    )
    return colours, areas, np.clip(np.rint(mixed), 0, 255).astype(np.uint8)


def photo(columns: int, rows: int, seed: int = 3) -> NDArray[np.uint8]:
    """Something like a photo: soft shapes of all sizes in smooth light, in colour."""
    random = np.random.default_rng(seed)
    scene = np.zeros((rows, columns, 3))
    for size in (4, 9, 23, 61):
        grain = random.normal(0.0, 1.0, (size * 3 // 4 + 2, size + 2, 3))
        scene += cv2.resize(grain, (columns, rows), interpolation=cv2.INTER_CUBIC) * (40.0 / size**0.5)
    y, x = np.mgrid[0:rows, 0:columns]
    scene += (120.0 + 60.0 * np.cos((x / columns - 0.4) * 3.0) * np.cos((y / rows - 0.5) * 2.0))[:, :, None]
    return np.clip(scene, 0, 255).astype(np.uint8)
