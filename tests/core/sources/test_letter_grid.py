"""Letter grids: names are there once, unwanted words are not, bands cover the answers."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.job.edits import scaled_design
from vivid_thimble.core.job.values import Element, Item, Job, Layer, Placement
from vivid_thimble.core.materials.films import DECAL_FILM, FINE_DECAL_FILM
from vivid_thimble.core.sources.letter_grid import (
    AnswerBands,
    FilledGrid,
    LetterGrid,
    _search,
    compose_grid,
    fill_grid,
    letters_of,
    unwanted_words,
)

FACE = "bundled:League Spartan"
BOATS = ("Wandering Heron", "Second Supper", "Moth & Ember", "Bramble")


def readings(filled: FilledGrid, word: str) -> int:
    """How often a word reads in any of the eight directions."""
    table = np.array([list(row) for row in filled.rows])
    lines = [*table, *table.T]
    for one in (table, table[:, ::-1]):
        lines += [one.diagonal(k) for k in range(-len(table) + 1, len(table[0]))]
    texts = ["".join(line) for line in lines]
    return sum(text[k:].startswith(word) for line in texts for text in (line, line[::-1]) for k in range(len(text)))


@settings(max_examples=12, deadline=None)
@given(
    seed=st.integers(0, 10_000),
    columns=st.integers(14, 18),
    rows=st.integers(6, 15),
    directions=st.sets(st.sampled_from(["across", "down", "diagonal"]), min_size=1).map(
        lambda s: ("across", *sorted(s - {"across"}))
    ),
    backwards=st.booleans(),
)
def test_every_name_reads_once_and_nothing_unwanted(
    seed: int, columns: int, rows: int, directions: tuple[str, ...], backwards: bool
) -> None:
    grid = LetterGrid(
        names=BOATS, face=FACE, columns=columns, rows=rows, directions=directions, backwards=backwards, seed=seed
    )  # type: ignore[arg-type]
    filled = fill_grid(grid)
    assert [len(row) for row in filled.rows] == [columns] * rows
    assert "".join(filled.rows).isalpha()
    for name, hidden in zip(BOATS, filled.hidden, strict=True):
        assert hidden.name == letters_of(name)
        assert "".join(filled.rows[r][c] for r, c in hidden.cells()) == hidden.name
        assert readings(filled, hidden.name) == 1
        assert backwards or hidden.step in ((0, 1), (1, 0), (1, 1), (-1, 1))
    own = [text for name in filled.hidden for text in (name.name, name.name[::-1])]
    unwanted = [word for word in unwanted_words() if not any(word in text for text in own)]
    assert [word for word in unwanted if readings(filled, word)] == []
    assert _search(grid) == filled, "the seed decides"


def test_a_full_grid_is_found_or_proven_impossible() -> None:
    square = LetterGrid(names=("TO", "ON"), face=FACE, columns=2, rows=2, directions=("across", "down"))
    assert {h.name for h in fill_grid(square).hidden} == {"TO", "ON"}
    tight = LetterGrid(names=("HERON", "OTTER", "MOTHS"), face=FACE, columns=5, rows=2, directions=("across",))
    with pytest.raises(InputRefused, match=r"3 names do not fit together into 5 × 2"):
        fill_grid(tight)


def test_what_cannot_be_is_told() -> None:
    cases = [
        (LetterGrid(names=("Wandering Heron",), face=FACE, columns=13), "14 letters and the grid room for 13"),
        (LetterGrid(names=(" ",), face=FACE), "needs names"),
        (LetterGrid(names=("A",), face=FACE), "single letter"),
        (LetterGrid(names=("Moth",), face=FACE, directions=()), "need a direction"),
        (LetterGrid(names=("Moth",), face=FACE, columns=80), "2 to 40 letters"),
    ]
    for grid, sentence in cases:
        with pytest.raises(InputRefused, match=sentence):
            fill_grid(grid)


def test_own_unwanted_words_and_accents() -> None:
    grid = LetterGrid(names=("Zoë",), face=FACE, columns=8, rows=8, unwanted=("EE", "AA", "oo"))
    filled = fill_grid(grid)
    assert filled.hidden[0].name == "ZOE"
    assert not any(readings(filled, word) for word in ("EE", "AA", "OO"))


def test_letters_stand_evenly_on_the_middle_of_their_cells() -> None:
    grid = LetterGrid(names=("Moth",), face=FACE, columns=6, rows=5)
    parts = compose_grid(grid).parts
    for k, part in enumerate(parts):
        box = part.region.bounds
        assert box is not None
        assert (box[0] + box[2]) / 2.0 == pytest.approx((k % 6 + 0.5) * 20.0, abs=1e-3)


def test_bands_lie_under_their_letters_whatever_the_size() -> None:
    grid = Element(
        id="grid-1",
        name="Letter grid",
        source=LetterGrid(names=BOATS, face=FACE, columns=15, rows=10, directions=("across", "down", "diagonal")),
        placement=Placement(width=210.0, dx=4.0),
    )
    for welded in (True, False):
        bands = Element(
            id="bands-1", name="Answers", source=AnswerBands(of="grid-1", welded=welded), placement=Placement(width=1.0)
        )
        layers = (
            Layer(id="layer-1", film=DECAL_FILM, elements=(grid,)),
            Layer(id="layer-2", film=FINE_DECAL_FILM, elements=(bands,)),
        )
        item = Item(id="item-1", name="Pane", width=260.0, height=180.0, layers=layers)
        job = Job(name="Pane", items=(item,))
        for one in (job, scaled_design(job, 0.6)):
            result = evaluate(one, {}, Cache())
            assert not result.layers[1].problems
            letters, answers = result.layers[0].parts, result.layers[1].design.polygons
            assert isinstance(grid.source, LetterGrid)
            under = {cell for h in fill_grid(grid.source).hidden for cell in h.cells()}
            for k, part in enumerate(letters):
                middle = shapely.box(*part.region.bounds).centroid
                assert answers.covers(middle) == ((k // 15, k % 15) in under)
            assert len(result.layers[1].parts) == (1 if welded else len(BOATS))


def test_bands_without_their_grid_say_so() -> None:
    bands = Element(id="bands-1", name="Answers", source=AnswerBands(of="gone"), placement=Placement(width=1.0))
    item = Item(
        id="i", name="Pane", width=99.0, height=99.0, layers=(Layer(id="l", film=DECAL_FILM, elements=(bands,)),)
    )
    problems = evaluate(Job(name="Pane", items=(item,)), {}, Cache()).layers[0].problems
    assert "letter grid of these bands is gone" in problems[0].sentence
