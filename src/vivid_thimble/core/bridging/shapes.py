"""The outline of a bridge: straight or bent along an arc, of one width or with feet that widen into the sheet.

A shape that would run into another opening, or leave its own and come back, gives way to a plainer one: feet without
widening, then a straight strip.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
import shapely
from shapely import MultiPolygon, Polygon

from vivid_thimble.core.bridging.plan import ALLOWANCE_MM, Bridge
from vivid_thimble.core.geometry.affine import FloatArray

Style = Literal["straight", "curved"]
BOW = 0.16
"""How far the middle of a curved bridge lies beside its straight line, as a share of its length."""
FLARE = 0.45
"""A widening foot is wider by this share of the width on each side."""
FLARE_LENGTH = 0.8
"""And becomes as narrow as asked within so many widths, or half of the bridge."""
ALONG = 24
"""Points along a bridge's edge."""
REACH = 0.45
"""The feet of shaped bridges reach this share of the width into the sheet, since they may stand askew."""
LEAST_MM2 = 1e-6


def shaped(bridges: Sequence[Bridge], openings: MultiPolygon, style: Style, *, feet: bool) -> list[Bridge]:
    """Bridges with the outlines that are asked for; weak ones stay as they are."""
    if style == "straight" and not feet:
        return list(bridges)
    tree = shapely.STRtree(shapely.get_parts(openings))
    tries = [(bow, flare) for bow in ((BOW, -BOW, 0.0) if style == "curved" else (0.0,)) for flare in (feet, False)]
    found = []
    for bridge in bridges:
        outlines = (_outline(bridge, bow, flared=flare) for bow, flare in dict.fromkeys(tries))
        fitting = None if bridge.weak else next((one for one in outlines if _fits(one, tree)), None)
        found.append(bridge if fitting is None else replace(bridge, patch=fitting))
    return found


def _outline(bridge: Bridge, bow: float, *, flared: bool) -> Polygon:
    start, end = np.array(bridge.start), np.array(bridge.end)
    length = max(bridge.length, 1e-9)
    way = (end - start) / length
    side = np.array([-way[1], way[0]])
    beyond = REACH * bridge.width
    run = np.linspace(-beyond, length + beyond, ALONG)
    share = run / length
    height = 4.0 * bow * length * share * (1.0 - share)  # a parabola; its slope goes on beyond the walls
    slope = 4.0 * bow * (1.0 - 2.0 * share)
    centre = start + run[:, None] * way + height[:, None] * side
    normal = side - slope[:, None] * way
    normal /= np.hypot(*normal.T)[:, None]
    half = np.full(ALONG, (bridge.width + ALLOWANCE_MM) / 2.0)
    if flared:
        half += bridge.width * FLARE * _flare(run, length, bridge.width)
    return Polygon(np.concatenate([centre + normal * half[:, None], (centre - normal * half[:, None])[::-1]]))


def _flare(run: FloatArray, length: float, width: float) -> FloatArray:
    """1 at both walls and beyond, falling to 0 in a soft curve."""
    over = min(FLARE_LENGTH * width, 0.5 * length)
    near = np.clip(np.minimum(run, length - run) / over, 0.0, 1.0)
    return np.asarray((1.0 - near) ** 2)


def _fits(outline: Polygon, tree: shapely.STRtree) -> bool:
    """Whether an outline crosses one opening, once, with both feet on sheet."""
    if not outline.is_valid:
        return False
    crossed = tree.query(outline, predicate="intersects")
    if len(crossed) != 1:
        return False
    opening = tree.geometries[crossed[0]]
    inside = shapely.get_parts(shapely.intersection(outline, opening))
    outside = shapely.get_parts(shapely.difference(outline, opening))
    return bool((shapely.area(inside) > LEAST_MM2).sum() == 1 and (shapely.area(outside) > LEAST_MM2).sum() == 2)
