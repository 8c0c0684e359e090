"""One film as it lies in the cutter: mirrored and turned as its file is, nothing of the other films, places on the
sheet."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely
from msgspec import structs

from vivid_thimble.core.errors import DoesNotFitCarrier
from vivid_thimble.core.evaluate.results import ItemResult, LayerResult, film_margin
from vivid_thimble.core.finish.weeding import WeedingPlan
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.parts import Parts
from vivid_thimble.core.geometry.path import Box, Path
from vivid_thimble.core.inspect.inspection import Inspection
from vivid_thimble.core.inspect.pieces import Piece
from vivid_thimble.core.job.values import Item, mirror_reason
from vivid_thimble.core.layout.sheet import SheetPlan, plan_sheet
from vivid_thimble.core.materials.carriers import Carrier

UNBOUNDED = Carrier(name="any", cuttable_width=1e9, cuttable_height=None)


@dataclass(frozen=True, eq=False)
class SheetView:
    """A result of one film whose item is the sheet itself. ``plan``: how it lies; ``fits``: whether on the carrier."""

    result: ItemResult
    plan: SheetPlan
    fits: bool


def sheet_view(result: ItemResult, film: int, carrier: Carrier) -> SheetView | None:
    """Film number ``film`` (from 0) as it is cut; one that is too large lies as it would on a carrier that takes it.

    None when there is nothing to cut.
    """
    layer, item = result.layers[film], result.item
    bounds = Path.joined((*layer.cut_paths, *layer.waste_cuts)).bounds
    if bounds is None:
        return None
    mirrored, margin, fits = mirror_reason(item) is not None, film_margin(item), True
    try:
        plan = plan_sheet(bounds, carrier, margin=margin, mirrored=mirrored)
    except DoesNotFitCarrier:
        plan, fits = plan_sheet(bounds, UNBOUNDED, margin=margin, mirrored=mirrored), False
    lies = structs.replace(layer.layer, elements=())
    sheet = Item(
        id=item.id, name=item.name, width=plan.width, height=plan.height, method=item.method,
        weeding_box=item.weeding_box, relief=item.relief, layers=(lies,),
    )  # fmt: skip
    mapped = replace(_mapped(layer, plan.affine), layer=lies)
    box = mapped.kept.bounds
    return SheetView(ItemResult(sheet, (mapped,), box, (0.0, 0.0, plan.width, plan.height), ()), plan, fits)


def plan_on_sheet(plan: WeedingPlan, view: SheetView) -> WeedingPlan:
    """The picks of the film with their places on its sheet."""
    affine = view.plan.affine
    picks = tuple(replace(one, piece=_piece(one.piece, affine), at=_place(one.at, affine)) for one in plan.picks)
    relief = tuple(shapely.transform(line, affine.apply) for line in plan.relief)
    return replace(plan, picks=picks, box=None if plan.box is None else _box(plan.box, affine), relief=relief)


def _mapped(layer: LayerResult, affine: Affine) -> LayerResult:
    kept = layer.kept.carried(affine)  # what is only looked at need not wind the right way
    return LayerResult(
        layer.layer,
        (),
        _parts(layer.parts, affine),
        layer.design.carried(affine),
        kept,
        (),
        _inspection(layer.inspection, affine),
        layer.key,
        box=kept.bounds,
        marks=_parts(layer.marks, affine),
        beside=_parts(layer.beside, affine),
        sheet_box=None if layer.sheet_box is None else kept.bounds,
        waste_cuts=tuple(path.transformed(affine) for path in layer.waste_cuts),
    )


def _inspection(inspection: Inspection, affine: Affine) -> Inspection:
    waste = tuple(_piece(one, affine) for one in inspection.waste)
    kept = tuple(_piece(one, affine) for one in inspection.kept)
    return replace(inspection, findings=(), waste=waste, kept=kept, loose=(), causes=())


def _parts(parts: Parts, affine: Affine) -> Parts:
    return tuple(part.with_region(part.region.carried(affine)) for part in parts)


def _piece(piece: Piece, affine: Affine) -> Piece:
    return replace(piece, polygon=shapely.transform(piece.polygon, affine.apply), at=_place(piece.at, affine))


def _place(at: tuple[float, float], affine: Affine) -> tuple[float, float]:
    x, y = affine.apply(np.array(at)).tolist()
    return x, y


def _box(box: Box, affine: Affine) -> Box:
    left, top, right, bottom = shapely.transform(shapely.box(*box), affine.apply).bounds
    return left, top, right, bottom
