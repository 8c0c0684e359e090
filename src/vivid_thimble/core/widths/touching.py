"""Points where film touches film exactly: width 0, which no width field can see."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.geometry.tolerances import SHORTEST_SEGMENT_MM, TOUCH_MM
from vivid_thimble.core.widths.places import ThinPlace
from vivid_thimble.core.widths.walls import FAN_STEP_DEG, NO_MEETINGS, Meetings, Rings, directions, edge_lines


def touching_points(rings: Rings, only: NDArray[np.bool_] | None = None) -> tuple[list[ThinPlace], Meetings]:
    """Vertices that two rings share or one ring visits twice, and corners that lie on another edge.

    With ``only`` (a mask of edges) the other edges are not looked at.
    """
    if not len(rings):
        return [], NO_MEETINGS
    first, second = _shared_vertices(rings, np.arange(len(rings)) if only is None else np.flatnonzero(only))
    corner, edge = _corners_on_edges(rings, only)
    apart, away = (
        _is_far(rings, first, second, rings.arc[second]),
        _is_far(rings, corner, edge, _foot(rings, corner, edge)),
    )
    first, second, corner, edge = first[apart], second[apart], corner[away], edge[away]
    points = np.concatenate([rings.a[first], rings.a[corner]])
    owners = np.concatenate([rings.ring[first], rings.ring[corner]])
    others = np.concatenate([rings.ring[second], rings.ring[edge]])
    pairs = zip(np.r_[first, corner].tolist(), np.r_[second, edge].tolist(), strict=True)
    found: dict[tuple[int, int], ThinPlace] = {}
    for point, both in zip(points, pairs, strict=True):
        x, y = np.rint(point / (10 * TOUCH_MM)).astype(np.int64).tolist()
        found.setdefault((x, y), touching_place(rings, both, np.array([point, point]), 0.0))
    starts = np.concatenate([rings.arc[first], rings.arc[corner]])
    ends = np.concatenate([rings.arc[second], _foot(rings, corner, edge)])
    meetings = Meetings(owners, starts, others, ends, np.zeros(len(owners)))
    return sorted(found.values(), key=lambda place: place.at), meetings


def touching_place(rings: Rings, edges: tuple[int, int], ends: FloatArray, width: float) -> ThinPlace:
    """Where two edges touch, or all but touch, in a point: ``ends`` (2, 2) are the points on them."""
    (x, y), (u, v) = ends.tolist()
    polygons = int(rings.ring_polygon[rings.ring[edges[0]]]), int(rings.ring_polygon[rings.ring[edges[1]]])
    return ThinPlace(
        thinnest=width, at=((x + u) / 2.0, (y + v) / 2.0), ends=((x, y), (u, v)), mean=width, length=0.0, open_ends=2,
        is_needle=False, polygons=polygons, is_touching=True,
    )  # fmt: skip


def _is_far(rings: Rings, corner: IntArray, edge: IntArray, arc: FloatArray) -> NDArray[np.bool_]:
    """Whether corners are farther along their ring from places on other edges than a cutter can follow.

    What is nearer is the noise of rounding beside one corner, and no neck.
    """
    total = rings.ring_length[rings.ring[corner]]
    forth = np.mod(arc - rings.arc[corner], total)
    near = np.minimum(forth, total - forth) < SHORTEST_SEGMENT_MM
    return np.asarray((rings.ring[corner] != rings.ring[edge]) | ~near)


def _foot(rings: Rings, corner: IntArray, edge: IntArray) -> FloatArray:
    """Where on edges corners lie, in mm along their rings."""
    span = rings.b[edge] - rings.a[edge]
    return np.asarray(
        rings.arc[edge] + _from_edge(rings.a[corner], rings.a[edge], rings.b[edge])[1] * np.hypot(*span.T)
    )


def _shared_vertices(rings: Rings, edges: IntArray) -> tuple[IntArray, IntArray]:
    """Pairs of edges that start in the same point, found by hashing rounded coordinates."""
    keys = np.rint(rings.a[edges] / TOUCH_MM).astype(np.int64)
    order = np.lexsort((keys[:, 1], keys[:, 0]))
    same = (keys[order[1:]] == keys[order[:-1]]).all(axis=1)
    i, j = edges[order[:-1][same]], edges[order[1:][same]]
    apart = (rings.following[i] != j) & (rings.following[j] != i)
    return i[apart], j[apart]


def _corners_on_edges(rings: Rings, only: NDArray[np.bool_] | None) -> tuple[IntArray, IntArray]:
    """Corners (as the edges that start there) lying on the inside of an edge that is not their own."""
    rows = np.arange(len(rings)) if only is None else np.flatnonzero(only)
    before = rings.preceding[rows]
    cosine = (directions(rings, rows) * directions(rings, before)).sum(axis=1)
    corners = rows[cosine < np.cos(np.radians(FAN_STEP_DEG))]
    if not len(corners):
        return corners, corners
    tree = shapely.STRtree(edge_lines(rings, rows))
    which, found = tree.query(shapely.points(rings.a[corners]), predicate="dwithin", distance=TOUCH_MM)
    c, e = corners[which], rows[found]
    own = (e == c) | (e == rings.preceding[c])
    c, e = c[~own], e[~own]
    off, along = _from_edge(rings.a[c], rings.a[e], rings.b[e])
    touches = (off <= TOUCH_MM) & (along > 0.0) & (along < 1.0)
    return c[touches], e[touches]


def _from_edge(p: FloatArray, a: FloatArray, b: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Distance of points from the lines through edges, and the foot's share of the edge."""
    span = b - a
    square = np.maximum((span**2).sum(axis=1), 1e-300)
    cross = span[:, 0] * (p - a)[:, 1] - span[:, 1] * (p - a)[:, 0]
    return np.abs(cross) / np.sqrt(square), ((p - a) * span).sum(axis=1) / square
