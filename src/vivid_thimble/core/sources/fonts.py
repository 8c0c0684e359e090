"""Fonts: the ones shipped with the application, installed ones, and loose files.

A face is named by a plain reference: ``bundled:NAME``, ``file:PATH`` or
``family:NAME``. WOFF2 is unpacked in memory. Nothing is downloaded.
"""

from __future__ import annotations

import io
import os
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from pathlib import Path as FilePath

import uharfbuzz as hb

from vivid_thimble.core.errors import FontNotUsable
from vivid_thimble.core.files import clean_text, read_file
from vivid_thimble.core.folders import own_fonts_folder
from vivid_thimble.core.strangers.ask import read_within_limits
from vivid_thimble.core.strangers.given_fonts import given_fonts

BUNDLED: dict[str, str] = {
    "Pacifico": "Pacifico-Regular-latin.ttf",
    "League Spartan": "LeagueSpartan-ExtraBold.otf",
    "Courier Prime": "CourierPrime-Bold.otf",
    "Stardos Stencil": "stardos-stencil-latin-400-normal.woff2",
}
BUNDLED_KINDS: dict[str, str] = {
    "Pacifico": "script",
    "League Spartan": "heavy sans",
    "Courier Prime": "typewriter",
    "Stardos Stencil": "open counters",
}
FONT_ENDINGS = (".ttf", ".otf", ".ttc", ".woff2", ".woff")
LARGEST_FONT_BYTES = 100_000_000
PACKED = (b"wOF2", b"wOFF")


@dataclass(frozen=True, eq=False)
class Face:
    """A loaded face, ready for shaping and drawing; one em is ``units_per_em`` units."""

    name: str
    font: hb.Font
    units_per_em: int
    content_key: str


def load_face(reference: str) -> Face:
    """The face behind a reference; raises FontNotUsable with one sentence."""
    kind, _, name = reference.partition(":")
    if kind == "bundled" and name in BUNDLED:
        return _face_from_bytes(_bundled_bytes(BUNDLED[name]), name, reference)
    if kind == "family":
        path = installed_families().get(name.casefold())
        if path is None:
            raise FontNotUsable(f'No font named "{name}" is installed: choose another face or give its file.')
        return _face_of_file(path, name)
    if kind == "file":
        return _face_of_file(name, FilePath(name).stem)
    raise FontNotUsable(f'No font named "{name or reference}" comes with the application: choose one from the list.')


@dataclass(frozen=True)
class Axis:
    """What can be set on a variable face: its tag, its name, and the range of its values."""

    tag: str
    title: str
    low: float
    usual: float
    high: float


def axes_of(face: Face) -> tuple[Axis, ...]:
    """The axes of a face; none when it is not variable."""
    faces = face.font.face
    return tuple(
        Axis(one.tag, faces.get_name(one.name_id) or one.tag, one.min_value, one.default_value, one.max_value)
        for one in faces.axis_infos
        if one.min_value < one.max_value
    )


@lru_cache(maxsize=64)
def with_axes(face: Face, axes: tuple[tuple[str, float], ...]) -> Face:
    """A variable face at a setting; axes that it does not have are left aside."""
    known = {axis.tag for axis in face.font.face.axis_infos} if axes else set()
    wanted = {tag: value for tag, value in axes if tag in known}
    if not wanted:
        return face
    font = hb.Font(face.font.face)
    font.set_variations(wanted)
    key = " ".join(f"{tag}={value:g}" for tag, value in sorted(wanted.items()))
    return Face(face.name, font, face.units_per_em, f"{face.content_key} {key}")


@dataclass(frozen=True)
class Licence:
    """What a font says of its makers and its licence, as it is written in the file; empty when it says nothing."""

    copyright: str
    terms: str
    link: str

    def __str__(self) -> str:
        return "\n\n".join(text for text in (self.copyright, self.terms, self.link) if text)


def licence_of(face: Face) -> Licence:
    """The licence that a font carries."""
    names = hb.OTNameIdPredefined
    found = (face.font.face.get_name(one) or "" for one in (names.COPYRIGHT, names.LICENSE, names.LICENSE_URL))
    return Licence(*(text.strip() for text in found))


def find_reference(wanted: str) -> str:
    """A reference from what a person gives: a file, a bundled name, or an installed family."""
    text = wanted.strip()
    if FilePath(text).suffix.lower() in FONT_ENDINGS or os.sep in text:
        return f"file:{FilePath(text).resolve()}"
    for name in BUNDLED:
        if name.casefold() == text.casefold():
            return f"bundled:{name}"
    return f"family:{text}"


def face_title(reference: str) -> str:
    """The name to show for a reference."""
    kind, _, name = reference.partition(":")
    return FilePath(name).stem if kind == "file" else name


def installed_families() -> dict[str, str]:
    """Installed fonts: lower-case full names and family names to their files.

    A family name leads to its regular face if it has one.
    """
    fonts = given_fonts()
    return _installed() if fonts is None else fonts.families()


@lru_cache(maxsize=1)
def _installed() -> dict[str, str]:
    found: dict[str, str] = {}
    regular: dict[str, str] = {}
    for path in _font_files():
        names = _names_of(path)
        if names is None:
            continue
        family, style = names
        found.setdefault(f"{family} {style}".casefold(), path)
        found.setdefault(family.casefold(), path)
        if style.casefold() in ("regular", "book", "normal", "roman", "medium"):
            regular.setdefault(family.casefold(), path)
    return found | regular


def installed_titles() -> list[str]:
    """Family names of the installed fonts as they are written, sorted."""
    titles = {names[0] for path in _font_files() if (names := _names_of(path))}
    return sorted(titles, key=str.casefold)


def forget_installed() -> None:
    """Look at the folders again when fonts were added."""
    _installed.cache_clear()


def faces_at_hand() -> list[str]:
    """References of every face that needs no file: the bundled ones, then the installed ones by name."""
    return [*(f"bundled:{name}" for name in BUNDLED), *(f"family:{title}" for title in installed_titles())]


def faces_in(folder: str) -> list[str]:
    """References of all font files in a folder and below, by name; raises FontNotUsable when it is not there."""
    place = FilePath(folder)
    if not place.is_dir():
        raise FontNotUsable(f"There is no folder {folder}: name one that holds font files.")
    files = [path for path in place.rglob("*") if path.suffix.lower() in FONT_ENDINGS and path.is_file()]
    return [f"file:{path.resolve()}" for path in sorted(files, key=lambda p: p.name.casefold())]


def _font_files() -> Iterator[str]:
    home = os.path.expanduser("~")
    data = os.environ.get("XDG_DATA_HOME", os.path.join(home, ".local", "share"))
    places = [
        str(own_fonts_folder()),
        "/usr/share/fonts",
        "/usr/local/share/fonts",
        os.path.join(data, "fonts"),
        os.path.join(home, ".fonts"),
    ]
    for place in places:
        for folder, folders, files in sorted(os.walk(place)):
            folders.sort()
            yield from (os.path.join(folder, f) for f in sorted(files) if f.lower().endswith((".ttf", ".otf")))


@lru_cache(maxsize=4096)
def _names_of(path: str) -> tuple[str, str] | None:
    """Family and style of a font file; None when it cannot be read."""
    try:
        face = hb.Face(hb.Blob.from_file_path(path))
        family = face.get_name(hb.OTNameIdPredefined.TYPOGRAPHIC_FAMILY) or face.get_name(
            hb.OTNameIdPredefined.FONT_FAMILY
        )
        style = face.get_name(hb.OTNameIdPredefined.TYPOGRAPHIC_SUBFAMILY) or face.get_name(
            hb.OTNameIdPredefined.FONT_SUBFAMILY
        )
    except (hb.HarfBuzzError, OSError, ValueError):
        return None
    return (family, style or "Regular") if family else None


@lru_cache(maxsize=len(BUNDLED))
def _bundled_bytes(file_name: str) -> bytes:
    return (resources.files("vivid_thimble") / "data" / "fonts" / file_name).read_bytes()


def _face_of_file(path: str, title: str) -> Face:
    if (fonts := given_fonts()) is not None:
        return _face_from_bytes(fonts.file(path), title, f"given:{path}")
    try:
        facts = FilePath(path).stat()
        size, stamp = facts.st_size, facts.st_mtime_ns
    except (OSError, ValueError) as error:  # a name with a zero in it raises the latter
        raise FontNotUsable(f"The font file {path} cannot be opened: check that it is still there.") from error
    if path != clean_text(path):
        raise FontNotUsable(f"The name of the font file {clean_text(path)} is no text: rename it, and choose it again.")
    if size > LARGEST_FONT_BYTES:
        raise FontNotUsable(f"The font file {path} is larger than 100 MB: choose another.")
    return _cached_file(path, title, size, stamp)


@lru_cache(maxsize=64)
def _cached_file(path: str, title: str, size: int, stamp: int) -> Face:
    try:
        data = read_file(path, LARGEST_FONT_BYTES)
    except OSError as error:
        why = (error.strerror or "").lower()
        raise FontNotUsable(f"The font file {path} cannot be read ({why}): choose another.") from error
    plain: bytes = read_within_limits("font", data, title, refusal=FontNotUsable, name=title)
    return _face_from_bytes(plain, title, f"file:{path}:{size}:{stamp}")


def sound_font(data: bytes, title: str) -> bytes:
    """The font in a file, unpacked; only for a process with limits. Raises FontNotUsable."""
    plain = _unpacked(data, title) if data[:4] in PACKED else data
    _face_from_bytes(plain, title, title)
    return plain


@lru_cache(maxsize=64)
def _face_from_bytes(data: bytes, title: str, content_key: str) -> Face:
    if data[:4] in PACKED:
        data = _unpacked(data, title)
    if data[:4] not in (b"\x00\x01\x00\x00", b"OTTO", b"true", b"ttcf"):
        raise FontNotUsable(f"{title} is not a font (TTF, OTF or WOFF2): choose a font file.")
    try:
        face = hb.Face(data)
        font = hb.Font(face)
        if face.glyph_count < 2 or face.upem <= 0:
            raise ValueError("no glyphs")
    except (hb.HarfBuzzError, ValueError) as error:
        raise FontNotUsable(f"{title} is damaged and holds no letters: download the font again.") from error
    return Face(title, font, face.upem, content_key)


def _unpacked(data: bytes, title: str) -> bytes:
    from fontTools.ttLib import TTFont, TTLibError  # here: only packed fonts need it

    out = io.BytesIO()
    try:
        font = TTFont(io.BytesIO(data))
        font.flavor = None
        font.save(out)
    except (TTLibError, ValueError, KeyError, IndexError, AssertionError, OSError, MemoryError) as error:
        raise FontNotUsable(f"{title} is a damaged web font: download the font again.") from error
    except Exception as error:  # the unpacker raises bare library errors on damaged streams
        raise FontNotUsable(f"{title} is a damaged web font: download the font again.") from error
    return out.getvalue()
