"""The bytes of an SVG file to an element tree, as leniently as a browser and without any risk.

Entities are expanded here, with a bound, and the document type is taken out before the parser sees it:
neither entity bombs nor external references reach it. Nothing is fetched and no other file is read.
"""

from __future__ import annotations

import gzip
import html.entities
import io
import re
import zlib
from typing import Any

from lxml import etree

from vivid_thimble.core.errors import DrawingNotReadable
from vivid_thimble.core.formats.limits import LARGEST_FILE_BYTES, refuse_too_large

LARGEST_ENTITY = 100_000
"""Characters that one entity may grow to."""
LARGEST_GROWTH = 4_000_000
"""Characters that all entities together may add."""
DEEPEST_NESTING = 200
_ENTITY = re.compile(r"<!ENTITY\s+([\w.:-]+)\s+(\"[^\"]*\"|'[^']*')\s*>")
_REFERENCE = re.compile(r"&([A-Za-z_][\w.:-]*);")
_ENCODING = re.compile(rb"<\?xml[^>]*encoding\s*=\s*[\"']([\w.:-]+)[\"']")
_DECLARATION = re.compile(r"^\s*<\?xml.*?\?>", re.DOTALL)
_CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")
_KNOWN = ("lt", "gt", "amp", "quot", "apos")
_SVG_ELEMENT = re.compile(r"<(?:[\w-]+:)?svg[\s/>]")
Node = Any
"""An element of a document: its parser tells no types."""


def parse_document(data: bytes, name: str) -> Node:
    """The root element of an SVG document; raises DrawingNotReadable with one sentence."""
    if data[:2] == b"\x1f\x8b":
        data = _unzipped(data, name)
    if not data.strip():
        raise DrawingNotReadable(f"{name} is empty: save or download it again.")
    refuse_too_large(data, name)
    text = _without_document_type(_decoded(data), name)
    try:
        root = etree.fromstring(text.encode(), _parser(recover=False))
    except (etree.XMLSyntaxError, ValueError) as first:
        root = _parsed_leniently(text)
        if root is None:
            line = getattr(first, "lineno", None)
            where = f" (line {line})" if line else ""
            raise DrawingNotReadable(f"{name} is not a readable SVG drawing{where}: save it again as SVG.") from first
    if local_name(root) != "svg":
        raise DrawingNotReadable(f"{name} holds <{local_name(root)}> instead of an SVG drawing: choose an SVG file.")
    return root


def local_name(element: Node) -> str:
    """The tag without its namespace or prefix; empty for comments and the like."""
    tag = element.tag
    if not isinstance(tag, str):
        return ""
    return tag.rsplit("}", 1)[-1].rsplit(":", 1)[-1]


def _unzipped(data: bytes, name: str) -> bytes:
    try:
        with gzip.GzipFile(fileobj=io.BytesIO(data)) as packed:
            return packed.read(LARGEST_FILE_BYTES + 1)
    except (OSError, EOFError, zlib.error) as error:
        raise DrawingNotReadable(f"{name} is packed and damaged: download it again.") from error


def _decoded(data: bytes) -> str:
    """As text: by its mark or declaration, else UTF-8, else Latin-1, which fits any bytes."""
    stated = _ENCODING.search(data[:400])
    names = ["utf-16"] if data[:2] in (b"\xff\xfe", b"\xfe\xff") else []
    names += ["utf-8-sig", *([stated.group(1).decode()] if stated else []), "cp1252"]
    for encoding in names:
        try:
            return data.decode(encoding)
        except (UnicodeDecodeError, LookupError):
            continue
    return data.decode("latin-1")


def _without_document_type(text: str, name: str) -> str:
    """The text with its own entities expanded and without document type, XML declaration and control characters."""
    text = _CONTROL.sub("", _DECLARATION.sub("", text, count=1))
    start = text.find("<!DOCTYPE", 0, 100_000)
    entities: dict[str, str] = {}
    if start >= 0:
        end = _end_of_document_type(text, start)
        entities = {match.group(1): match.group(2)[1:-1] for match in _ENTITY.finditer(text, start, end)}
        text = text[:start] + text[end:]
    if "&" not in text:
        return text
    grown = 0

    def expanded(match: re.Match[str]) -> str:
        nonlocal grown
        value = _entity(match.group(1), entities, name, 0)
        grown += len(value)
        if grown > LARGEST_GROWTH:
            raise DrawingNotReadable(f"{name} grows without end when its abbreviations are written out: do not use it.")
        return value

    return _REFERENCE.sub(expanded, text)


def _end_of_document_type(text: str, start: int) -> int:
    bracket, close = text.find("[", start), text.find(">", start)
    if 0 <= bracket < close:
        inner = text.find("]", bracket)
        close = text.find(">", inner) if inner >= 0 else -1
    return close + 1 if close >= 0 else len(text)


def _entity(key: str, entities: dict[str, str], name: str, depth: int) -> str:
    """The text of an entity: the file's own, or one that web pages know; anything else stays as it is written."""
    if key in _KNOWN:
        return f"&{key};"
    if key not in entities:
        value = html.entities.html5.get(f"{key};")
        return value if value is not None else f"&amp;{key};"
    if depth > 8:
        raise DrawingNotReadable(f"{name} explains its abbreviations by each other without end: do not use it.")
    value = _REFERENCE.sub(lambda match: _entity(match.group(1), entities, name, depth + 1), entities[key])
    if len(value) > LARGEST_ENTITY:
        raise DrawingNotReadable(f"{name} grows without end when its abbreviations are written out: do not use it.")
    return value


def _parser(*, recover: bool) -> Node:
    return etree.XMLParser(
        recover=recover,
        resolve_entities=False,
        no_network=True,
        load_dtd=False,
        huge_tree=True,
        remove_comments=True,
        remove_pis=True,
    )


def _parsed_leniently(text: str) -> Node:
    """What can be saved of a damaged document, if it is recognisably a drawing."""
    found = _SVG_ELEMENT.search(text)
    if not found:
        return None
    before = text[: found.start()].strip()
    if before and not before.startswith("<"):
        text = text[found.start() :]
    try:
        root = etree.fromstring(text.encode(), _parser(recover=True))
    except (etree.XMLSyntaxError, ValueError):
        return None
    if root is not None and local_name(root) != "svg":
        root = next((e for e in root.iter() if local_name(e) == "svg"), root)
    return root if root is not None and local_name(root) == "svg" and len(root) else None
