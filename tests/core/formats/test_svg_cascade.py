"""The cascade of styles against one worked out rule by rule from CSS Cascade 4."""

from __future__ import annotations

from dataclasses import dataclass

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.formats.drawings import drawing
from vivid_thimble.core.sources.colours import to_hex

COLOURS = [f"#{r}{g}{b}" for r in ("11", "cc") for g in ("22", "dd") for b in ("33", "ee")]
COLOUR = st.sampled_from(COLOURS)
SELECTORS = {
    # selector -> its specificity, and whether it is met by the rectangle, by the group round it
    "*": ((0, 0, 0), True, True),
    "rect": ((0, 0, 1), True, False),
    "g": ((0, 0, 1), False, True),
    ".leaf": ((0, 1, 0), True, False),
    ".bough": ((0, 1, 0), False, True),
    "rect.leaf": ((0, 1, 1), True, False),
    "#one": ((1, 0, 0), True, False),
    "g rect": ((0, 0, 2), True, False),
    "g > .leaf": ((0, 1, 1), True, False),
    "svg .bough .leaf": ((0, 2, 1), True, False),
    "#one.leaf": ((1, 1, 0), True, False),
    "rect:not(.leaf)": ((0, 1, 1), False, False),
    "circle": ((0, 0, 1), False, False),
    "[id]": ((0, 1, 0), True, False),
}


@dataclass(frozen=True)
class Rule:
    selector: str
    colour: str
    important: bool

    @property
    def text(self) -> str:
        return f"{self.selector} {{ fill: {self.colour}{' !important' if self.important else ''} }}"


RULES = st.lists(st.builds(Rule, st.sampled_from(sorted(SELECTORS)), COLOUR, st.booleans()), max_size=6)
MAYBE = st.none() | COLOUR


def winner(rules: list[Rule], inline: str | None, attribute: str | None, *, of_rect: bool) -> str | None:
    """What an element itself says: important rules, its style attribute, rules, its attributes."""
    at = 1 if of_rect else 2
    met = [(SELECTORS[r.selector][0], k, r) for k, r in enumerate(rules) if SELECTORS[r.selector][at]]
    for important in (True, False):
        if not important and inline is not None:
            return inline
        own = sorted((weight, k, rule.colour) for weight, k, rule in met if rule.important is important)
        if own:
            return own[-1][2]
    return attribute


@given(RULES, MAYBE, MAYBE, MAYBE, MAYBE, st.booleans())
@settings(max_examples=150, deadline=None)
def test_a_shape_has_the_colour_that_the_cascade_gives_it(
    rules: list[Rule],
    inline: str | None,
    attribute: str | None,
    group_inline: str | None,
    group_attribute: str | None,
    two_sheets: bool,
) -> None:
    own = winner(rules, inline, attribute, of_rect=True)
    inherited = winner(rules, group_inline, group_attribute, of_rect=False)
    texts = [rule.text for rule in rules]
    sheets = [texts[:2], texts[2:]] if two_sheets else [texts]
    head = "".join(f"<style>{' '.join(sheet)}</style>" for sheet in sheets)

    def said(style: str | None, plain: str | None) -> str:
        return (f' style="fill: {style}"' if style else "") + (f' fill="{plain}"' if plain else "")

    body = (
        f'{head}<g class="bough"{said(group_inline, group_attribute)}>'
        f'<rect id="one" class="leaf new" width="9" height="9"{said(inline, attribute)}/></g>'
    )
    (part,) = drawing(body).parts
    assert to_hex(part.colour) == (own or inherited or "#000000")


@pytest.mark.parametrize(
    ("css", "colour"),
    [
        ("rect{fill:red;fill:nonsense}", "#ff0000"),
        ("rect{fill:nonsense}", "#000000"),
        ("rect{fill:rgb(20%, 40%, 60%)}", "#336699"),
        ("rect{fill:#abc}", "#aabbcc"),
        ("rect{color:#123456;fill:currentColor}", "#123456"),
        ("@media print{rect{fill:red}} rect{fill:blue}", "#0000ff"),
        ("rect{fill:red} } rect{fill:blue}", "#ff0000"),
        ("/* rect{fill:red} */ rect{fill:lime}", "#00ff00"),
        ("<!-- rect{fill:teal} -->", "#008080"),
        ("RECT{fill:red}", "#000000"),
        ("rect,circle{fill:navy}", "#000080"),
        ("rect{fill:inherit}", "#ffa500"),
    ],
)
def test_sheets_are_read_as_a_browser_reads_them(css: str, colour: str) -> None:
    (part,) = drawing(
        f'<style>{css.replace("<", "&lt;")}</style><g fill="orange"><rect width="9" height="9"/></g>'
    ).parts
    expected = "#ffa500" if colour == "#000000" else colour
    assert to_hex(part.colour) == expected
