"""Colours brought together: which ones a person with a few films at hand would cut from the same."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Protocol

import numpy as np

from vivid_thimble.core.sources.drawing import Colour
from vivid_thimble.core.tracing.colour_space import lab

LEFT_OUT = -1
"""The film of colours that are not cut."""


def to_hex(colour: Colour) -> str:
    return "#{:02x}{:02x}{:02x}".format(*colour)


def from_hex(text: str) -> Colour:
    digits = text.lstrip("#")
    return int(digits[0:2], 16), int(digits[2:4], 16), int(digits[4:6], 16)


def nearest(colour: Colour, among: Sequence[Colour]) -> Colour:
    """The one that looks most like a colour; ``among`` must not be empty."""
    away = ((lab(among) - lab([colour])) ** 2).sum(axis=1)
    return among[int(away.argmin())]


def grouped(areas: Mapping[Colour, float], count: int) -> list[list[Colour]]:
    """Colours brought together to at most ``count`` groups, the group with the largest area first.

    The two groups whose joining changes the picture least are joined again and again (Ward 1963, in CIE
    L*a*b*, weighted by area), so that a tiny speck of colour never keeps a film for itself.
    """
    groups = [[colour] for colour in areas]
    middles = lab(list(areas)) if areas else np.zeros((0, 3))
    weights = np.maximum(np.array(list(areas.values()), dtype=np.float64), 1e-9)
    while len(groups) > max(count, 1):
        cost = ((middles[:, None] - middles) ** 2).sum(axis=2)
        cost *= weights[:, None] * weights / (weights[:, None] + weights)
        cost[np.diag_indices(len(groups))] = np.inf
        i, j = sorted(divmod(int(cost.argmin()), len(groups)))
        middles[i] = (middles[i] * weights[i] + middles[j] * weights[j]) / (weights[i] + weights[j])
        weights[i] += weights[j]
        groups[i] += groups.pop(j)
        middles, weights = np.delete(middles, j, axis=0), np.delete(weights, j)
    order = np.argsort(-weights, kind="stable")
    return [groups[k] for k in order]


class InFilms(Protocol):
    """What is cut from several films by colour."""

    @property
    def films(self) -> int: ...

    @property
    def colour_films(self) -> tuple[tuple[str, int], ...]: ...


def film_of(colour: Colour, taken: InFilms) -> int:
    """The film that a colour goes to, LEFT_OUT for none."""
    named = {from_hex(text): film for text, film in taken.colour_films}
    if not named:
        return 0
    film = named[colour] if colour in named else named[nearest(colour, list(named))]
    return film if film == LEFT_OUT else min(max(film, 0), taken.films - 1)
