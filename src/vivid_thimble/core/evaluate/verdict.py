"""The findings of an evaluated layer and item, in words and with names of letters.

Joins what the inspection measured with what only the recipe knows: overlaps of parts
that are not welded, faults of sources, failed steps, the fit on the item.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import shapely

from vivid_thimble.core.blanks.kinds import ROUND, Cylinder, Tapered
from vivid_thimble.core.errors import DoesNotFitCarrier
from vivid_thimble.core.evaluate.results import LayerResult, film_margin
from vivid_thimble.core.geometry.parts import overlapping_pairs
from vivid_thimble.core.geometry.path import Box, box_round
from vivid_thimble.core.inspect.findings import Finding
from vivid_thimble.core.job.values import Item, elements_of
from vivid_thimble.core.layout.sheet import plan_sheet
from vivid_thimble.core.materials.carriers import Carrier
from vivid_thimble.core.materials.method import SURROUND_FOR
from vivid_thimble.core.messages import Message, Said
from vivid_thimble.core.room.ball import on_ball
from vivid_thimble.core.room.thing import edges_of, stencil_box, thing_box, wanted_stencil_box
from vivid_thimble.core.sources.provenance import may_not_be_sold
from vivid_thimble.core.steps.frame import tightest_margin

SIDES = ("left", "right", "top", "bottom")
LEFT_OPEN = "An outline of {name} was left open by {gap:.2f} mm: it is closed straight."
LEAST_ROUND_MARK_MM = 3.0
"""Film left between a register mark and the sheet's edge."""


def layer_findings(result: LayerResult) -> list[Finding]:
    findings = [_belonging(finding, result) for finding in result.inspection.findings]
    pairs = overlapping_pairs(result.parts) if len(result.parts) > 1 else []
    if pairs:
        names = tuple(
            Message.of("{one} and {other}", one=Said(result.parts[i].label), other=Said(result.parts[j].label))
            for i, j in pairs[:3]
        )
        more = Message.of(" and {count} more", count=len(pairs) - 3) if len(pairs) > 3 else ""
        where = result.parts[pairs[0][1]].region.bounds
        at = ((where[0] + where[2]) / 2, (where[1] + where[3]) / 2) if where else None
        findings.append(
            Finding(
                "overlapping-cuts",
                "stop",
                Message.of("Cuts run through overlaps ({names}{more}): weld them.", names=names, more=more),
                at,
            )
        )
    for element in result.elements:
        name = element.element.name
        findings += [
            Finding(
                "open-path",
                "look",
                Message.of(LEFT_OPEN, name=Said(name), gap=o.gap),
                result.on_film(o.at),
                width=o.gap,
                belongs_to=name,
            )
            for o in element.open_outlines
        ]
        findings += [
            Finding(
                "doubled-path",
                "look",
                Message.of("An outline of {name} is drawn twice: it is cut once.", name=Said(name)),
                result.on_film(d.at),
                length=d.length,
                belongs_to=name,
            )
            for d in element.doubled_outlines
        ]
        if element.not_understood:
            left_out = tuple(Message.of("{count} x {what}", count=n, what=what) for what, n in element.not_understood)
            text = "Not understood yet in {name} and left out: {what}."
            told = Message.of(text, name=Said(name), what=left_out)
            findings.append(Finding("not-understood", "look", told, belongs_to=name))
        findings += [Finding(note.code, "look", note.message, belongs_to=name) for note in element.notes]
    findings += [Finding("step-failed", "stop", problem.message) for problem in result.problems]
    for one in result.remarks:
        at = None if one.at is None else result.on_film(one.at)
        findings.append(Finding(one.code, "look", one.message, at, cured_by_size=False))
    return findings


def _belonging(finding: Finding, result: LayerResult) -> Finding:
    """Name the letters or drawings that a finding lies at."""
    if finding.at is None:
        return finding
    reach = (finding.width or 0.0) / 2.0 + 0.05
    x, y = result.on_item(finding.at)
    names = []
    for element in result.elements:
        for part in element.letters:
            box = part.region.bounds
            near = box and box[0] - reach <= x <= box[2] + reach and box[1] - reach <= y <= box[3] + reach
            if near and shapely.dwithin(part.region.polygons, shapely.Point(x, y), reach):
                names.append(part.label)
    return replace(finding, belongs_to=" and ".join(dict.fromkeys(names)))


def fit_findings(item: Item, layers: Sequence[LayerResult], carrier: Carrier) -> list[Finding]:
    """Whether the design fits its item, the cut its carrier, and the squeegee the design."""
    level = box_round(layer.box for layer in layers)
    if level is None:
        return []
    sheet = next((layer.sheet_box for layer in layers if layer.sheet_box is not None), None)
    return [
        *_over_the_edge(item, layers, level),
        *_round_the_item(item, level),
        *_beyond_carrier(item, layers, carrier),
        *_squeegee(item, level),
        *(_sheet_margins(item, sheet, level) if sheet is not None else ()),
        *(_sheet_past_rim(item, level) if sheet is not None else ()),
        *(_marks_beyond_sheet(item, sheet, layers, level) if sheet is not None else ()),
    ]


def licence_findings(item: Item) -> list[Finding]:
    """Drawings that may not be sold, for a job that is made for sale."""
    told = [(e.name, may_not_be_sold(e.source.origin, e.name)) for e in elements_of(item)]
    return [
        Finding("not-for-sale", "look", message, belongs_to=name, cured_by_size=False)
        for name, message in told
        if message is not None
    ]


def _over_the_edge(item: Item, layers: Sequence[LayerResult], bounds: Box) -> list[Finding]:
    """Beyond the thing's edges, or only into what is to stay free along them."""
    left, top, right, bottom = bounds
    into = {"left": -left, "right": right - item.width, "top": -top, "bottom": bottom - item.height}
    out = {side: amount for side, amount in into.items() if amount > 1e-6}
    if not out:
        return []
    beyond = {side: -room for side, room in zip(SIDES, edges_of(item, bounds), strict=True) if room < -1e-6}
    told = beyond or out
    amounts = tuple(Message.of("{amount:.1f} mm at the {side}", amount=a, side=side) for side, a in told.items())
    text = "The design reaches into what is to stay free on {name}: {amounts}."
    if beyond:
        text = "The design runs over the edge of {name}: {amounts}."
    return [
        Finding(
            "does-not-fit",
            "stop",
            Message.of(text, name=Said(item.name), amounts=amounts),
            ((left + right) / 2, (top + bottom) / 2),
            width=max(told.values()),
            belongs_to=", ".join(_parts_outside(item, layers)[:4]),
            cured_by_size=False,
        )
    ]


def _sheet_past_rim(item: Item, bounds: Box) -> list[Finding]:
    """On round things a sheet that would pass rim or foot ends there."""
    if not isinstance(item.blank, ROUND):
        return []
    wanted, given = wanted_stencil_box(item, bounds), stencil_box(item, bounds)
    found = []
    for edge, over in (("rim", given[1] - wanted[1]), ("foot", wanted[3] - given[3])):
        if over > 1e-6:
            text = "The sheet would pass the {edge} by {over:.1f} mm: it ends there. Mask what lies beyond by hand."
            told = Message.of(text, edge=edge, over=over)
            found.append(Finding("sheet-past-rim", "look", told, belongs_to=edge, cured_by_size=False))
    return found


def _round_the_item(item: Item, bounds: Box) -> list[Finding]:
    """What round things do to a design: film that creases on a ball, ends that turn out of sight."""
    told = []
    ball = on_ball(item, bounds)
    where = ((bounds[0] + bounds[2]) / 2.0, (bounds[1] + bounds[3]) / 2.0)
    if ball is not None and ball.creases:
        text = (
            "At the edge of the design flat film is {surplus:.1f} % too long for the ball and creases: "
            "snip the film round it in {snips} places, or make the design smaller."
        )
        message = Message.of(text, surplus=100 * ball.surplus, snips=ball.snips)
        told.append(Finding("creases-on-ball", "look", message, where, cured_by_size=False))
    blank, wide = item.blank, bounds[2] - bounds[0]
    if isinstance(blank, Cylinder | Tapered) and wide > blank.seen_width * 1.001 and blank.shown != "all":
        text = "The design reaches {wide:.1f} mm round; from the front {seen:.1f} mm are seen well, its ends turn away."
        message = Message.of(text, wide=wide, seen=blank.seen_width)
        told.append(Finding("turns-out-of-sight", "look", message, where, cured_by_size=False))
    return told


def _parts_outside(item: Item, layers: Sequence[LayerResult]) -> list[str]:
    """Letters and drawings that reach over the item's edges, tails included."""
    names = []
    for part in (part for layer in layers for element in layer.elements for part in element.letters):
        box = part.region.bounds
        if box and (min(box[:2]) < -1e-6 or box[2] > item.width + 1e-6 or box[3] > item.height + 1e-6):
            names.append(part.label)
    return list(dict.fromkeys(names))


def _beyond_carrier(item: Item, layers: Sequence[LayerResult], carrier: Carrier) -> list[Finding]:
    findings = []
    for layer in layers:
        if layer.kept.bounds is None:
            continue
        try:
            plan_sheet(layer.kept.bounds, carrier, margin=film_margin(item), mirrored=False)
        except DoesNotFitCarrier as error:
            findings.append(Finding("beyond-carrier", "stop", error.message, cured_by_size=False))
    return findings


def _squeegee(item: Item, bounds: Box) -> list[Finding]:
    """A squeegee should be wider than the design, or it takes two pulls, and go into the screen."""
    shorter = min(bounds[2] - bounds[0], bounds[3] - bounds[1])
    if item.method != "screen-stencil" or item.squeegee is None:
        return []
    left, top, right, bottom = thing_box(item)
    inside = max(right - left, bottom - top)
    if item.squeegee > inside:
        text = "The squeegee is {wide:g} mm wide and does not go into the screen, which is {inside:g} mm."
        told = Message.of(text, wide=item.squeegee, inside=inside)
        return [Finding("squeegee-too-wide", "look", told, cured_by_size=False)]
    if shorter > item.squeegee:
        text = "The squeegee is {wide:g} mm wide and the design {design:.1f} mm: it takes two pulls."
        told = Message.of(text, wide=item.squeegee, design=shorter)
        return [Finding("two-pulls", "look", told, cured_by_size=False)]
    return []


def _sheet_margins(item: Item, box: Box, bounds: Box) -> list[Finding]:
    """Whether the sheet reaches far enough beyond the design for what is done with it, and lies inside its screen."""
    told = []
    side, room = tightest_margin(box, bounds)
    where = ((bounds[0] + bounds[2]) / 2.0, (bounds[1] + bounds[3]) / 2.0)
    if room < 0.0:
        text = "The design runs {over:.1f} mm over the {side} edge of its sheet: make the sheet larger."
        message = Message.of(text, over=-room, side=side)
        told.append(Finding("does-not-fit", "stop", message, where, width=-room, cured_by_size=False))
    elif item.frame.fit != "design" and room < (usual := SURROUND_FOR[item.paint]) and item.method != "screen-stencil":
        text = "The sheet leaves {room:.1f} mm at the {side} edge; {usual:g} mm is usual when paint is {paint}."
        message = Message.of(text, room=room, side=side, usual=usual, paint=item.paint)
        told.append(Finding("sheet-margin", "look", message, width=room, belongs_to=side, cured_by_size=False))
    if item.method == "screen-stencil":
        side, room = tightest_margin(thing_box(item), box)
        if room < -1e-6:
            text = "The sheet reaches {over:.1f} mm over the {side} edge of the screen: make its margin smaller."
            message = Message.of(text, over=-room, side=side)
            told.append(Finding("sheet-over-screen", "look", message, belongs_to=side, cured_by_size=False))
    return told


def _marks_beyond_sheet(item: Item, box: Box, layers: Sequence[LayerResult], bounds: Box) -> list[Finding]:
    """Register marks lie inside the sheet, with film round them."""
    marks = box_round([layer.level_bounds(mark.region) for layer in layers for mark in layer.marks])
    if item.register is None or marks is None:
        return []
    side, room = tightest_margin(box, marks)
    if room >= LEAST_ROUND_MARK_MM:
        return []
    lies = Message.of("only {room:.1f} mm inside", room=room) if room > 0.0 else "on or over"
    text = "A register mark lies {lies} the {side} edge of the sheet: leave a margin of {margin:g} mm round the design."
    told = Message.of(text, lies=lies, side=side, margin=item.register.reach + LEAST_ROUND_MARK_MM)
    return [Finding("mark-at-edge", "look", told, (bounds[0], bounds[3]), cured_by_size=False)]
