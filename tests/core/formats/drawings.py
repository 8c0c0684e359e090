"""Small drawings in the formats that are read."""

from __future__ import annotations

from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.sources.drawing import Drawing


def drawn(body: str, attributes: str = "") -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" {attributes}>{body}</svg>'.encode()


HALF = '<clipPath id="c"><rect width="20" height="40"/></clipPath>'


ARROW = (
    '<marker id="m" orient="auto" refX="1" refY="1" markerWidth="2" markerHeight="2"><path d="M0 0L2 1L0 2Z"/></marker>'
)


LEAF = '<path d="M5 20C10 0 30 0 35 20S10 35 5 20Z" {}/>'


WAVE = '<path d="M4 30C10 -10 16 50 22 12T36 20" fill="none" stroke="black" {}/>'


ZIGZAG = '<path d="M5 5L35 8L8 20L34 33" fill="none" stroke="#123" stroke-width="3" {}/>'


RASTER_CASES = {
    "mitre": ZIGZAG.format('stroke-miterlimit="20"'),
    "mitre beyond its limit": ZIGZAG.format('stroke-miterlimit="1.5"'),
    "bevel and square caps": ZIGZAG.format('stroke-linejoin="bevel" stroke-linecap="square"'),
    "round joins and caps": ZIGZAG.format('stroke-linejoin="round" stroke-linecap="round"'),
    "curve thinner than its bends": WAVE.format('stroke-width="1.2"'),
    "curve thicker than its bends": WAVE.format('stroke-width="7" stroke-linejoin="round"'),
    "dashes": ZIGZAG.format('stroke-dasharray="5 2 1" stroke-dashoffset="3"'),
    "dashes round a rounded rectangle": '<rect x="4" y="6" width="30" height="25" rx="6" fill="none" stroke="red" stroke-width="2" stroke-linecap="round" stroke-dasharray="6 4"/>',
    "closed outline": LEAF.format('fill="none" stroke="black" stroke-width="2.5"'),
    "fill and stroke": LEAF.format('fill="red" stroke="black" stroke-width="2.5"'),
    "stroke squeezed by its transform": '<g transform="matrix(1 0 .4 .3 0 20)">' + LEAF.format('fill="none" stroke="black" stroke-width="4"') + "</g>",
    "dots": '<path d="M10 10h0M20 20z" stroke="black" stroke-width="8" stroke-linecap="round"/>',
    "clip path": HALF + LEAF.format('clip-path="url(#c)"'),
    "clip of a group in its own box": '<clipPath id="c" clipPathUnits="objectBoundingBox"><circle cx=".5" cy=".5" r=".4"/></clipPath><g clip-path="url(#c)">' + LEAF.format("") + "</g>",
    "clip within a clip": HALF + '<clipPath id="d" clip-path="url(#c)"><path clip-rule="evenodd" d="M0 0H40V40H0ZM10 10H30V30H10Z"/></clipPath>' + LEAF.format('clip-path="url(#d)"'),
    "mask": '<mask id="m" maskUnits="userSpaceOnUse" x="0" y="0" width="40" height="40"><rect width="40" height="20" fill="white"/><circle cx="12" cy="14" r="4"/></mask>' + LEAF.format('mask="url(#m)"'),
    "use and symbol": '<symbol id="s" viewBox="0 0 10 10"><circle cx="5" cy="5" r="6"/></symbol><use href="#s" x="3" y="4" width="14" height="20"/><use href="#s" x="20" width="15" height="15"/>',
    "nested viewports": '<svg x="5" y="5" width="20" height="30" viewBox="0 0 10 10" preserveAspectRatio="xMinYMax slice"><circle cx="5" cy="5" r="5"/></svg>',
    "switch": '<switch><rect systemLanguage="xx" width="9" height="9"/><circle cx="20" cy="20" r="5"/><rect width="4" height="4"/></switch>',
    "style sheet": '<style>.a{fill:none} g > rect.b {stroke:blue;stroke-width:2} #z{fill:red!important} @media print{rect{fill:none}}</style><g><rect class="a b" x="5" y="5" width="9" height="9"/></g><rect id="z" x="20" y="20" width="10" height="8" style="fill:none"/>',
    "markers": ARROW + '<path d="M5 30L15 8L30 12" fill="none" stroke="black" stroke-width="2" marker-start="url(#m)" marker-mid="url(#m)" marker-end="url(#m)"/>',
    "units and percentages": '<rect x="10%" y=".1in" width="4mm" height="50%"/><ellipse cx="25" cy="1cm" rx="6pt" ry="2"/>',
    "current colour and white above": '<g color="green"><rect width="30" height="30" fill="currentColor"/><circle cx="15" cy="15" r="8" fill="white"/></g>',
    "translucent white hides nothing": '<rect width="30" height="30"/><circle cx="15" cy="15" r="8" fill="white" opacity=".4"/>',
}  # fmt: skip


def drawing(body: str, page: str = 'width="100" height="100"') -> Drawing:
    return read_svg(f'<svg xmlns="http://www.w3.org/2000/svg" {page}>{body}</svg>'.encode())
