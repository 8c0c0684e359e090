"""The path data of SVG (the ``d`` attribute) to contours and back.

Follows the path grammar of SVG 2 section 9.3 and the arc conversion of its appendix
B.2.4. As the standard asks, everything up to the first error is drawn.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

import numpy as np

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.path_pen import PathPen, Point

_PIECES = re.compile(r"([MmZzLlHhVvCcSsQqTtAa])([^MmZzLlHhVvCcSsQqTtAa]*)")
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_TOKEN = re.compile(rf"{_NUMBER}|[^\s,]")
_ARC = re.compile(r"\s*,?\s*".join(["", *[f"({_NUMBER})"] * 3, "([01])", "([01])", *[f"({_NUMBER})"] * 2]))
_COUNTS = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7, "Z": 0}
EIGHTH = math.pi / 4
"""Of a circle."""
LARGEST_NUMBER = 1e12
"""Coordinates beyond this are a slip of the file: everything before them is drawn."""


@dataclass(frozen=True, eq=False)
class PathData:
    """``complete``: all of it was understood. ``dots`` (n, 2): contours without any extent, which only a stroke
    with caps shows; ``stray`` counts moves that draw nothing at all."""

    path: Path
    complete: bool
    dots: FloatArray
    stray: int


class PathTooLong(ValueError):
    """Path data with more segments than anybody can cut."""


def read_path_data(data: str) -> tuple[Path, bool]:
    """The contours of path data, and whether all of it was understood."""
    read = read_path(data)
    return read.path, read.complete


def read_path(data: str, most: int | None = None) -> PathData:
    """Everything that path data draws up to its first error; raises PathTooLong beyond ``most`` segments."""
    pen, complete = PathPen(), True
    first = _PIECES.search(data)
    before = data[: first.start() if first else len(data)].strip(" \t\r\n,")
    if before or (first is not None and first.group(1) not in "Mm"):
        return PathData(Path(), False, np.zeros((0, 2)), 0)
    for match in _PIECES.finditer(data):
        if not _follow(pen, *match.groups()):
            complete = False
            break
        if most is not None and pen.count > most:
            raise PathTooLong(f"more than {most} segments")
    pen.finish()
    return PathData(pen.path, complete, np.array(pen.dots, dtype=np.float64).reshape(-1, 2), pen.stray)


def _follow(pen: PathPen, command: str, text: str) -> bool:
    """Draw one command with all its repeated arguments; False when an argument is wrong."""
    kind = command.upper()
    numbers, good = _numbers(kind, text)
    count = _COUNTS[kind]
    if kind == "Z":
        pen.close()
        return good and not numbers
    whole = len(numbers) // count * count
    relative = command.islower()
    for k in range(0, whole, count):
        _draw(pen, "L" if kind == "M" and k else kind, numbers[k : k + count], relative)
    return good and whole == len(numbers) and whole > 0


def _numbers(kind: str, text: str) -> tuple[list[float], bool]:
    """The arguments up to the first that is none."""
    if kind == "A":
        numbers: list[float] = []
        at = 0
        while match := _ARC.match(text, at):
            numbers += [float(one) for one in match.groups()]
            at = match.end()
        good = not text[at:].strip(" \t\r\n,")
    else:
        numbers, good = [], True
        for token in _TOKEN.findall(text):
            try:
                numbers.append(float(token))
            except ValueError:
                good = False
                break
    for k, number in enumerate(numbers):
        if not -LARGEST_NUMBER < number < LARGEST_NUMBER:
            return numbers[:k], False
    return numbers, good


def _draw(pen: PathPen, kind: str, v: list[float], relative: bool) -> None:
    x0, y0 = pen.at if relative else (0.0, 0.0)
    if kind == "C":
        pen.cubic(x0 + v[0], y0 + v[1], x0 + v[2], y0 + v[3], x0 + v[4], y0 + v[5])
    elif kind == "L":
        pen.line(x0 + v[0], y0 + v[1])
    elif kind == "M":
        pen.move(x0 + v[0], y0 + v[1])
    elif kind == "H":
        pen.line(x0 + v[0], pen.at[1])
    elif kind == "V":
        pen.line(pen.at[0], y0 + v[0])
    elif kind == "S":
        first = _mirrored(pen.at, pen.handle)
        pen.cubic(*first, x0 + v[0], y0 + v[1], x0 + v[2], y0 + v[3])
    elif kind == "Q":
        pen.quad(x0 + v[0], y0 + v[1], x0 + v[2], y0 + v[3])
    elif kind == "T":
        pen.quad(*_mirrored(pen.at, pen.quadratic), x0 + v[0], y0 + v[1])
    else:
        _draw_arc(pen, v, np.array([x0 + v[5], y0 + v[6]]))


def _mirrored(at: Point, handle: Point | None) -> Point:
    """The handle that continues the last one smoothly."""
    return at if handle is None else (2.0 * at[0] - handle[0], 2.0 * at[1] - handle[1])


def _draw_arc(pen: PathPen, v: list[float], to: FloatArray) -> None:
    """An elliptical arc as cubics of at most a quarter turn each."""
    rx, ry, turn = abs(v[0]), abs(v[1]), math.radians(v[2])
    at = np.array(pen.at)
    if np.array_equal(at, to):
        return
    if rx < 1e-12 or ry < 1e-12:
        pen.line(float(to[0]), float(to[1]))
        return
    cosine, sine = math.cos(turn), math.sin(turn)
    back = np.array([[cosine, sine], [-sine, cosine]])
    u, w = back @ ((at - to) / 2.0)
    grow = (u / rx) ** 2 + (w / ry) ** 2
    if grow > 1.0:
        rx, ry = rx * math.sqrt(grow), ry * math.sqrt(grow)
    under = (rx * ry) ** 2 - (rx * w) ** 2 - (ry * u) ** 2
    factor = math.sqrt(max(under, 0.0) / ((rx * w) ** 2 + (ry * u) ** 2))
    factor = -factor if bool(v[3]) == bool(v[4]) else factor
    centre = factor * np.array([rx * w / ry, -ry * u / rx])
    first = math.atan2((w - centre[1]) / ry, (u - centre[0]) / rx)
    last = math.atan2((-w - centre[1]) / ry, (-u - centre[0]) / rx)
    sweep = last - first
    if v[4] and sweep < 0:
        sweep += 2 * math.pi
    elif not v[4] and sweep > 0:
        sweep -= 2 * math.pi
    shift = back.T @ centre + (at + to) / 2.0
    scale = back.T @ np.diag([rx, ry])
    arcs = arc_cubics(first, sweep, EIGHTH)
    for k, arc in enumerate(arcs):
        mapped = arc @ scale.T + shift
        end = to if k == len(arcs) - 1 else mapped[3]
        (ax, ay), (bx, by), (x, y) = mapped[1].tolist(), mapped[2].tolist(), end.tolist()
        pen.cubic(ax, ay, bx, by, x, y)
    pen.handle = None


def arc_cubics(first: float, sweep: float, longest: float = math.pi / 2) -> list[FloatArray]:
    """Cubics (4, 2) along the unit circle from angle ``first`` over ``sweep`` (radians), each over ``longest`` at most.

    Quarters of a circle are off it by 2.7e-4 of its radius, eighths by 4e-6.
    """
    count = max(1, math.ceil(abs(sweep) / longest - 1e-9))
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
