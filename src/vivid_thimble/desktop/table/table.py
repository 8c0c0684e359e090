"""The table widget: true scale, rulers, ways to look, finding tags, dragging.

Panning: middle button, or space and the left button, or the wheel with Shift. Zooming:
the wheel, plus and minus. The left button drags the element under it; arrow keys nudge
by one millimetre (a sixteenth of an inch), with Shift by ten.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import shapely
from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QColor,
    QContextMenuEvent,
    QFont,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from vivid_thimble.core.blanks.bend import Bend
from vivid_thimble.core.finish.weeding import WeedingPlan
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.inspect.lost import Lost
from vivid_thimble.core.job import Job
from vivid_thimble.core.lengths import format_length
from vivid_thimble.core.results import FoundBridges, ItemResult
from vivid_thimble.core.room import OnItem, bend_of, outline_of
from vivid_thimble.core.steps.join import Pair
from vivid_thimble.core.widths.widthmap import Chords
from vivid_thimble.desktop.preferences import read_preferences
from vivid_thimble.desktop.table.annotations import (
    draw_pairs,
    draw_pick_numbers,
    draw_places,
    draw_relief,
    draw_snips,
    draw_spot,
)
from vivid_thimble.desktop.table.arranging import ArrangeHands, draw_distance
from vivid_thimble.desktop.table.bands import draw_card, draw_legend
from vivid_thimble.desktop.table.bridge_hands import NUDGE_MM as BRIDGE_NUDGE_MM
from vivid_thimble.desktop.table.bridge_hands import BridgeHands
from vivid_thimble.desktop.table.films import Films
from vivid_thimble.desktop.table.finding_marks import FindingMarks
from vivid_thimble.desktop.table.guides import GuideHands
from vivid_thimble.desktop.table.on_item import OnItemView
from vivid_thimble.desktop.table.pair_hands import PairHands
from vivid_thimble.desktop.table.rulers import THICKNESS, draw_rulers
from vivid_thimble.desktop.table.sheet_hands import SheetHands
from vivid_thimble.desktop.table.tape import TapeHands
from vivid_thimble.desktop.table.true_size import draw_known_sizes
from vivid_thimble.desktop.theme import Palette, px
from vivid_thimble.desktop.underlay import NamedPlace, Underlay
from vivid_thimble.desktop.words import tr

Look = Literal["finished", "cut", "waste", "widths", "surface", "item"]
LOOKS: tuple[tuple[Look, str], ...] = (
    ("finished", "Finished"),
    ("cut", "Cut lines"),
    ("waste", "To pull off"),
    ("widths", "Widths"),
    ("surface", "Surface"),
    ("item", "On the item"),
)
SMALLEST_PX_PER_MM, LARGEST_PX_PER_MM = 0.02, 400.0
LEAST_DRAG_PX = 2.0
UNDERLAY_OPACITY = 0.5
"""A picture under cut lines is fainter than they are."""
NUDGE_MM, NUDGE_INCH_MM = 1.0, 25.4 / 16


class Table(QWidget):
    """Sends ``moved`` (dx, dy in mm), ``element_pressed`` (id), ``finding_pressed`` (index)."""

    moved = Signal(float, float)
    resized = Signal(object, object)
    """By which factors what is in hand grows across and down, and about which place of the item."""
    turned = Signal(float)
    """Degrees, counter-clockwise, about the middle of what is in hand."""
    grown = Signal(float)
    """By how many mm what is in hand becomes wider, by keys."""
    picked = Signal(object)
    """Elements inside a frame that was drawn."""
    guide_placed = Signal(object, object)
    """A guide as it was (None: new) and as it is to be (None: gone)."""
    menu_wanted = Signal(QPoint, str)
    """Where on the screen, and the element there."""
    delete_wanted = Signal()
    element_pressed = Signal(str)
    also_pressed = Signal(str)
    """An element was pressed with Shift: it is taken in hand as well."""
    bridge_held = Signal(int)
    bridge_placed = Signal(object, int)
    """A bridge, and the number of the one that it is instead of (-1: a new one)."""
    bridge_out = Signal()
    margin_dragged = Signal(str, float)
    """A side of the stencil's sheet and its new margin in mm."""
    letter_nudged = Signal(int, float)
    """The number of a letter and how far it, and what follows, goes to the right."""
    finding_pressed = Signal(int)
    pointed = Signal(str)

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self.setObjectName("table")
        self.setAccessibleName(tr("Table: the item at true scale with the design on it"))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(320, 240)
        self.colours = palette
        self.screen_px_per_mm = read_preferences().screen_px_per_mm
        """As measured with a ruler held to the screen; 0 for what the screen tells of itself."""
        self.look: Look = "finished"
        self.px_per_mm = 1.0
        self.offset = QPointF(0, 0)
        self._fitted = True
        self.job: Job | None = None
        self.result: ItemResult | None = None
        self.findings: tuple[Finding, ...] = ()
        self.held_finding = -1
        self._plan: WeedingPlan | None = None
        self._drag: tuple[str, QPointF] | None = None
        self.drag_mm = QPointF(0, 0)
        self._dragged = QPointF(0, 0)
        """The way of the pointer; the drag itself snaps to lines."""
        self.arranging = ArrangeHands(self)
        self.bridges = BridgeHands(self)
        self.sheet = SheetHands(self)
        self.pairs = PairHands(self)
        self.marks = FindingMarks(self)
        self.tape = TapeHands(self)
        self.guides = GuideHands(self)
        self.on_item = OnItemView(self)
        self.films = Films(self)
        self._marquee: QRectF | None = None
        self._bend: Bend | None = None
        self._outline = shapely.box(0.0, 0.0, 1.0, 1.0)
        self._space = False
        self._spot: Finding | None = None
        self._chords: Chords | None = None
        self._bands_title = ""
        self._lost: Lost | None = None
        self._pairs: tuple[Pair, ...] = ()
        self._places: tuple[NamedPlace, ...] = ()
        self._underlay: Underlay | None = None
        self._surface_words = ""

    # -- what to show ---------------------------------------------------------------

    def stop(self) -> None:
        """End the thread that gets large shapes ready."""
        self.films.tiles.stop()

    def show_job(self, job: Job, picked: Sequence[str]) -> None:
        resized = self.job is None or _room(job) != _room(self.job)
        self.job, self.arranging.picked = job, tuple(picked)
        self._bend, self._outline = bend_of(job.item), outline_of(job.item)
        if resized or self._fitted:
            self.zoom_to_fit()
        self.update()

    def forget_result(self) -> None:
        """Another job begins: nothing of the one before is shown any more."""
        self.result, self.findings, self._spot = None, (), None
        self.films.forget()

    def show_result(self, result: ItemResult) -> None:
        self.result = result
        self.findings = tuple(f for f in result.findings if f.at is not None)
        self.held_finding = -1
        self._spot = None
        self.films.take_result(result)
        self._plan = None
        self.drag_mm = self._dragged = QPointF(0, 0)
        self.arranging.take_result()
        self.tape.forget()
        self.setAccessibleDescription(tr(f"{len(self.findings)} findings marked"))
        self.update()

    def set_look(self, look: Look) -> None:
        refit = self._fitted and "item" in (look, self.look) and look != self.look
        self.look = look
        if refit:
            self.zoom_to_fit()
        self._spot = None
        self.update()

    def show_widths(self, chords: Chords | None, title: str) -> None:
        """What the width look shows; None while it is being worked out."""
        if chords is not self._chords:
            self._chords = chords
            self.films.take_widths(chords)
        self._bands_title = title
        self.update()

    def show_lost(self, lost: Lost | None, words: str) -> None:
        """What fades and fills on the item's surface, and a sentence about it."""
        if lost is not self._lost:
            self._lost = lost
            self.films.take_lost(lost)
        self._surface_words = words
        self.update()

    def show_on_item(self, seen: OnItem | None) -> None:
        """The thing as it is seen; None while it is being worked out."""
        new = seen is not None and seen is not self.on_item.shown
        self.on_item.take(seen)
        if new and self._fitted:
            self.zoom_to_fit()
        self.update()

    def show_photo(self, photo: QImage | None) -> None:
        """The photo of the thing; None for none."""
        self.on_item.photo = photo
        self.update()

    def use_tape(self, *, on: bool) -> None:
        """Whether the pointer measures."""
        self.tape.switch(on=on)
        self.setCursor(Qt.CursorShape.CrossCursor if on else Qt.CursorShape.ArrowCursor)
        self.update()

    def show_plan(self, plan: WeedingPlan | None) -> None:
        """The numbers of the picks and the relief cuts; None while they are being worked out."""
        self._plan = plan
        self.update()

    def show_pairs(self, pairs: Sequence[Pair]) -> None:
        """Mark where neighbouring letters meet and whether they hold; none to mark nothing."""
        self._pairs = tuple(pairs)
        self.update()

    def show_places(self, places: Sequence[tuple[float, float] | NamedPlace]) -> None:
        """Ring some places (mm on the item), such as those that were cleaned; none to ring nothing."""
        self._places = tuple(one if isinstance(one, NamedPlace) else NamedPlace(one, "") for one in places)
        self.update()

    def show_preview(self, films: Sequence[shapely.MultiPolygon] | None) -> None:
        """What the films would become, as outlines; None for nothing."""
        self.films.take_preview(films)
        self.update()

    def show_bridges(self, owner: str, found: FoundBridges | None) -> None:
        """Bridges that can be taken in hand here; None for none."""
        self.bridges.show(owner, found)
        self.update()

    def hold_bridge(self, number: int) -> None:
        self.bridges.held = number
        self.update()

    def add_bridge(self, adding: bool) -> None:
        """Whether the next press places a bridge."""
        self.bridges.adding = adding
        self.setCursor(Qt.CursorShape.CrossCursor if adding else Qt.CursorShape.ArrowCursor)

    def show_sheet_edges(self, *, shown: bool) -> None:
        """Handles on the edges of a stencil's sheet."""
        self.sheet.shown = shown
        self.update()

    def keep_proportions(self, kept: bool) -> None:
        self.arranging.proportional = kept

    def show_handles(self, *, shown: bool) -> None:
        """Handles on what is in hand."""
        self.arranging.show_handles = shown
        self.update()

    def show_underlay(self, underlay: Underlay | None) -> None:
        """A picture under the design; None for none."""
        self._underlay = underlay
        self.update()

    def hold_finding(self, index: int) -> None:
        """Mark one finding as the one in hand."""
        self.held_finding = index
        self._spot = None
        self.update()

    def show_spot(self, spot: Finding) -> None:
        """Mark one place that is no finding (where a figure was measured) and go there."""
        self._spot = spot
        self.zoom_to_finding(spot)

    # -- zoom and place -------------------------------------------------------------

    def to_widget(self, x: float, y: float) -> QPointF:
        return QPointF(self.offset.x() + x * self.px_per_mm, self.offset.y() + y * self.px_per_mm)

    def to_item(self, point: QPointF) -> tuple[float, float]:
        return (point.x() - self.offset.x()) / self.px_per_mm, (point.y() - self.offset.y()) / self.px_per_mm

    def place(self, x: float, y: float) -> QPointF:
        """Where a place of the level design is shown: on a tapered side the film is bent."""
        return self.to_widget(*((x, y) if self._bend is None else self._bend.place((x, y))))

    def level_at(self, point: QPointF) -> tuple[float, float]:
        """The place of the level design under a point of the widget."""
        at = self.to_item(point)
        return at if self._bend is None else self._bend.place_back(at)

    def level_box(self, box: Box) -> QPolygonF:
        """A box of the level design as it is shown."""
        left, top, right, bottom = box
        corners = ((left, top), (right, top), (right, bottom), (left, bottom), (left, top))
        if self._bend is None:
            return QPolygonF([self.to_widget(*one) for one in corners[:4]])
        dense = shapely.segmentize(shapely.LineString(corners), max(right - left, 1.0) / 40.0)
        return QPolygonF([self.place(x, y) for x, y in shapely.get_coordinates(dense).tolist()])

    def zoom_to_fit(self) -> None:
        """The item, and whatever of the design runs over it, with some room."""
        if self.job is None:
            return
        left, top, right, bottom = self._outline.bounds
        if self.look == "item" and self.on_item.shown is not None:
            x, y = self.job.item.width / 2.0, self.job.item.height / 2.0
            a, b, c, d = self.on_item.shown.silhouette.bounds
            left, top, right, bottom = a + x, b + y, c + x, d + y
        elif self.result is not None and self.result.sheet_bounds:
            box = self.result.sheet_bounds
            left, top, right, bottom = min(left, box[0]), min(top, box[1]), max(right, box[2]), max(bottom, box[3])
        self._zoom_to((left, top, right, bottom), 46)
        self._fitted = True

    def zoom_to_finding(self, finding: Finding) -> None:
        """The place of a finding, large enough to judge it."""
        if finding.at is None:
            return
        reach = max((finding.width or 0.0) * 6, (finding.length or 0.0) * 0.8, 6.0)
        x, y = finding.at
        self._zoom_to((x - reach, y - reach, x + reach, y + reach), 20)

    def zoom_to_held(self) -> None:
        """What is in hand, as large as it goes."""
        box = self.arranging.box()
        if box is not None:
            self._zoom_to(_box_of(self.level_box(box), self), 70)

    def zoom_to_true_size(self) -> None:
        """One millimetre of the item is one millimetre on this screen, as far as the screen tells."""
        self._zoom_about(self._true_px_per_mm(), QPointF(self.width() / 2, self.height() / 2))

    @property
    def is_true_size(self) -> bool:
        return math.isclose(self.px_per_mm, self._true_px_per_mm(), rel_tol=1e-9)

    def _true_px_per_mm(self) -> float:
        return self._bounded(self.screen_px_per_mm or self.screen().physicalDotsPerInch() / 25.4)

    def zoom_by(self, factor: float, about: QPointF | None = None) -> None:
        self._zoom_about(self.px_per_mm * factor, about or QPointF(self.width() / 2, self.height() / 2))

    def _zoom_to(self, box: Box, room: float) -> None:
        width, height = max(box[2] - box[0], 1e-3), max(box[3] - box[1], 1e-3)
        free_w, free_h = self.width() - THICKNESS - 2 * room, self.height() - THICKNESS - 2 * room
        self.px_per_mm = self._bounded(min(free_w / width, free_h / height))
        x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
        self.offset = QPointF(
            (self.width() + THICKNESS) / 2 - x * self.px_per_mm, (self.height() + THICKNESS) / 2 - y * self.px_per_mm
        )
        self._fitted = False
        self.update()

    def _zoom_about(self, scale: float, about: QPointF) -> None:
        x, y = self.to_item(about)
        self.px_per_mm = self._bounded(scale)
        self.offset = QPointF(about.x() - x * self.px_per_mm, about.y() - y * self.px_per_mm)
        self._fitted = False
        self.update()

    def _bounded(self, scale: float) -> float:
        return min(max(scale, SMALLEST_PX_PER_MM), LARGEST_PX_PER_MM)

    # -- painting -------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), QColor(self.colours.cloth))
            self._draw_weave(painter)
            if self.job is not None and self.look == "item":
                self.on_item.draw(painter)
                self._draw_all_rulers(painter)
            elif self.job is not None:
                self._draw_item(painter)
                self._draw_underlay(painter)
                self.films.draw(painter)
                self._draw_margins(painter)
                draw_places(self, painter, self._places)
                self._draw_marks(painter)
                if self.look not in ("waste", "widths"):
                    self.bridges.draw(painter, self.colours)
                    self.sheet.draw(painter, self.colours)
                    self.pairs.draw(painter, self.colours)
                    self.arranging.draw(painter, self.colours, self.drag_mm, moving=self.is_moving())
                self.guides.draw(painter, self.colours)
                self.tape.draw(painter, self.colours)
                self._draw_marquee(painter)
                self._draw_cards(painter)
                self._draw_all_rulers(painter)
                if self.result is not None and self.result.bounds is None:
                    self._draw_invitation(painter)
            if self.hasFocus():
                painter.setPen(QPen(QColor(self.colours.thread), 2))
                painter.drawRect(self.rect().adjusted(1, 1, -1, -1))

    def _draw_all_rulers(self, painter: QPainter) -> None:
        assert self.job is not None
        origin = self.offset.x(), self.offset.y()
        size = self.width(), self.height()
        draw_rulers(painter, *size, origin, self.px_per_mm, self.job.unit, self.colours)
        self.guides.draw_grips(painter, self.colours)

    def _draw_marquee(self, painter: QPainter) -> None:
        if self._marquee is not None:
            thread = QColor(self.colours.thread)
            painter.setPen(QPen(thread, 1.2, Qt.PenStyle.DashLine))
            thread.setAlpha(30)
            painter.setBrush(thread)
            painter.drawRect(self._marquee.normalized())

    def _draw_weave(self, painter: QPainter) -> None:
        """The cloth under the item: a faint plain weave."""
        seam = QColor(self.colours.seam)
        seam.setAlpha(110)
        painter.fillRect(self.rect(), QBrush(seam, Qt.BrushStyle.Dense7Pattern))

    def _draw_item(self, painter: QPainter) -> None:
        assert self.job is not None
        item = self.job.item
        painter.setPen(QPen(QColor(self.colours.blank_edge), 0))
        painter.setBrush(QColor(self.colours.blank))
        painter.drawPolygon(self.level_box((0.0, 0.0, item.width, item.height)))
        painter.setPen(QPen(QColor(self.colours.seam), 1.0, Qt.PenStyle.DashLine))
        x, y = item.width / 2.0, item.height / 2.0
        painter.drawPolyline(self.level_box((x, 0.0, x, item.height)))
        painter.drawPolyline(self.level_box((0.0, y, item.width, y)))

    def is_moving(self) -> bool:
        return self._drag is not None and self._drag[0] == "move" and not self.drag_mm.isNull()

    def _draw_cards(self, painter: QPainter) -> None:
        """What explains the look, in the lower left corner; things of known size at true size."""
        if self.job is None or self.result is None or self.result.bounds is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        corner = QPointF(THICKNESS + 12, self.height() - 12)
        if self.look == "widths" and self.films.bands:
            draw_legend(painter, self.films.bands, corner, self.job.unit, self.colours, self._bands_title)
            corner += QPointF(196, 0)
        elif self.look in ("widths", "surface"):
            words = self._surface_words if self.look == "surface" else "Measuring all widths…"
            corner += QPointF(draw_card(painter, words, corner, self.colours) + 12, 0)
        if self.is_true_size:
            draw_known_sizes(painter, corner, self.px_per_mm, self.job.unit, self.colours)

    def _draw_margins(self, painter: QPainter) -> None:
        """Distances from the design to the item's edges, on its centre lines."""
        if self.result is None or self.result.margins is None or self.result.bounds is None or self.job is None:
            return
        if self.drag_mm != QPointF(0, 0):
            return
        left, top, right, bottom = self.result.bounds
        item = self.job.item
        x, y = (left + right) / 2, (top + bottom) / 2
        ends = (((0, y), (left, y)), ((right, y), (item.width, y)), ((x, 0), (x, top)), ((x, bottom), (x, item.height)))
        font = QFont(painter.font())
        font.setPixelSize(px(12))
        painter.setFont(font)
        if self.arranging.is_sizing:
            return
        for margin, (a, b) in zip(self.result.margins, ends, strict=True):
            draw_distance(painter, self.colours, (self.place(*a), self.place(*b)), margin, self.job.unit)

    def _draw_marks(self, painter: QPainter) -> None:
        if self.look == "waste":
            if self._plan is not None:
                draw_relief(self, painter, self._plan)
                draw_pick_numbers(self, painter, self._plan)
            return
        draw_pairs(self, painter, self._pairs)
        if self.look in ("finished", "cut") and self.result is not None:
            draw_snips(self, painter, self.result.snips)
        self.marks.draw(painter)
        if self._spot is not None:
            draw_spot(self, painter, self._spot)

    def _draw_underlay(self, painter: QPainter) -> None:
        under = self._underlay
        if under is None:
            return
        painter.save()
        painter.setClipRect(QRectF(THICKNESS, THICKNESS, self.width(), self.height()))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.translate(self.to_widget(under.at[0] + self.drag_mm.x(), under.at[1] + self.drag_mm.y()))
        painter.rotate(-under.turn_deg)
        painter.scale(self.px_per_mm, self.px_per_mm)
        painter.setOpacity(UNDERLAY_OPACITY)
        painter.drawImage(QRectF(*under.lies), under.image)
        painter.restore()

    def _draw_invitation(self, painter: QPainter) -> None:
        font = QFont(painter.font())
        font.setPixelSize(px(17))
        painter.setFont(font)
        painter.setPen(QColor(self.colours.soft_ink))
        box = QRectF(
            THICKNESS,
            self.to_widget(0, 0).y(),
            self.width() - THICKNESS,
            (self.job.item.height if self.job else 0) * self.px_per_mm,
        )
        painter.drawText(
            box,
            Qt.AlignmentFlag.AlignCenter,
            tr("This is your item at true scale.\nOpen Gather (Alt+2): type words, or drop a drawing here."),
        )

    # -- hands ----------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        at = event.position()
        pans = event.button() == Qt.MouseButton.MiddleButton or (
            self._space and event.button() == Qt.MouseButton.LeftButton
        )
        if pans:
            self._drag = ("pan", at)
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() == Qt.MouseButton.LeftButton:
            self._press(at, also=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        self.update()

    def _press(self, at: QPointF, *, also: bool) -> None:
        if self.tape.on:
            self.tape.press(at)
            self._drag = ("tape", at)
            return
        if self.guides.press(at):
            self._drag = ("guide", at)
            return
        if self.look == "item":
            return
        if self.bridges.press(at):
            self._drag = ("bridge", at)
            return
        if self.sheet.press(at):
            self._drag = ("sheet", at)
            return
        if self.pairs.press(at, self._pairs):
            self._drag = ("pair", at)
            return
        tag = self._tag_at(at)
        if tag >= 0:
            self.finding_pressed.emit(tag)
            return
        if self.arranging.press_handle(at):
            self._drag = ("size", at)
            return
        if self.arranging.press_knob(at):
            self._drag = ("turn", at)
            return
        element = self._element_at(at)
        if element and also:
            self.also_pressed.emit(element)
        elif element:
            self.element_pressed.emit(element)
            self._drag, self._dragged = ("move", at), QPointF(0, 0)
        else:
            self._drag, self._marquee = ("marquee", at), QRectF(at, at)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._drag is None:
            self.setCursor(self._cursor_over(at))
            if self.tape.on:
                self.tape.hover(at)
                self.pointed.emit(self.tape.words())
                self.update()
            else:
                self._tell_place(at)
            return
        kind, last = self._drag
        straight = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if kind == "pan":
            self.offset += at - last
            self._fitted = False
        elif kind == "bridge":
            if self.bridges.is_dragging:
                self.bridges.drag(at)
        elif kind in ("sheet", "pair"):
            (self.sheet if kind == "sheet" else self.pairs).drag(at)
        elif kind == "size":
            self.arranging.drag_handle(at)
        elif kind == "turn":
            self.arranging.drag_knob(at, in_steps=straight)
        elif kind == "guide":
            self.guides.drag(at)
        elif kind == "tape":
            self.tape.drag(at, straight=straight)
            self.pointed.emit(self.tape.words())
        elif kind == "marquee":
            assert self._marquee is not None
            self._marquee.setBottomRight(at)
        else:
            self._dragged += (at - last) / self.px_per_mm
            freely = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
            far = (abs(self._dragged.x()) + abs(self._dragged.y())) * self.px_per_mm > LEAST_DRAG_PX
            if far:
                self.drag_mm = QPointF(*self.arranging.snapped(self._dragged.x(), self._dragged.y(), freely=freely))
                self.pointed.emit(self.arranging.shift_words(self.drag_mm.x(), self.drag_mm.y()))
        self._drag = (kind, at)
        self.update()

    def _cursor_over(self, at: QPointF) -> Qt.CursorShape:
        if self.bridges.adding or self.tape.on:
            return Qt.CursorShape.CrossCursor
        knob = self.arranging.knob()
        if knob is not None and (knob - at).manhattanLength() < 16:
            return Qt.CursorShape.CrossCursor
        corner = self.arranging.over_handle(at)
        if corner >= 0:
            return Qt.CursorShape.SizeFDiagCursor if corner in (0, 2) else Qt.CursorShape.SizeBDiagCursor
        if self.pairs.over(at, self._pairs) is not None:
            return Qt.CursorShape.SizeHorCursor
        over = self._tag_at(at) >= 0 or self.bridges.number_at(at) >= 0 or bool(self._element_at(at))
        return Qt.CursorShape.OpenHandCursor if over else Qt.CursorShape.ArrowCursor

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        kind = self._drag[0] if self._drag else ""
        self._drag = None
        self.setCursor(Qt.CursorShape.CrossCursor if self.tape.on else Qt.CursorShape.ArrowCursor)
        self.arranging.let_go()
        if kind == "bridge":
            placed = self.bridges.release()
            if placed is not None:
                self.bridge_placed.emit(*placed)
        elif kind == "sheet":
            margin = self.sheet.release()
            if margin is not None:
                self.margin_dragged.emit(*margin)
        elif kind == "pair":
            nudged = self.pairs.release()
            if nudged is not None:
                self.letter_nudged.emit(*nudged)
        elif kind == "size":
            sized = self.arranging.release_handle()
            if sized is not None:
                self.resized.emit(*sized)
        elif kind == "turn":
            angle = self.arranging.release_knob()
            if angle is not None:
                self.turned.emit(angle)
        elif kind == "guide":
            placed_guide = self.guides.release(event.position())
            if placed_guide is not None:
                self.guide_placed.emit(*placed_guide)
        elif kind == "marquee":
            self._take_marquee()
        elif kind == "move" and not self.drag_mm.isNull():
            self.moved.emit(self.drag_mm.x(), self.drag_mm.y())
        if kind != "move":
            self.drag_mm = QPointF(0, 0)
        self.update()

    def _take_marquee(self) -> None:
        """Take in hand whatever lies wholly inside the frame that was drawn."""
        frame, self._marquee = self._marquee, None
        if frame is None or self.job is None or max(abs(frame.width()), abs(frame.height())) < 5:
            return
        inside = self.arranging.inside(frame.normalized())
        if inside:
            self.picked.emit(inside)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """By the right button where it is pressed, by the menu key on what is in hand."""
        at = QPointF(event.pos())
        if event.reason() == QContextMenuEvent.Reason.Keyboard:
            box = self.arranging.box()
            at = QPointF(self.rect().center())
            if box is not None:
                at = self.place((box[0] + box[2]) / 2.0, (box[1] + box[3]) / 2.0)
            held = self.arranging.picked[0] if self.arranging.picked else ""
            self.menu_wanted.emit(self.mapToGlobal(at.toPoint()), held)
            return
        self.menu_wanted.emit(event.globalPos(), self._element_at(at))

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.offset += QPointF(turn / 2, 0)
            self._fitted = False
            self.update()
        else:
            self.zoom_by(1.0015**turn, event.position())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        arrows = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if self.bridges.held >= 0 and self._bridge_key(Qt.Key(event.key())):
            return
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if event.key() in arrows and self.job is not None and control:
            far = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._grow_or_turn(*arrows[Qt.Key(event.key())], far=far)
        elif event.key() in arrows and self.job is not None:
            step = NUDGE_INCH_MM if self.job.unit.startswith("in") else NUDGE_MM
            step *= 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            dx, dy = arrows[Qt.Key(event.key())]
            self.moved.emit(dx * step, dy * step)
        elif event.key() == Qt.Key.Key_Space:
            self._space = True
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.delete_wanted.emit()
        elif event.key() == Qt.Key.Key_Escape and self.tape.on:
            self.use_tape(on=False)
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.zoom_by(1.25)
        elif event.key() == Qt.Key.Key_Minus:
            self.zoom_by(0.8)
        else:
            super().keyPressEvent(event)

    def _grow_or_turn(self, across: int, down: int, *, far: bool) -> None:
        """With Control: up and down make what is in hand wider and narrower, left and right turn it."""
        assert self.job is not None
        if down:
            step = NUDGE_INCH_MM if self.job.unit.startswith("in") else NUDGE_MM
            self.grown.emit(-down * step * (10 if far else 1))
        else:
            self.turned.emit(-across * (15.0 if far else 1.0))

    def _bridge_key(self, key: Qt.Key) -> bool:
        """Left and right slide the bridge in hand along its edge; Delete takes it out; Escape lays it aside."""
        ways = {Qt.Key.Key_Left: -BRIDGE_NUDGE_MM, Qt.Key.Key_Right: BRIDGE_NUDGE_MM}
        if key in ways:
            placed = self.bridges.slid(ways[key])
            if placed is not None:
                self.bridge_placed.emit(*placed)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.bridge_out.emit()
        elif key == Qt.Key.Key_Escape:
            self.bridge_held.emit(-1)
        else:
            return False
        return True

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space:
            self._space = False
        super().keyReleaseEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self._fitted:
            self.zoom_to_fit()

    def _tag_at(self, at: QPointF) -> int:
        return -1 if self.look == "waste" else self.marks.at(at)

    def _element_at(self, at: QPointF) -> str:
        """The topmost element whose box holds the point (boxes are easier to grab than letters)."""
        if self.result is None:
            return ""
        x, y = self.level_at(at)
        for layer in self.result.layers:
            for element in reversed(layer.elements):
                for part in element.parts:
                    box = part.region.bounds
                    if box and box[0] <= x <= box[2] and box[1] <= y <= box[3]:
                        return element.element.id
        return ""

    def _tell_place(self, at: QPointF) -> None:
        if self.job is not None:
            x, y = self.level_at(at)
            unit = self.job.unit
            self.pointed.emit(f"{format_length(x, unit)} from the left, {format_length(y, unit)} from the top")


def _room(job: Job) -> tuple[object, ...]:
    """What the outline of the item in hand depends on."""
    return job.item.width, job.item.height, job.item.blank


def _box_of(shown: QPolygonF, table: Table) -> Box:
    """The box of a shape of the widget, in mm on the table."""
    box = shown.boundingRect()
    return *table.to_item(box.topLeft()), *table.to_item(box.bottomRight())
