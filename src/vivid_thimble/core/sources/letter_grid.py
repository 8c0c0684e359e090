"""A grid of capital letters that hides names, and the bands over the answers.

Names are laid by a search that goes back on itself, the longest first, so a place is found if there is
one. The rest is filled by chance from a seed; whatever would read as an unwanted word, or as one of the
names once more, in any of the eight directions, is drawn again.
"""

from __future__ import annotations

import random
import unicodedata
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from typing import ClassVar, Literal

import numpy as np
import shapely
from msgspec import Struct

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.fitting.fit import fit_rings
from vivid_thimble.core.geometry.parts import Part
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.ranges import Cells, Factor, Seed
from vivid_thimble.core.sources.composed import Composed
from vivid_thimble.core.sources.lettering import Shaper, Words, shape_words
from vivid_thimble.core.sources.source import InOneFace, OfAnother, SourceKind

Direction = Literal["across", "down", "diagonal"]
STEPS: dict[str, tuple[tuple[int, int], ...]] = {"across": ((0, 1),), "down": ((1, 0),), "diagonal": ((1, 1), (-1, 1))}
"""Rows and columns from one letter to the next, forwards."""
EIGHT = tuple((r, c) for r in (-1, 0, 1) for c in (-1, 0, 1) if r or c)
LARGEST_GRID = 40
MOST_TRIED = 60_000
"""Places tried in one search before it starts anew with another order."""
STARTS, MOST_GIVEN_UP = 40, 6
"""Orders that are tried when the letters do not come clean, and searches that may be given up."""
REDRAWS = 4000
CELL_MM = 20.0
"""A cell while outlines are made, so that tolerances fit."""
COMMON_LETTERS = "EEEEAAAIIOOTTNNSSRRLLDDUHCMGPBFYWKV"
"""What the grid is filled with, beside the letters of the names."""


class LetterGrid(InOneFace, Struct, frozen=True, tag="letter-grid", kw_only=True):
    """Names hidden among capital letters. ``letter`` is the height of the capitals as a share of a cell."""

    WORD: ClassVar[str] = "letter grid"
    names: tuple[str, ...]
    face: str
    columns: Cells = 12
    rows: Cells = 10
    directions: tuple[Direction, ...] = ("across", "down")
    backwards: bool = False
    seed: Seed = 1
    letter: Factor = 0.62
    unwanted: tuple[str, ...] = ()
    """Words of one's own that must not appear, beside those that come with the application."""

    @property
    def lettering(self) -> list[Words]:
        return words_of_grid(self)

    def bands_over(self, width: float, *, welded: bool) -> GridBands:
        return GridBands(grid=self, width=width, welded=welded)


class AnswerBands(OfAnother, Struct, frozen=True, tag="answer-bands", kw_only=True):
    """Rounded strips over the hidden names of the grid with the id ``of``, in line with its letters.

    ``width`` is a share of a cell; ``welded`` makes one shape of bands that overlap.
    """

    WORD: ClassVar[str] = "answer bands"
    of: str
    width: Factor = 0.86
    welded: bool = True

    def led_by(self, leader: SourceKind) -> SourceKind | None:
        return leader.bands_over(self.width, welded=self.welded)


class GridBands(SourceKind, Struct, frozen=True, tag="grid-bands", kw_only=True):
    """Answer bands together with the grid they belong to."""

    grid: LetterGrid
    width: Factor
    welded: bool


@dataclass(frozen=True)
class Hidden:
    """A name in the grid: where its first letter is and how to go on, in rows and columns."""

    name: str
    row: int
    column: int
    step: tuple[int, int]

    def cells(self) -> list[tuple[int, int]]:
        return [(self.row + k * self.step[0], self.column + k * self.step[1]) for k in range(len(self.name))]


@dataclass(frozen=True)
class FilledGrid:
    """The letters, a string a row, and the hidden names in the order they were given."""

    rows: tuple[str, ...]
    hidden: tuple[Hidden, ...]


def fill_grid(grid: LetterGrid) -> FilledGrid:
    """Lay the names and fill the rest; raises InputRefused with the reason when that cannot be done."""
    found = _filled_or_why(grid)
    if isinstance(found, str):
        raise InputRefused(found)
    return found


@lru_cache(maxsize=64)
def _filled_or_why(grid: LetterGrid) -> FilledGrid | str:
    """The filled grid or the sentence why there is none: a search in vain is not made twice either."""
    try:
        return _search(grid)
    except InputRefused as error:
        return str(error)


def _search(grid: LetterGrid) -> FilledGrid:
    names = tuple(dict.fromkeys(name for given in grid.names if (name := letters_of(given))))
    _check(grid, names)
    given_up = 0
    for start in range(STARTS):
        dice = random.Random(f"{grid.seed} {start}")
        hidden = _laid(grid, sorted(names, key=len, reverse=True), dice)
        if hidden is None:
            break
        if not hidden:
            given_up += 1
            if given_up == MOST_GIVEN_UP:
                break
            continue
        letters = _filled(grid, names, hidden, dice)
        if letters is not None:
            order = {name: number for number, name in enumerate(names)}
            rows = tuple("".join(row) for row in letters)
            return FilledGrid(rows, tuple(sorted(hidden, key=lambda one: order[one.name])))
    raise InputRefused(
        f"These {len(names)} names do not fit together into {grid.columns} × {grid.rows} letters: "
        "make the grid larger, allow more directions, or leave a name out."
    )


def letters_of(name: str) -> str:
    """A name as it is hidden: capitals without accents, spaces and signs."""
    plain = unicodedata.normalize("NFKD", name.upper())
    return "".join(c for c in plain if c.isalpha() and not unicodedata.combining(c))


def _check(grid: LetterGrid, names: Sequence[str]) -> None:
    if not (2 <= grid.columns <= LARGEST_GRID and 2 <= grid.rows <= LARGEST_GRID):
        raise InputRefused(f"A letter grid has 2 to {LARGEST_GRID} letters across and down: choose another size.")
    if not names:
        raise InputRefused("A letter grid needs names to hide: type one a line.")
    if not grid.directions:
        raise InputRefused("The names need a direction: allow across, down or diagonal.")
    reach = {"across": grid.columns, "down": grid.rows, "diagonal": min(grid.columns, grid.rows)}
    longest = max(reach[direction] for direction in grid.directions)
    for name in names:
        if len(name) > longest:
            raise InputRefused(
                f"{name} has {len(name)} letters and the grid room for {longest} in the allowed directions: "
                "make the grid larger or leave the name out."
            )
        if len(name) < 2:
            raise InputRefused(f"{name} is a single letter and would be found everywhere: leave it out.")


def _laid(grid: LetterGrid, names: Sequence[str], dice: random.Random) -> list[Hidden] | None:
    """Places for all names; an empty list when the search was given up, None when there are none."""
    letters: dict[tuple[int, int], str] = {}
    counts: dict[tuple[int, int], int] = {}
    placed: list[Hidden] = []
    tried = 0

    def lay(number: int) -> bool | None:
        nonlocal tried
        if number == len(names):
            return True
        gave_up = False
        used = [one.step for one in placed]
        for place in sorted(_places(grid, names[number], dice), key=lambda one: used.count(one.step)):
            tried += 1
            if tried > MOST_TRIED:
                return None
            cells = place.cells()
            if any(letters.get(cell, c) != c for cell, c in zip(cells, place.name, strict=True)):
                continue
            if any(set(cells) <= set(one.cells()) or set(one.cells()) <= set(cells) for one in placed):
                continue
            for cell, c in zip(cells, place.name, strict=True):
                letters[cell] = c
                counts[cell] = counts.get(cell, 0) + 1
            placed.append(place)
            done = lay(number + 1)
            if done:
                return True
            placed.pop()
            for cell in cells:
                counts[cell] -= 1
                if not counts[cell]:
                    del letters[cell]
            if done is None:
                gave_up = True
                break
        return None if gave_up else False

    found = lay(0)
    if found:
        return placed
    return [] if found is None else None


def _places(grid: LetterGrid, name: str, dice: random.Random) -> list[Hidden]:
    """All places of a name in a grid of this size, shuffled."""
    steps = [step for direction in grid.directions for step in STEPS[direction]]
    if grid.backwards:
        steps += [(-r, -c) for r, c in steps]
    last = len(name) - 1
    places = [
        Hidden(name, row, column, (r, c))
        for r, c in steps
        for row in range(grid.rows)
        for column in range(grid.columns)
        if 0 <= row + last * r < grid.rows and 0 <= column + last * c < grid.columns
    ]
    dice.shuffle(places)
    return places


def _filled(
    grid: LetterGrid, names: Sequence[str], hidden: Sequence[Hidden], dice: random.Random
) -> list[list[str]] | None:
    """All letters; None when chance does not come clean."""
    letters = [["."] * grid.columns for _ in range(grid.rows)]
    for one in hidden:
        for (row, column), c in zip(one.cells(), one.name, strict=True):
            letters[row][column] = c
    free = {(r, c) for r in range(grid.rows) for c in range(grid.columns) if letters[r][c] == "."}
    unwanted = {letters_of(word) for word in (*unwanted_words(), *grid.unwanted)} - {""}
    watched = [*names, *sorted(unwanted)]
    allowed = set(_found(letters, watched))
    if any(sum(place[0] == name for place in allowed) > (2 if name == name[::-1] else 1) for name in names):
        return None  # the names alone make one of them twice
    owns = [set(one.cells()) for one in hidden]
    if any(not any(set(Hidden(*place).cells()) <= own for own in owns) for place in allowed):
        return None  # side by side they spell something
    pool = COMMON_LETTERS + "".join(names)
    for row, column in sorted(free):
        letters[row][column] = dice.choice(pool)
    for _ in range(REDRAWS):
        fault = next((place for place in _found(letters, watched) if place not in allowed), None)
        if fault is None:
            return letters
        cells = Hidden(*fault).cells()
        again = dice.choice([cell for cell in cells if cell in free])
        letters[again[0]][again[1]] = dice.choice(pool)
    return None


def _found(letters: Sequence[Sequence[str]], words: Sequence[str]) -> Iterator[tuple[str, int, int, tuple[int, int]]]:
    """Every place where one of the words reads in any of the eight directions."""
    rows, columns = len(letters), len(letters[0])
    for (row, column), (r, c) in _lines(rows, columns):
        line, cells = [], []
        while 0 <= row < rows and 0 <= column < columns:
            line.append(letters[row][column])
            cells.append((row, column))
            row, column = row + r, column + c
        text = "".join(line)
        for word in words:
            at = text.find(word)
            while at >= 0:
                yield word, *cells[at], (r, c)
                at = text.find(word, at + 1)


def _lines(rows: int, columns: int) -> Iterator[tuple[tuple[int, int], tuple[int, int]]]:
    """The first cell and the step of every line of the grid."""
    for r, c in EIGHT:
        for row in range(rows):
            for column in range(columns):
                if not (0 <= row - r < rows and 0 <= column - c < columns):
                    yield (row, column), (r, c)


@lru_cache(maxsize=1)
def unwanted_words() -> tuple[str, ...]:
    """Words that nobody wants to find in a present."""
    text = (resources.files("vivid_thimble") / "data" / "unwanted-words.txt").read_text("utf-8")
    return tuple(line.strip() for line in text.splitlines() if line.strip() and not line.startswith("#"))


def compose_grid(grid: LetterGrid, shape: Shaper = shape_words) -> Composed:
    """The letters as outlines, evenly spaced, each on the middle of its cell; ``shape`` sets words."""
    filled = fill_grid(grid)
    glyphs = _glyphs(grid, sorted(set("".join(filled.rows))), shape)
    parts = []
    for row, text in enumerate(filled.rows):
        for column, letter in enumerate(text):
            parts.append(Part(letter, glyphs[letter].shifted((column + 0.5) * CELL_MM, (row + 0.5) * CELL_MM)))
    return Composed(tuple(parts), _frame(grid))


def compose_bands(bands: GridBands) -> Composed:
    """The answers as rounded strips from the first to the last letter of each name."""
    strips = []
    for one in fill_grid(bands.grid).hidden:
        ends = [((column + 0.5) * CELL_MM, (row + 0.5) * CELL_MM) for row, column in (one.cells()[0], one.cells()[-1])]
        shape = shapely.buffer(shapely.LineString(ends), bands.width * CELL_MM / 2.0, quad_segs=48)
        strips.append(Part(one.name, _smooth(shape)))
    if bands.welded:
        strips = [Part("answers", union(part.region for part in strips))]
    return Composed(tuple(strips), _frame(bands.grid))


def _frame(grid: LetterGrid) -> tuple[float, float, float, float]:
    return 0.0, 0.0, grid.columns * CELL_MM, grid.rows * CELL_MM


def words_of_grid(grid: LetterGrid) -> list[Words]:
    """What is set for a grid: every letter that it shows by itself, and one to measure the capitals by."""
    try:
        letters = set("".join(fill_grid(grid).rows))
    except InputRefused:
        return []
    return [Words(text=c, face=grid.face) for c in sorted(letters | {"H"})]


def _glyphs(grid: LetterGrid, letters: Sequence[str], shape: Shaper) -> dict[str, Region]:
    """Each capital at its size, the middle of its ink across and of the capitals' height down at 0, 0."""
    capital = shape(Words(text="H", face=grid.face)).heights.capital
    if not capital:
        raise InputRefused("This face has no capital letters: choose another one for the letter grid.")
    scale = grid.letter * CELL_MM / capital
    glyphs = {}
    for letter in letters:
        outline = Path.joined(one.path for one in shape(Words(text=letter, face=grid.face)).letters)
        box = outline.bounds
        assert box is not None
        move = Affine.translation(-(box[0] + box[2]) / 2.0, capital / 2.0)
        glyphs[letter] = Region.from_path(outline.transformed(move.then(Affine.scaling(scale))))
    return glyphs


def _smooth(shape: shapely.Polygon) -> Region:
    return Region.from_path(Path(tuple(fit_rings([np.asarray(shape.exterior.coords)]))), "evenodd")
