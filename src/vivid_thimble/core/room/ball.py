"""Film on a ball: how much of it is too long, and where to snip it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import shapely

from vivid_thimble.core.blanks.kinds import Ball
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.values import Item

SHORT_OF_MM = 1.0
"""Snips end so far before the design."""
NO_CREASE = 1e-4
"""A share of its length that no film can be told to be too long."""
EACH_SNIP_MM = 2.0
"""So much film a snip takes up at the edge before its own flaps crease."""


@dataclass(frozen=True)
class OnBall:
    """What happens at the edge of film on a ball: the share of its length that is too long, and snips that help."""

    surplus: float
    creases: bool
    snips: int
    is_band: bool
    """Laid down along its middle line: snips come from its long edges, else from all round."""


def on_ball(item: Item, bounds: Box | None) -> OnBall | None:
    """For film within ``bounds``; None when the item is no ball or there is nothing."""
    ball = item.blank
    if not isinstance(ball, Ball) or bounds is None:
        return None
    wide, high = bounds[2] - bounds[0], bounds[3] - bounds[1]
    surplus, is_band = ball.surplus(wide, high), ball.is_band(wide, high)
    edge = 2.0 * max(wide, high) if is_band else math.pi * math.hypot(wide, high)
    too_long = max(surplus - ball.bears / 100.0, 0.0) * edge
    return OnBall(surplus, surplus > ball.bears / 100.0 + NO_CREASE, math.ceil(too_long / EACH_SNIP_MM), is_band)


Snip = tuple[tuple[float, float], tuple[float, float]]
"""From the edge of the film inwards."""


def snips(item: Item, pieces: shapely.MultiPolygon, film: Box) -> list[Snip]:
    """Where to snip the film round a design on a ball, from its edge inwards; none when it lies down anyway.

    A snip beside a gap between letters that stand apart is moved to that gap and may run through it; everywhere else it
    ends SHORT_OF_MM before the design, which is never cut. ``film``: the box of the film round the design.
    """
    told = on_ball(item, film)
    if told is None or not told.snips or pieces.is_empty:
        return []
    rays = _across_band(pieces, film, told.snips) if told.is_band else _all_round(film, told.snips)
    edges = shapely.boundary(pieces)
    found = []
    for outer, inner in rays:
        ray = shapely.LineString([outer, inner])
        free = ray.length
        hit = shapely.intersection(ray, edges)
        if not hit.is_empty:
            free = shapely.distance(shapely.Point(outer), hit) - SHORT_OF_MM
        if free > SHORT_OF_MM:
            end = ray.interpolate(free)
            found.append((outer, (end.x, end.y)))
    return found


def _all_round(film: Box, wanted: int) -> list[Snip]:
    """Towards the middle from evenly round."""
    x, y = (film[0] + film[2]) / 2.0, (film[1] + film[3]) / 2.0
    reach = math.hypot(film[2] - film[0], film[3] - film[1])
    edge, found = shapely.box(*film), []
    for k in range(wanted):
        angle = math.tau * (k + 0.5) / wanted
        ray = shapely.LineString([(x, y), (x + reach * math.cos(angle), y + reach * math.sin(angle))])
        outer = shapely.intersection(ray, edge).coords[-1]
        found.append(((outer[0], outer[1]), (x, y)))
    return found


def _across_band(pieces: shapely.MultiPolygon, film: Box, wanted: int) -> list[Snip]:
    """From both long edges to the middle line, evenly along it, each moved to a gap between pieces that is at hand."""
    axis = 0 if film[2] - film[0] >= film[3] - film[1] else 1
    low, high = film[axis], film[axis + 2]
    across = film[1 - axis], film[3 - axis]
    gaps = _gaps_along(pieces, axis)
    each = max(math.ceil(wanted / 2), 1)
    step = (high - low) / each
    found = []
    for k in range(each):
        at = low + (k + 0.5) * step
        nearest = min(gaps, key=lambda gap: abs(gap - at), default=at)
        at = nearest if abs(nearest - at) < step / 2.0 else at
        for edge in across:
            ends = (at, edge), (at, sum(across) / 2.0)
            found.append(ends if axis == 0 else (ends[0][::-1], ends[1][::-1]))
    return found


def _gaps_along(pieces: shapely.MultiPolygon, axis: int) -> list[float]:
    """The middles of the gaps between what lies side by side."""
    spans = sorted((one.bounds[axis], one.bounds[axis + 2]) for one in pieces.geoms)
    gaps, end = [], spans[0][1]
    for low, high in spans[1:]:
        if low > end:
            gaps.append((low + end) / 2.0)
        end = max(end, high)
    return gaps
