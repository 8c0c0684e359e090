"""A cross that arrow keys move over a picture, for those who do not use a mouse."""

from __future__ import annotations

from PySide6.QtCore import Qt

from vivid_thimble.core.tracing.prepare import Share

ARROWS = {
    Qt.Key.Key_Left: (-1.0, 0.0),
    Qt.Key.Key_Right: (1.0, 0.0),
    Qt.Key.Key_Up: (0.0, -1.0),
    Qt.Key.Key_Down: (0.0, 1.0),
}


def moved_cross(key: Qt.Key, cross: Share | None, step: float) -> Share | None:
    """Where an arrow key moves the cross, from the middle at first; None for any other key."""
    if key not in ARROWS:
        return None
    x, y = cross or (0.5, 0.5)
    dx, dy = ARROWS[key]
    return min(max(x + step * dx, 0.0), 0.999), min(max(y + step * dy, 0.0), 0.999)
