"""A pair of letters in hand on the table: dragging the mark between them moves the second, and what follows."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter

from vivid_thimble.core.lengths import fine_unit, format_length
from vivid_thimble.core.steps.join import Pair
from vivid_thimble.desktop.look.theme import Palette
from vivid_thimble.desktop.table.arranging import draw_plate

if TYPE_CHECKING:
    from vivid_thimble.desktop.table.table import Table

GRAB_PX = 9.0
LEAST_MM = 0.05


class PairHands:
    """``by``: how far the second letter is moved, mm to the right."""

    def __init__(self, table: Table) -> None:
        self._table = table
        self._pair: Pair | None = None
        self._from = 0.0
        self.by = 0.0

    @property
    def is_dragging(self) -> bool:
        return self._pair is not None

    def over(self, at: QPointF, pairs: tuple[Pair, ...]) -> Pair | None:
        """The pair whose mark lies under a place."""
        for pair in pairs:
            centre = self._table.place(*pair.at)
            if np.hypot(centre.x() - at.x(), centre.y() - at.y()) <= GRAB_PX:
                return pair
        return None

    def press(self, at: QPointF, pairs: tuple[Pair, ...]) -> bool:
        self._pair, self.by = self.over(at, pairs), 0.0
        self._from = self._table.level_at(at)[0]
        return self._pair is not None

    def drag(self, at: QPointF) -> None:
        self.by = round(self._table.level_at(at)[0] - self._from, 2)

    def release(self) -> tuple[int, float] | None:
        """The number of the second letter and how far it goes; None when it hardly moved."""
        pair, self._pair = self._pair, None
        return None if pair is None or abs(self.by) < LEAST_MM else (pair.letter, self.by)

    def moving_side(self) -> QRectF | None:
        """The part of the item whose letters move: right of the mark, in its line."""
        pair, result = self._pair, self._table.result
        if pair is None or result is None or not self._table.arranging.picked:
            return None
        held = result.element(self._table.arranging.picked[0])
        letters = held.letters if held is not None else ()
        box = letters[pair.letter].region.bounds if pair.letter < len(letters) else None
        if box is None:
            return None
        high = box[3] - box[1]
        return QRectF(pair.at[0], box[1] - high, 1e5, 3.0 * high)

    def draw(self, painter: QPainter, palette: Palette) -> None:
        pair, job = self._pair, self._table.job
        if pair is None or job is None:
            return
        length = format_length(abs(self.by), fine_unit(job.unit))
        at = self._table.place(*pair.at) + QPointF(0, -24)
        draw_plate(painter, palette, at, f"{pair.right} {length} {'apart' if self.by > 0 else 'closer'}")
