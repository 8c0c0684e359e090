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
from vivid_thimble.core.blanks.kinds import Ball
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.finish.weeding import WeedingPlan
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.inspect.lost import Lost
from vivid_thimble.core.job.values import Job
from vivid_thimble.core.lengths import format_length
from vivid_thimble.core.room.front_view import OnItem
from vivid_thimble.core.room.thing import bend_of, has_edges_beside, room_box, shown_box, thing_box, thing_outline
from vivid_thimble.core.steps.bridges import FoundBridges
from vivid_thimble.core.steps.join import Pair
from vivid_thimble.core.widths.widthmap import Chords
from vivid_thimble.desktop.look.preferences import read_preferences
from vivid_thimble.desktop.look.theme import Palette, px
from vivid_thimble.desktop.look.underlay import NamedPlace, Underlay
from vivid_thimble.desktop.look.words import tr
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
from vivid_thimble.desktop.table.bridge_hands import BridgeHands
from vivid_thimble.desktop.table.films import Films
from vivid_thimble.desktop.table.finding_marks import FindingMarks
from vivid_thimble.desktop.table.guides import GuideHands
from vivid_thimble.desktop.table.hands import Hands
from vivid_thimble.desktop.table.on_item import OnItemView
from vivid_thimble.desktop.table.pair_hands import PairHands
from vivid_thimble.desktop.table.rulers import THICKNESS, draw_rulers
from vivid_thimble.desktop.table.sheet_hands import SheetHands
from vivid_thimble.desktop.table.tape import TapeHands
from vivid_thimble.desktop.table.true_size import draw_known_sizes

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
UNDERLAY_OPACITY = 0.5
"""A picture under cut lines is fainter than they are."""


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
        self._went_near = False
        """Zoomed to a place that was told, and not by hand since."""
        self.job: Job | None = None
        self.result: ItemResult | None = None
        self.findings: tuple[Finding, ...] = ()
        self.held_finding = -1
        self.shows_sheet = False
        """What is shown is one film as it is cut, and nothing to be changed by hand."""
        self.lit_pick = -1
        """The number of the pick that stands out; -1 for none."""
        self._plan: WeedingPlan | None = None
        self.weeded_film = 0
        """The film whose waste is shown."""
        self.arranging = ArrangeHands(self)
        self.bridges = BridgeHands(self)
        self.sheet = SheetHands(self)
        self.pairs = PairHands(self)
        self.marks = FindingMarks(self)
        self.tape = TapeHands(self)
        self.guides = GuideHands(self)
        self.on_item = OnItemView(self)
        self.films = Films(self)
        self.hands = Hands(self)
        self._bend: Bend | None = None
        self._thing = shapely.box(0.0, 0.0, 1.0, 1.0)
        self._edges: Box = (0.0, 0.0, 1.0, 1.0)
        """The thing's outline and box: its true edges, where a tape begins."""
        self._shown: Box = (0.0, 0.0, 1.0, 1.0)
        self._spot: Finding | None = None
        self._chords: Chords | None = None
        self._bands_title = ""
        self._lost: Lost | None = None
        self.pairs_shown: tuple[Pair, ...] = ()
        self._places: tuple[NamedPlace, ...] = ()
        self._underlay: Underlay | None = None
        self._surface_words = ""

    # -- what to show ---------------------------------------------------------------

    @property
    def is_sharp(self) -> bool:
        """Whether all that is in sight is painted at its exact scale; on the thing itself no tile is in sight."""
        return self.look == "item" or not self.films.tiles.is_busy

    def stop(self) -> None:
        """End the thread that gets large shapes ready."""
        self.films.tiles.stop()

    def show_job(self, job: Job, picked: Sequence[str]) -> None:
        resized = self.job is None or _room(job) != _room(self.job)
        self.job, self.arranging.picked = job, tuple(picked)
        self._bend, self._shown = bend_of(job.item), shown_box(job.item)
        self._thing, self._edges = thing_outline(job.item), thing_box(job.item)
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
        self.hands.forget()
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

    def show_plan(self, plan: WeedingPlan | None, film: int) -> None:
        """The numbers of a film's picks and its relief cuts; None while they are being worked out."""
        self._plan, self.weeded_film = plan, film
        self.update()

    def light_pick(self, number: int) -> None:
        """Let one pick stand out; -1 for none."""
        self.lit_pick = number
        self.update()

    def show_pairs(self, pairs: Sequence[Pair]) -> None:
        """Mark where neighbouring letters meet and whether they hold; none to mark nothing."""
        self.pairs_shown = tuple(pairs)
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

    @property
    def edges_corner(self) -> tuple[float, float]:
        """Where the rulers begin: the upper left corner of the thing."""
        return self._edges[0], self._edges[1]

    @property
    def _edges_in_sight(self) -> Box:
        """The thing's edges; those at the back of round things as far as the front shows them."""
        left, top, right, bottom = self._edges
        if self.job is None or has_edges_beside(self.job.item) or isinstance(self.job.item.blank, Ball):
            return self._edges
        middle, reach = self.job.item.width / 2.0, (right - left) / 4.0
        return max(left, middle - reach), top, min(right, middle + reach), bottom

    def zoom_to_fit(self) -> None:
        """The item, and whatever of the design runs over it, with some room."""
        if self.job is None:
            return
        left, top, right, bottom = self._shown
        if self.look == "item" and self.on_item.shown is not None:
            x, y = self.job.item.width / 2.0, self.job.item.height / 2.0
            a, b, c, d = self.on_item.shown.silhouette.bounds
            left, top, right, bottom = a + x, b + y, c + x, d + y
        elif self.result is not None and self.result.sheet_bounds:
            box = self.result.sheet_bounds
            left, top, right, bottom = min(left, box[0]), min(top, box[1]), max(right, box[2]), max(bottom, box[3])
        self._zoom_to((left, top, right, bottom), 46)
        self._fitted, self._went_near = True, False

    def zoom_to_finding(self, finding: Finding) -> None:
        """The place of a finding, large enough to judge it."""
        if finding.at is None:
            return
        reach = max((finding.width or 0.0) * 6, (finding.length or 0.0) * 0.8, 6.0)
        x, y = finding.at
        self._zoom_to((x - reach, y - reach, x + reach, y + reach), 20)
        self._went_near = True

    def leave_finding(self) -> None:
        """Back to the whole after a look at one place."""
        if self._went_near:
            self.zoom_to_fit()

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
        self._went_near = False
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
                    self.arranging.draw(painter, self.colours, self.hands.moved, moving=self.hands.is_moving)
                self.guides.draw(painter, self.colours)
                self.tape.draw(painter, self.colours)
                self.hands.draw_frame(painter)
                self._draw_cards(painter)
                self._draw_all_rulers(painter)
                if self.result is not None and self.result.bounds is None:
                    self._draw_invitation(painter)
            if self.hasFocus():
                painter.setPen(QPen(QColor(self.colours.thread), 2))
                painter.drawRect(self.rect().adjusted(1, 1, -1, -1))

    def _draw_all_rulers(self, painter: QPainter) -> None:
        assert self.job is not None
        at = self.to_widget(*self.edges_corner)
        origin = at.x(), at.y()
        size = self.width(), self.height()
        draw_rulers(painter, *size, origin, self.px_per_mm, self.job.unit, self.colours)
        self.guides.draw_grips(painter, self.colours)

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
        painter.drawPolygon(QPolygonF([self.to_widget(x, y) for x, y in self._thing.exterior.coords]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if item.blank is not None:
            painter.setPen(QPen(QColor(self.colours.blank_edge), 1.0, Qt.PenStyle.DashLine))
            painter.drawPolygon(self.level_box(room_box(item)))
        painter.setPen(QPen(QColor(self.colours.seam), 1.0, Qt.PenStyle.DashLine))
        x, y = item.width / 2.0, item.height / 2.0
        painter.drawPolyline(self.level_box((x, 0.0, x, item.height)))
        painter.drawPolyline(self.level_box((0.0, y, item.width, y)))

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
        """Distances from the design to the thing's edges, on its centre lines."""
        if self.result is None or self.result.margins is None or self.result.bounds is None or self.job is None:
            return
        if not self.hands.moved.isNull() or self.shows_sheet:
            return
        left, top, right, bottom = self.result.bounds
        near_x, near_y, far_x, far_y = self._edges_in_sight
        near_x, far_x = min(near_x, left), max(far_x, right)
        x, y = (left + right) / 2, (top + bottom) / 2
        ends = (
            ((near_x, y), (left, y)),
            ((right, y), (far_x, y)),
            ((x, near_y), (x, top)),
            ((x, bottom), (x, far_y)),
        )
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
        draw_pairs(self, painter, self.pairs_shown)
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
        painter.translate(self.to_widget(under.at[0] + self.hands.moved.x(), under.at[1] + self.hands.moved.y()))
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
        self.hands.press(event)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.hands.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.hands.release(event)
        self.update()

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
        self.menu_wanted.emit(event.globalPos(), self.element_at(at))

    def pan_by(self, way: QPointF) -> None:
        """Shift what is seen by so many pixels."""
        self.offset += way
        self._fitted = False
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.pan_by(QPointF(turn / 2, 0))
        else:
            self.zoom_by(1.0015**turn, event.position())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.hands.key(event):
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        self.hands.key_up(event)
        super().keyReleaseEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self._fitted:
            self.zoom_to_fit()

    def tag_at(self, at: QPointF) -> int:
        """The number of the finding whose tag lies there; -1 for none."""
        return -1 if self.look == "waste" else self.marks.at(at)

    def element_at(self, at: QPointF) -> str:
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

    def tell_place(self, at: QPointF) -> None:
        """Where the pointer is, in words."""
        if self.job is not None:
            x, y = self.level_at(at)
            x, y = x - self._edges[0], y - self._edges[1]
            unit = self.job.unit
            self.pointed.emit(f"{format_length(x, unit)} from the left, {format_length(y, unit)} from the top")


def _room(job: Job) -> tuple[object, ...]:
    """What the outline of the item in hand depends on."""
    return job.item.width, job.item.height, job.item.blank


def _box_of(shown: QPolygonF, table: Table) -> Box:
    """The box of a shape of the widget, in mm on the table."""
    box = shown.boundingRect()
    return *table.to_item(box.topLeft()), *table.to_item(box.bottomRight())
