"""Tracing against known outlines, and against two general-purpose tracers in the same run.

    PYTHONPATH=src python bench/tracing.py [words] [strokes] [colours] [large] [portrait]

*words*: four faces' words at 150 and 400 pixels, clean and as a soft, noisy JPEG. *strokes*: lines 1 to 3 pixels wide.
*colours*: a picture of four flat colours. *large*: 12 million pixels in two tones, and a photo to four colours.
*portrait*: a spiral of 200 mm. Without a name all are run.

Distances are in pixels, both ways between outlines; true corners turn by 30 degrees or more. The baselines trace what
a threshold at half leaves (the first knows two tones only); for the photo the second is given the picture already
reduced to four colours, since it cannot do that itself.
"""

from __future__ import annotations

import io
import subprocess
import sys
import tempfile
import time
from pathlib import Path as FilePath

import cv2
import msgspec
import numpy as np
import potrace
import shapely
import vtracer
from numpy.typing import NDArray
from PIL import Image

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.evaluate.picture_stages import sized_picture
from vivid_thimble.core.formats.raster_read import Raster
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.geometry.path import Contour, Path, line_segments
from vivid_thimble.core.geometry.region import Region
from vivid_thimble.core.job.values import Placement
from vivid_thimble.core.sources.colours import to_hex
from vivid_thimble.core.sources.line_portrait import LinePortrait, draw_lines
from vivid_thimble.core.sources.picture import Picture
from vivid_thimble.core.tracing.label_map import traced_map
from vivid_thimble.core.tracing.separate import despeckled, flat_colours, flat_labels, nearest_labels, reduced_colours
from vivid_thimble.core.tracing.two_tone import traced
from vivid_thimble.core.widths.survey import survey_widths

ROOT = FilePath(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from tests.trace_truth import (  # noqa: E402  tests are no package that is installed
    colour_picture,
    compressed,
    corners_found,
    distance,
    photo,
    rendered,
    stroke_picture,
    word,
)

WORDS = (
    ("bundled:Pacifico", "Second Supper"),
    ("bundled:League Spartan", "REGATTA"),
    ("bundled:Courier Prime", "Moth & Ember"),
    ("bundled:Stardos Stencil", "Quillfen"),
)


def main() -> int:
    Image.MAX_IMAGE_PIXELS = None
    parts = {"words": words, "strokes": strokes, "colours": colours, "large": large, "portrait": portrait}
    if sys.argv[1:2] == ["peak"]:
        _tell_peak(sys.argv[2])
        return 0
    for name in sys.argv[1:] or parts:
        print(f"\n== {name}")
        parts[name]()
    return 0


def ours(gray: NDArray[np.float64]) -> Path:
    return traced(((255.0 - gray) / 255.0).astype(np.float32)).path(0)


def first_baseline(gray: NDArray[np.float64]) -> Path:
    contours = []
    for curve in potrace.Bitmap(gray >= 128).trace():
        segments, lines = [], []
        at = np.array([curve.start_point.x, curve.start_point.y])
        for piece in curve.segments:
            end = np.array([piece.end_point.x, piece.end_point.y])
            if piece.is_corner:
                tip = np.array([piece.c.x, piece.c.y])
                segments += [*line_segments(at[None], tip[None]), *line_segments(tip[None], end[None])]
                lines += [True, True]
            else:
                segments.append(np.array([at, [piece.c1.x, piece.c1.y], [piece.c2.x, piece.c2.y], end]))
                lines.append(False)
            at = end
        contours.append(Contour(np.array(segments), np.array(lines), True))
    return Path(tuple(contours))


def second_baseline(gray: NDArray[np.float64]) -> Path:
    drawing = read_svg(_svg_of(np.repeat(np.clip(gray, 0, 255).astype(np.uint8)[:, :, None], 3, 2), "binary"), "trace")
    return Path.joined(part.lines for part in drawing.parts)


def _svg_of(picture: NDArray[np.uint8], mode: str, **settings: object) -> bytes:
    held = io.BytesIO()
    Image.fromarray(picture).save(held, "PNG", compress_level=1)
    text: str = vtracer.convert_raw_image_to_svg(held.getvalue(), img_format="png", colormode=mode, **settings)
    return text.encode()


def words() -> None:
    print("word           px   kind     rms   p99  nodes (true)  corners  |  first: rms   p99  nodes  | second: rms")
    for height in (150, 400):
        for kind in ("clean", "JPEG"):
            rows = []
            for face, text in WORDS:
                truth = word(text, face, height)
                gray = truth.gray if kind == "clean" else compressed(truth.gray)
                paths = [ours(gray), first_baseline(gray), second_baseline(gray)]
                own, one, two = (distance(truth.path, path) for path in paths)
                wanted, found, _ = corners_found(truth.path, paths[0])
                nodes = [path.node_count for path in paths]
                rows.append(
                    (
                        own.rms,
                        own.p99,
                        nodes[0],
                        truth.path.node_count,
                        found / wanted,
                        one.rms,
                        one.p99,
                        nodes[1],
                        two.rms,
                    )
                )
                print(
                    f"{text:13s} {height:4d}  {kind:5s}  {own.rms:6.3f} {own.p99:5.3f}  {nodes[0]:4d}"
                    f" ({rows[-1][3]:4d})   {found:3d}/{wanted:3d}  |"
                    f"      {one.rms:6.3f} {one.p99:5.3f}  {nodes[1]:4d}  |  {two.rms:6.3f}"
                )
            mean = np.array(rows)
            rms = [float(np.sqrt((mean[:, k] ** 2).mean())) for k in (0, 5, 8)]
            total = mean[:, [2, 3, 7]].sum(axis=0)
            print(
                f"   together: rms {rms[0]:.3f} = 1/{rms[1] / rms[0]:.1f} and 1/{rms[2] / rms[0]:.1f} of theirs; p99 1/"
                f"{(mean[:, 6] / mean[:, 1]).min():.1f} or better; nodes {total[0] / total[1]:.2f} of the true ones, "
                f"{total[0] / total[2]:.2f} of the first's; corners {100 * mean[:, 4].mean():.0f} %"
            )


def strokes() -> None:
    print("width  kind   pieces (true)  rms     first: pieces  rms")
    for width in (1.0, 1.3, 1.6, 2.0, 2.5, 3.0):
        truth, size = stroke_picture(width)
        clean = rendered(truth.outline, size)
        for kind, gray in (("clean", clean), ("JPEG", compressed(clean))):
            own, other = traced(((255.0 - gray) / 255.0).astype(np.float32)).regions(1.0)[0], first_baseline(gray)
            pieces = [len(own.polygons.geoms), len(Region.from_path(other, "evenodd").polygons.geoms)]
            rms = [distance(truth.outline, one).rms if one.contours else float("nan") for one in (own.outline, other)]
            print(
                f"{width:4.1f}   {kind:5s}  {pieces[0]:3d}  ({len(truth.polygons.geoms)})      {rms[0]:.3f}   "
                f"      {pieces[1]:3d}  {rms[1]:8.3f}"
            )


def colours() -> None:
    for size in (300, 600):
        flat, areas, picture = colour_picture(size)
        for kind in ("clean", "JPEG"):
            held = picture if kind == "clean" else compressed(picture).astype(np.uint8)
            palette = flat_colours(held)
            assert palette is not None
            found = traced_map(despeckled(flat_labels(held, palette), 6.0), held, palette)
            regions = found.regions(1.0)
            order = [int(((palette - colour) ** 2).sum(axis=1).argmin()) for colour in flat]
            wrong = sum(regions[k].polygons.symmetric_difference(a).area for k, a in zip(order, areas, strict=True))
            union = shapely.union_all([region.polygons for region in regions]).area
            over, gap = sum(region.area for region in regions) - union, size * size - union
            drawing = read_svg(_svg_of(held, "color", hierarchical="cutout"), "trace")
            theirs: list[list[shapely.Geometry]] = [[] for _ in flat]
            for part in drawing.parts:
                near = int(((flat - np.array(part.colour)) ** 2).sum(axis=1).argmin())
                theirs[near].append(Region.from_path(part.lines, part.rule).polygons)
            other = sum(shapely.union_all(t).symmetric_difference(a).area for t, a in zip(theirs, areas, strict=True))
            nodes = sum(part.lines.node_count for part in drawing.parts)
            print(
                f"{size} px, {kind}: wrong area {wrong:.0f} px2 (second: {other:.0f}), nodes {found.node_count} "
                f"({nodes}), overlap {over:.1e}, gap {gap:.1e} px2"
            )


def large() -> None:
    small = word("Second Supper", "bundled:Pacifico", 480.0).gray.astype(np.uint8)
    big = cv2.resize(small, None, fx=3990 / small.shape[1], fy=3990 / small.shape[1], interpolation=cv2.INTER_CUBIC)
    page = np.full((3000, 4000), 255, np.uint8)
    page[900 : 900 + big.shape[0], 5 : 5 + big.shape[1]] = big
    page = np.repeat(page[:, :, None], 3, axis=2)
    _cut_at(page[::8, ::8].copy(), Picture(asset="bench", name="bench"))  # the libraries are loaded by then
    start = time.perf_counter()
    _svg_of(page, "binary")
    theirs = time.perf_counter() - start - _encoding(page)
    _told("two tones", theirs, page, Picture(asset="bench", name="bench"))
    coarse = photo(1000, 750)
    scene = cv2.resize(coarse, (4000, 3000), interpolation=cv2.INTER_CUBIC).astype(np.float64)
    scene = np.clip(scene + np.random.default_rng(2).normal(0.0, 4.0, scene.shape), 0, 255).astype(np.uint8)
    palette = reduced_colours(scene, 4)
    four = palette.astype(np.uint8)[nearest_labels(cv2.GaussianBlur(scene, (0, 0), 4.8), palette)]
    start = time.perf_counter()
    _svg_of(four, "color")
    theirs = time.perf_counter() - start - _encoding(four)
    films = tuple((to_hex((int(r), int(g), int(b))), k) for k, (r, g, b) in enumerate(palette))
    held = Picture(asset="bench", name="bench", separate="colours", films=4, colour_films=films)
    _told("a photo to four colours and films", theirs, scene, held)


def _encoding(picture: NDArray[np.uint8]) -> float:
    start = time.perf_counter()
    Image.fromarray(picture).save(io.BytesIO(), "PNG", compress_level=1)
    return time.perf_counter() - start


def _cut_at(picture: NDArray[np.uint8], held: Picture) -> int:
    """From pixels to regions 250 mm wide, as the application does it."""
    return sized_picture(Raster(picture), held, Placement(width=250.0), Cache()).traced.node_count


def _told(what: str, theirs: float, picture: NDArray[np.uint8], held: Picture) -> None:
    start = time.perf_counter()
    nodes = _cut_at(picture, held)
    own = time.perf_counter() - start
    peak = _peak_mb(picture, held)
    print(
        f"12 MP, {what}: {own:.2f} s = {own / theirs:.2f} of the second's {theirs:.2f} s; {nodes} nodes; "
        f"peak {peak:.0f} MB"
    )


def _peak_mb(picture: NDArray[np.uint8], held: Picture) -> float:
    """The most memory of a process that does nothing else, from its start with the picture in hand."""
    with tempfile.TemporaryDirectory() as folder:
        np.save(FilePath(folder, "picture.npy"), picture)
        FilePath(folder, "held.json").write_bytes(msgspec.json.encode(held))
        told = subprocess.run([sys.executable, __file__, "peak", folder], capture_output=True, text=True, check=True)
    return float(told.stdout.split()[-1])


def _tell_peak(folder: str) -> None:
    picture = np.load(FilePath(folder, "picture.npy"))
    _cut_at(picture, msgspec.json.decode(FilePath(folder, "held.json").read_bytes(), type=Picture))
    status = FilePath("/proc/self/status").read_text()  # what getrusage tells counts the parent's memory in
    print(int(status.split("VmHWM:")[1].split()[0]) / 1024)


def portrait() -> None:
    scene = photo(1200, 1200)
    held = LinePortrait(asset="bench", name="bench")
    draw_lines(scene, held, 60.0)
    start = time.perf_counter()
    drawn = draw_lines(scene, held, 200.0)
    took = time.perf_counter() - start
    lines, gaps = survey_widths(drawn.kept.polygons, 0.8, 0.8)
    assert lines.thinnest is not None
    assert gaps.thinnest is not None
    print(
        f"spiral of 200 mm: {drawn.turns:.2f} turns, thinnest line {lines.thinnest.thinnest:.4f}, gap "
        f"{gaps.thinnest.thinnest:.4f} mm, {len(drawn.kept.polygons.geoms)} piece, {took:.2f} s"
    )


if __name__ == "__main__":
    sys.exit(main())
