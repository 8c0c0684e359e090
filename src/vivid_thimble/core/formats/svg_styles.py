"""Which paint an SVG element has: attributes, style sheets, style attributes, inheritance, colours.

Follows the cascade of CSS: presentation attributes, then rules by specificity and order, then the style
attribute, then what is marked important. Selectors are matched by cssselect2; imports and media
rules other than ``all`` and ``screen`` are left out, so nothing is ever fetched.
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import NamedTuple

from vivid_thimble.core.formats.svg_document import Node, local_name
from vivid_thimble.core.sources.drawing import Colour

INHERITED: dict[str, str] = {
    "fill": "black",
    "fill-opacity": "1",
    "fill-rule": "nonzero",
    "clip-rule": "nonzero",
    "stroke": "none",
    "stroke-opacity": "1",
    "stroke-width": "1",
    "stroke-linecap": "butt",
    "stroke-linejoin": "miter",
    "stroke-miterlimit": "4",
    "stroke-dasharray": "none",
    "stroke-dashoffset": "0",
    "color": "black",
    "visibility": "visible",
    "font-family": "",
    "font-size": "16",
    "font-style": "normal",
    "font-weight": "normal",
    "text-anchor": "start",
    "letter-spacing": "normal",
    "marker-start": "none",
    "marker-mid": "none",
    "marker-end": "none",
    "paint-order": "normal",
}
"""The inherited properties that matter here, with what holds at the root."""
OWN = (
    "display",
    "opacity",
    "clip-path",
    "mask",
    "filter",
    "overflow",
    "stop-color",
    "stop-opacity",
    "vector-effect",
    "transform",
    "mask-type",
    "baseline-shift",
)
_PROPERTIES = frozenset((*INHERITED, *OWN))
_ATTRIBUTES = _PROPERTIES - {"transform"}
MOST_RULES = 4_000
LONGEST_SHEET = 400_000
"""Characters of style sheets that are looked at."""


class Ink(NamedTuple):
    colour: Colour
    opacity: float


@lru_cache(maxsize=4096)
def ink_of(text: str) -> Ink | None:
    """A colour of CSS; None when it is none (also for ``currentColor``)."""
    from tinycss2.color3 import parse_color  # here: only drawings need it

    words = text.strip()
    if words.startswith("#") and " " in words:
        words = words.split()[0]  # a second, device colour follows
    found = parse_color(words)
    if found is None or isinstance(found, str):
        return None
    r, g, b = (round(min(max(value, 0.0), 1.0) * 255) for value in found[:3])
    return Ink((r, g, b), min(max(float(found[3]), 0.0), 1.0))


def is_paint(text: str) -> bool:
    """Whether a fill or stroke value means anything; browsers ignore the others."""
    lower = text.strip().lower()
    return (
        lower in ("none", "currentcolor", "inherit", "context-fill", "context-stroke")
        or lower.startswith("url(")
        or ink_of(text) is not None
    )


def declarations_of(text: str) -> list[tuple[str, str, bool]]:
    """Property, value and importance of a style attribute or the body of a rule."""
    found = []
    for declaration in re.sub(r"/\*.*?\*/", "", text, flags=re.DOTALL).split(";"):
        key, _, value = declaration.partition(":")
        key, value = key.strip().lower(), value.strip()
        if (key not in _PROPERTIES and key not in ("marker", "font")) or not value:
            continue
        important = value.lower().endswith("important") and "!" in value
        value = value.rsplit("!", 1)[0].strip() if important else value
        found += [(one, value, important) for one in _longhands(key)]
        if key == "font":
            found.pop()
            found += [(one, part, important) for one, part in _font_parts(value)]
    return found


def _longhands(key: str) -> tuple[str, ...]:
    return ("marker-start", "marker-mid", "marker-end") if key == "marker" else (key,)


def _font_parts(value: str) -> list[tuple[str, str]]:
    match = re.search(r"(?:^|\s)([\d.]+(?:px|pt|mm|cm|in|em|%)?)(?:/\S+)?\s+(.+)$", value)
    if match is None:
        return []
    words = value[: match.start()].lower().split()
    weight = next((w for w in words if w in ("bold", "bolder") or w.isdigit()), "normal")
    style = "italic" if {"italic", "oblique"} & set(words) else "normal"
    return [("font-size", match[1]), ("font-family", match[2]), ("font-weight", weight), ("font-style", style)]


class Styles:
    """The properties of every element of one document."""

    def __init__(self, root: Node) -> None:
        sheets = [
            "".join(element.itertext())
            for element in root.iter()
            if local_name(element) == "style" and _is_for_screens(element.get("media"))
        ]
        self._ruled: dict[Node, list[tuple[str, str, bool]]] = {}
        self.rules_left_out = 0
        text = "\n".join(sheets).strip()
        if len(text) > LONGEST_SHEET:
            text, self.rules_left_out = text[:LONGEST_SHEET], 1
        if text:
            self._match(root, text)

    def of(self, element: Node) -> dict[str, str]:
        """The properties that are set on an element itself, after the cascade."""
        found: dict[str, str] = {}
        for key, value in element.attrib.items():
            if key in _ATTRIBUTES and value.strip():
                _set(found, key, value.strip())
            elif key == "marker" and value.strip():
                for one in _longhands("marker"):
                    _set(found, one, value.strip())
        ruled = self._ruled.get(element, ())
        style = element.get("style")
        inline = declarations_of(style) if style else []
        for wanted in (False, True):
            for source in (ruled, inline) if not wanted else (inline, ruled):
                for key, value, important in source:
                    if important == wanted:
                        _set(found, key, value)
        return found

    def _match(self, root: Node, text: str) -> None:
        import cssselect2  # here: few drawings have style sheets
        import tinycss2

        matcher = cssselect2.Matcher()
        count = 0
        for rule in _style_rules(tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True)):
            body = declarations_of(tinycss2.serialize(rule.content))
            try:
                selectors = cssselect2.compile_selector_list(rule.prelude)
            except cssselect2.SelectorError:
                self.rules_left_out += 1
                continue
            for selector in selectors:
                if body and count < MOST_RULES:
                    matcher.add_selector(selector, body)
                    count += 1
        if not count:
            return
        for wrapped in cssselect2.ElementWrapper.from_xml_root(root).iter_subtree():
            matches = sorted(matcher.match(wrapped), key=lambda match: (match[0], match[1]))
            if matches:
                self._ruled[wrapped.etree_element] = [one for match in matches for one in match[3]]


def _is_for_screens(media: str | None) -> bool:
    return not media or any(word in media.lower() for word in ("all", "screen"))


def _style_rules(nodes: Node) -> list[Node]:
    import tinycss2

    rules = []
    for node in nodes:
        if node.type == "qualified-rule":
            rules.append(node)
            continue
        is_media = node.type == "at-rule" and node.lower_at_keyword == "media" and node.content is not None
        if is_media and _is_for_screens(tinycss2.serialize(node.prelude)):
            rules += _style_rules(tinycss2.parse_rule_list(node.content, skip_comments=True, skip_whitespace=True))
    return rules


def _set(found: dict[str, str], key: str, value: str) -> None:
    if key in ("fill", "stroke") and not is_paint(value):
        return
    found[key] = value


def inherited(style: dict[str, str], own: dict[str, str]) -> dict[str, str]:
    """What an element hands on: its own values over those round it. Sizes of fonts are left as written."""
    given = {key: value for key, value in own.items() if key in INHERITED and value != "inherit"}
    return style | given if given else style
