"""What sources yield that put letters together themselves: named regions and the frame they are sized by."""

from __future__ import annotations

from dataclasses import dataclass

from vivid_thimble.core.geometry.parts import Parts
from vivid_thimble.core.geometry.path import Box


@dataclass(frozen=True, eq=False)
class Composed:
    """Parts in any unit. ``frame`` is what width and height mean; None: the inked box."""

    parts: Parts
    frame: Box | None = None
