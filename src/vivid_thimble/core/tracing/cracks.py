"""Where two labels of a picture meet, crack by crack, in order, from junction to junction.

A *crack* is the place between two pixels beside or above each other that have different labels. Cracks are followed
with one label on the left; where a third label comes in, the line is cut: such an *arc* belongs to both labels. Pixels
that touch only at a corner are one piece of the label whose field is stronger there, and apart for the other.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray

FloatImage = NDArray[np.float32]
"""(rows, columns); a value holds for the pixel's centre."""
LabelImage = NDArray[np.uint8]
"""(rows, columns); a number for each pixel."""


@dataclass(frozen=True, eq=False)
class Cracks:
    """Cracks of many lines laid end to end.

    ``inner`` (n, 2): row and column of the pixel that has the followed label. ``step`` (n, 2): from there to the
    neighbour across the crack. ``start`` (m + 1): where each line begins. ``closed`` (m): whether it meets itself.
    """

    inner: IntArray
    step: IntArray
    start: IntArray
    closed: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.closed)

    @property
    def sizes(self) -> IntArray:
        return np.asarray(np.diff(self.start))


def followed(field: FloatImage) -> Cracks:
    """The closed lines round where ``field`` is positive, which lies on their left (y down: on their right).

    Beyond the picture nothing is positive. Where four pixels meet crosswise the mean of the field decides.
    """
    import contourpy  # here: it delays the first paint

    rows, columns = field.shape
    padded = np.full((rows + 2, columns + 2), -1.0)
    padded[1:-1, 1:-1] = field
    small = np.abs(padded) < 1e-3
    padded[small] = np.where(padded[small] > 0.0, 1e-3, -1e-3)
    generator = contourpy.contour_generator(z=padded, line_type=contourpy.LineType.ChunkCombinedOffset)
    points, offsets = cast("tuple[list[FloatArray | None], list[IntArray]]", generator.lines(0.0))
    if points[0] is None:
        empty = np.zeros((0, 2), dtype=np.int64)
        return Cracks(empty, empty, np.zeros(1, dtype=np.int64), np.zeros(0, dtype=bool))
    at, start = np.asarray(points[0]), np.asarray(offsets[0]).astype(np.int64)
    last = np.zeros(len(at), dtype=bool)
    last[start[1:] - 1] = True  # a closed line repeats its first point
    at = at[~last]
    start = start - np.arange(len(start))
    whole = np.rint(at)
    off = np.abs(at - whole)
    down = off[:, 0] <= off[:, 1]  # between two pixels one above the other; interpolation rounds the other coordinate
    column = np.where(down, whole[:, 0], np.floor(at[:, 0])).astype(np.int64)
    row = np.where(down, np.floor(at[:, 1]), whole[:, 1]).astype(np.int64)
    low = np.stack([row, column], axis=1)
    step = np.where(down[:, None], np.array([1, 0]), np.array([0, 1]))
    inside_low = padded[row, column] > 0.0
    inner = np.where(inside_low[:, None], low, low + step) - 1
    step = np.where(inside_low[:, None], step, -step)
    return Cracks(inner, step, start, np.ones(len(start) - 1, dtype=bool))


def outside_of(cracks: Cracks, labels: LabelImage, beyond: int) -> IntArray:
    """The label across each crack; ``beyond`` the picture's edge."""
    rows, columns = labels.shape
    at = cracks.inner + cracks.step
    there = ((at >= 0) & (at < (rows, columns))).all(axis=1)
    found = np.full(len(at), beyond, dtype=np.int64)
    found[there] = labels[at[there, 0], at[there, 1]]
    return found


def joined(many: Sequence[Cracks]) -> Cracks:
    """Several sets of lines as one, in their order."""
    sizes = np.concatenate([one.sizes for one in many])
    return Cracks(
        np.concatenate([one.inner for one in many]),
        np.concatenate([one.step for one in many]),
        np.r_[0, np.cumsum(sizes)],
        np.concatenate([one.closed for one in many]),
    )


def corners_of_pixels(inner: IntArray, step: IntArray, *, at_end: bool) -> IntArray:
    """The corner of pixels (x, y) where cracks begin (or end): the kept pixel lies to the right of the way, y down."""
    centre = 2 * inner[:, ::-1] + 1 + step[:, ::-1]  # of the crack, doubled
    out = step[:, ::-1]
    way = np.stack([-out[:, 1], out[:, 0]], axis=1)  # a quarter turn from outwards, x to y
    return np.asarray((centre + (way if at_end else -way)) // 2)
