"""Carriers: the mat or roll that takes film into the cutter, with its cuttable area."""

from __future__ import annotations

from msgspec import Struct

from vivid_thimble.core.ranges import Size


class Carrier(Struct, frozen=True, kw_only=True):
    """What takes the film into the cutter. ``cuttable_height`` None: as long as the roll lasts."""

    name: str
    cuttable_width: Size
    cuttable_height: Size | None


MAT = Carrier(name="Mat 305 x 305 mm", cuttable_width=292.0, cuttable_height=292.0)
ROLL = Carrier(name="Roll 300 mm wide", cuttable_width=300.0, cuttable_height=None)
CARRIERS: tuple[Carrier, ...] = (MAT, ROLL)
