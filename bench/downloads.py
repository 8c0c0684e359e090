"""Downloaded drawings against an independent renderer.

    PYTHONPATH=src python bench/downloads.py [FOLDER] [--count N] [--seed N] [--list] [--alone]

FOLDER holds SVG files, searched below it; by default Debian's openclipart-svg. Drawings are picked with a
fixed seed. Each is read, brought to SIZE_MM along its longer side and turned into film twice: all colours
as one shape, and as abutting layers by colour. The same file is drawn by resvg on white paper, without
anti-aliasing (which would mix colours at edges) but finer than compared, then averaged; the shape is sampled at the
same points by counting crossings.

*Shape*: intersection over union of all layers together with what the renderer shows in any colour but white.
*Colours*: each colour's area (those over 0.5 % of the whole) within 1 % of the renderer's pixels of that colour,
counted in SHIFTS pictures that lie fractions of a pixel apart: without anti-aliasing an edge is placed to half a pixel.
*Abutting*: area of overlaps between layers and of gaps narrower than 0.1 um; length of edges without a twin near one.
Every 50 files what has been found so far is told on stderr.
*Time*: with ``--alone`` one file after the other in one process and no pictures, so that nothing else runs beside it.

Three things are drawn on purpose otherwise than a renderer does, and told to it by rewriting the file before it is
drawn: gradients are one colour (their stops get the mean of all), patterns likewise, filters are left out. ``raw`` is
the overlap with the untouched file. Text is taken out for both, since the two would use other fonts; pixel pictures
likewise.
"""

from __future__ import annotations

import argparse
import contextlib
import copy
import io
import random
import re
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from multiprocessing import get_context
from pathlib import Path as FilePath

import numpy as np
import resvg_py
import shapely
from lxml import etree
from msgspec.structs import replace
from PIL import Image

from vivid_thimble.core.errors import NothingToDraw, ThimbleError
from vivid_thimble.core.formats.svg_document import local_name, parse_document
from vivid_thimble.core.formats.svg_read import _Reader, read_svg
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.booleans.clip import polygons_of
from vivid_thimble.core.geometry.path import Box, box_round
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.sources.artwork import (
    WORKING_SIZE_MM,
    Artwork,
    Painted,
    artwork_for,
    finished,
    painted,
    prepared,
    visible_colours,
    working_scale,
)
from vivid_thimble.core.sources.cleaning import UNTOUCHED
from vivid_thimble.core.sources.colours import to_hex
from vivid_thimble.core.sources.drawing import Colour, Drawing
from vivid_thimble.core.sources.page import on_page

FOLDER = "/usr/share/openclipart/svg"
SIZE_MM = 100.0
PX_PER_MM = 10
FINER = 3
SHIFTS = ((0.0, 0.0), (0.5, 0.25), (0.25, 0.75), (0.75, 0.5))
INKED_BELOW = 250
NARROW_MM = 1e-4
ALIKE = 3
"""Colours this close in every channel count together: a renderer rounds mixtures otherwise."""


@dataclass
class Outcome:
    name: str
    seconds: float = 0.0
    """From the file to one film."""
    seconds_layers: float = 0.0
    """From the file to a film for each colour."""
    shape: float | None = None
    raw: float | None = None
    colours_off: list[str] = field(default_factory=list)
    overlap: float = 0.0
    gap: float = 0.0
    loose: float = 0.0
    """Length of edges that have no twin though a neighbour lies within NARROW_MM, in mm."""
    refusal: str = ""
    crash: str = ""
    told: list[str] = field(default_factory=list)
    nodes: int = 0


def flattened(data: bytes, page: Box, size: tuple[int, int], scale: float) -> tuple[etree._Element, etree._Element]:
    """The file as an XML parser that reads like a browser sees it: untouched, and with gradients of one colour and no
    filters; text and pixel pictures taken out of both. Its page is told in whole pixels, (rows, columns) at ``scale``
    pixels a unit, since the renderer rounds sizes."""
    root = parse_document(data, "file")
    reader = _Reader(root, "file")
    for element in list(root.iter()):
        if local_name(element) in ("text", "image", "flowRoot", "foreignObject"):
            element.getparent().remove(element)
    if root.nsmap.get(None) is None and not str(root.tag).startswith("{"):
        root.set("xmlns", "http://www.w3.org/2000/svg")
    root.set("viewBox", f"{page[0]!r} {page[1]!r} {size[1] / scale!r} {size[0] / scale!r}")
    root.set("width", str(size[1]))
    root.set("height", str(size[0]))
    raw = copy.deepcopy(root)
    for element in root.iter():
        if local_name(element) in ("linearGradient", "radialGradient"):
            ink = reader._mean_of_stops(element)
            for stop in element:
                if local_name(stop) == "stop" and ink is not None:
                    stop.attrib.pop("style", None)
                    stop.attrib.pop("class", None)
                    stop.set("stop-color", "#{:02x}{:02x}{:02x}".format(*ink.colour))
                    stop.set("stop-opacity", f"{ink.opacity:.6f}")
        if local_name(element) == "pattern":
            flatten_pattern(element, reader)
        element.attrib.pop("filter", None)
        style = element.get("style")
        if style and "filter" in style:
            element.set("style", re.sub(r"(^|;)\s*filter\s*:[^;]*", r"\1", style))
    return raw, root


def shifted(root: etree._Element, page: Box, size: tuple[int, int], scale: float, by: tuple[float, float]) -> bytes:
    """The file with its page moved by fractions of a pixel."""
    left, top = page[0] - by[0] / scale, page[1] - by[1] / scale
    root.set("viewBox", f"{left!r} {top!r} {size[1] / scale!r} {size[0] / scale!r}")
    return bytes(etree.tostring(root))


def flatten_pattern(element: etree._Element, reader: _Reader) -> None:
    """A pattern becomes a gradient of the one colour that stands for it."""
    ink = reader._first_of_pattern(element)
    tag, key = str(element.tag).replace("pattern", "linearGradient"), element.get("id")
    element.clear()
    element.tag = tag
    element.set("id", key or "")
    element.set("gradientUnits", "userSpaceOnUse")
    for offset in ("0", "1"):
        stop = etree.SubElement(element, tag.replace("linearGradient", "stop"))
        stop.set("offset", offset)
        if ink is not None:
            stop.set("stop-color", "#{:02x}{:02x}{:02x}".format(*ink.colour))


def drawn(svg: bytes) -> np.ndarray:
    """The picture on white paper, (rows, columns, 3)."""
    png = bytes(
        resvg_py.svg_to_bytes(svg_string=svg.decode(), dpi=96, skip_system_fonts=True, shape_rendering="crisp_edges")
    )
    picture = np.asarray(Image.open(io.BytesIO(png)).convert("RGBA")).astype(np.float32)
    alpha = picture[:, :, 3:] / 255.0
    return picture[:, :, :3] * alpha + 255.0 * (1.0 - alpha)


def filled(region: Region, size: tuple[int, int], scale: float) -> np.ndarray:
    sys.path.insert(0, str(FilePath(__file__).parents[1]))
    from tests.raster import mask

    return mask(region.polygons, scale, size)


def averaged(fine: np.ndarray) -> np.ndarray:
    rows, columns = (n // FINER * FINER for n in fine.shape)
    return fine[:rows, :columns].reshape(rows // FINER, FINER, columns // FINER, FINER).mean(axis=(1, 3))


def overlap(seen: np.ndarray, shape: np.ndarray) -> float:
    a, b = averaged((seen.min(axis=2) < INKED_BELOW).astype(np.float32)), averaged(shape.astype(np.float32))
    return float(np.minimum(a, b).sum() / max(np.maximum(a, b).sum(), 1e-9))


def timed(data: bytes, name: str, out: Outcome) -> None:
    """From the file to film as the application does it with everything cleaned; how exactly its films abut."""
    begun = time.perf_counter()
    drawing = read_svg(data, name)
    factor = SIZE_MM / WORKING_SIZE_MM
    artwork = artwork_for(drawing, "", name)
    found = painted(drawing, artwork, artwork.line_width / (working_scale(drawing) * factor))
    begun_film = time.perf_counter()
    finished(prepared(found, artwork), artwork, factor)
    begun_layers = time.perf_counter()
    _, films = by_colour(found, artwork, factor)
    done = time.perf_counter()
    out.seconds = begun_layers - begun
    out.seconds_layers = done - begun_layers + begun_film - begun
    polygons = [region.polygons for region in films]
    whole = shapely.union_all(polygons)
    out.overlap = max(sum(p.area for p in polygons) - whole.area, 0.0)
    out.gap = narrow_gaps(whole)
    out.loose = float(shapely.length(shapely.coverage_invalid_edges(polygons, gap_width=NARROW_MM)).sum())


def by_colour(found: Painted, artwork: Artwork, factor: float) -> tuple[list[Colour], list[Region]]:
    """A film for each colour; those that vanish left out."""
    seen = visible_colours(found)
    films = replace(artwork, films=len(seen), colour_films=tuple((to_hex(c), k) for k, c in enumerate(seen)))
    layers, _ = finished(prepared(found, films, seen), films, factor)
    colours = [colour for colour, parts in zip(seen, layers, strict=True) if parts]
    return colours, [parts[0].region for parts in layers if parts]


def compared(data: bytes, name: str) -> tuple[Drawing, Box, float, Region, dict[Colour, Region]]:
    """The drawing, its page and scale, all colours as one film and a film for each colour; nothing is cleaned, since
    the renderer shows everything."""
    drawing = on_page(read_svg(data, name))
    page = drawing.page or box_round(part.lines.bounds for part in drawing.parts)
    if page is None:
        raise NothingToDraw(f"{name} holds no shape to cut.")
    scale = SIZE_MM / max(page[2] - page[0], page[3] - page[1])
    factor = scale / working_scale(drawing)
    artwork = Artwork(asset="", name=name, cleaning=replace(UNTOUCHED, hairlines=False))
    found = painted(drawing, artwork)
    films, _ = finished(prepared(found, artwork), artwork, factor)
    colours, layers = by_colour(found, artwork, factor)
    place = Affine.translation(-page[0] * scale, -page[1] * scale)
    whole = films[0][0].region.transformed(place)
    return drawing, page, scale, whole, {c: layer.transformed(place) for c, layer in zip(colours, layers, strict=True)}


def one(path: str, *, pictures: bool = True) -> Outcome:
    file = FilePath(path)
    out = Outcome(file.stem)
    data = file.read_bytes()
    try:
        timed(data, file.name, out)
        if not pictures:
            return out
        drawing, page, scale, whole, layers = compared(data, file.name)
    except ThimbleError as error:
        out.refusal = str(error)
        return out
    except Exception as error:
        out.crash = f"{type(error).__name__}: {error}"
        return out
    out.nodes = whole.outline.node_count
    out.told = [*drawing.not_understood, *drawing.simplified]
    if drawing.page is None:
        out.refusal = "no page"
        return out
    fine = PX_PER_MM * FINER * scale
    size = round((page[3] - page[1]) * fine), round((page[2] - page[0]) * fine)
    if min(size) < 8 or max(size) > 9000:
        out.refusal = f"page {size}"
        return out
    raw, flat = flattened(data, page, size, fine)
    try:
        seen, *others = (drawn(shifted(flat, page, size, fine, by)) for by in SHIFTS)
        raw_seen = drawn(shifted(raw, page, size, fine, SHIFTS[0]))
    except ValueError as error:
        out.refusal = f"the renderer refuses it: {error}"
        return out
    size = seen.shape[:2]
    if seen.min() >= INKED_BELOW:
        out.refusal = "shows nothing but white"
        return out
    shape = filled(whole, size, PX_PER_MM * FINER)
    out.shape = overlap(seen, shape)
    out.raw = overlap(raw_seen, shape)
    out.colours_off = wrong_colours([seen, *others], layers)
    return out


def wrong_colours(seen: list[np.ndarray], layers: dict[Colour, Region]) -> list[str]:
    """Colours whose area differs by more than 1 % from the renderer's; pixels go to the nearest colour there is."""
    palette = np.array([*layers, (255, 255, 255)], dtype=np.int64)
    alike = np.abs(palette[:, None] - palette).max(axis=2) <= ALIKE
    counts = np.zeros(1 << 24)
    for picture in seen:
        packed = (np.rint(picture).astype(np.int64) * [65536, 256, 1]).sum(axis=2)
        counts += np.bincount(packed.ravel(), minlength=1 << 24) / len(seen)
    shades = np.flatnonzero(counts)
    rgb = np.column_stack([shades >> 16, shades >> 8 & 255, shades & 255])
    nearest = np.concatenate(
        [
            ((part[:, None] - palette) ** 2).sum(axis=2).argmin(axis=1)
            for part in np.array_split(rgb, len(rgb) // 4096 + 1)
        ]
    )
    found = np.bincount(nearest, weights=counts[shades], minlength=len(palette))
    total = sum(region.area for region in layers.values())
    off = []
    for k, (colour, region) in enumerate(layers.items()):
        if region.area < 0.005 * total:
            continue
        pixels = float(found[alike[k]].sum()) / (PX_PER_MM * FINER) ** 2
        area = sum(one.area for j, one in enumerate(layers.values()) if alike[k, j])
        if abs(pixels - area) > 0.01 * area:
            off.append("#{:02x}{:02x}{:02x} {:+.1%}".format(*colour, area / max(pixels, 1e-9) - 1))
    return off


def narrow_gaps(whole: shapely.Geometry) -> float:
    """Area of the holes of all layers together that are narrower than 0.1 um, in mm2."""
    rings = [shapely.Polygon(ring) for polygon in polygons_of(whole).geoms for ring in polygon.interiors]
    return float(sum(hole.area for hole in rings if 2.0 * hole.area < NARROW_MM * hole.length))


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", nargs="?", default=FOLDER)
    parser.add_argument("--count", type=int, default=500)
    parser.add_argument("--seed", type=int, default=5)
    parser.add_argument("--list", action="store_true")
    parser.add_argument("--alone", action="store_true")
    options = parser.parse_args()
    files = sorted(str(p) for p in FilePath(options.folder).rglob("*.svg"))
    random.Random(options.seed).shuffle(files)
    files = files[: options.count]
    if options.alone:
        report_times([one(path, pictures=False) for path in files])
        return
    with ProcessPoolExecutor(2, mp_context=get_context("forkserver")) as pool:
        outcomes = []
        for outcome in pool.map(one, files, chunksize=4):
            outcomes.append(outcome)
            if len(outcomes) % 50 == 0:
                print(f"-- the first {len(outcomes)} files", file=sys.stderr)
                with contextlib.redirect_stdout(sys.stderr):
                    report(outcomes, options.list)
    report(outcomes, options.list)


def report_times(outcomes: list[Outcome]) -> None:
    for what, seconds in (("one film", lambda o: o.seconds), ("a film a colour", lambda o: o.seconds_layers)):
        times = sorted(seconds(o) for o in outcomes)
        middle, most = times[len(times) // 2], times[int(len(times) * 0.95)]
        print(f"seconds to {what}: median {middle:.3f}, p95 {most:.2f}, worst {times[-1]:.2f}")
        for o in sorted(outcomes, key=lambda o, seconds=seconds: -seconds(o))[:8]:
            print(f"  {seconds(o):.2f} s {o.name}")
    for o in outcomes:
        if o.overlap > 1e-6 or o.gap > 1e-6 or o.loose > 0.0:
            print(f"overlap {o.overlap:.1e} mm2, gap {o.gap:.1e} mm2, edges without twin {o.loose:.1e} mm  {o.name}")
        if o.crash:
            print("EXCEPTION", o.name, o.crash)


def report(outcomes: list[Outcome], listed: bool) -> None:
    report_times(outcomes)
    measured = [o for o in outcomes if o.shape is not None]
    good = [o for o in measured if (o.shape or 0.0) >= 0.99]
    coloured = [o for o in measured if not o.colours_off]
    print(f"{len(outcomes)} files, {sum(bool(o.crash) for o in outcomes)} exceptions, {len(measured)} measured")
    print(f"shape >= 0.99: {len(good)} of {len(measured)} ({len(good) / len(measured):.1%})")
    raw = sum((o.raw or 0.0) >= 0.99 for o in measured)
    print(f"  against the untouched file: {raw} of {len(measured)} ({raw / len(measured):.1%})")
    print(f"colours within 1 %: {len(coloured)} of {len(measured)} ({len(coloured) / len(measured):.1%})")
    print(
        f"overlaps of layers: worst {max(o.overlap for o in measured):.2e} mm2; "
        f"over 1e-6: {sum(o.overlap > 1e-6 for o in measured)}"
    )
    gaps = sorted((o.gap for o in measured), reverse=True)
    print(f"gaps of layers: worst {gaps[0]:.2e} mm2; over 1e-6: {sum(gap > 1e-6 for gap in gaps)}")
    print(f"files with edges that have no twin: {sum(o.loose > 0 for o in measured)}")
    for o in outcomes:
        if o.refusal:
            print("refused  ", o.name, o.refusal[:150])
    for o in sorted(measured, key=lambda o: o.shape or 0.0):
        if (o.shape or 0.0) < 0.99:
            print(f"{o.shape:.4f} {o.raw:.4f} {o.name[:50]:50} {o.told}")
    if listed:
        for o in measured:
            if o.colours_off:
                print(o.name[:50], o.colours_off[:6], o.told)


if __name__ == "__main__":
    main()
