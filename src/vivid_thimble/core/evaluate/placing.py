"""From a placement to the map that brings a shape to its size and place on the item."""

from __future__ import annotations

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.values import Item, Placement
from vivid_thimble.core.sources.lettering import NO_HEIGHTS, LetterHeights

WORKING_EM_MM = 150.0
"""The em of words while their letters are resolved."""


def placement_affine(placement: Placement, box: Box, item: Item, heights: LetterHeights | None = None) -> Affine:
    """The map that brings a source's inked box to its place on the item.

    ``heights`` are those of words in the box's unit. Raises InputRefused when there is nothing to size by.
    """
    left, top, right, bottom = box
    factor = size_factor(placement, right - left, bottom - top, heights)
    return (
        Affine.translation(-(left + right) / 2, -(top + bottom) / 2)
        .then(Affine.scaling(factor))
        .then(Affine.turning(placement.turn_deg))
        .then(Affine.translation(item.width / 2 + placement.dx, item.height / 2 + placement.dy))
    )


def size_factor(placement: Placement, width: float, height: float, heights: LetterHeights | None) -> float:
    known = heights or NO_HEIGHTS
    em = WORKING_EM_MM if heights is not None else None
    sizes = (
        (placement.capital, known.capital, "height of the capitals", "There are no capital letters to size by"),
        (placement.strip, known.strip, "height of the strip", "There are no letters to fit into a strip"),
        (placement.em, em, "size of the font", "There are no letters to size by"),
    )
    for wanted, has, side, lacking in sizes:
        if wanted is not None:
            if has is None:
                raise InputRefused(f"{lacking}: size the shape by its width or height.")
            return _factor(wanted, has, side)
    if placement.width is not None:
        return _factor(placement.width, width, "width")
    return _factor(placement.height or 0.0, height, "height")


def _factor(wanted: float, has: float, side: str) -> float:
    if wanted <= 0.0:
        raise InputRefused(f"The {side} must be more than zero: type a size such as 120mm.")
    if has <= 0.0:
        raise InputRefused(f"The shape has no {side} to size by: size it the other way.")
    return wanted / has
