"""DXF drawings of any trade: lines, arcs, polylines with bulges, ellipses, splines, hatches, blocks, layers, units.

Everything but hatches and solids is a line without width; lines of one layer and colour whose ends meet are joined
into longer ones. What such lines stand for is decided later (see ``line_work``). Text and measurements are counted
in ``Drawing.not_understood``. Coordinates come out with y pointing down.
"""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Iterator
from typing import Any

import numpy as np

from vivid_thimble.core.errors import DrawingNotReadable
from vivid_thimble.core.formats.limits import MOST_SEGMENTS, refuse_too_large
from vivid_thimble.core.geometry.path import Contour, Path, box_round, diagonal
from vivid_thimble.core.geometry.path_pen import PathPen
from vivid_thimble.core.geometry.stroke import StrokeStyle
from vivid_thimble.core.pauses import pause
from vivid_thimble.core.sources.drawing import Colour, Drawing, DrawingPart
from vivid_thimble.core.sources.line_work import joined_ends

MM_PER_UNIT: dict[int, float] = {
    1: 25.4, 2: 304.8, 3: 1609344.0, 4: 1.0, 5: 10.0, 6: 1000.0, 7: 1e6, 8: 25.4e-6, 9: 0.0254, 10: 914.4,
    11: 1e-7, 12: 1e-6, 13: 1e-3, 14: 100.0, 15: 1e4, 16: 1e5, 21: 304.8006096,
}  # fmt: skip
"""Millimetres for the header's code of units; 0 and unknown codes are unitless."""
MOST_ENTITIES = 200_000
LARGEST_NUMBER = 1e12
BINARY_MARK = b"\r\n\x1a\x00"
"""Bytes 18 to 22 of the binary form, which nobody exchanges."""
SAME_PLACE = 1e-9
"""Ends closer than this share of a contour's size are the same point."""
JOIN_SHARE = 2e-5
"""Ends closer than this share of the drawing's diagonal meet."""
_LINES = ("LINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE", "LWPOLYLINE", "POLYLINE", "HELIX")
_AREAS = ("HATCH", "MPOLYGON", "SOLID", "TRACE", "3DFACE")
_WORDS = ("TEXT", "MTEXT", "ATTRIB", "ATTDEF", "ARCALIGNEDTEXT")
_SILENT = ("VIEWPORT", "SEQEND", "VERTEX", "XLINE", "RAY")


def read_dxf(data: bytes, name: str = "the drawing") -> Drawing:
    """The lines and areas of a DXF document; raises DrawingNotReadable with one sentence."""
    refuse_too_large(data, name)
    if data[18:22] == BINARY_MARK:
        raise DrawingNotReadable(f"{name} is a binary DXF: save it as DXF text and open that.")
    document = _document(data, name)
    reader = _Reader(document, name)
    reader.read()
    parts = tuple(reader.parts())
    unit = MM_PER_UNIT.get(int(document.header.get("$INSUNITS", 0) or 0))
    return Drawing(parts, unit, dict(sorted(reader.strangers.items())), {}, None, (), reader.hidden, reader.stray)


def _document(data: bytes, name: str) -> Any:
    import logging

    from ezdxf import recover  # here: only DXF files need it, and it is large
    from ezdxf.lldxf.const import DXFError

    logging.getLogger("ezdxf").setLevel(logging.CRITICAL)  # its findings are counted, not printed
    try:
        document, _ = recover.read(io.BytesIO(data))
    except (DXFError, OSError, ValueError, TypeError, KeyError, IndexError, AttributeError, RecursionError) as error:
        raise DrawingNotReadable(f"{name} is not a readable DXF drawing: save it again as DXF.") from error
    return document


class _Reader:
    """Collects contours by layer and colour, areas as they come."""

    def __init__(self, document: Any, name: str) -> None:
        self.document, self.name = document, name
        self.lines: dict[tuple[str, Colour, float], list[Contour]] = {}
        self.areas: list[DrawingPart] = []
        self.strangers: Counter[str] = Counter()
        self.hidden = self.stray = self.segments = 0

    def read(self) -> None:
        from ezdxf.lldxf.const import DXFError

        try:
            for entity in self._entities():
                pause()
                self._take(entity)
        except (DXFError, ValueError, TypeError, KeyError, IndexError, AttributeError, ZeroDivisionError) as error:
            raise DrawingNotReadable(f"{self.name} has damaged shapes: save it again as DXF.") from error
        except RecursionError as error:
            raise DrawingNotReadable(f"{self.name} has blocks inside each other without end: explode them.") from error

    def _entities(self) -> Iterator[Any]:
        """All entities of the model, blocks taken apart."""
        if self._count(self.document.modelspace(), {}, ()) > MOST_ENTITIES:
            raise DrawingNotReadable(f"{self.name} draws more than {MOST_ENTITIES:,} shapes: simplify it first.")
        stack: list[Iterator[Any]] = [iter(self.document.modelspace())]
        while stack:
            entity = next(stack[-1], None)
            if entity is None:
                stack.pop()
                continue
            kind = entity.dxftype()
            if kind == "INSERT":
                if self._is_shown(entity):
                    copies = entity.multi_insert() if entity.mcount > 1 else iter((entity,))
                    stack.append(part for one in copies for part in one.virtual_entities())
            elif kind in ("DIMENSION", "LEADER", "MULTILEADER"):
                self.strangers["measurement"] += 1
            else:
                yield entity

    def _count(self, entities: Any, known: dict[str, int], within: tuple[str, ...]) -> int:
        """How many shapes there are when all blocks are taken apart; told without doing it."""
        total = 0
        for entity in entities:
            if entity.dxftype() != "INSERT":
                total += 1
                continue
            block = str(entity.dxf.get("name", ""))
            if block in within:
                raise DrawingNotReadable(f"{self.name} has blocks inside each other without end: explode them.")
            if block not in known:
                found = self.document.blocks.get(block)
                known[block] = 1 if found is None else self._count(found, known, (*within, block))
            total += max(int(entity.mcount), 1) * known[block]
        return total

    def _is_shown(self, entity: Any) -> bool:
        layers = self.document.layers
        layer = layers.get(entity.dxf.layer) if entity.dxf.layer in layers else None
        shown = not entity.dxf.get("invisible", 0) and (layer is None or (layer.is_on() and not layer.is_frozen()))
        self.hidden += not shown
        return shown

    def _take(self, entity: Any) -> None:
        kind = entity.dxftype()
        if kind in _SILENT or not self._is_shown(entity):
            return
        if kind == "POINT":
            self.stray += 1
        elif kind in _LINES:
            self._line(entity)
        elif kind in _AREAS:
            self._area(entity, kind)
        elif kind in _WORDS:
            self.strangers["text"] += 1
        else:
            self.strangers[kind.lower()] += 1

    def _line(self, entity: Any) -> None:
        from ezdxf import path as dxf_path

        if entity.dxftype() == "POLYLINE" and (entity.is_polygon_mesh or entity.is_poly_face_mesh):
            self.strangers["mesh"] += 1
            return
        width = float(entity.dxf.get("const_width", 0.0) or 0.0) if entity.dxftype() == "LWPOLYLINE" else 0.0
        contours = self._contours(dxf_path.make_path(entity))
        key = (entity.dxf.layer, self._colour(entity), width if width > 0.0 else 0.0)
        self.lines.setdefault(key, []).extend(contours)

    def _area(self, entity: Any, kind: str) -> None:
        from ezdxf import path as dxf_path

        if kind in ("HATCH", "MPOLYGON"):
            paths = list(dxf_path.from_hatch(entity))
            if kind == "HATCH" and not entity.dxf.get("solid_fill", 1):
                self.strangers["hatching (taken as a full area)"] += 1
        else:
            paths = [dxf_path.make_path(entity)]
        contours = [contour.closed_straight() for one in paths for contour in self._contours(one)]
        if contours:
            path = Path(tuple(contours))
            self.areas.append(DrawingPart(entity.dxf.layer, path, "evenodd", self._colour(entity)))

    def _contours(self, path: Any) -> list[Contour]:
        """The contours of a path, y down."""
        from ezdxf.path import Command

        pen = PathPen()
        for one in path.sub_paths() if path.has_sub_paths else (path,):
            pen.move(one.start.x, -one.start.y)
            for command in one.commands():
                x, y = command.end.x, -command.end.y
                if command.type == Command.LINE_TO:
                    pen.line(x, y)
                elif command.type == Command.CURVE3_TO:
                    pen.quad(command.ctrl.x, -command.ctrl.y, x, y)
                elif command.type == Command.CURVE4_TO:
                    pen.cubic(command.ctrl1.x, -command.ctrl1.y, command.ctrl2.x, -command.ctrl2.y, x, y)
        pen.finish()
        contours = [_whole(contour) for contour in pen.contours if _is_sane(contour)]
        self.stray += pen.stray + len(pen.dots) + len(pen.contours) - len(contours)
        self.segments += pen.count
        if self.segments > MOST_SEGMENTS:
            raise DrawingNotReadable(f"{self.name} draws more than {MOST_SEGMENTS:,} line segments: simplify it first.")
        return contours

    def _colour(self, entity: Any) -> Colour:
        """True colour, own colour number, or the layer's; the number for black or white is black."""
        from ezdxf.colors import aci2rgb, int2rgb

        teller = entity
        if not entity.dxf.hasattr("true_color") and entity.dxf.get("color", 256) in (0, 256):
            layers = self.document.layers
            teller = layers.get(entity.dxf.layer) if entity.dxf.layer in layers else None
        if teller is not None and teller.dxf.hasattr("true_color"):
            rgb = int2rgb(teller.dxf.true_color)
            return (int(rgb[0]), int(rgb[1]), int(rgb[2]))
        number = abs(teller.dxf.color) if teller is not None else 7
        if not 1 <= number <= 255 or number == 7:
            return (0, 0, 0)
        red, green, blue = aci2rgb(number)
        return (int(red), int(green), int(blue))

    def parts(self) -> Iterator[DrawingPart]:
        """Areas first, then the lines of each layer and colour, with their ends joined."""
        yield from self.areas
        boxes = [Path(tuple(contours)).bounds for contours in self.lines.values()]
        reach = JOIN_SHARE * diagonal(box_round([*boxes, *(part.path.bounds for part in self.areas)]))
        for (layer, colour, width), contours in self.lines.items():
            path = joined_ends(Path(tuple(contours)), reach)
            style = StrokeStyle(width, cap="butt", join="round")
            yield DrawingPart(layer, path, "evenodd", colour, stroke=style, groups=(layer,))


def _is_sane(contour: Contour) -> bool:
    """Whether all its coordinates are numbers that can be drawn."""
    return bool(np.isfinite(contour.segments).all() and np.abs(contour.segments).max() <= LARGEST_NUMBER)


def _whole(contour: Contour) -> Contour:
    """Closed, if its ends are the same but for rounding."""
    size = float(np.abs(contour.segments - contour.segments[0, 0]).max())
    comes_round = len(contour) > 1 or not contour.is_line[0]
    return contour.closed_straight() if comes_round and contour.gap <= SAME_PLACE * size else contour
