"""What a blank means for an item and its design: thing and room, what fits, what is bent, snips, how the thing looks.

Places are those of the item: (0, 0) is the corner of the *room*. The edges of the *thing*, from which a hand measures,
lie outside it (``thing_box``).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from msgspec.structs import replace

from vivid_thimble.core.blanks.bend import Bend
from vivid_thimble.core.blanks.kinds import ROUND, Ball, Blank, Cloth, Cylinder, Glass, Screen, Tapered
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.values import USUAL_FILM, USUAL_FRAME, Item, Method
from vivid_thimble.core.lengths import Unit, format_length
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.steps.frame import Frame

SHORT_OF_MM = 1.0
"""Snips end so far before the design."""
NO_CREASE = 1e-4
"""A share of its length that no film can be told to be too long."""
EACH_SNIP_MM = 2.0
"""So much film a snip takes up at the edge before its own flaps crease."""


def with_blank(item: Item, blank: Blank | None) -> Item:
    """An item measured anew: its room follows; None: a plain rectangle of the size it has.

    Raises InputRefused when no room is left.
    """
    if blank is None:
        return replace(item, blank=None)
    width, height = blank.usable
    return replace(item, blank=blank, width=width, height=height)


def as_kind(item: Item, kind: type[Blank] | None) -> Item:
    """Another kind of blank with its usual lengths, and what goes with it: the back of glass, the film of a screen."""
    changed = with_blank(item, None if kind is None else kind())
    if kind is Screen:
        return replace(by_method(changed, "screen-stencil"), side="front")
    if isinstance(item.blank, Screen) and item.method == "screen-stencil":
        changed = by_method(changed, "decal")  # the mesh is gone, and what it had brought along
    if kind is Glass:
        return replace(changed, side="behind")
    if kind is Cloth:
        return replace(changed, surface="fine-cloth", side="front")
    return replace(changed, side="front") if kind is not None and item.side == "behind" else changed


def by_method(item: Item, method: Method, usual: Film | None = None) -> Item:
    """An item decorated by another method, with its usual film (of the stock, if one is given) and frame; films below
    keep names and colours."""
    usual = usual or USUAL_FILM[method]
    layers = tuple(
        replace(la, film=replace(usual, name=la.film.name, colour=la.film.colour) if k else usual)
        for k, la in enumerate(item.layers)
    )
    return replace(item, method=method, layers=layers, frame=USUAL_FRAME.get(method, Frame()))


def bend_of(item: Item) -> Bend | None:
    """How a tapered side bends the film; None when it lies flat as it is."""
    blank = item.blank
    if not isinstance(blank, Tapered) or not math.isfinite(blank.fan_radius):
        return None
    return Bend(blank.fan_radius, (item.width / 2.0, item.height / 2.0))


def room_box(item: Item) -> Box:
    """The room for the design on the level rectangle."""
    return 0.0, 0.0, item.width, item.height


def thing_box(item: Item) -> Box:
    """The true edges of the thing on the level rectangle; a plain rectangle is its own room."""
    left, top, right, bottom = (0.0, 0.0, 0.0, 0.0) if item.blank is None else item.blank.kept_free
    return -left, -top, item.width + right, item.height + bottom


def has_edges_beside(item: Item) -> bool:
    """Whether the thing ends at the left and right, so that a tape can begin there."""
    return not isinstance(item.blank, Cylinder | Tapered | Ball)


def sheet_room(item: Item) -> Box:
    """Where the film of a stencil may lie: up to the edges of the thing; on round things as wide as the room."""
    left, top, right, bottom = thing_box(item)
    if isinstance(item.blank, Ball):
        return room_box(item)
    return (left, top, right, bottom) if has_edges_beside(item) else (0.0, top, item.width, bottom)


def wanted_stencil_box(item: Item, design: Box) -> Box:
    """The sheet of a stencil round a design on the level rectangle, as its frame asks."""
    return item.frame.box(design, item.surround, sheet_room(item))


def stencil_box(item: Item, design: Box) -> Box:
    """The sheet of a stencil: on round things it ends at rim and foot."""
    left, top, right, bottom = wanted_stencil_box(item, design)
    if isinstance(item.blank, ROUND):
        _, rim, _, foot = sheet_room(item)
        top, bottom = max(top, rim), min(bottom, foot)
    return left, top, right, bottom


def edges_of(item: Item, bounds: Box) -> tuple[float, float, float, float]:
    """Left, right, top and bottom from the thing's edges to a box of the level rectangle; negative over the edge.

    On a tapered side left and right are those round the side where the middle of the box is.
    """
    left, top, right, bottom = thing_box(item)
    grown = true_share(item, (bounds[1] + bounds[3]) / 2.0)
    return (bounds[0] - left) * grown, (right - bounds[2]) * grown, bounds[1] - top, bottom - bounds[3]


def true_share(item: Item, y: float) -> float:
    """How long a mm of the level rectangle is round the side, ``y`` mm below the upper edge of the room."""
    blank = item.blank
    return max(blank.girth_at(blank.rim + y) / blank.girth, 0.0) if isinstance(blank, Tapered) else 1.0


def measured_from(item: Item) -> str:
    """A sentence about where distances to the left and right begin, where that is not plain to see."""
    blank = item.blank
    if isinstance(blank, Ball):
        return "On a ball from the ends of the half that is seen, over its surface."
    if isinstance(blank, Cylinder | Tapered):
        if blank.handle > 0.0:
            return "Left and right from the edges of the handle, round the side."
        return "Left and right from the line at the back, opposite the middle, round the side."
    return ""


def outline_of(item: Item, box: Box | None = None) -> shapely.Polygon:
    """A box of the level rectangle (None: the room) as it lies flat on the table."""
    box = box or room_box(item)
    flat = shapely.box(*box)
    bend = bend_of(item)
    if bend is None:
        return flat
    return shapely.transform(shapely.segmentize(flat, max((box[2] - box[0]) / 200.0, 0.5)), bend.apply)


def thing_outline(item: Item) -> shapely.Polygon:
    """The thing as it lies flat on the table; of a ball the half that is seen, laid down from its middle."""
    if isinstance(item.blank, Ball):
        return shapely.Point(item.width / 2.0, item.height / 2.0).buffer(item.blank.front / 2.0, quad_segs=48)
    return outline_of(item, thing_box(item))


def shown_box(item: Item) -> Box:
    """What of the thing is worth seeing at once: all of it, of round things the half that is seen from the front."""
    if not isinstance(item.blank, Cylinder | Tapered):
        left, top, right, bottom = thing_outline(item).bounds
        return left, top, right, bottom
    left, top, right, bottom = thing_box(item)
    middle, reach = item.width / 2.0, max(item.blank.girth / 4.0, item.width / 2.0)
    seen = max(left, middle - reach), top, min(right, middle + reach), bottom
    left, top, right, bottom = outline_of(item, seen).bounds
    return left, top, right, bottom


def size_in_words(item: Item, unit: Unit, *, briefly: bool = False) -> str:
    """The size of the thing as a tape tells it; ``briefly``: in the fewest letters."""

    def bare(mm: float) -> str:
        return format_length(mm, unit, with_unit=False)

    def say(mm: float) -> str:
        return format_length(mm, unit)

    words = f"{bare(item.width)} × {say(item.height)}" if item.blank is None else item.blank.size(bare, say)
    return " ".join(word for word in words.split() if word != "round") if briefly else words


@dataclass(frozen=True)
class Fitting:
    """The largest size in mm of a design that keeps its proportions, and what decides."""

    width: float
    height: float
    reason: str


def fitting_box(item: Item, margin: float) -> Box | None:
    """The part of the room that lies ``margin`` mm from the thing's edges, or None."""
    left, top, right, bottom = thing_box(item)
    box = (
        max(left + margin, 0.0),
        max(top + margin, 0.0),
        min(right - margin, item.width),
        min(bottom - margin, item.height),
    )
    return box if box[2] > box[0] and box[3] > box[1] else None


def what_fits(item: Item, size: tuple[float, float], margin: float) -> Fitting | None:
    """The largest size in the room that leaves ``margin`` mm to every edge of the thing; None when nothing is left.

    On a ball the film must lie down without snips too.
    """
    box = fitting_box(item, margin)
    if box is None or min(size) <= 0.0:
        return None
    wanted = [((box[2] - box[0]) / size[0], "the width decides"), ((box[3] - box[1]) / size[1], "the height decides")]
    if isinstance(item.blank, Ball):
        flat = item.blank.largest(*size) / size[1]
        wanted.append((flat, "larger film would crease at its edge unless it is snipped"))
    factor, reason = min(wanted)
    return Fitting(size[0] * factor, size[1] * factor, reason)


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


# -- how it looks on the thing -------------------------------------------------------


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
