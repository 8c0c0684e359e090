"""What the pointer and the keys do on the table: whoever takes a press has the drag until it is let go."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt, SignalInstance
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen

from vivid_thimble.desktop.table.bridge_hands import NUDGE_MM as BRIDGE_NUDGE_MM

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table

LEAST_DRAG_PX = 2.0
LEAST_FRAME_PX = 5.0
NUDGE_MM, NUDGE_INCH_MM = 1.0, 25.4 / 16
FAR = 10
"""With Shift everything goes so many times as far."""
ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}


class Hands:
    """The drag that goes on, by what it moves, and the keys."""

    def __init__(self, table: Table) -> None:
        self._table = table
        self._drag: tuple[str, QPointF] | None = None
        self.moved = QPointF(0, 0)
        """How far what is in hand is from where it was, in mm."""
        self._way = QPointF(0, 0)
        """The way of the pointer; the drag itself snaps to lines."""
        self._frame: QRectF | None = None
        self._space = False
        self._drags: dict[str, Callable[[QPointF, QPointF, Qt.KeyboardModifier], None]] = {
            "pan": self._drag_pan,
            "bridge": self._drag_bridge,
            "sheet": self._drag_sheet,
            "pair": self._drag_pair,
            "size": self._drag_size,
            "turn": self._drag_turn,
            "guide": self._drag_guide,
            "tape": self._drag_tape,
            "frame": self._drag_frame,
            "move": self._drag_move,
        }
        """By kind, what a drag does: the pointer's place, where it was, the keys that are held."""

    @property
    def is_moving(self) -> bool:
        return self._drag is not None and self._drag[0] == "move" and not self.moved.isNull()

    def forget(self) -> None:
        """What was moved is there now."""
        self.moved = self._way = QPointF(0, 0)

    # -- pressing -------------------------------------------------------------------

    def press(self, event: QMouseEvent) -> None:
        at, left = event.position(), event.button() == Qt.MouseButton.LeftButton
        if event.button() == Qt.MouseButton.MiddleButton or (self._space and left):
            self._drag = ("pan", at)
            self._table.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif left:
            if self._table.shows_sheet and not self._table.tape.on:
                self._drag = ("pan", at)
            elif taken := self._taken(at):
                self._drag = (taken, at)
            elif self._table.look != "item":
                self._press_design(at, also=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def _taken(self, at: QPointF) -> str:
        """Which of the tools that lie over the design takes a press; none for an empty word."""
        table = self._table
        if table.tape.on:
            table.tape.press(at)
            return "tape"
        if table.guides.press(at):
            return "guide"
        if table.look == "item":
            return ""
        if table.bridges.press(at):
            return "bridge"
        if table.sheet.press(at):
            return "sheet"
        return "pair" if table.pairs.press(at, table.pairs_shown) else ""

    def _press_design(self, at: QPointF, *, also: bool) -> None:
        table = self._table
        tag = table.tag_at(at)
        if tag >= 0:
            table.finding_pressed.emit(tag)
        elif table.arranging.press_handle(at):
            self._drag = ("size", at)
        elif table.arranging.press_knob(at):
            self._drag = ("turn", at)
        elif element := table.element_at(at):
            if also:
                table.also_pressed.emit(element)
            else:
                table.element_pressed.emit(element)
                self._drag, self._way = ("move", at), QPointF(0, 0)
        else:
            self._drag, self._frame = ("frame", at), QRectF(at, at)

    # -- dragging -------------------------------------------------------------------

    def move(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._drag is None:
            self._hover(at)
            return
        kind, last = self._drag
        self._drags[kind](at, last, event.modifiers())
        self._drag = (kind, at)
        self._table.update()

    def _hover(self, at: QPointF) -> None:
        table = self._table
        table.setCursor(self._cursor_over(at))
        if table.tape.on:
            table.tape.hover(at)
            table.pointed.emit(table.tape.words())
            table.update()
        else:
            table.tell_place(at)

    def _cursor_over(self, at: QPointF) -> Qt.CursorShape:
        table = self._table
        if table.bridges.adding or table.tape.on:
            return Qt.CursorShape.CrossCursor
        knob = table.arranging.knob()
        if knob is not None and (knob - at).manhattanLength() < 16:
            return Qt.CursorShape.CrossCursor
        corner = table.arranging.over_handle(at)
        if corner >= 0:
            return Qt.CursorShape.SizeFDiagCursor if corner in (0, 2) else Qt.CursorShape.SizeBDiagCursor
        if table.pairs.over(at, table.pairs_shown) is not None:
            return Qt.CursorShape.SizeHorCursor
        over = table.tag_at(at) >= 0 or table.bridges.number_at(at) >= 0 or bool(table.element_at(at))
        return Qt.CursorShape.OpenHandCursor if over else Qt.CursorShape.ArrowCursor

    def _drag_pan(self, at: QPointF, last: QPointF, held: Qt.KeyboardModifier) -> None:
        self._table.pan_by(at - last)

    def _drag_bridge(self, at: QPointF, last: QPointF, held: Qt.KeyboardModifier) -> None:
        if self._table.bridges.is_dragging:
            self._table.bridges.drag(at)

    def _drag_sheet(self, at: QPointF, last: QPointF, held: Qt.KeyboardModifier) -> None:
        self._table.sheet.drag(at)

    def _drag_pair(self, at: QPointF, last: QPointF, held: Qt.KeyboardModifier) -> None:
        self._table.pairs.drag(at)

    def _drag_size(self, at: QPointF, last: QPointF, held: Qt.KeyboardModifier) -> None:
        self._table.arranging.drag_handle(at)

    def _drag_turn(self, at: QPointF, last: QPointF, held: Qt.KeyboardModifier) -> None:
        self._table.arranging.drag_knob(at, in_steps=bool(held & Qt.KeyboardModifier.ShiftModifier))

    def _drag_guide(self, at: QPointF, last: QPointF, held: Qt.KeyboardModifier) -> None:
        self._table.guides.drag(at)

    def _drag_tape(self, at: QPointF, last: QPointF, held: Qt.KeyboardModifier) -> None:
        self._table.tape.drag(at, straight=bool(held & Qt.KeyboardModifier.ShiftModifier))
        self._table.pointed.emit(self._table.tape.words())

    def _drag_frame(self, at: QPointF, last: QPointF, held: Qt.KeyboardModifier) -> None:
        assert self._frame is not None
        self._frame.setBottomRight(at)

    def _drag_move(self, at: QPointF, last: QPointF, held: Qt.KeyboardModifier) -> None:
        table = self._table
        self._way += (at - last) / table.px_per_mm
        if (abs(self._way.x()) + abs(self._way.y())) * table.px_per_mm > LEAST_DRAG_PX:
            freely = bool(held & Qt.KeyboardModifier.AltModifier)
            self.moved = QPointF(*table.arranging.snapped(self._way.x(), self._way.y(), freely=freely))
            table.pointed.emit(table.arranging.shift_words(self.moved.x(), self.moved.y()))

    # -- letting go -----------------------------------------------------------------

    def release(self, event: QMouseEvent) -> None:
        table = self._table
        kind = self._drag[0] if self._drag else ""
        self._drag = None
        table.setCursor(Qt.CursorShape.CrossCursor if table.tape.on else Qt.CursorShape.ArrowCursor)
        table.arranging.let_go()
        ends: dict[str, Callable[[], None]] = {
            "bridge": lambda: _tell(table.bridge_placed, table.bridges.release()),
            "sheet": lambda: _tell(table.margin_dragged, table.sheet.release()),
            "pair": lambda: _tell(table.letter_nudged, table.pairs.release()),
            "size": lambda: _tell(table.resized, table.arranging.release_handle()),
            "turn": self._end_turn,
            "guide": lambda: _tell(table.guide_placed, table.guides.release(event.position())),
            "frame": self._take_framed,
        }
        if kind in ends:
            ends[kind]()
        if kind == "move" and not self.moved.isNull():
            table.moved.emit(self.moved.x(), self.moved.y())
        else:
            self.moved = QPointF(0, 0)

    def _end_turn(self) -> None:
        angle = self._table.arranging.release_knob()
        if angle is not None:
            self._table.turned.emit(angle)

    def _take_framed(self) -> None:
        """Take in hand whatever lies wholly inside the frame that was drawn."""
        frame, self._frame = self._frame, None
        if frame is None or self._table.job is None or max(abs(frame.width()), abs(frame.height())) < LEAST_FRAME_PX:
            return
        inside = self._table.arranging.inside(frame.normalized())
        if inside:
            self._table.picked.emit(inside)

    def draw_frame(self, painter: QPainter) -> None:
        if self._frame is not None:
            thread = QColor(self._table.colours.thread)
            painter.setPen(QPen(thread, 1.2, Qt.PenStyle.DashLine))
            thread.setAlpha(30)
            painter.setBrush(thread)
            painter.drawRect(self._frame.normalized())

    # -- keys -----------------------------------------------------------------------

    def key(self, event: QKeyEvent) -> bool:
        """Whether the key means something here."""
        table, key = self._table, Qt.Key(event.key())
        far = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if table.bridges.held >= 0 and self._bridge_key(key):
            return True
        if table.shows_sheet and key in (*ARROWS, Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            return True  # what lies here follows from the design; it is changed where that is made
        if key in ARROWS and table.job is not None:
            across, down = ARROWS[key]
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                self._grow_or_turn(across, down, far=far)
            else:
                table.moved.emit(across * self._nudge(far=far), down * self._nudge(far=far))
        elif key == Qt.Key.Key_Space:
            self._space = True
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            table.delete_wanted.emit()
        elif key == Qt.Key.Key_Escape and table.tape.on:
            table.use_tape(on=False)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            table.zoom_by(1.25)
        elif key == Qt.Key.Key_Minus:
            table.zoom_by(0.8)
        else:
            return False
        return True

    def key_up(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space:
            self._space = False

    def _nudge(self, *, far: bool) -> float:
        job = self._table.job
        step = NUDGE_INCH_MM if job is not None and job.unit.startswith("in") else NUDGE_MM
        return step * (FAR if far else 1)

    def _grow_or_turn(self, across: int, down: int, *, far: bool) -> None:
        """With Control: up and down make what is in hand wider and narrower, left and right turn it."""
        if down:
            self._table.grown.emit(-down * self._nudge(far=far))
        else:
            self._table.turned.emit(-across * (15.0 if far else 1.0))

    def _bridge_key(self, key: Qt.Key) -> bool:
        """Arrows slide the bridge in hand along its edge; Delete takes it out; Escape lays it aside.

        No arrow moves the words meanwhile, not even while a bridge that was moved is still being worked out.
        """
        table = self._table
        if key in ARROWS:
            across, down = ARROWS[key]
            _tell(table.bridge_placed, table.bridges.slid((across + down) * BRIDGE_NUDGE_MM))
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            table.bridge_out.emit()
        elif key == Qt.Key.Key_Escape:
            table.bridge_held.emit(-1)
        else:
            return False
        return True


def _tell(signal: SignalInstance, values: tuple[object, ...] | None) -> None:
    """Send what came of a drag, if anything did."""
    if values is not None:
        signal.emit(*values)
