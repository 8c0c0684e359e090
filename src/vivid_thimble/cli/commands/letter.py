"""Words in a font to one clean outline."""

from __future__ import annotations

import argparse

from msgspec.structs import replace

from vivid_thimble.cli.figures import Facts, rounded, size_of
from vivid_thimble.cli.jobs import evaluated, one_element_job
from vivid_thimble.cli.options import add_size, placement_of
from vivid_thimble.cli.written import Design, add_out, written
from vivid_thimble.core.job.edits import with_element
from vivid_thimble.core.job.values import Element, Job, Placement, find_element
from vivid_thimble.core.lengths import parse_length_within
from vivid_thimble.core.materials.method import USUAL_FILM
from vivid_thimble.core.ranges import Fine, Moved
from vivid_thimble.core.sources.fonts import find_reference
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.steps import Join, Step, Thicken, Weld
from vivid_thimble.core.steps.join import measured_pairs

HELP = "words in a font to one clean outline"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("text")
    parser.add_argument("--font", required=True, help="a font file, a bundled face or an installed family")
    add_size(parser, required=True)
    parser.add_argument(
        "--join", action=argparse.BooleanOptionalAction, default=False, help="close up letters until they hold together"
    )
    parser.add_argument("--min-neck", default="1mm", help="neck that joined letters must have")
    parser.add_argument("--thicken", help="grow every edge by this much after welding")
    add_out(parser)


def answer(options: argparse.Namespace) -> Facts:
    neck = parse_length_within(options.min_neck, Fine, "--min-neck")
    placement = placement_of(options)
    assert placement is not None
    joining = Join(id="join", neck=neck)
    steps: list[Step] = [joining] if options.join else []
    words = Words(text=options.text, face=find_reference(options.font))
    element = Element(id="words", name=options.text, source=words, placement=placement)
    job = one_element_job(element, USUAL_FILM["decal"])
    steps.append(Weld(id="weld"))
    if options.thicken:
        steps.append(Thicken(id="thicken", by=parse_length_within(options.thicken, Moved, "--thicken")))
    job = _sized_exactly(job, tuple(steps), placement)
    layer = evaluated(job).layers[0]
    letters = layer.elements[0].letters
    moved, moves = joining.placed(letters) if options.join else (letters, (0.0,) * len(letters))
    answer: Facts = {
        "size_mm": rounded(size_of(layer.kept)),
        "pairs": [
            {
                "left": p.left,
                "right": p.right,
                "joined": p.joined,
                "neck_mm": round(p.neck, 3),
                "moved_mm": round(p.moved, 3),
            }
            for p in measured_pairs(moved, moves, neck)
        ],
        "kept_pieces": len(layer.inspection.kept),
        "nodes": layer.kept.outline.node_count,
        "notes": [str(note.message) for note in layer.elements[0].notes],
    }
    return answer | written(options, Design([(options.text, layer.layer.film.colour, layer.kept)], job, {}))


def _sized_exactly(job: Job, steps: tuple[Step, ...], wanted: Placement) -> Job:
    """Add steps, then correct the placement until the finished shape has the wanted size."""
    job = with_element(job, "words", lambda e: replace(e, steps=steps))
    for _ in range(4):
        size = size_of(evaluated(job).layers[0].kept)
        ratio = wanted.width / size[0] if wanted.width is not None else (wanted.height or 0.0) / size[1]
        if abs(ratio - 1.0) < 1e-6:
            break
        place = find_element(job, "words").placement.scaled(ratio)
        job = with_element(job, "words", lambda e, p=place: replace(e, placement=p))  # type: ignore[misc]
    return job
