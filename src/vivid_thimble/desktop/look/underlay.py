"""A picture that lies under the cut lines on the table, and named places on the item."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtGui import QImage

if TYPE_CHECKING:  # it brings the tracer
    from vivid_thimble.core.tracing.label_map import ColourImage


@dataclass(frozen=True, eq=False)
class Underlay:
    """``lies``: left, top, width, height in mm round the place ``at`` on the item, turned by ``turn_deg`` there."""

    image: QImage
    lies: tuple[float, float, float, float]
    at: tuple[float, float]
    turn_deg: float


@dataclass(frozen=True)
class NamedPlace:
    """A place on the item in mm, and what is there in a word."""

    at: tuple[float, float]
    name: str


def image_of(pixels: ColourImage) -> QImage:
    """A picture that owns its pixels."""
    rows, columns = pixels.shape[:2]
    return QImage(pixels.tobytes(), columns, rows, 3 * columns, QImage.Format.Format_RGB888).copy()
