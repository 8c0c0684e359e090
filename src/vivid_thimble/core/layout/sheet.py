"""One film on one carrier: does the sheet fit, and where does it lie.

The sheet is the film that the cut needs: the design with its weeding margin, or a
stencil with its surround. It may be turned by a quarter when it fits only that way.
"""

from __future__ import annotations

from dataclasses import dataclass

from vivid_thimble.core.errors import DoesNotFitCarrier
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.materials.carriers import Carrier
from vivid_thimble.core.messages import Message, Said

TOO_WIDE, TOO_LONG = "{over:.1f} mm too wide", "{over:.1f} mm too long"


@dataclass(frozen=True)
class SheetPlan:
    """Where the film lies: its size on the carrier and the map from the item to the sheet."""

    width: float
    height: float
    turned: bool
    mirrored: bool
    affine: Affine


def plan_sheet(bounds: Box, carrier: Carrier, *, margin: float, mirrored: bool) -> SheetPlan:
    """Lay a box (on the item) with ``margin`` mm of film round it onto the carrier.

    Raises DoesNotFitCarrier with the overhang when it fits neither way.
    """
    left, top, right, bottom = bounds
    width, height = right - left + 2 * margin, bottom - top + 2 * margin
    place = Affine.translation(margin - left, margin - top)
    if mirrored:
        place = place.then(Affine.mirroring()).then(Affine.translation(width, 0.0))
    if _fits(width, height, carrier):
        return SheetPlan(width, height, False, mirrored, place)
    if _fits(height, width, carrier):
        turned = place.then(Affine.turning(90.0)).then(Affine.translation(0.0, width))
        return SheetPlan(height, width, True, mirrored, turned)
    raise DoesNotFitCarrier(_overhang(width, height, carrier))


def _fits(width: float, height: float, carrier: Carrier) -> bool:
    """Across the carrier and along it; a roll has no end."""
    tall = carrier.cuttable_height
    return width <= carrier.cuttable_width + 1e-6 and (tall is None or height <= tall + 1e-6)


def _overhang(width: float, height: float, carrier: Carrier) -> Message:
    """The smaller overhang of both ways to lay it, in words."""
    options = []
    for w, h in ((width, height), (height, width)):
        over_w = max(w - carrier.cuttable_width, 0.0)
        over_h = max(h - carrier.cuttable_height, 0.0) if carrier.cuttable_height is not None else 0.0
        options.append((over_w + over_h, over_w, over_h))
    _, over_w, over_h = min(options)
    parts = [Message.of(text, over=over) for over, text in ((over_w, TOO_WIDE), (over_h, TOO_LONG)) if over > 0]
    over = parts[0] if len(parts) == 1 else Message.of("{one} and {other}", one=parts[0], other=parts[1])
    area = Message.of("{wide:g} mm wide", wide=carrier.cuttable_width)
    if carrier.cuttable_height is not None:
        area = Message.of("{wide:g} x {high:g} mm", wide=carrier.cuttable_width, high=carrier.cuttable_height)
    text = (
        "The sheet of {width:.1f} x {height:.1f} mm does not fit {carrier}, which cuts {area}: it is {over}; make the "
        "design smaller or choose another carrier."
    )
    return Message.of(text, width=width, height=height, carrier=Said(carrier.name), area=area, over=over)
