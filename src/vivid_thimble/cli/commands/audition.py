"""Which faces cut some words cleanly at this size."""

from __future__ import annotations

import argparse

from vivid_thimble.cli.figures import Facts, figure, rounded
from vivid_thimble.cli.jobs import one_element_job
from vivid_thimble.cli.options import add_size, film_of_options, placement_of
from vivid_thimble.core.job.values import Element
from vivid_thimble.core.sources.fonts import BUNDLED, faces_at_hand, faces_in
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.steps import Join, Step, Weld

HELP = "which faces cut these words cleanly at this size"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("text")
    add_size(parser, required=True)
    parser.add_argument("--fonts", nargs="+", metavar="DIR", help="folders of font files (default: all at hand)")
    parser.add_argument("--min-line", help="thinnest kept line the film bears")
    parser.add_argument("--min-gap", help="narrowest gap the film bears")


def answer(options: argparse.Namespace) -> Facts:
    """Every face's figures, those that cut first."""
    from vivid_thimble.core.evaluate.audition import auditions, rank  # here: only this command needs worker processes

    placement = placement_of(options)
    assert placement is not None
    words = Words(text=options.text, face=f"bundled:{next(iter(BUNDLED))}")
    steps: tuple[Step, ...] = (Join(id="join"), Weld(id="weld"))
    element = Element(id="words", name=options.text, source=words, placement=placement, steps=steps)
    job = one_element_job(element, film_of_options(options))
    faces = [face for folder in options.fonts for face in faces_in(folder)] if options.fonts else faces_at_hand()
    found = sorted(auditions(job, "words", faces, {}), key=rank)
    return {
        "faces": [
            {
                "face": one.face,
                "title": one.title,
                "cuts": one.cuts,
                "refusal": one.refusal or None,
                "size_mm": rounded(one.size) if one.size else None,
                "thinnest_line_mm": figure(one.thinnest_line),
                "thinnest_gap_mm": figure(one.thinnest_gap),
                "stops": one.stops,
                "small_pieces": one.small_pieces,
                "islands": one.islands,
                "pairs": one.pairs,
                "open_pairs": one.open_pairs,
                "bends_per_cm": figure(one.roughness),
                "nodes": one.nodes,
                "kinds": list(one.kinds),
            }
            for one in found
        ]
    }
