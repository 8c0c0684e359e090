"""Surfaces: how small a detail each can show.

Paint creeps and fibres hide what is small. The figures are starting points to edit after a try on
a hidden corner.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

SurfaceName = Literal["smooth", "fine-cloth", "rough-wood", "rough-cloth", "coir", "spray"]


@dataclass(frozen=True)
class Surface:
    """A surface and the width in mm below which details are lost on it (0: none)."""

    title: str
    detail: float


SURFACES: dict[SurfaceName, Surface] = {
    "smooth": Surface("Smooth: glass, glaze, varnish", 0.0),
    "fine-cloth": Surface("Fine cloth", 0.8),
    "spray": Surface("Sprayed without a tight edge", 1.2),
    "rough-wood": Surface("Rough wood, plaster", 1.5),
    "rough-cloth": Surface("Rough cloth, canvas", 2.0),
    "coir": Surface("Coir and other bristle mats", 5.0),
}
