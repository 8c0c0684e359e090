"""What an inspection found, as plain data."""

from __future__ import annotations

from vivid_thimble.cli.figures import Facts, figure, rounded
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.inspect.findings import Finding


def inspection_json(result: ItemResult, at: int = 0) -> Facts:
    """The figures of one film of an item, with the findings of all of it."""
    layer = result.layers[at]
    inspection = layer.inspection
    left, top, right, bottom = result.bounds or (0.0, 0.0, 0.0, 0.0)
    size = (right - left, bottom - top)
    element = layer.elements[0]
    clean = inspection.smallest_clean_scale
    return {
        "size_mm": rounded(size),
        "nodes": layer.kept.outline.node_count,
        "contours": len(layer.kept.outline.contours),
        "open_paths": len(element.open_outlines),
        "doubled_paths": len(element.doubled_outlines),
        "cut_length_mm": round(float(layer.kept.polygons.length), 3),
        "thinnest_line_mm": figure(inspection.thinnest_line),
        "thinnest_gap_mm": figure(inspection.thinnest_gap),
        "places": [place_json(f, (left, top)) for f in result.findings if not f.matter.is_note],
        "findings": [finding_json(f, (left, top)) for f in result.findings],
        "loose_pieces": len(inspection.loose) if result.item.is_stencil else None,
        "kept_pieces": len(inspection.kept),
        "waste_pieces": len(inspection.waste),
        "smallest_kept_mm2": figure(min((p.area for p in inspection.kept), default=None)),
        "smallest_waste_mm2": figure(min((p.area for p in inspection.waste), default=None)),
        "smallest_clean_width_mm": figure(clean * size[0] if clean else None),
        "smallest_clean_causes": [
            {
                "kind": cause.kind,
                "width_mm": figure(cause.scale * size[0]),
                "at_mm": rounded((cause.at[0] - left, cause.at[1] - top)),
            }
            for cause in inspection.causes
        ],
        "places_no_size_cures": sum(1 for f in inspection.incurable if f.severity == "stop"),
        "weeding_minutes": list(result.weedings[0].effort.minutes),
        "not_understood": [f"{count} x {what}" for what, count in element.not_understood],
    }


def stops_of(result: ItemResult) -> list[str]:
    """What has to be mended, in sentences: sources and steps that fail, and findings of severity stop."""
    problems = [problem.sentence for layer in result.layers for problem in layer.problems]
    return [*problems, *(finding.sentence for finding in result.findings if finding.severity == "stop")]


def finding_json(finding: Finding, origin: tuple[float, float]) -> Facts:
    """A finding with its code and the values of its sentence."""
    told: Facts = {"code": finding.kind, "of": finding.belongs_to, "values": finding.message.facts()}
    return {**told, **place_json(finding, origin)}


def place_json(finding: Finding, origin: tuple[float, float]) -> Facts:
    place: Facts = {"kind": finding.kind, "severity": finding.severity, "says": finding.sentence}
    if finding.at is not None:
        place["at_mm"] = rounded((finding.at[0] - origin[0], finding.at[1] - origin[1]))
    for key, value in (
        ("width_mm", finding.width),
        ("length_mm", finding.length),
        ("area_mm2", finding.area),
        ("limit_mm", finding.limit),
    ):
        if value is not None:
            place[key] = round(value, 4)
    return place
