"""The numbered tags of the findings on the table, each beside its place, and the chords that they point at."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.desktop.look.marks import draw_tag

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table

AWAY_PX, HELD_AWAY_PX = 15.0, 30.0
"""Tags lie beside their places, so that they do not cover what they point at."""
GRAB_PX = 13.0
ROOM_PX = 60.0
"""Tags so far outside the view are drawn as well."""
TAG_PX = 44
MOST_PICTURES = 1500
FRESH_S = 0.004
"""So long a frame may paint new tags; the others follow in the next."""


class FindingMarks:
    """Tags are painted once for a number and kind, and only those in view are shown: there may be hundreds."""

    def __init__(self, table: Table) -> None:
        self._table = table
        self._pictures: dict[tuple[object, ...], QPixmap] = {}
        self._soon = QTimer(table)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(table.update)
        self._of: tuple[Finding, ...] | None = None
        self._at = np.empty((0, 2))
        self._chords: dict[str, tuple[IntArray, FloatArray]] = {}
        """By severity: the numbers of the findings that have ends, and these, (n, 2, 2)."""

    def _places(self) -> FloatArray:
        """Where the tags lie on the widget, (n, 2)."""
        table = self._table
        if self._of is not table.findings:
            self._of = table.findings
            self._at = np.array([one.at for one in table.findings], float).reshape(-1, 2)
            for severity in ("look", "stop"):
                ended = [(k, one.ends) for k, one in enumerate(table.findings) if one.ends and one.severity == severity]
                ends = np.array([both for _, both in ended], float).reshape(-1, 2, 2)
                self._chords[severity] = np.array([k for k, _ in ended], int), ends
        offset = table.offset.x() + AWAY_PX, table.offset.y() - AWAY_PX
        places: FloatArray = self._at * table.px_per_mm + offset
        if 0 <= table.held_finding < len(places):
            places[table.held_finding] += HELD_AWAY_PX - AWAY_PX, AWAY_PX - HELD_AWAY_PX
        return places

    def place(self, number: int) -> QPointF:
        """Where the tag of a finding lies, counted from 0."""
        return QPointF(*self._places()[number].tolist())

    def at(self, point: QPointF) -> int:
        """The tag under a place; -1 for none."""
        near = (np.abs(self._places() - (point.x(), point.y())) < GRAB_PX).all(axis=1)
        return int(near.argmax()) if near.any() else -1

    def draw(self, painter: QPainter) -> None:
        """The one in hand last, on top; in the width look it alone."""
        table = self._table
        held = table.held_finding
        places = self._places()
        far = table.width() + ROOM_PX, table.height() + ROOM_PX
        in_view = np.asarray(((places > -ROOM_PX) & (places < far)).all(axis=1))
        if table.look == "widths":
            in_view &= np.arange(len(places)) == held
        numbers = sorted(np.flatnonzero(in_view).tolist(), key=lambda k: (k == held, -k))
        seen = [(number, QPointF(*places[number].tolist())) for number in numbers]
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._draw_chords(painter, places, in_view)
        until = time.perf_counter() + FRESH_S
        lacking = False
        half = QPointF(TAG_PX / 2, TAG_PX / 2)
        ratio = table.devicePixelRatioF()
        for number, place in seen:
            picture = self._picture(number, ratio, until)
            lacking |= picture is None
            if picture is not None:
                painter.drawPixmap(place - half, picture)
        if lacking:
            self._soon.start(0)

    def _draw_chords(self, painter: QPainter, places: FloatArray, in_view: NDArray[np.bool_]) -> None:
        """What is measured, and a line from there to the tag; all of a colour at once."""
        table = self._table
        offset = table.offset.x(), table.offset.y()
        for severity, colour in (("look", table.colours.look), ("stop", table.colours.stop)):
            numbers, ends = self._chords.get(severity, (np.empty(0, int), np.empty((0, 2, 2))))
            seen = in_view[numbers]
            leads = np.hstack([self._at[numbers[seen]] * table.px_per_mm + offset, places[numbers[seen]]])
            chords = (ends[seen] * table.px_per_mm + offset).reshape(-1, 4)
            for width, lines in ((1.2, leads), (2.4, chords)):
                painter.setPen(QPen(QColor(colour), width))
                painter.drawLines([QLineF(*line) for line in lines.tolist()])

    def _picture(self, number: int, ratio: float, until: float) -> QPixmap | None:
        """None when that time has come: this frame has painted enough new ones."""
        table = self._table
        finding, held = table.findings[number], number == table.held_finding
        key = number, finding.kind, finding.severity, held, table.colours.name, ratio
        known = self._pictures.get(key)
        if known is not None:
            return known
        if time.perf_counter() > until and not held:
            return None
        if len(self._pictures) > MOST_PICTURES:
            self._pictures.clear()
        picture = QPixmap(QSize(TAG_PX, TAG_PX) * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        with QPainter(picture) as painter:
            painter.setFont(table.font())
            draw_tag(painter, QPointF(TAG_PX / 2, TAG_PX / 2), number + 1, finding, table.colours, held=held)
        self._pictures[key] = picture
        return picture
