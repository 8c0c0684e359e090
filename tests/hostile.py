"""Files made to break a reader, by name. ``bench/hostile.py`` prints what each costs and comes to."""

from __future__ import annotations

import gzip
import io
import zipfile
import zlib
from collections.abc import Callable

SVG = (
    '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="40" height="40">{}</svg>'
)


def _svg(body: str, head: str = "") -> bytes:
    return (head + SVG.format(body)).encode()


def _entity_bomb() -> bytes:
    levels = "".join(f'<!ENTITY e{k} "{f"&e{k - 1};" * 10}">' for k in range(1, 12))
    return _svg("<text>&e11;</text>", f'<!DOCTYPE svg [<!ENTITY e0 "haha">{levels}]>')


def _entity_circle() -> bytes:
    return _svg("<text>&a;</text>", '<!DOCTYPE svg [<!ENTITY a "&b;"><!ENTITY b "&a;">]>')


def _zip(*entries: tuple[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in entries:
            archive.writestr(name, content)
    return out.getvalue()


def _dxf_self_insert() -> bytes:
    return (
        b"0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n2\na\n10\n0\n20\n0\n0\nINSERT\n2\na\n10\n1\n20\n1\n0\nENDBLK\n0\nENDSEC\n"
        b"0\nSECTION\n2\nENTITIES\n0\nINSERT\n2\na\n10\n0\n20\n0\n0\nENDSEC\n0\nEOF\n"
    )


def _dxf_huge_grid() -> bytes:
    return (
        b"0\nSECTION\n2\nBLOCKS\n0\nBLOCK\n2\na\n10\n0\n20\n0\n0\nCIRCLE\n10\n0\n20\n0\n40\n1\n0\nENDBLK\n0\nENDSEC\n0\nSECTION\n"
        b"2\nENTITIES\n0\nINSERT\n2\na\n10\n0\n20\n0\n70\n32000\n71\n32000\n44\n1\n45\n1\n0\nENDSEC\n0\nEOF\n"
    )


def _pdf_bomb() -> bytes:
    packed = zlib.compress(zlib.compress(b"0 0 m 9 9 l 9 0 l f\n" * 4_000_000, 9), 9)
    head = (
        b"%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\n2 0 obj<</Type/Pages/Kids[3 0 R]/Count 1>>endobj\n"
        b"3 0 obj<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R>>endobj\n"
    )
    stream = b"4 0 obj<</Length %d/Filter[/FlateDecode/FlateDecode]>>stream\n" % len(packed)
    return head + stream + packed + b"\nendstream endobj\ntrailer<</Root 1 0 R>>\n%%EOF"


HOSTILE: dict[str, Callable[[], bytes]] = {
    "entity bomb": _entity_bomb,
    "entities in a circle": _entity_circle,
    "external entity": lambda: _svg("<text>&x;</text><rect width='2' height='2'/>", '<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>'),
    "external references": lambda: _svg('<image xlink:href="file:///etc/passwd"/><use xlink:href="/etc/passwd#a"/><style>@import url(http://example.invalid/a.css); @font-face{src:url(file:///etc/passwd)}</style><rect width="3" height="3" fill="url(http://example.invalid/a#b)"/>'),
    "5,000 nested groups": lambda: _svg("<g>" * 5000 + "<rect width='1' height='1'/>" + "</g>" * 5000),
    "a million segments": lambda: _svg('<path d="M0 0' + "L1 2 3 1" * 500_000 + '"/>'),
    "100,000 shapes": lambda: _svg('<rect width="1" height="1"/>' * 100_000),
    "not numbers": lambda: _svg('<path d="M0 0Lnan inf L1e999 3"/><rect width="nan" height="inf"/><circle r="1e400"/><g transform="scale(nan)"><rect width="2" height="2"/></g><rect width="4" height="4"/>'),
    "coordinates of 10^9": lambda: _svg('<path d="M0 0H1e9V1e9H0Z"/><rect x="-1e9" width="5" height="5"/>'),
    "use of itself": lambda: _svg('<g id="a"><use xlink:href="#a"/><use xlink:href="#b"/></g><g id="b"><use xlink:href="#a"/></g><rect width="3" height="3"/>'),
    "use that doubles": lambda: _svg("".join(f'<g id="u{k}"><use xlink:href="#u{k - 1}"/><use xlink:href="#u{k - 1}"/></g>' if k else '<g id="u0"><rect width="1" height="1"/></g>' for k in range(40))),
    "clip in a circle": lambda: _svg('<clipPath id="a" clip-path="url(#b)"><rect width="9" height="9"/></clipPath><clipPath id="b" clip-path="url(#a)"><rect width="9" height="9"/></clipPath><rect width="5" height="5" clip-path="url(#a)"/>'),
    "gradient in a circle": lambda: _svg('<linearGradient id="a" xlink:href="#b"/><linearGradient id="b" xlink:href="#a"/><rect width="5" height="5" fill="url(#a)"/>'),
    "dashes without end": lambda: _svg('<path d="M0 0H1e6" stroke="red" stroke-dasharray="1e-7 1e-7"/>'),
    "mitre without end": lambda: _svg('<path d="M0 0L30 0L0 1e-9" fill="none" stroke="red" stroke-width="2" stroke-miterlimit="1e30"/>'),
    "a stroke of 10^9": lambda: _svg('<path d="M0 0L30 9" stroke="red" stroke-width="1e9"/><rect width="3" height="3"/>'),
    "style sheet of 30,000 rules": lambda: _svg("<style>" + "".join(f"g>rect.c{k}:not(.x){{fill:red}}" for k in range(30_000)) + "</style>" + '<rect class="c5" width="4" height="4"/>' * 50),
    "zip that leads elsewhere": lambda: _zip(("../../../etc/cron.d/x.svg", _svg('<rect width="4" height="4"/>')), ("/abs/y.txt", b"z")),
    "zip bomb": lambda: _zip(("bomb.svg", b"<svg>" + b" " * 200_000_000)),
    "zip in a zip": lambda: _zip(("inner.zip", _zip(("a.svg", _svg("<rect/>"))))),
    "packed drawing bomb": lambda: gzip.compress(b"<svg>" + b" " * 300_000_000),
    "cut off in the middle": lambda: _svg('<rect width="4" height="4"/><path d="M0 0L5 5 4 1z"/>')[:-30],
    "zip cut off": lambda: _zip(("a.svg", _svg("<rect/>") * 50))[:200],
    "a picture called .svg": lambda: b"\x89PNG\r\n\x1a\n" + bytes(500),
    "a font called .svg": lambda: b"\x00\x01\x00\x00" + bytes(300),
    "nothing but zeros": lambda: bytes(100_000),
    "DXF block in itself": _dxf_self_insert,
    "DXF grid of a thousand million": _dxf_huge_grid,
    "DXF not numbers": lambda: b"0\nSECTION\n2\nENTITIES\n0\nLINE\n10\nnan\n20\ninf\n11\n1e999\n21\n-\n0\nCIRCLE\n10\n0\n20\n0\n40\n-5\n0\nENDSEC\n0\nEOF\n",
    "DXF cut off": lambda: b"0\nSECTION\n2\nENTITIES\n0\nLWPOLYLINE\n90\n400\n10\n3",
    "PDF bomb": _pdf_bomb,
    "PDF cut off": lambda: _pdf_bomb()[:300],
}  # fmt: skip
