"""A small picture of a blank that shows where the tape goes: every length has a letter and a line."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from vivid_thimble.core.blanks.kinds import Ball, Blank, Cloth, Cylinder, Glass, Panel, Screen, Strip, Tapered
from vivid_thimble.desktop.look.theme import Palette, px
from vivid_thimble.desktop.look.words import tr

WIDE, HIGH = 280.0, 128.0
LETTERS = "ABCDEFGH"


@dataclass
class _Sketch:
    """Lines of the thing, of what is kept free, and of the tape by field."""

    thing: QPainterPath = field(default_factory=QPainterPath)
    free: QPainterPath = field(default_factory=QPainterPath)
    tapes: dict[str, QPainterPath] = field(default_factory=dict)

    def tape(self, name: str, *points: tuple[float, float]) -> None:
        self.tapes[name] = _line(*points)

    def keep_free(self, *points: tuple[float, float]) -> None:
        self.free.addPath(_line(*points))


def _line(*points: tuple[float, float]) -> QPainterPath:
    path = QPainterPath(QPointF(*points[0]))
    for point in points[1:]:
        path.lineTo(*point)
    return path


def _box(left: float, top: float, right: float, bottom: float) -> QPainterPath:
    path = QPainterPath()
    path.addRoundedRect(QRectF(left, top, right - left, bottom - top), 2, 2)
    return path


def _arc(middle: tuple[float, float], wide: float, high: float, start_deg: float, turn_deg: float) -> QPainterPath:
    box = QRectF(middle[0] - wide / 2, middle[1] - high / 2, wide, high)
    path = QPainterPath()
    path.arcMoveTo(box, start_deg)
    path.arcTo(box, start_deg, turn_deg)
    return path


def _flat(
    box: tuple[float, float, float, float], inset: tuple[float, float], rooms: tuple[str, ...], *, inner: bool = False
) -> _Sketch:
    """A rectangle with its width along the top, its height at the left and what stays free inside."""
    left, top, right, bottom = box
    across, down = inset
    sketch = _Sketch(_box(*box))
    room = _box(left + across, top + down, right - across, bottom - down)
    sketch.free.addPath(room)
    off = -8 if inner else 9
    sketch.tape("width", (left, top - off), (right, top - off))
    sketch.tape("height", (left - off, top), (left - off, bottom))
    middle = (top + bottom) / 2
    for name in rooms:
        if name == "rim":
            sketch.tape(name, ((left + right) / 2, bottom - down), ((left + right) / 2, bottom))
        else:
            sketch.tape(name, (right - across, middle), (right, middle))
    return sketch


def _cloth() -> _Sketch:
    left = [(110, 14), (70, 22), (44, 52), (64, 66), (80, 52), (80, 122)]
    sketch = _Sketch(_line(*left, *((280 - x, y) for x, y in reversed(left))))
    sketch.thing.quadTo(140, 32, 110, 14)
    sketch.free.addPath(_box(104, 42, 176, 96))
    sketch.tape("width", (80, 110), (200, 110))
    sketch.tape("height", (140, 23), (140, 122))
    sketch.tape("collar", (122, 23), (122, 42))
    sketch.tape("seam", (80, 70), (104, 70))
    sketch.tape("hem", (164, 96), (164, 122))
    return sketch


def _screen() -> _Sketch:
    sketch = _flat((62, 20, 218, 118), (20, 16), ("well",), inner=True)
    sketch.thing.addPath(_box(50, 8, 230, 126))
    return sketch


def _round(upper: float, lower: float, *, tapered: bool) -> _Sketch:
    x, top, bottom = 132.0, 18.0, 112.0
    half_up, half_low = upper / 2, lower / 2

    def half(y: float) -> float:
        return half_up + (half_low - half_up) * (y - top) / (bottom - top)

    sketch = _Sketch(_line((x - half_up, top), (x - half_low, bottom)))
    sketch.thing.addPath(_line((x + half_up, top), (x + half_low, bottom)))
    sketch.thing.addPath(_arc((x, top), upper, 16, 0, 360))
    sketch.thing.addPath(_arc((x, bottom), lower, 14, 180, 180))
    sketch.thing.addPath(_arc((x + half(66), 66), 44, 50, -82, 164))
    for y in (34.0, 98.0):
        sketch.free.addPath(_arc((x, y), 2 * half(y), 14, 180, 180))
    if tapered:
        sketch.tapes["upper"] = _arc((x, top + 3), upper, 16, 180, 180)
        sketch.tapes["lower"] = _arc((x, bottom), lower, 14, 180, 180)
    else:
        sketch.tapes["girth"] = _arc((x, 64), upper, 16, 180, 180)
    sketch.tape("height", (x - half_up - 12, top), (x - half_low - 12, bottom))
    sketch.tape("rim", (x - 40, 25), (x - 40, 40))
    sketch.tape("foot", (x - 34, 103), (x - 34, 117))
    sketch.tape("handle", (x + half(66) + 28, 42), (x + half(66) + 28, 90))
    return sketch


def _ball() -> _Sketch:
    sketch = _Sketch(_arc((140, 64), 108, 108, 0, 360))
    sketch.tapes["girth"] = _arc((140, 64), 108, 26, 180, 180)
    sketch.tapes["front"] = _arc((140, 44), 100, 40, 168, -156)
    sketch.free.addPath(_arc((140, 64), 108, 26, 0, 180))
    return sketch


def sketch_of(kind: type[Blank] | None) -> _Sketch:
    """The drawing of a kind of blank on a ground of WIDE x HIGH; None: a plain rectangle."""
    if kind is Cloth:
        return _cloth()
    if kind is Screen:
        return _screen()
    if kind is Cylinder:
        return _round(96, 96, tapered=False)
    if kind is Tapered:
        return _round(116, 82, tapered=True)
    if kind is Ball:
        return _ball()
    if kind is Strip:
        return _flat((34, 48, 254, 92), (14, 8), ("ends", "rim"))
    if kind in (Panel, Glass):
        return _flat((58, 24, 226, 118), (12, 12), ("edge",))
    return _flat((58, 24, 226, 118), (0, 0), ())


class TapePicture(QWidget):
    """Shows a kind of blank; the length whose field has the focus stands out."""

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self.setObjectName("tapePicture")
        self.colours = palette
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumHeight(int(HIGH) + 8)
        self._kind: type[Blank] | None = None
        self._held = ""

    def sizeHint(self) -> QSize:
        return QSize(int(WIDE), int(HIGH) + 8)

    def show_kind(self, kind: type[Blank] | None) -> None:
        self._kind = kind
        measures = kind.MEASURES if kind is not None else ()
        told = "; ".join(f"{LETTERS[k]}, {tr(m.title)}: {tr(m.tape)}" for k, m in enumerate(measures))
        self.setAccessibleName(tr("Where the tape goes"))
        self.setAccessibleDescription(tr(told or "Width and height of the room, from edge to edge"))
        self.setToolTip(told.replace("; ", "\n"))
        self.update()

    def hold(self, name: str) -> None:
        """Let one length stand out; empty for none."""
        self._held = name
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        sketch = sketch_of(self._kind)
        names = [m.field for m in self._kind.MEASURES] if self._kind is not None else ["width", "height"]
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(self.colours.seam), 1))
            painter.setBrush(QColor(self.colours.raised))
            painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1), 5, 5)
            painter.translate((self.width() - WIDE) / 2, (self.height() - HIGH) / 2)
            painter.setBrush(QColor(self.colours.blank))
            painter.setPen(QPen(QColor(self.colours.blank_edge), 1.6))
            painter.drawPath(sketch.thing)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(self.colours.soft_ink), 1, Qt.PenStyle.DashLine))
            painter.drawPath(sketch.free)
            for letter, name in zip(LETTERS, names, strict=False):
                if name in sketch.tapes:
                    self._draw_tape(painter, sketch.tapes[name], letter, held=name == self._held)

    def _draw_tape(self, painter: QPainter, path: QPainterPath, letter: str, *, held: bool) -> None:
        colour = QColor(self.colours.stop if held else self.colours.thread)
        painter.setPen(QPen(colour, 3.0 if held else 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        for share in (0.0, 1.0):
            self._draw_end(painter, path, share)
        middle = path.pointAtPercent(0.5)
        font = QFont(painter.font())
        font.setPixelSize(px(11))
        font.setBold(True)
        painter.setFont(font)
        plate = QRectF(middle.x() - 7.5, middle.y() - 7.5, 15, 15)
        painter.setPen(QPen(colour, 1))
        painter.setBrush(QColor(self.colours.raised))
        painter.drawEllipse(plate)
        painter.setPen(colour)
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, letter)

    def _draw_end(self, painter: QPainter, path: QPainterPath, share: float) -> None:
        """A short stroke across the end of the tape."""
        at, angle = path.pointAtPercent(share), math.radians(path.angleAtPercent(share) + 90)
        by = QPointF(4 * math.cos(angle), -4 * math.sin(angle))
        painter.drawLine(at - by, at + by)
