"""Drawings as jobs, evaluated, and their findings of one kind."""

from __future__ import annotations

import shapely
from msgspec.structs import replace
from shapely import MultiPolygon

from vivid_thimble.core.cache import Cache, asset_key
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.formats.svg_write import CutLayer, svg_text
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.job.values import Element, Item, Job, Layer, Placement, new_job
from vivid_thimble.core.materials.method import USUAL_FILM, Method
from vivid_thimble.core.sources.artwork import Artwork


def drawn(shape: shapely.Geometry, method: Method = "decal") -> tuple[Job, dict[str, bytes]]:
    """A job that cuts a shape at its own size."""
    left, top, right, bottom = shape.bounds
    pieces = MultiPolygon([p for p in shapely.get_parts(shape) if p.geom_type == "Polygon"])
    outline = Region.from_polygons(shapely.transform(pieces, lambda p: p - [left, top])).outline
    data = svg_text([CutLayer("film", "#224466", (outline,))], right - left, bottom - top).encode()
    source = Artwork(asset=asset_key(data), name="shape.svg")
    element = Element(id="art", name="shape", source=source, placement=Placement(width=right - left))
    layer = Layer(id="layer", film=USUAL_FILM[method], elements=(element,))
    item = Item(id="item", name="item", width=400, height=300, method=method, layers=(layer,))
    return replace(new_job(), items=(item,)), {asset_key(data): data}


def inspected(job: Job, assets: dict[str, bytes]) -> ItemResult:
    return evaluate(job, assets, Cache())


def of_kind(result: ItemResult, *kinds: str) -> list[Finding]:
    return [f for f in result.findings if f.kind in kinds]
