"""The cut of one layer: film on its carrier, mirrored when the side asks, as SVG."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from vivid_thimble.core.errors import NothingToDraw
from vivid_thimble.core.formats.cut_file import cut_file
from vivid_thimble.core.formats.svg_write import CutLayer
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.layout.sheet import SheetPlan, plan_sheet
from vivid_thimble.core.materials.carriers import Carrier
from vivid_thimble.core.materials.films import Film

FILM_MARGIN_MM = 5.0
"""Film left round a design to hold and weed it; a stencil's surround is its own margin."""


@dataclass(frozen=True, eq=False)
class Cut:
    """Everything that leaves for the cutter; paths in mm from the sheet's top-left."""

    plan: SheetPlan
    paths: tuple[Path, ...]
    label: str
    colour: str
    mirror_reason: str | None

    @property
    def svg(self) -> str:
        return self.file("cut.svg").decode()

    def file(self, name: str) -> bytes:
        """The cut file as the ending of its name asks; raises InputRefused for an ending that is not written."""
        return cut_file(name, [CutLayer(self.label, self.colour, self.paths)], self.plan.width, self.plan.height)


def plan_cut(paths: Sequence[Path], film: Film, carrier: Carrier, *, margin: float, mirror_reason: str | None) -> Cut:
    """Lay outlines (mm on the item) on the carrier with ``margin`` mm of film round them.

    Raises NothingToDraw without outlines and DoesNotFitCarrier when they are too large.
    """
    bounds = Path.joined(paths).bounds
    if bounds is None:
        raise NothingToDraw("There is nothing to cut yet: gather words or a drawing first.")
    plan = plan_sheet(bounds, carrier, margin=margin, mirrored=mirror_reason is not None)
    laid = tuple(path.transformed(plan.affine) for path in paths)
    return Cut(plan, laid, film.name, film.colour, mirror_reason)
