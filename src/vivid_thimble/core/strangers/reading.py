"""What is read of a stranger's file, by the names under which a limited process is asked for it.

Everything here runs in that process; ``ask`` asks for it.
"""

from __future__ import annotations

import codecs
import contextlib
import importlib
import pkgutil
import re
from collections.abc import Callable
from functools import cache
from typing import Any, Literal

from vivid_thimble.core.strangers.plain_data import by_name

Kind = Literal["drawing", "painted", "picture", "contents", "unpacked", "notes", "font"]
Family = Literal["svg", "letters", "dxf", "pdf", "painted", "picture", "font", "zip"]
_NEEDED: dict[Family, tuple[str, ...]] = {
    "svg": (
        *("cssselect2", "tinycss2", "tinycss2.color3"),
        *("encodings.ascii", "encodings.cp1252", "encodings.latin_1", "encodings.utf_8_sig"),
        *("encodings.utf_16", "encodings.utf_16_be", "encodings.utf_16_le", "encodings.utf_32"),
    ),
    "letters": ("bidi.algorithm", "fontTools.unicodedata"),
    "dxf": (
        "ezdxf.colors",
        "ezdxf.lldxf.const",
        "ezdxf.path",
        "ezdxf.recover",
        "scipy.sparse.csgraph",
        "scipy.spatial",
    ),
    "pdf": ("pypdfium2.raw",),
    "painted": ("scipy.sparse.csgraph", "scipy.spatial"),
    "picture": ("PIL.Image", "PIL.ImageCms", "PIL.ImageOps"),
    "font": ("fontTools.ttLib", "fontTools.ttLib.woff2", "brotli"),
    "zip": ("zlib", "bz2", "lzma", "encodings.cp437"),
}
"""Packages that the readers only import when they need them: a limited process can open no file to import them from."""
_DECLARED = re.compile(rb"""encoding=["']([A-Za-z0-9._-]{1,40})""")
OF_ANOTHER_SYSTEM = ("mbcs", "oem", "cp65001")


_READERS: dict[Kind, str] = {
    "drawing": "vivid_thimble.core.formats.drawing_read:read_drawing_here",
    "painted": "vivid_thimble.core.sources.painted_apart:painted_here",
    "picture": "vivid_thimble.core.formats.raster_read:read_picture_here",
    "contents": "vivid_thimble.core.formats.bundle:contents_here",
    "unpacked": "vivid_thimble.core.formats.bundle:unpacked_here",
    "notes": "vivid_thimble.core.formats.bundle:notes_here",
    "font": "vivid_thimble.core.sources.fonts:sound_font",
}
_ANSWERS = (
    "vivid_thimble.core.formats.bundle:Bundle",
    "vivid_thimble.core.formats.bundle:Entry",
    "vivid_thimble.core.formats.raster_read:Raster",
    "vivid_thimble.core.geometry.affine:Affine",
    "vivid_thimble.core.geometry.path:Contour",
    "vivid_thimble.core.geometry.path:Path",
    "vivid_thimble.core.geometry.region:Region",
    "vivid_thimble.core.geometry.stroke:StrokeStyle",
    "vivid_thimble.core.sources.artwork:Artwork",
    "vivid_thimble.core.sources.cleaning:Cleaned",
    "vivid_thimble.core.sources.cleaning:Cleaning",
    "vivid_thimble.core.sources.provenance:Provenance",
    "vivid_thimble.core.sources.drawing:Clip",
    "vivid_thimble.core.sources.drawing:Drawing",
    "vivid_thimble.core.sources.drawing:DrawingPart",
    "vivid_thimble.core.sources.drawing:EmbeddedPicture",
    "vivid_thimble.core.sources.drawing:Veil",
)
"""By name: the readers are the ones who ask, so nothing here imports them."""


def named(place: str) -> Any:
    """What stands under "module:name"."""
    module, _, name = place.partition(":")
    return getattr(importlib.import_module(module), name)


def readers() -> dict[Kind, Callable[..., Any]]:
    """The function that reads each kind of file."""
    return {kind: named(place) for kind, place in _READERS.items()}


def prepare_all() -> None:
    """Load all that any reader may need."""
    readers()
    for family in _NEEDED:
        _prepare(family)


def prepare(kind: Kind, data: bytes) -> None:
    """Load all that reading these bytes may need, before there are limits."""
    readers()
    for family in _families(kind, data):
        _prepare(family)
    if (declared := _DECLARED.search(data[:256])) is not None:
        with contextlib.suppress(LookupError):
            codecs.lookup(declared[1].decode("ascii", "replace"))


def _families(kind: Kind, data: bytes) -> tuple[Family, ...]:
    if kind == "drawing":
        if data[:2] in (b"PK", b"\x1f\x8b"):
            return ("svg", "letters", "dxf", "pdf", "zip")
        if b"%PDF-" in data[:1024]:
            return ("pdf",)
        if b"<" not in data[:1024] or b"SECTION" in data[:4096].upper():
            return ("dxf", "svg", "letters")
        return ("svg", "letters") if b"text" in data else ("svg",)
    return (kind,) if kind in ("painted", "picture", "font") else ("zip",)


@cache
def _prepare(family: Family) -> None:
    for name in _NEEDED[family]:
        importlib.import_module(name)
    if family == "dxf":
        import encodings

        for module in pkgutil.iter_modules(encodings.__path__):
            if module.name not in OF_ANOTHER_SYSTEM:
                importlib.import_module(f"encodings.{module.name}")
    elif family == "letters":
        for face in named("vivid_thimble.core.sources.fonts:BUNDLED"):
            named("vivid_thimble.core.sources.fonts:load_face")(f"bundled:{face}")
    elif family == "picture":
        from PIL import Image

        Image.init()
    elif family == "font":
        from fontTools.ttLib import tables

        for module in pkgutil.iter_modules(tables.__path__):
            importlib.import_module(f"fontTools.ttLib.tables.{module.name}")


def answer_classes() -> dict[str, type]:
    """The classes of what a reader may answer."""
    return by_name(named(place) for place in _ANSWERS)
