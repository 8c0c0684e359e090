"""A made-up kind of file: the corners of all outlines, a line each."""

from __future__ import annotations

from collections.abc import Sequence

from vivid_thimble.core.formats.svg_write import CutLayer


def points_bytes(layers: Sequence[CutLayer], width: float, height: float) -> bytes:
    corners = [
        f"{x:.3f} {y:.3f}"
        for layer in layers
        for path in layer.paths
        for contour in path.contours
        for x, y in contour.segments[:, 0].tolist()
    ]
    return "\n".join([f"{width:.3f} {height:.3f}", *corners, ""]).encode()
