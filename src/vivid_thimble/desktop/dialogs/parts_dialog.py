"""The parts of a drawing to choose from: by a click on the picture, in a tree with pictures, by colour, by size."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QIcon, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPixmap, QTransform
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from vivid_thimble.core.edits.drawings import artwork_in, with_artwork
from vivid_thimble.core.lengths import fine_unit
from vivid_thimble.core.sources.colours import to_hex
from vivid_thimble.core.sources.drawing import Drawing, DrawingPart
from vivid_thimble.desktop.look.theme import PALETTES
from vivid_thimble.desktop.look.words import tr
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.widgets.number_field import NumberField
from vivid_thimble.desktop.widgets.plain_label import PlainLabel
from vivid_thimble.desktop.widgets.quiet_dialog import QuietDialog
from vivid_thimble.desktop.widgets.swatch import swatch_icon

NUMBER = Qt.ItemDataRole.UserRole
ICON = QSize(40, 32)
MOST_PICTURES = 1500
"""Trees of more parts go without pictures."""
SLACK_PX = 4.0


class PartsDialog(QuietDialog):
    """Beside the window; every choice is made in the job at once and can be undone."""

    def __init__(self, session: Session, drawing: Drawing, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("partsDialog")
        self.setWindowTitle(tr("Parts of the drawing"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(900, 620)
        self.session, self.drawing, self._element = session, drawing, session.chosen
        self.paths = [painter_path_of(part) for part in drawing.parts]
        row = QHBoxLayout(self)
        self.canvas = PartsCanvas(drawing, self.paths)
        self.canvas.pressed.connect(self._toggle)
        row.addWidget(self.canvas, 3)
        side = QVBoxLayout()
        self.count = PlainLabel()
        self.count.setProperty("role", "section")
        side.addWidget(self.count)
        self.tree = QTreeWidget()
        self.tree.setObjectName("partsTree")
        self.tree.setAccessibleName(tr("Parts of the drawing"))
        self.tree.setHeaderHidden(True)
        self.tree.setIconSize(ICON)
        self.tree.itemChanged.connect(self._ticked)
        self.tree.currentItemChanged.connect(lambda item, _: self.canvas.hold(_number_of(item)))
        side.addWidget(self.tree, 1)
        side.addLayout(self._by_colour())
        side.addLayout(self._by_size())
        hint = PlainLabel(
            tr("Click a part in the picture to leave it out or take it back. What is left out is dashed.")
        )
        hint.setProperty("role", "hint")
        hint.setWordWrap(True)
        side.addWidget(hint)
        buttons = QHBoxLayout()
        for word, name, then in (
            ("Take &all", "partsAll", self._take_all),
            ("&Swap", "partsSwap", self._swap),
            ("Close", "partsClose", self.accept),
        ):
            button = QPushButton(tr(word))
            button.setObjectName(name)
            button.clicked.connect(lambda _=False, t=then: t())
            buttons.addWidget(button)
        side.addLayout(buttons)
        row.addLayout(side, 2)
        self._fill()
        session.job_changed.connect(self._show)
        self._show()

    @property
    def out(self) -> set[int]:
        artwork = artwork_in(self.session.job, self._element)
        return set(artwork.left_out) if artwork is not None else set()

    def _by_colour(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.colour = QComboBox()
        self.colour.setObjectName("partsColour")
        self.colour.setAccessibleName(tr("Colour"))
        for colour in self.drawing.colours:
            count = sum(part.colour == colour for part in self.drawing.parts)
            self.colour.addItem(swatch_icon(colour), f"{to_hex(colour)}  ({count})", colour)
        row.addWidget(self.colour, 1)
        for word, name, leaves in (("Leave out", "partsLeaveColour", True), ("Take", "partsTakeColour", False)):
            button = QPushButton(tr(word))
            button.setObjectName(name)
            button.clicked.connect(lambda _=False, out=leaves: self._colour_out(out))
            row.addWidget(button)
        return row

    def _by_size(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(PlainLabel(tr("Smaller than")))
        self.size_field = NumberField("Parts smaller than this across", "partsSmaller")
        self.size_field.set_unit(fine_unit(self.session.job.unit))
        self.size_field.set_value(2.0)
        row.addWidget(self.size_field, 1)
        button = QPushButton(tr("Leave out"))
        button.setObjectName("partsLeaveSmall")
        button.clicked.connect(lambda _=False: self._small_out())
        row.addWidget(button)
        return row

    def _fill(self) -> None:
        self.tree.blockSignals(True)
        heads: dict[tuple[str, ...], QTreeWidgetItem] = {}
        pictured = len(self.drawing.parts) <= MOST_PICTURES
        self.items: list[QTreeWidgetItem] = []
        for number, part in enumerate(self.drawing.parts):
            parent = self._head(part.groups, heads)
            item = QTreeWidgetItem(parent if parent is not None else self.tree)
            item.setText(0, f"{part.name}{'' if part.stroke is None else ' (line)'}")
            item.setData(0, NUMBER, number)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            if pictured:
                item.setIcon(0, part_icon(part, self.paths[number]))
            self.items.append(item)
        self.tree.expandAll()
        self.tree.blockSignals(False)

    def _head(self, groups: tuple[str, ...], heads: dict[tuple[str, ...], QTreeWidgetItem]) -> QTreeWidgetItem | None:
        if not groups:
            return None
        if groups not in heads:
            parent = self._head(groups[:-1], heads)
            head = QTreeWidgetItem(parent if parent is not None else self.tree)
            head.setText(0, groups[-1])
            head.setFlags(head.flags() | Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsAutoTristate)
            heads[groups] = head
        return heads[groups]

    def _show(self) -> None:
        out = self.out
        self.tree.blockSignals(True)
        for number, item in enumerate(self.items):
            item.setCheckState(0, Qt.CheckState.Unchecked if number in out else Qt.CheckState.Checked)
        self.tree.blockSignals(False)
        self.canvas.show_out(out)
        whole = len(self.drawing.parts)
        self.count.setText(tr(f"{whole - len(out)} of {whole} parts are taken"))

    def _leave(self, title: str, out: set[int]) -> None:
        if out != self.out:
            job = with_artwork(self.session.job, self._element, left_out=tuple(sorted(out)))
            self.session.change(title, job)

    def _toggle(self, number: int) -> None:
        self._leave("Leave out a part" if number not in self.out else "Take a part", self.out ^ {number})
        self.tree.setCurrentItem(self.items[number])

    def _ticked(self, _: QTreeWidgetItem) -> None:
        out = {k for k, item in enumerate(self.items) if item.checkState(0) == Qt.CheckState.Unchecked}
        self._leave("Parts of the drawing", out)

    def _colour_out(self, leaves: bool) -> None:
        colour = self.colour.currentData()
        alike = {k for k, part in enumerate(self.drawing.parts) if part.colour == tuple(colour)}
        self._leave(
            "Leave out a colour" if leaves else "Take a colour", self.out | alike if leaves else self.out - alike
        )

    def _small_out(self) -> None:
        """Parts whose longer side is below the size, as they stand in the job now."""
        across = self.size_field.value or 0.0
        scale = self._mm_per_unit()
        small = set()
        for number, part in enumerate(self.drawing.parts):
            box = part.lines.bounds
            if box is None or max(box[2] - box[0], box[3] - box[1]) * scale < across:
                small.add(number)
        self._leave("Leave out small parts", self.out | small)

    def _mm_per_unit(self) -> float:
        """How large a unit of the drawing is on the item."""
        result = self.session.result
        for layer in result.layers if result is not None else ():
            for element in layer.elements:
                if element.element.id == self._element and element.drawing_scale is not None:
                    return element.drawing_scale
        return 1.0

    def _take_all(self) -> None:
        self._leave("Take all parts", set())

    def _swap(self) -> None:
        self._leave("Swap the parts", set(range(len(self.drawing.parts))) - self.out)


class PartsCanvas(QWidget):
    """The picture; ``pressed`` tells the uppermost part under a click."""

    pressed = Signal(int)

    def __init__(self, drawing: Drawing, paths: list[QPainterPath]) -> None:
        super().__init__()
        self.setObjectName("partsCanvas")
        self.setAccessibleName(tr("The drawing: click its parts"))
        self.setMinimumSize(320, 320)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self._drawing, self._paths = drawing, paths
        self._out: set[int] = set()
        self._held = -1
        self._box = QRectF()
        for path in paths:
            self._box = self._box.united(path.boundingRect())

    def show_out(self, out: set[int]) -> None:
        self._out = set(out)
        self.update()

    def hold(self, number: int) -> None:
        self._held = number
        self.update()

    def view(self) -> QTransform:
        """From the drawing's units to the widget."""
        room = QRectF(self.rect()).adjusted(16, 16, -16, -16)
        if self._box.width() <= 0 or self._box.height() <= 0:
            return QTransform()
        scale = min(room.width() / self._box.width(), room.height() / self._box.height())
        move = room.center() - self._box.center() * scale
        return QTransform(scale, 0, 0, scale, move.x(), move.y())

    def paintEvent(self, event: QPaintEvent) -> None:
        palette = PALETTES["day"]
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), QColor(palette.blank))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setTransform(self.view())
            for number, (part, path) in enumerate(zip(self._drawing.parts, self._paths, strict=True)):
                if number not in self._out:
                    _paint(painter, part, path, part.opacity)
            for number in sorted(self._out):
                pen = QPen(QColor(palette.blank_edge), 0, Qt.PenStyle.DashLine)
                painter.setPen(pen)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawPath(self._paths[number])
            if 0 <= self._held < len(self._paths):
                painter.setBrush(Qt.BrushStyle.NoBrush)
                for colour, width in ((palette.blank, 5.0), (palette.thread, 2.5)):
                    pen = QPen(QColor(colour), width)
                    pen.setCosmetic(True)
                    painter.setPen(pen)
                    painter.drawPath(self._paths[self._held])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        number = self.part_at(event.position())
        if number >= 0:
            self.pressed.emit(number)

    def part_at(self, at: QPointF) -> int:
        """The uppermost part at a place that is taken; else one that was left out; -1 for none."""
        back, good = self.view().inverted()
        if not good:
            return -1
        point = back.map(at)
        slack = SLACK_PX / max(self.view().m11(), 1e-9)
        near = QRectF(point.x() - slack, point.y() - slack, 2 * slack, 2 * slack)
        hits = [k for k, path in enumerate(self._paths) if _hits(self._drawing.parts[k], path, point, near)]
        taken = [k for k in hits if k not in self._out]
        return taken[-1] if taken else hits[-1] if hits else -1


def _hits(part: DrawingPart, path: QPainterPath, point: QPointF, near: QRectF) -> bool:
    return path.contains(point) if part.stroke is None else path.intersects(near)


def _paint(painter: QPainter, part: DrawingPart, path: QPainterPath, opacity: float) -> None:
    colour = QColor(*part.colour)
    colour.setAlphaF(opacity)
    if part.stroke is None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
    else:
        width = part.stroke.width * abs(part.own.determinant) ** 0.5
        pen = QPen(colour, width)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)


def painter_path_of(part: DrawingPart) -> QPainterPath:
    """The outline or line of a part in the drawing's units."""
    path = QPainterPath()
    even = part.rule == "evenodd"
    path.setFillRule(Qt.FillRule.OddEvenFill if even else Qt.FillRule.WindingFill)
    for contour in part.lines.contours:
        if not len(contour):
            continue
        path.moveTo(*contour.segments[0, 0].tolist())
        for segment, is_line in zip(contour.segments, contour.is_line, strict=True):
            if is_line:
                path.lineTo(*segment[3].tolist())
            else:
                path.cubicTo(*np.ravel(segment[1:]).tolist())
        if contour.closed:
            path.closeSubpath()
    return path


def part_icon(part: DrawingPart, path: QPainterPath) -> QIcon:
    """A small picture of one part, as large as fits."""
    picture = QPixmap(ICON * 2)
    picture.fill(QColor(PALETTES["day"].waste))
    box = path.boundingRect()
    size = max(box.width(), box.height())
    if size > 0:
        wide, high = (max(side, 0.02 * size) for side in (box.width(), box.height()))
        scale = 0.86 * min(picture.width() / wide, picture.height() / high)
        move = QPointF(picture.width() / 2, picture.height() / 2) - box.center() * scale
        with QPainter(picture) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setTransform(QTransform(scale, 0, 0, scale, move.x(), move.y()))
            _paint(painter, part, path, part.opacity)
    return QIcon(picture)


def _number_of(item: QTreeWidgetItem | None) -> int:
    number = item.data(0, NUMBER) if item is not None else None
    return -1 if number is None else int(number)
