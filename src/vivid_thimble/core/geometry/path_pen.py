"""A pen that draws contours: what readers of outlines hand their moves, lines and curves to.

It takes plain numbers, since outlines come as many short commands, and makes arrays once a contour is done.
"""

from __future__ import annotations

import numpy as np

from vivid_thimble.core.geometry.path import Contour, Path, contour_from_segments

Point = tuple[float, float]
THIRD = 2.0 / 3.0


class PathPen:
    """Collects contours while commands move it. With ``closes`` every contour is closed by the next move, as in fonts.

    ``handle`` and ``quadratic`` are the last control points of a cubic or quadratic curve, None after
    anything else. ``dots`` are contours without any extent, ``stray`` counts moves that draw nothing,
    ``done`` the segments of the contours that are finished.
    """

    def __init__(self, *, closes: bool = False) -> None:
        self.at: Point = (0.0, 0.0)
        self.start: Point = (0.0, 0.0)
        self.handle: Point | None = None
        self.quadratic: Point | None = None
        self.contours: list[Contour] = []
        self.dots: list[Point] = []
        self.stray = self.done = 0
        self._closes = closes
        self._segments: list[tuple[float, ...]] = []
        self._lines: list[bool] = []
        self._moved = False

    @property
    def path(self) -> Path:
        """The contours that are finished."""
        return Path(tuple(self.contours))

    @property
    def count(self) -> int:
        """How many segments were drawn, those of the contour in hand included."""
        return self.done + len(self._segments)

    def finish(self, *, closed: bool | None = None) -> None:
        """End the contour in hand."""
        closed = self._closes if closed is None else closed
        if self._segments:
            shape = np.array(self._segments, dtype=np.float64).reshape(-1, 4, 2)
            contour = contour_from_segments(shape, self._lines, closed=closed)
            if contour is not None:
                self.contours.append(contour)
            else:
                self.dots.append(self.start)
        elif closed and self._moved:
            self.dots.append(self.start)
        elif self._moved:
            self.stray += 1
        self.done += len(self._segments)
        self._segments, self._lines, self._moved = [], [], False

    def move(self, x: float, y: float) -> None:
        self.finish()
        self.at = self.start = (x, y)
        self.handle = self.quadratic = None
        self._moved = True

    def line(self, x: float, y: float) -> None:
        x0, y0 = self.at
        u, v = (x - x0) / 3.0, (y - y0) / 3.0
        self._segments.append((x0, y0, x0 + u, y0 + v, x - u, y - v, x, y))
        self._lines.append(True)
        self.at, self.handle, self.quadratic = (x, y), None, None

    def cubic(self, ax: float, ay: float, bx: float, by: float, x: float, y: float) -> None:
        self._segments.append((*self.at, ax, ay, bx, by, x, y))
        self._lines.append(False)
        self.at, self.handle, self.quadratic = (x, y), (bx, by), None

    def quad(self, cx: float, cy: float, x: float, y: float) -> None:
        x0, y0 = self.at
        self.cubic(x0 + (cx - x0) * THIRD, y0 + (cy - y0) * THIRD, x + (cx - x) * THIRD, y + (cy - y) * THIRD, x, y)
        self.handle, self.quadratic = None, (cx, cy)

    def close(self) -> None:
        """Close the contour in hand; the next one begins where it began."""
        if self._segments or self._moved:
            self.finish(closed=True)
        self.at, self.handle, self.quadratic = self.start, None, None
