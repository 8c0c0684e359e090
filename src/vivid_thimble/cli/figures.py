"""Figures of answers, rounded."""

from __future__ import annotations

from vivid_thimble.core.geometry.region import Region

Facts = dict[str, object]
"""What a command answers, by name: plain data."""


def size_of(region: Region) -> tuple[float, float]:
    if region.bounds is None:
        return 0.0, 0.0
    left, top, right, bottom = region.bounds
    return right - left, bottom - top


def rounded(pair: tuple[float, float]) -> list[float]:
    return [round(pair[0], 4), round(pair[1], 4)]


def figure(value: float | None) -> float | None:
    return None if value is None else round(value, 4)
