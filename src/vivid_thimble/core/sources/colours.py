"""Colours brought together: which ones a person with a few films at hand would cut from the same."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from vivid_thimble.core.geometry.affine import FloatArray
from vivid_thimble.core.sources.drawing import Colour

LEFT_OUT = -1
"""The film of colours that are not cut."""
_WHITE_POINT = np.array([0.95047, 1.0, 1.08883])
_TO_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)


def to_hex(colour: Colour) -> str:
    return "#{:02x}{:02x}{:02x}".format(*colour)


def from_hex(text: str) -> Colour:
    digits = text.lstrip("#")
    return int(digits[0:2], 16), int(digits[2:4], 16), int(digits[4:6], 16)


def lab(colours: Sequence[Colour]) -> FloatArray:
    """CIE L*a*b* (n, 3) of sRGB colours, in which distances are about as large as they look (CIE 15:2004)."""
    share = np.array(colours, dtype=np.float64).reshape(-1, 3) / 255.0
    linear = np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)
    xyz = linear @ _TO_XYZ.T / _WHITE_POINT
    f = np.where(xyz > 216 / 24389, np.cbrt(xyz), (24389 / 27 * xyz + 16) / 116)
    return np.column_stack([116 * f[:, 1] - 16, 500 * (f[:, 0] - f[:, 1]), 200 * (f[:, 1] - f[:, 2])])


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
