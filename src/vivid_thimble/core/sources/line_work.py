"""Drawings made of lines: what the lines stand for, and how they become film.

Files made for cutting hold outlines without any width; sketches hold strokes; many hold both. ``drawn``
takes strokes with the width that the file gives them, ``widened`` gives them at least a width that can be cut,
``filled`` takes closed outlines as the edges of areas, nested ones as holes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np

from vivid_thimble.core.geometry.affine import Affine, FloatArray
from vivid_thimble.core.geometry.path import Contour, Path, box_round, diagonal, line_segments
from vivid_thimble.core.geometry.repeats import repeats
from vivid_thimble.core.sources.drawing import IDENTITY, Drawing, DrawingPart

LineWork = Literal["drawn", "widened", "filled"]
THIN_SHARE = 0.006
"""Strokes thinner than this share of the drawing's diagonal mark a line rather than a shape."""
LOOKED_AT = 10.0
"""Outlines are compared at this size: fine enough to tell them apart, coarse enough to be quick."""
CLOSED_SHARE = 0.6
"""From this share of closed length on, unfilled outlines are taken for edges of areas."""


def guessed_lines(drawing: Drawing) -> LineWork:
    """The most likely meaning of a drawing's lines; ``drawn`` when areas are filled or the strokes are thick."""
    inked = [part for part in drawing.parts if part.inks or part.stroke is not None]
    strokes = [part for part in inked if part.stroke is not None]
    if not strokes or any(part.stroke is None for part in inked):
        return "drawn"
    size = diagonal_of(drawing.parts)
    if size <= 0.0 or np.median([pen_width(part) for part in strokes]) > THIN_SHARE * size:
        return "drawn"
    closed = sum(_length(part, closed=True) for part in strokes)
    whole = closed + sum(_length(part, closed=False) for part in strokes)
    return "filled" if closed >= CLOSED_SHARE * whole else "widened"


def has_thin_lines(drawing: Drawing) -> bool:
    """Whether the question what lines mean is worth asking."""
    size = diagonal_of(drawing.parts)
    return any(part.stroke is not None and pen_width(part) <= THIN_SHARE * size for part in drawing.parts)


def with_lines_as(drawing: Drawing, meaning: LineWork, least_width: float, reach: float) -> Drawing:
    """The drawing with its lines taken as ``meaning``.

    ``least_width`` and ``reach`` (the largest gap between ends that is closed) are in the drawing's units.
    """
    if meaning == "drawn":
        return drawing
    if meaning == "widened":
        return replace(drawing, parts=tuple(_widened(part, least_width) for part in drawing.parts))
    return replace(drawing, parts=tuple(_filled(drawing.parts, reach)))


def _widened(part: DrawingPart, least: float) -> DrawingPart:
    if part.stroke is None or pen_width(part) >= least:
        return part
    scale = _scale(part)
    width = least / scale if scale > 0.0 else least
    style = replace(part.stroke, width=width, cap="round", join="round", dashes=())
    return replace(part, stroke=style)


def _filled(parts: Sequence[DrawingPart], reach: float) -> list[DrawingPart]:
    """Neighbouring outlines of one colour become one even-odd area, so that nested ones are holes."""
    out: list[DrawingPart] = []
    held: list[DrawingPart] = []

    def release() -> None:
        if held:
            path = _told_once(joined_ends(Path.joined(part.lines for part in held), reach), reach)
            first = held[0]
            out.append(replace(first, path=path, rule="evenodd", stroke=None, dots=None, own=IDENTITY))
            held.clear()

    for part in parts:
        if part.stroke is None or (held and (part.colour, part.clips) != (held[0].colour, held[0].clips)):
            release()
        if part.stroke is None:
            out.append(part)
        else:
            held.append(part)
    release()
    return out


def _told_once(path: Path, reach: float) -> Path:
    """Outlines drawn twice are meant once: even-odd they would cancel each other."""
    box = path.bounds
    size = max(box[2] - box[0], box[3] - box[1]) if box else 0.0
    if size <= 0.0:
        return path
    scale = Affine.scaling(LOOKED_AT / size)
    within = max(reach * LOOKED_AT / size, 1e-4) / 4.0
    again = {max(one, other) for one, other, _ in repeats(path.transformed(scale).contours, within)}
    return Path(tuple(contour for k, contour in enumerate(path.contours) if k not in again))


def pen_width(part: DrawingPart) -> float:
    """The width of a part's stroke in the drawing's units; 0 for areas."""
    return part.stroke.width * _scale(part) if part.stroke is not None else 0.0


def _scale(part: DrawingPart) -> float:
    return float(abs(part.own.determinant) ** 0.5)


def diagonal_of(parts: Sequence[DrawingPart]) -> float:
    return diagonal(box_round(part.lines.bounds for part in parts))


def _length(part: DrawingPart, *, closed: bool) -> float:
    total = 0.0
    for contour in part.lines.contours:
        ends_meet = contour.closed or np.allclose(contour.segments[0, 0], contour.segments[-1, 3], atol=1e-9)
        if ends_meet is closed or (contour.closed and closed):
            total += float(np.hypot(*(contour.segments[:, 3] - contour.segments[:, 0]).T).sum())
    return total


def joined_ends(path: Path, reach: float) -> Path:
    """Open contours whose ends lie within ``reach`` of each other joined end to end, closed where they come round.

    The nearest ends are joined first. Closed contours stay as they are, in front of the joined ones.
    """
    closed = [c for c in path.contours if c.closed]
    chains = [c for c in path.contours if not c.closed and len(c)]
    if not chains:
        return path
    ends = np.array([point for c in chains for point in (c.segments[0, 0], c.segments[-1, 3])])
    partner = _partners(ends, reach)
    used = np.zeros(len(chains), dtype=bool)
    joined: list[Contour] = []
    starts = [k for k in range(len(ends)) if partner[k] < 0]  # loose ends first, then rings
    for end in [*starts, *range(len(ends))]:
        if not used[end // 2]:
            joined.append(_chain(end, chains, partner, used))
    return Path((*closed, *joined))


def _partners(ends: FloatArray, reach: float) -> np.ndarray:
    """For each end (2 k, 2 k + 1 belong to chain k) the end it is joined to, or -1."""
    from scipy.spatial import cKDTree  # here: it delays the first paint

    partner = np.full(len(ends), -1)
    pairs = cKDTree(ends).query_pairs(max(reach, 1e-12), output_type="ndarray")
    gaps = np.hypot(*(ends[pairs[:, 0]] - ends[pairs[:, 1]]).T)
    for k in np.lexsort((pairs[:, 1], pairs[:, 0], gaps)).tolist():
        a, b = pairs[k].tolist()
        if partner[a] < 0 and partner[b] < 0:
            partner[a], partner[b] = b, a
    return partner


def _chain(end: int, chains: list[Contour], partner: np.ndarray, used: np.ndarray) -> Contour:
    """Follow joined ends from one that begins a chain; ``end`` is left backwards."""
    first = end
    segments: list[FloatArray] = []
    lines: list[np.ndarray] = []
    closed = False
    while True:
        number = end // 2
        used[number] = True
        contour = chains[number] if end % 2 == 0 else chains[number].reversed()
        own = contour.segments.copy()
        if segments:
            _bridge(segments, lines, own)
        segments.append(own)
        lines.append(contour.is_line.copy())
        leaving = end ^ 1
        following = int(partner[leaving])
        if following < 0:
            break
        if following == first:
            closed = True
            break
        end = following
    whole, is_line = np.concatenate(segments), np.concatenate(lines)
    chain = Contour(whole, is_line, False)
    return chain.closed_straight() if closed else chain


def _bridge(segments: list[FloatArray], lines: list[np.ndarray], following: FloatArray) -> None:
    """A straight line over the gap to the next chain, if there is one."""
    end, start = segments[-1][-1, 3], following[0, 0]
    if np.abs(end - start).max() > 0.0:
        segments.append(line_segments(end[None], start[None]))
        lines.append(np.array([True]))
