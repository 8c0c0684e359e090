"""A shape thinned to its middle lines, and these as a graph of chains between meeting places.

Thinning takes pixels off the border from both sides until lines one pixel wide remain (Zhang and Suen 1984).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vivid_thimble.core.geometry.flatten import IntArray
from vivid_thimble.core.pauses import pause

RING = ((-1, 0), (-1, 1), (0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, -1))
"""The eight neighbours, clockwise from above."""


@dataclass(frozen=True, eq=False)
class Chain:
    """Pixels (n, 2) as rows and columns, in order. ``ends``: the numbers of the meeting places at both ends, -1 for a
    free end; a closed chain has none."""

    pixels: IntArray
    ends: tuple[int, int]
    closed: bool = False


def thinned(ink: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Lines one pixel wide, of the same topology (rows, columns)."""
    held = np.pad(ink, 1).astype(np.uint8)
    tables = _removable()
    kernel_columns = held.shape[1]
    flat = held.ravel()
    around = np.array([row * kernel_columns + column for row, column in RING])
    weights = (1 << np.arange(8)).astype(np.uint8)
    at = np.flatnonzero(flat)
    while True:
        gone = 0
        for table in tables:
            pause()
            code = (flat[at[:, None] + around[None, :]] * weights).sum(axis=1, dtype=np.uint16)
            away = table[code]
            flat[at[away]] = 0
            at = at[~away]
            gone += int(away.sum())
        if not gone:
            break
    _without_steps(flat, at.tolist(), around.tolist())
    return np.asarray(flat.reshape(held.shape)[1:-1, 1:-1] > 0)


def _without_steps(flat: NDArray[np.uint8], at: list[int], around: list[int]) -> None:
    """Take out, one after the other, pixels at the inside of a step: their neighbours touch without them."""
    needless = _needless()
    for k in at:
        code = 0
        for bit, step in enumerate(around):
            code |= int(flat[k + step]) << bit
        if needless[code]:
            flat[k] = 0


def _needless() -> list[bool]:
    """Of each arrangement of neighbours whether they hang together, by edges or corners, and are two or more."""
    found = []
    for code in range(256):
        own = [(code >> k) & 1 == 1 for k in range(8)]
        filled = [own[k] or (k % 2 == 1 and own[k - 1] and own[(k + 1) % 8]) for k in range(8)]
        groups = sum(filled[k] and not filled[k - 1] for k in range(8))
        found.append(sum(own) >= 2 and groups == 1)
    return found


def _removable() -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Of each arrangement of neighbours whether the pixel goes, in both half steps."""
    bits = (np.arange(256)[:, None] >> np.arange(8)) & 1
    count = bits.sum(axis=1)
    rises = ((bits == 0) & (np.roll(bits, -1, axis=1) == 1)).sum(axis=1)
    up, right, down, left = (bits[:, k].astype(bool) for k in (0, 2, 4, 6))
    base = (count >= 2) & (count <= 6) & (rises == 1)
    first = base & ~(up & right & down) & ~(right & down & left)
    second = base & ~(up & right & left) & ~(up & down & left)
    return first, second


def chains_of(lines: NDArray[np.bool_]) -> tuple[list[Chain], NDArray[np.float64]]:
    """The chains of thinned lines, and the middles of their meeting places (m, 2) as rows and columns."""
    import cv2  # here: it delays the first paint

    held = np.pad(lines, 1)
    count = sum((np.roll(held, shift, axis=(0, 1)).astype(np.int64) for shift in RING), np.zeros(held.shape, np.int64))
    meets = held & (count >= 3)
    number_of_places, place, _, middles = cv2.connectedComponentsWithStats(meets.astype(np.uint8), connectivity=8)
    single = held & ~meets
    pixels = np.argwhere(single)
    index = np.full(held.shape, -1, dtype=np.int64)
    index[single] = np.arange(len(pixels))
    near = [np.array(shift) for shift in (*RING[::2], *RING[1::2])]  # straight neighbours first
    neighbours: list[list[int]] = [[] for _ in pixels]
    places: list[list[int]] = [[] for _ in pixels]
    for shift in near:
        at = pixels + shift
        for k, (other, met) in enumerate(
            zip(index[at[:, 0], at[:, 1]].tolist(), place[at[:, 0], at[:, 1]].tolist(), strict=True)
        ):
            if other >= 0:
                neighbours[k].append(other)
            if met > 0 and met - 1 not in places[k]:
                places[k].append(met - 1)
    found = []
    seen = np.zeros(len(pixels), dtype=bool)
    starts = [k for k in range(len(pixels)) if len(neighbours[k]) <= 1 or places[k]]
    for start in [*starts, *range(len(pixels))]:
        if seen[start]:
            continue
        pause()
        way = _walked(start, neighbours, seen)
        first, last = places[way[0]], places[way[-1]]
        closed = not first and not last and len(way) > 3 and way[0] in neighbours[way[-1]]
        ends = first[0] if first else -1, -1
        rest = [k for k in last if len(way) > 1 or k != ends[0]]
        if rest:
            ends = ends[0], rest[0]
        found.append(Chain(pixels[way] - 1, ends, closed))
    return found, np.asarray(middles[1:number_of_places, ::-1] - 1.0)


def _walked(start: int, neighbours: list[list[int]], seen: NDArray[np.bool_]) -> list[int]:
    """Pixels from one on, each the first unseen neighbour of the one before."""
    way = [start]
    seen[start] = True
    while True:
        onward = [k for k in neighbours[way[-1]] if not seen[k]]
        if not onward:
            return way
        way.append(onward[0])
        seen[onward[0]] = True
