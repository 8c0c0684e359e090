"""The command line: thin commands over the same core as the window.

Exit status 0 done, 2 wrong usage, 3 input refused with one sentence on stderr.
"""

from __future__ import annotations

import argparse
import json
import os
import re
import sys
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path as FilePath
from typing import Any

from msgspec.structs import replace

from vivid_thimble import __version__
from vivid_thimble.cli_words import in_words
from vivid_thimble.core.cache import Cache, asset_key
from vivid_thimble.core.errors import InputRefused, ThimbleError
from vivid_thimble.core.evaluate.drawing_stages import colour_shares, read_once, size_at, sized_drawing
from vivid_thimble.core.evaluate.picture_stages import drawn_portrait, raster_once, separated_at, sized_picture
from vivid_thimble.core.evaluate.placing import size_factor
from vivid_thimble.core.evaluate.recipe import evaluate, stencil_sheet
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.files import read_file, write_atomically
from vivid_thimble.core.formats.cut_file import cut_file
from vivid_thimble.core.formats.limits import LARGEST_PICTURE_BYTES
from vivid_thimble.core.formats.raster_read import Raster
from vivid_thimble.core.formats.svg_shapes import MM_PER_UNIT
from vivid_thimble.core.formats.svg_write import CutLayer
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.offset import offset
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.path import Box, Path
from vivid_thimble.core.geometry.region import Region, difference, intersection, union
from vivid_thimble.core.inspect.findings import NOTES, Finding
from vivid_thimble.core.job.edits import with_element
from vivid_thimble.core.job.values import Element, Item, Job, Layer, Placement, find_element
from vivid_thimble.core.lengths import parse_length_within
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.materials.method import STENCIL_METHODS, SURROUND_FOR, USUAL_FILM
from vivid_thimble.core.ranges import Fine, Limit, Moved, Room, Size, refuse_absurd
from vivid_thimble.core.reports.place_card import Placing, placing_lines, placing_title, placings
from vivid_thimble.core.sources.artwork import (
    Artwork,
    artwork_for,
    film_region,
)
from vivid_thimble.core.sources.cleaning import KINDS, Cleaned
from vivid_thimble.core.sources.cleaning import in_words as cleaned_in_words
from vivid_thimble.core.sources.colours import LEFT_OUT, film_of, grouped, to_hex
from vivid_thimble.core.sources.drawing import Colour, Drawing
from vivid_thimble.core.sources.fonts import BUNDLED, faces_at_hand, faces_in, find_reference
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.sources.line_portrait import LinePortrait, smallest_diameter
from vivid_thimble.core.sources.line_work import guessed_lines, with_lines_as
from vivid_thimble.core.sources.picture import Picture, Spot
from vivid_thimble.core.steps import Bridges, Join, Step, Thicken, Weld
from vivid_thimble.core.steps.bridges import with_bridges
from vivid_thimble.core.steps.join import measured_pairs
from vivid_thimble.core.storage.project import open_project
from vivid_thimble.core.widths.survey import survey_widths

SCHEMA = 1
DONE, WRONG_USAGE, REFUSED = 0, 2, 3


def run(arguments: Sequence[str]) -> int:
    """Run one sub-command; returns the exit status."""
    parser = _parser()
    options = parser.parse_args(_with_negatives(arguments))
    command: Callable[[argparse.Namespace], dict[str, Any]] = options.command
    try:
        answer = command(options)
    except ThimbleError as error:
        print(f"vivid-thimble: {error}", file=sys.stderr)
        return REFUSED
    told = in_words(answer)
    if options.json:
        told = json.dumps({"schema": SCHEMA, **answer}, ensure_ascii=False, indent=1)
    try:
        print(told, flush=True)
    except BrokenPipeError:  # whoever read it has read enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    return DONE


def _with_negatives(arguments: Sequence[str]) -> list[str]:
    """Negative lengths tied to their option, or they would be taken for options themselves."""
    found: list[str] = []
    for one in arguments:
        if found and found[-1].startswith("--") and "=" not in found[-1] and re.match(r"-\s*[.\d(]", one):
            found[-1] = f"{found[-1]}={one}"
        else:
            found.append(one)
    return found


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="vivid-thimble",
        description="Clean cut paths for film and sheet. Without a command the window opens, with the jobs, drawings "
        "or fonts that are named; `vivid-thimble demo` opens it with the demonstration job (without a display it "
        "writes its cut files and a picture; --out DIR). `vivid-thimble --install-desktop` puts it into the menu of "
        "your desktop, --remove-desktop takes it out.",
        epilog="Lengths take units: 120mm, 4.5in, '3 1/4in'; a bare number is millimetres.",
    )
    parser.add_argument("--version", action="version", version=f"vivid-thimble {__version__}")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    one = commands.add_parser("inspect", help="what would go wrong if this drawing were cut at this size")
    one.add_argument("art")
    _size_options(one, required=False)
    one.add_argument("--method", default="decal", choices=sorted(USUAL_FILM))
    one.add_argument("--margin", help="surround of a stencil")
    one.add_argument("--min-line", help="thinnest kept line the film bears")
    one.add_argument("--min-gap", help="narrowest gap the film bears")
    _finish(one, _inspect, out=False)
    one = commands.add_parser("letter", help="words in a font to one clean outline")
    one.add_argument("text")
    one.add_argument("--font", required=True, help="a font file, a bundled face or an installed family")
    _size_options(one, required=True)
    one.add_argument(
        "--join", action=argparse.BooleanOptionalAction, default=False, help="close up letters until they hold together"
    )
    one.add_argument("--min-neck", default="1mm", help="neck that joined letters must have")
    one.add_argument("--thicken", help="grow every edge by this much after welding")
    _finish(one, _letter, out=True)
    one = commands.add_parser("audition", help="which faces cut these words cleanly at this size")
    one.add_argument("text")
    _size_options(one, required=True)
    one.add_argument("--fonts", nargs="+", metavar="DIR", help="folders of font files (default: all at hand)")
    one.add_argument("--min-line", help="thinnest kept line the film bears")
    one.add_argument("--min-gap", help="narrowest gap the film bears")
    _finish(one, _audition, out=False)
    one = commands.add_parser("clean", help="a drawing (SVG, DXF, PDF, zip) to clean cut paths")
    one.add_argument("art")
    _size_options(one, required=False)
    one.add_argument("--layers", choices=("keep", "one"), default="one", help="one film, or one for each colour")
    one.add_argument("--colours", type=_count, metavar="N", help="bring the colours together to so many films")
    one.add_argument("--lines", choices=("drawn", "widened", "filled"), help="what thin lines mean (default: a guess)")
    one.add_argument("--line-width", help="least width of widened lines")
    one.add_argument("--page", type=int, default=0, help="page of a PDF, counted from 0")
    one.add_argument("--leave", nargs="+", choices=KINDS, metavar="KIND", help=f"do not clean: {', '.join(KINDS)}")
    _finish(one, _clean, out=True)
    one = commands.add_parser(
        "trace", help="a photo or screenshot (PNG, JPEG, WebP, TIFF, BMP, GIF) to clean cut paths"
    )
    one.add_argument("image")
    _size_options(one, required=True)
    one.add_argument("--colours", type=_count, metavar="N", help="part the picture into so many colours")
    one.add_argument("--background", metavar="X,Y", help="a pixel of the background: all of its colour goes")
    one.add_argument("--tolerance", type=float, metavar="T", help="how far colours may differ from it (default 18)")
    one.add_argument(
        "--drop-below", type=_area, metavar="AREA", help="specks and pinholes to drop, in mm2 (default 0.5)"
    )
    one.add_argument("--keep-leftovers", action="store_true", help="keep what looks like background or dirt")
    _finish(one, _trace, out=True)

    one = commands.add_parser("spiral", help="a photo as one line whose width follows its darkness")
    one.add_argument("image")
    one.add_argument("--width", required=True, help="width of the finished portrait")
    one.add_argument("--min-line", default="0.8mm", help="thinnest kept line the film bears (default 0.8mm)")
    one.add_argument("--min-gap", default="0.8mm", help="narrowest gap the film bears (default 0.8mm)")
    one.add_argument("--turns", type=float, metavar="N", help="turns of the spiral (default: the most that cut)")
    one.add_argument("--lines", choices=("spiral", "rings", "waves"), default="spiral", help="what lines to draw")
    one.add_argument("--outer-ring", action="store_true", help="a ring round the spiral, tied to its end")
    _finish(one, _spiral, out=True)

    one = commands.add_parser("weld", help="several drawings to one outline")
    one.add_argument("art", nargs="+")
    _finish(one, _weld, out=True)
    one = commands.add_parser("slice", help="one drawing cut by another")
    one.add_argument("first")
    one.add_argument("second")
    one.add_argument(
        "--keep", choices=("difference", "overlap", "both"), default="difference", help="what of the first"
    )
    _finish(one, _slice, out=True)
    one = commands.add_parser("thicken", help="a drawing with every edge moved out")
    one.add_argument("art")
    one.add_argument("--by", required=True, help="how far edges move out; negative thins")
    _finish(one, _thicken, out=True)
    one = commands.add_parser("stencil", help="a rigid stencil: a sheet with the drawing cut out, its middles bridged")
    one.add_argument("art")
    _size_options(one, required=True)
    one.add_argument("--margin", default="20mm", help="sheet round the design (default 20mm)")
    one.add_argument("--bridge", default="1.5mm", help="width of the bridges (default 1.5mm)")
    one.add_argument(
        "--bridge-style", choices=("straight", "curved"), default="straight", help="straight or bent strips"
    )
    one.add_argument("--feet", action="store_true", help="bridges widen into the sheet at both ends")
    one.add_argument("--angle", type=float, metavar="DEG", help="one angle for all bridges")
    _finish(one, _stencil, out=True)
    one = commands.add_parser("place", help="where every film of a job goes on its thing, from its true edges")
    one.add_argument("job", help="a project file")
    _finish(one, _place, out=False)
    return parser


def _count(text: str) -> int:
    if not text.isdigit() or int(text) < 1:
        raise argparse.ArgumentTypeError(f'a number of films from 1 on is expected, not "{text}"')
    return int(text)


def _area(text: str) -> float:
    """An area in mm2, its unit told or not."""
    value = float(text.lower().removesuffix("mm2").removesuffix("mm²").strip())
    if not value >= 0.0:
        raise ValueError(text)
    return value


def _size_options(parser: argparse.ArgumentParser, *, required: bool) -> None:
    group = parser.add_mutually_exclusive_group(required=required)
    group.add_argument("--width", help="width of the finished design")
    group.add_argument("--height", help="height of the finished design")


def _finish(
    parser: argparse.ArgumentParser, command: Callable[[argparse.Namespace], dict[str, Any]], *, out: bool
) -> None:
    if out:
        parser.add_argument("-o", "--out", help="write the cut paths, as .svg, .dxf or .pdf")
    parser.add_argument("--json", action="store_true", help="print one JSON object")
    parser.set_defaults(command=command)


def _inspect(options: argparse.Namespace) -> dict[str, Any]:
    art = _read(options.art)
    return _inspection_json(_evaluated(_art_job(options, art, _film(options)), art))


def _audition(options: argparse.Namespace) -> dict[str, Any]:
    """Every face's figures, those that cut first."""
    from vivid_thimble.core.evaluate.audition import auditions, rank  # here: only this command needs worker processes

    placement = _placement(options)
    assert placement is not None
    words = Words(text=options.text, face=f"bundled:{next(iter(BUNDLED))}")
    steps: tuple[Step, ...] = (Join(id="join"), Weld(id="weld"))
    element = Element(id="words", name=options.text, source=words, placement=placement, steps=steps)
    job = _one_element_job(element, _film(options))
    faces = [face for folder in options.fonts for face in faces_in(folder)] if options.fonts else faces_at_hand()
    found = sorted(auditions(job, "words", faces, {}), key=rank)
    return {
        "faces": [
            {
                "face": one.face,
                "title": one.title,
                "cuts": one.cuts,
                "refusal": one.refusal or None,
                "size_mm": _rounded(one.size) if one.size else None,
                "thinnest_line_mm": _figure(one.thinnest_line),
                "thinnest_gap_mm": _figure(one.thinnest_gap),
                "stops": one.stops,
                "small_pieces": one.small_pieces,
                "islands": one.islands,
                "pairs": one.pairs,
                "open_pairs": one.open_pairs,
                "bends_per_cm": _figure(one.roughness),
                "nodes": one.nodes,
                "kinds": list(one.kinds),
            }
            for one in found
        ]
    }


def _film(options: argparse.Namespace) -> Film:
    film = USUAL_FILM[getattr(options, "method", "decal")]
    if options.min_line:
        film = replace(film, thinnest_line=parse_length_within(options.min_line, Limit, "--min-line"))
    if options.min_gap:
        film = replace(film, thinnest_gap=parse_length_within(options.min_gap, Limit, "--min-gap"))
    return film


def _art_element(artwork: Artwork, placement: Placement) -> Element:
    return Element(id="art", name=artwork.name, source=artwork, placement=placement)


def _art_job(options: argparse.Namespace, art: _Opened, film: Film) -> Job:
    surround = SURROUND_FOR["dabbed"] if options.method in STENCIL_METHODS else 0.0
    if options.margin:
        surround = parse_length_within(options.margin, Room, "--margin")
    artwork = Artwork(asset=art.asset, name=art.name, lines=guessed_lines(art.drawing))
    placement = _placement(options) or _own_size(art, artwork)
    return _one_element_job(_art_element(artwork, placement), film, options.method, surround)


def _one_element_job(element: Element, film: Film, method: Any = "decal", surround: float = 0.0) -> Job:
    layer = Layer(id="layer", film=film, elements=(element,))
    item = Item(id="item", name="the item", width=1e5, height=1e5, method=method, surround=surround, layers=(layer,))
    return Job(name="command line", items=(item,))


def _placement(options: argparse.Namespace) -> Placement | None:
    if options.width is not None:
        return Placement(width=parse_length_within(options.width, Size, "The width"))
    if options.height is not None:
        return Placement(height=parse_length_within(options.height, Size, "The height"))
    return None


def _own_size(art: _Opened, artwork: Artwork) -> Placement:
    """The size that the file states, or one unit = 1/96 inch as the standard says."""
    width, height = size_at(art.drawing, artwork, art.drawing.mm_per_unit or MM_PER_UNIT[""], art.cache)
    return Placement(width=width) if width >= height else Placement(height=height)


def _evaluated(job: Job, art: _Opened | None = None) -> ItemResult:
    """The evaluated job; a failed source or step is refused here, since nobody can look at it."""
    refuse_absurd(job)
    result = evaluate(job, {art.asset: art.data}, art.cache) if art is not None else evaluate(job, {})
    for layer in result.layers:
        if layer.problems:
            raise InputRefused(layer.problems[0].sentence)
    return result


def _inspection_json(result: ItemResult) -> dict[str, Any]:
    layer = result.layers[0]
    inspection = layer.inspection
    left, top, right, bottom = result.bounds or (0.0, 0.0, 0.0, 0.0)
    size = (right - left, bottom - top)
    element = layer.elements[0]
    clean = inspection.smallest_clean_scale
    return {
        "size_mm": _rounded(size),
        "nodes": layer.kept.outline.node_count,
        "contours": len(layer.kept.outline.contours),
        "open_paths": len(element.open_outlines),
        "doubled_paths": len(element.doubled_outlines),
        "cut_length_mm": round(float(layer.kept.polygons.length), 3),
        "thinnest_line_mm": _figure(inspection.thinnest_line),
        "thinnest_gap_mm": _figure(inspection.thinnest_gap),
        "places": [_place_json(f, (left, top)) for f in result.findings if f.kind not in NOTES],
        "findings": [_finding_json(f, (left, top)) for f in result.findings],
        "loose_pieces": len(inspection.loose) if result.item.is_stencil else None,
        "kept_pieces": len(inspection.kept),
        "waste_pieces": len(inspection.waste),
        "smallest_kept_mm2": _figure(min((p.area for p in inspection.kept), default=None)),
        "smallest_waste_mm2": _figure(min((p.area for p in inspection.waste), default=None)),
        "smallest_clean_width_mm": _figure(clean * size[0] if clean else None),
        "smallest_clean_causes": [
            {
                "kind": cause.kind,
                "width_mm": _figure(cause.scale * size[0]),
                "at_mm": _rounded((cause.at[0] - left, cause.at[1] - top)),
            }
            for cause in inspection.causes
        ],
        "places_no_size_cures": sum(1 for f in inspection.incurable if f.severity == "stop"),
        "weeding_minutes": list(result.weedings[0].effort.minutes),
        "not_understood": [f"{count} x {what}" for what, count in element.not_understood],
    }


def _finding_json(finding: Finding, origin: tuple[float, float]) -> dict[str, Any]:
    """A finding with its code and the values of its sentence."""
    told: dict[str, Any] = {"code": finding.kind, "of": finding.belongs_to, "values": finding.message.facts()}
    return {**told, **_place_json(finding, origin)}


def _place_json(finding: Finding, origin: tuple[float, float]) -> dict[str, Any]:
    place: dict[str, Any] = {"kind": finding.kind, "severity": finding.severity, "says": finding.sentence}
    if finding.at is not None:
        place["at_mm"] = _rounded((finding.at[0] - origin[0], finding.at[1] - origin[1]))
    for key, value in (
        ("width_mm", finding.width),
        ("length_mm", finding.length),
        ("area_mm2", finding.area),
        ("limit_mm", finding.limit),
    ):
        if value is not None:
            place[key] = round(value, 4)
    return place


def _letter(options: argparse.Namespace) -> dict[str, Any]:
    neck = parse_length_within(options.min_neck, Fine, "--min-neck")
    placement = _placement(options)
    assert placement is not None
    joining = Join(id="join", neck=neck)
    steps: list[Step] = [joining] if options.join else []
    words = Words(text=options.text, face=find_reference(options.font))
    element = Element(id="words", name=options.text, source=words, placement=placement)
    job = _one_element_job(element, USUAL_FILM["decal"])
    steps.append(Weld(id="weld"))
    if options.thicken:
        steps.append(Thicken(id="thicken", by=parse_length_within(options.thicken, Moved, "--thicken")))
    job = _sized_exactly(job, tuple(steps), placement)
    layer = _evaluated(job).layers[0]
    letters = layer.elements[0].letters
    moved, moves = joining.placed(letters) if options.join else (letters, (0.0,) * len(letters))
    answer: dict[str, Any] = {
        "size_mm": _rounded(_size_of(layer.kept)),
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
    return answer | _written(options, _origin_layers([(options.text, layer.layer.film.colour, layer.kept)]))


def _sized_exactly(job: Job, steps: tuple[Step, ...], wanted: Placement) -> Job:
    """Add steps, then correct the placement until the finished shape has the wanted size."""
    job = with_element(job, "words", lambda e: replace(e, steps=steps))
    for _ in range(4):
        size = _size_of(_evaluated(job).layers[0].kept)
        ratio = wanted.width / size[0] if wanted.width is not None else (wanted.height or 0.0) / size[1]
        if abs(ratio - 1.0) < 1e-6:
            break
        place = find_element(job, "words").placement.scaled(ratio)
        job = with_element(job, "words", lambda e, p=place: replace(e, placement=p))  # type: ignore[misc]
    return job


def _clean(options: argparse.Namespace) -> dict[str, Any]:
    art = _read(options.art, options.page)
    drawing = art.drawing
    artwork = _artwork(options, art)
    placement = _placement(options) or _own_size(art, artwork)
    if options.layers == "keep" or options.colours:
        artwork = _with_films(artwork, colour_shares(drawing, artwork, placement, art.cache), options.colours)
    result = _evaluated(_one_element_job(_art_element(artwork, placement), USUAL_FILM["decal"]), art)
    layer = result.layers[0]
    layers = [(artwork.name, layer.layer.film.colour, layer.kept)]
    report = layer.elements[0].cleaned
    if artwork.films > 1:
        layers, report = _film_layers(art, artwork, placement)
    left, top = (min(region.bounds[k] for _, _, region in layers if region.bounds) for k in (0, 1))
    answer = {
        "size_mm": _rounded(_size_of(union(region for _, _, region in layers))),
        "nodes_before": Path.joined(part.path for part in drawing.parts).node_count,
        "nodes": sum(region.outline.node_count for _, _, region in layers),
        "contours": sum(len(region.outline.contours) for _, _, region in layers),
        "layers": [label for label, _, _ in layers],
        "lines": artwork.lines,
        "open_paths_closed": sum(one.count for one in report if one.kind == "open" and one.on),
        "doubled_paths_removed": sum(one.count for one in report if one.kind == "doubled" and one.on),
        "cleaned": [_cleaned_json(one, (left, top)) for one in report],
        "hidden_in_the_file": drawing.hidden,
        "stray_points": drawing.stray,
        "simplified": dict(drawing.simplified),
        "not_understood": dict(drawing.not_understood),
    }
    return answer | _written(options, _origin_layers(layers))


def _artwork(options: argparse.Namespace, art: _Opened) -> Artwork:
    """How the drawing is taken, from the options; all in one film."""
    off = dict.fromkeys(options.leave or (), False)
    artwork = artwork_for(art.drawing, art.asset, art.name)
    artwork = replace(artwork, page=options.page, cleaning=replace(artwork.cleaning, **off))
    if options.lines:
        artwork = replace(artwork, lines=options.lines)
    if options.line_width:
        artwork = replace(artwork, line_width=parse_length_within(options.line_width, Fine, "--line-width"))
    return artwork


def _with_films(artwork: Artwork, areas: Mapping[Colour, float], most: int | None) -> Artwork:
    """A film for each colour, or so many films of colours that look alike."""
    groups = grouped(areas, most) if most else [[colour] for colour in areas]
    films = tuple((to_hex(colour), k) for k, group in enumerate(groups) for colour in group)
    return replace(artwork, films=max(len(groups), 1), colour_films=films)


def _film_layers(
    art: _Opened, artwork: Artwork, placement: Placement
) -> tuple[list[tuple[str, str, Region]], tuple[Cleaned, ...]]:
    """One layer for each film of a drawing, with the colour that has the largest area in it."""
    sized = sized_drawing(art.drawing, artwork, placement, art.cache)
    areas = colour_shares(art.drawing, artwork, placement, art.cache)
    layers = []
    for number, parts in enumerate(sized.films):
        colours = [c for c in areas if film_of(c, artwork) == number]
        if colours and parts:
            largest = to_hex(max(colours, key=lambda c: areas[c]))
            layers.append((f"colour {largest}", largest, union(part.region for part in parts)))
    return layers, sized.report


def _cleaned_json(one: Cleaned, origin: tuple[float, float]) -> dict[str, Any]:
    places = [_rounded((x - origin[0], y - origin[1])) for x, y in one.at]
    line: dict[str, Any] = {"kind": one.kind, "count": one.count, "done": one.on, "says": cleaned_in_words(one)}
    line |= {key: value for key, value in (("before", one.before), ("after", one.after)) if value is not None}
    if one.largest is not None:
        line["largest_gap_mm"] = round(one.largest, 4)
    return line | ({"at_mm": places} if places else {})


def _trace(options: argparse.Namespace) -> dict[str, Any]:
    name = FilePath(options.image).name
    data = _bytes_of(options.image)
    cache, asset = Cache(), asset_key(data)
    raster = raster_once(data, asset, name, cache)
    picture = _picture(options, asset, name, raster)
    refuse_absurd(picture)
    placement = _placement(options)
    assert placement is not None
    parted = separated_at(raster, picture, placement, cache)
    ground = None if options.colours else parted.background  # of so many colours that were asked for all are cut
    colours = [c for k, c in enumerate(parted.colours) if k != ground]
    if len(colours) > 1:
        own_film = [(colour, film) for film, colour in enumerate(colours)]
        own_film += [] if ground is None else [(parted.colours[ground], LEFT_OUT)]
        picture = replace(picture, films=len(colours), colour_films=tuple(own_film))
    sized = sized_picture(raster, picture, placement, cache)
    layers = [(c, region) for c, region in zip(colours, sized.regions, strict=True) if not region.is_empty]
    whole = union(region for _, region in layers)
    answer: dict[str, Any] = {
        "size_mm": _rounded(_size_of(whole)),
        "says": parted.says,
        "layers": [{"colour": colour, "area_mm2": round(region.area, 3)} for colour, region in layers],
        "nodes": sized.traced.node_count,
        "contours": sum(len(region.outline.contours) for _, region in layers),
        "kept_pieces": len(whole.polygons.geoms),
        "leftovers": [
            {"why": one.why, "area_mm2": round(one.area_px * sized.mm_per_px**2, 4), "dropped": picture.leftovers_go}
            for one in parted.leftovers
        ],
    }
    named = [(f"colour {colour}", colour, region) for colour, region in layers]
    return answer | _written(options, _origin_layers(named))


def _spiral(options: argparse.Namespace) -> dict[str, Any]:
    name = FilePath(options.image).name
    data = _bytes_of(options.image)
    cache, asset = Cache(), asset_key(data)
    portrait = LinePortrait(
        asset=asset,
        name=name,
        lines=options.lines,
        turns=options.turns,
        outer_ring=options.outer_ring,
        min_line=parse_length_within(options.min_line, Limit, "--min-line"),
        min_gap=parse_length_within(options.min_gap, Limit, "--min-gap"),
    )
    refuse_absurd(portrait)
    width = parse_length_within(options.width, Size, "--width")
    drawn = drawn_portrait(raster_once(data, asset, name, cache), portrait, Placement(width=width), cache)
    lines, gaps = survey_widths(drawn.kept.polygons, portrait.min_line, portrait.min_gap)
    left, top, _, _ = drawn.kept.bounds or (0.0, 0.0, 0.0, 0.0)

    def place(point: tuple[float, float] | None) -> list[float] | None:
        return None if point is None else _rounded((point[0] - left, point[1] - top))

    answer: dict[str, Any] = {
        "size_mm": _rounded(_size_of(drawn.kept)),
        "turns": round(drawn.turns, 3),
        "most_turns": round(drawn.most_turns, 3),
        "smallest_width_mm": round(
            smallest_diameter(drawn.turns, portrait.min_line, portrait.min_gap) * width / drawn.circle, 2
        ),
        "thinnest_line_mm": _figure(lines.thinnest.thinnest if lines.thinnest else None),
        "thinnest_gap_mm": _figure(gaps.thinnest.thinnest if gaps.thinnest else None),
        "kept_pieces": len(drawn.kept.polygons.geoms),
        "nodes": drawn.kept.outline.node_count,
        "kept_end_mm": place(drawn.kept_end),
        "waste_end_mm": place(drawn.waste_end),
    }
    return answer | _written(options, _origin_layers([(name, "#000000", drawn.kept)]))


def _picture(options: argparse.Namespace, asset: str, name: str, raster: Raster) -> Picture:
    """How the picture is taken, from the options."""
    picture = Picture(asset=asset, name=name, leftovers_go=not options.keep_leftovers)
    if options.colours:
        picture = replace(picture, separate="colours", colours=options.colours)
    if options.background:
        columns, rows = raster.size
        x, y = _pixel_place(options.background)
        if not (0 <= x < columns and 0 <= y < rows):
            raise InputRefused(
                f"--background {options.background} lies outside the picture of {columns} x {rows} pixels."
            )
        tolerance = options.tolerance if options.tolerance is not None else Spot(at=(0.0, 0.0)).tolerance
        spot = Spot(at=((x + 0.5) / columns, (y + 0.5) / rows), tolerance=tolerance)
        picture = replace(picture, background=(spot,))
    if options.drop_below is not None:
        picture = replace(picture, speck_area=options.drop_below, pinhole_area=options.drop_below)
    return picture


def _pixel_place(text: str) -> tuple[int, int]:
    try:
        x, y = (int(part) for part in text.split(","))
    except ValueError as error:
        raise InputRefused(f"--background takes two whole numbers such as 10,10, not {text}.") from error
    return x, y


def _weld(options: argparse.Namespace) -> dict[str, Any]:
    regions, strangers = [], {}
    for art in options.art:
        region, unknown = _region_of(art)
        regions.append(region)
        if unknown:
            strangers[FilePath(art).name] = unknown
    return _told_and_written(options, "welded", union(regions), strangers)


def _region_of(art: str) -> tuple[Region, dict[str, int]]:
    """What a drawing covers at the size that it states, from its page's corner, and what of it was not understood."""
    drawing = _read(art).drawing
    drawing = with_lines_as(drawing, guessed_lines(drawing), 0.0, 0.0)
    left, top = drawing.page[:2] if drawing.page is not None else (0.0, 0.0)
    scale = Affine.scaling(drawing.mm_per_unit or MM_PER_UNIT[""])
    region = film_region(drawing, Affine.translation(-left, -top).then(scale), art)
    return region, dict(drawing.not_understood)


def _told_and_written(
    options: argparse.Namespace, name: str, whole: Region, strangers: dict[str, dict[str, int]]
) -> dict[str, Any]:
    if whole.bounds is None:
        raise InputRefused("Nothing is left to cut: the drawings do not lie over each other as this needs.")
    answer = {
        "size_mm": _rounded(_size_of(whole)),
        "nodes": whole.outline.node_count,
        "contours": len(whole.outline.contours),
        "kept_pieces": len(whole.polygons.geoms),
        "not_understood": strangers,
    }
    return answer | _written(options, _origin_layers([(name, USUAL_FILM["decal"].colour, whole)]))


def _slice(options: argparse.Namespace) -> dict[str, Any]:
    """The first drawing without the second, or what they share, or both as two layers."""
    (first, unknown), (second, other) = _region_of(options.first), _region_of(options.second)
    strangers = {FilePath(art).name: told for art, told in ((options.first, unknown), (options.second, other)) if told}
    outside, inside = difference(first, [second]), intersection(first, second)
    if options.keep != "both":
        return _told_and_written(options, "sliced", outside if options.keep == "difference" else inside, strangers)
    colour = USUAL_FILM["decal"].colour
    layers = [(n, colour, r) for n, r in (("difference", outside), ("overlap", inside)) if not r.is_empty]
    answer = {
        "layers": [
            {"name": n, "area_mm2": round(r.area, 3), "kept_pieces": len(r.polygons.geoms)} for n, _, r in layers
        ],
        "not_understood": strangers,
    }
    return answer | _written(options, _origin_layers(layers))


def _thicken(options: argparse.Namespace) -> dict[str, Any]:
    region, unknown = _region_of(options.art)
    moved = offset(region, parse_length_within(options.by, Moved, "--by"))
    return _told_and_written(options, "thickened", moved, {FilePath(options.art).name: unknown} if unknown else {})


def _stencil(options: argparse.Namespace) -> dict[str, Any]:
    """A sheet with the drawing cut out, every middle bridged."""
    region, unknown = _region_of(options.art)
    placement = _placement(options)
    assert placement is not None
    wide, high = _size_of(region)
    region = region.transformed(Affine.scaling(size_factor(placement, wide, high, None)))
    width = parse_length_within(options.bridge, Fine, "--bridge")
    margin = parse_length_within(options.margin, Size, "--margin")
    step = Bridges(id="bridges", width=width, angle_deg=options.angle, style=options.bridge_style, feet=options.feet)
    refuse_absurd(step)
    parts = (Part("", region),)
    plan = step.planned(parts).plan
    openings = with_bridges(parts, plan.bridges)[0].region
    before, sheet = stencil_sheet(region, margin), stencil_sheet(openings, margin)
    if sheet.bounds is None or openings.is_empty:
        raise InputRefused(f"Bridges of {options.bridge} leave nothing of the openings: take a smaller --bridge.")
    left, top, _, _ = sheet.bounds

    def place(at: tuple[float, float]) -> list[float]:
        return _rounded((at[0] - left, at[1] - top))

    answer: dict[str, Any] = {
        "sheet_mm": _rounded(_size_of(sheet)),
        "islands_before": len(before.polygons.geoms) - 1,
        "islands_after": len(sheet.polygons.geoms) - 1,
        "bridges": [
            {"from_mm": place(one.start), "to_mm": place(one.end), "width_mm": one.width, "weak": one.weak}
            for one in plan.bridges
        ],
        "nodes": sheet.outline.node_count,
        "not_understood": {FilePath(options.art).name: unknown} if unknown else {},
    }
    return answer | _written(options, _origin_layers([("stencil", USUAL_FILM["rigid-stencil"].colour, sheet)]))


def _place(options: argparse.Namespace) -> dict[str, Any]:
    """All items of a job, in order."""
    job, assets = open_project(options.job)
    cache = Cache()
    found = [one for k in range(len(job.items)) for one in placings(evaluate(replace(job, at=k), assets, cache))]
    return {"items": [_placing_json(one) for one in found]}


def _placing_json(one: Placing) -> dict[str, Any]:
    return {
        "item": one.item,
        "film": one.film,
        "part": one.part,
        "from_left_mm": _figure(one.left),
        "from_right_mm": _figure(one.right),
        "from_top_mm": _figure(one.top),
        "from_bottom_mm": _figure(one.bottom),
        "below_rim_mm": _figure(one.below_rim),
        "below_collar_mm": _figure(one.below_collar),
        "left_of_front_mm": _figure(one.front_left),
        "right_of_front_mm": _figure(one.front_right),
        "arc_mm": _figure(one.arc),
        "chord_mm": _figure(one.chord),
        "baseline_mm": _figure(one.baseline),
        "says": f"{placing_title(one)}: {'; '.join(placing_lines(one, 'mm'))}.",
    }


def _origin_layers(layers: Sequence[tuple[str, str, Region]]) -> tuple[list[CutLayer], Box]:
    """Layers moved so that the design's top-left is the origin."""
    boxes = [region.bounds for _, _, region in layers if region.bounds]
    if not boxes:
        raise InputRefused("Nothing is left to cut at these sizes: take smaller lengths, or a larger design.")
    left, top = min(b[0] for b in boxes), min(b[1] for b in boxes)
    move = Affine.translation(-left, -top)
    right, bottom = max(b[2] for b in boxes), max(b[3] for b in boxes)
    cut = [CutLayer(label, colour, (region.outline.transformed(move),)) for label, colour, region in layers]
    return cut, (0.0, 0.0, right - left, bottom - top)


def _written(options: argparse.Namespace, layers: tuple[list[CutLayer], Box]) -> dict[str, Any]:
    if not options.out:
        return {}
    cut, box = layers
    write_atomically(options.out, cut_file(options.out, cut, box[2], box[3]))
    return {"written": str(options.out)}


@dataclass(frozen=True)
class _Opened:
    """A drawing named on the command line, and all that is worked out about it."""

    name: str
    data: bytes
    asset: str
    drawing: Drawing
    cache: Cache


def _bytes_of(path: str) -> bytes:
    try:
        return read_file(path, LARGEST_PICTURE_BYTES)
    except OSError as error:
        raise InputRefused(f"{path} cannot be opened ({(error.strerror or '').lower()}): check the name.") from error


def _read(art: str, page: int = 0) -> _Opened:
    name = FilePath(art).name
    data = _bytes_of(art)
    cache, asset = Cache(), asset_key(data)
    return _Opened(name, data, asset, read_once(data, asset, name, page, cache), cache)


def _size_of(region: Region) -> tuple[float, float]:
    if region.bounds is None:
        return 0.0, 0.0
    left, top, right, bottom = region.bounds
    return right - left, bottom - top


def _rounded(pair: tuple[float, float]) -> list[float]:
    return [round(pair[0], 4), round(pair[1], 4)]


def _figure(value: float | None) -> float | None:
    return None if value is None else round(value, 4)
