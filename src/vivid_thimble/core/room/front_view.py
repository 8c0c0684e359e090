"""How films look on the thing from the front."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from vivid_thimble.core.blanks.kinds import Ball, Cylinder, Tapered
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.values import Item
from vivid_thimble.core.room.thing import thing_box


@dataclass(frozen=True, eq=False)
class OnItem:
    """A view from the front: the silhouette of the thing, and the films on it as they are seen, in mm about (0, 0)."""

    silhouette: shapely.Polygon
    films: tuple[shapely.MultiPolygon, ...]


def seen_from_front(item: Item, films: tuple[shapely.MultiPolygon, ...]) -> OnItem:
    """Films of the level rectangle wrapped round the thing and looked at from far away."""
    blank = item.blank
    if isinstance(blank, Cylinder | Tapered):
        return _round_view(item, blank, films)
    if isinstance(blank, Ball):
        return _ball_view(item, blank, films)
    left, top = -item.width / 2.0, -item.height / 2.0
    flat = tuple(shapely.transform(film, lambda p: p + np.array([left, top])) for film in films)
    return OnItem(_flat_silhouette(item), flat)


def _flat_silhouette(item: Item) -> shapely.Polygon:
    left, top, right, bottom = thing_box(item)
    x, y = item.width / 2.0, item.height / 2.0
    return shapely.box(left - x, top - y, right - x, bottom - y)


def _round_view(item: Item, blank: Cylinder | Tapered, films: tuple[shapely.MultiPolygon, ...]) -> OnItem:
    upper, lower = (blank.girth, blank.girth) if isinstance(blank, Cylinder) else (blank.upper, blank.lower)
    slope = (upper - lower) / blank.height / math.tau
    upright = math.sqrt(max(1.0 - slope * slope, 0.0))
    middle = (blank.rim + blank.height - blank.foot) / 2.0

    def radius(down: np.ndarray) -> np.ndarray:
        """Of the thing, so many mm below the middle of the room."""
        return np.asarray((upper + (lower - upper) * (down + middle) / blank.height) / math.tau)

    def seen(points: np.ndarray) -> np.ndarray:
        down = points[:, 1] - item.height / 2.0
        angle = (points[:, 0] - item.width / 2.0) / (blank.girth / math.tau)
        return np.column_stack([radius(down) * np.sin(angle), down * upright])

    quarter = blank.girth / 4.0
    front = (item.width / 2.0 - quarter, -blank.height, item.width / 2.0 + quarter, item.height + blank.height)
    top, bottom = -middle, blank.height - middle
    (a, b) = radius(np.array([top, bottom]))
    silhouette = shapely.Polygon(
        [(-a, top * upright), (a, top * upright), (b, bottom * upright), (-b, bottom * upright)]
    )
    return OnItem(silhouette, tuple(_mapped(film, front, seen, quarter / 40.0) for film in films))


def _ball_view(item: Item, ball: Ball, films: tuple[shapely.MultiPolygon, ...]) -> OnItem:
    def seen(points: np.ndarray) -> np.ndarray:
        x, y = points[:, 0] - item.width / 2.0, points[:, 1] - item.height / 2.0
        far = np.maximum(np.hypot(x, y), 1e-9)
        shrunk = ball.radius * np.sin(np.minimum(far / ball.radius, math.pi / 2.0)) / far
        return np.column_stack([x * shrunk, y * shrunk])

    reach = ball.girth / 4.0
    x, y = item.width / 2.0, item.height / 2.0
    front = (x - reach, y - reach, x + reach, y + reach)
    silhouette = shapely.Point(0.0, 0.0).buffer(ball.radius, quad_segs=48)
    return OnItem(silhouette, tuple(_mapped(film, front, seen, ball.radius / 30.0) for film in films))


def _mapped(film: shapely.MultiPolygon, front: Box, seen: object, step: float) -> shapely.MultiPolygon:
    """What of a film lies in front, point by point where it is seen; long edges get points between."""
    visible = shapely.segmentize(shapely.clip_by_rect(film, *front), step)
    parts = [one for one in shapely.get_parts(visible) if isinstance(one, shapely.Polygon)]
    return shapely.transform(shapely.MultiPolygon(parts), seen)
