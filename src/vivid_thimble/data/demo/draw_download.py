"""Makes lantern-heron.zip, the messy download of the demonstration: what people find when they open one.

Run from the project's root: ``python src/vivid_thimble/data/demo/draw_download.py``. The picture is heron-and-reeds.svg
once more, spoilt as others spoil theirs: a paper-coloured patch below everything, a moon traced in steps, reeds
drawn twice, an outline left open and one that crosses itself, specks and pinholes, a shape hidden under another,
something beside the page, styles in a sheet, strokes, two browns that are meant as one, and far too many nodes.
"""

from __future__ import annotations

import io
import zipfile
from pathlib import Path as FilePath

import numpy as np
from lxml import etree

from vivid_thimble.core.formats.picture import png_of
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.flatten import flatten
from vivid_thimble.core.geometry.path_text import read_path_data
from vivid_thimble.core.sources.artwork import colour_regions
from vivid_thimble.core.sources.colours import to_hex

HERE = FilePath(__file__).parent
NOTES = """Lantern heron
Drawn for the Quillfen Lantern Regatta by Odile Marsh.
Personal use only: please ask before you sell things with it.
"""


def main() -> None:
    clean = etree.parse(HERE / "heron-and-reeds.svg").getroot()
    paths = {str(group.get("id")): str(group[0].get("d")) for group in clean if group.get("id")}
    svg = messy(paths)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in (
            ("lantern heron/lantern-heron.svg", svg.encode()),
            ("lantern heron/lantern-heron.png", preview(svg.encode())),
            ("lantern heron/please-read.txt", NOTES.encode()),
        ):
            entry = zipfile.ZipInfo(name, (2026, 5, 1, 12, 0, 0))
            entry.compress_type = zipfile.ZIP_DEFLATED
            archive.writestr(entry, content)
    (HERE / "lantern-heron.zip").write_bytes(out.getvalue())


def messy(paths: dict[str, str]) -> str:
    dust = np.random.default_rng(7)
    specks = "".join(
        f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{r:.2f}"/>'
        for x, y, r in zip(dust.uniform(4, 122, 26), dust.uniform(4, 34, 26), dust.uniform(0.08, 0.2, 26), strict=True)
    )
    holes = "".join(
        f'<circle class="paper" cx="{x:.1f}" cy="{y:.1f}" r="{r:.2f}"/>'
        for x, y, r in zip(dust.uniform(32, 50, 7), dust.uniform(68, 76, 7), dust.uniform(0.12, 0.22, 7), strict=True)
    )
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<!-- saved by a drawing program -->
<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="5.04in" height="5.12in"
  viewBox="-1 0 128 130">
<style type="text/css">
  .paper {{ fill: #fffdf5 }} .moon {{ fill: #e8c95b }} .reed {{ fill: #3f7046 }}
  .bird {{ fill: #33465c }} .line {{ fill: none; stroke: #33465c; stroke-linecap: round }}
</style>
<rect class="paper" x="-1" y="0" width="128" height="130"/>
<g id="sky"><path class="moon" d="{stepped(60, 48, 43, 0.7)}"/>
  <path class="moon" d="M150 20h12v12h-12z"/><path fill="#777" d="M44 40h14v14h-14z"/>
  <path class="moon" d="M30 36h60v30h-60z"/></g>
<g id="water" transform="translate(0 .01)"><path fill="#2b6a80" d="{paths["water"]}"/></g>
<g id="reeds"><path class="reed" d="{crowded(paths["reeds"])}"/>
  <path class="reed" transform="translate(.012 .008)" d="{crowded(paths["reeds"])}"/>
  <path fill="#6b4a2f" d="M96.2 40C99.4 44 99.9 50 99.8 53L96.4 53.2C95.9 48 95.7 45 96 41.2"/>
  <path fill="#70502f" d="M96.4 53L99.8 52.8C99.9 57 99.6 61 98.6 63.4C97.2 61 96.6 57 96.4 53Z"/></g>
<g id="bird"><path class="paper" d="{paths["halo"]}"/>
  <path class="bird" d="{paths["heron"]}"/><path fill="#ffffff" d="{paths["eye"]}"/>
  <path class="line" stroke-width="1.6" d="M103.6 27C108 27.6 112 29.4 115.4 32.6"/>
  <path class="bird" d="M112.5 33C114 36.5 118.6 37.6 121.6 34.8C119.6 33.2 115.6 31.8 112.5 33L117 38.5L119.5 30Z"/>
  {holes}</g>
<g id="dust" fill="#33465c">{specks}<path d="M3 3"/><path d="M5 6z"/></g>
<use xlink:href="#nothing"/>
</svg>
"""


def stepped(x: float, y: float, radius: float, step: float) -> str:
    """A disc as tracing pixels leaves it: a staircase."""
    rows = np.arange(-radius, radius, step)
    half = np.sqrt(np.maximum(radius**2 - (rows + step / 2) ** 2, 0.0)) // step * step
    right = [(x + w, y + row + k * step) for row, w in zip(rows, half, strict=True) for k in (0, 1)]
    left = [(x - w, y + row + k * step) for row, w in zip(rows[::-1], half[::-1], strict=True) for k in (1, 0)]
    return "M" + "L".join(f"{a:.2f} {b:.2f}" for a, b in [*right, *left]) + "Z"


def crowded(data: str) -> str:
    """The same outlines with a node every few tenths of a millimetre."""
    path, _ = read_path_data(data)
    rings = flatten(path, 0.004).rings()
    return "".join("M" + "L".join(f"{a:.2f} {b:.2f}" for a, b in ring) + "Z" for ring in rings)


def preview(svg: bytes) -> bytes:
    layers = colour_regions(read_svg(svg), Affine())
    return png_of([(region, to_hex(colour)) for colour, region in layers.items()], (-1, 0, 127, 130), 2.5, "#ffffff")


if __name__ == "__main__":
    main()
