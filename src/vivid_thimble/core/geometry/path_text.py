"""The path data of SVG (the ``d`` attribute) to contours and back.

Follows the path grammar of SVG 2 section 9.3 and the arc conversion of its appendix
B.2.4. As the standard asks, everything up to the first error is drawn.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field

import numpy as np

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.path import Contour, Path, contour_from_segments

_COMMAND = re.compile(r"\s*,?\s*([MmZzLlHhVvCcSsQqTtAa])")
_NUMBER = re.compile(r"\s*,?\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)")
_FLAG = re.compile(r"\s*,?\s*([01])")
_COUNTS = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7, "Z": 0}


@dataclass
class _Pen:
    """Collects contours while commands move it."""

    at: FloatArray = field(default_factory=lambda: np.zeros(2))
    start: FloatArray = field(default_factory=lambda: np.zeros(2))
    handle: FloatArray | None = None
    quadratic: FloatArray | None = None
    segments: list[FloatArray] = field(default_factory=list)
    lines: list[bool] = field(default_factory=list)
    contours: list[Contour] = field(default_factory=list)

    def finish(self, *, closed: bool) -> None:
        contour = contour_from_segments(self.segments, self.lines, closed=closed)
        if contour is not None:
            self.contours.append(contour)
        self.segments, self.lines = [], []

    def move(self, to: FloatArray) -> None:
        self.finish(closed=False)
        self.at = self.start = to
        self.handle = self.quadratic = None

    def line(self, to: FloatArray) -> None:
        step = (to - self.at) / 3.0
        self.segments.append(np.array([self.at, self.at + step, to - step, to]))
        self.lines.append(True)
        self.at, self.handle, self.quadratic = to, None, None

    def cubic(self, c1: FloatArray, c2: FloatArray, to: FloatArray) -> None:
        self.segments.append(np.array([self.at, c1, c2, to]))
        self.lines.append(False)
        self.at, self.handle, self.quadratic = to, c2, None

    def quad(self, c: FloatArray, to: FloatArray) -> None:
        start = self.at
        self.cubic(start + (c - start) * (2.0 / 3.0), to + (c - to) * (2.0 / 3.0), to)
        self.handle, self.quadratic = None, c

    def close(self) -> None:
        if self.segments:
            self.finish(closed=True)
        self.at, self.handle, self.quadratic = self.start, None, None


def read_path_data(data: str) -> tuple[Path, bool]:
    """The contours of path data, and whether all of it was understood."""
    pen, at, complete = _Pen(), 0, True
    command = ""
    while at < len(data) and data[at:].strip(" \t\r\n,"):
        match = _COMMAND.match(data, at)
        if match:
            command, at = match.group(1), match.end()
            if command not in "Mm" and not _begun(data, match.start()):
                return Path(), False
        elif command in ("", "Z", "z"):
            complete = False
            break
        numbers, at = _arguments(data, at, command.upper())
        if numbers is None:
            complete = False
            break
        _draw(pen, command, numbers)
        command = {"M": "L", "m": "l"}.get(command, command)
    pen.finish(closed=False)
    return Path(tuple(pen.contours)), complete


def _begun(data: str, until: int) -> bool:
    return any(letter in "Mm" for letter in data[:until])


def _arguments(data: str, at: int, command: str) -> tuple[list[float] | None, int]:
    numbers: list[float] = []
    for k in range(_COUNTS[command]):
        match = (_FLAG if command == "A" and k in (3, 4) else _NUMBER).match(data, at)
        if match is None:
            return None, at
        numbers.append(float(match.group(1)))
        at = match.end()
    return (numbers if all(math.isfinite(n) and abs(n) < 1e12 for n in numbers) else None), at


def _draw(pen: _Pen, command: str, v: list[float]) -> None:
    base = pen.at if command.islower() else np.zeros(2)
    kind = command.upper()
    if kind == "Z":
        pen.close()
    elif kind == "M":
        pen.move(base + v)
    elif kind == "L":
        pen.line(base + v)
    elif kind == "H":
        pen.line(np.array([base[0] + v[0], pen.at[1]]))
    elif kind == "V":
        pen.line(np.array([pen.at[0], base[1] + v[0]]))
    elif kind == "C":
        pen.cubic(base + v[0:2], base + v[2:4], base + v[4:6])
    elif kind == "S":
        first = pen.at if pen.handle is None else 2 * pen.at - pen.handle
        pen.cubic(first, base + v[0:2], base + v[2:4])
    elif kind == "Q":
        pen.quad(base + v[0:2], base + v[2:4])
    elif kind == "T":
        pen.quad(pen.at if pen.quadratic is None else 2 * pen.at - pen.quadratic, base + v)
    else:
        _draw_arc(pen, v, base + v[5:7])


def _draw_arc(pen: _Pen, v: list[float], to: FloatArray) -> None:
    """An elliptical arc as cubics of at most a quarter turn each."""
    rx, ry, turn = abs(v[0]), abs(v[1]), math.radians(v[2])
    if np.array_equal(pen.at, to):
        return
    if rx < 1e-12 or ry < 1e-12:
        pen.line(to)
        return
    cosine, sine = math.cos(turn), math.sin(turn)
    back = np.array([[cosine, sine], [-sine, cosine]])
    x, y = back @ ((pen.at - to) / 2.0)
    grow = (x / rx) ** 2 + (y / ry) ** 2
    if grow > 1.0:
        rx, ry = rx * math.sqrt(grow), ry * math.sqrt(grow)
    under = (rx * ry) ** 2 - (rx * y) ** 2 - (ry * x) ** 2
    factor = math.sqrt(max(under, 0.0) / ((rx * y) ** 2 + (ry * x) ** 2))
    factor = -factor if bool(v[3]) == bool(v[4]) else factor
    centre = factor * np.array([rx * y / ry, -ry * x / rx])
    first = math.atan2((y - centre[1]) / ry, (x - centre[0]) / rx)
    last = math.atan2((-y - centre[1]) / ry, (-x - centre[0]) / rx)
    sweep = last - first
    if v[4] and sweep < 0:
        sweep += 2 * math.pi
    elif not v[4] and sweep > 0:
        sweep -= 2 * math.pi
    shift = back.T @ centre + (pen.at + to) / 2.0
    scale = back.T @ np.diag([rx, ry])
    arcs = arc_cubics(first, sweep)
    for k, arc in enumerate(arcs):
        mapped = arc @ scale.T + shift
        pen.cubic(mapped[1], mapped[2], to if k == len(arcs) - 1 else mapped[3])
    pen.handle = None


def arc_cubics(first: float, sweep: float) -> list[FloatArray]:
    """Cubics (4, 2) along the unit circle from angle ``first`` over ``sweep`` (radians)."""
    count = max(1, math.ceil(abs(sweep) / (math.pi / 2) - 1e-9))
    step = sweep / count
    reach = 4.0 / 3.0 * math.tan(step / 4.0)
    arcs = []
    for k in range(count):
        a, b = first + k * step, first + (k + 1) * step
        p, q = np.array([math.cos(a), math.sin(a)]), np.array([math.cos(b), math.sin(b)])
        arcs.append(np.array([p, p + reach * np.array([-p[1], p[0]]), q - reach * np.array([-q[1], q[0]]), q]))
    return arcs


def write_path_data(path: Path, places: int = 4) -> str:
    """Path data of closed contours, coordinates rounded to ``places`` decimals (0.0001 mm)."""
    out: list[str] = []
    for contour in path.contours:
        points = np.round(contour.segments, places) + 0.0
        out.append(f"M{_pair(points[0, 0], places)}")
        last = len(contour) - 1
        for k, (segment, is_line) in enumerate(zip(points, contour.is_line, strict=True)):
            if is_line:
                if k < last or not contour.closed:
                    out.append(f"L{_pair(segment[3], places)}")
            else:
                out.append("C" + " ".join(_pair(point, places) for point in segment[1:]))
        if contour.closed:
            out.append("Z")
    return "".join(out)


def _pair(point: FloatArray, places: int) -> str:
    return f"{_number(float(point[0]), places)},{_number(float(point[1]), places)}"


def _number(value: float, places: int) -> str:
    text = f"{value:.{places}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
