"""Sets: names from lists, one size for all, and what a changed name costs."""

from __future__ import annotations

from pathlib import Path

import pytest
from msgspec.structs import replace

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.edits.sets import leave_set, make_set, members_of, names_in_file, names_in_table, names_in_text
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.shared_sizes import set_figures
from vivid_thimble.core.job.edits import scaled_design, with_element
from vivid_thimble.core.job.values import Element, Item, Job, Layer, Placement
from vivid_thimble.core.materials.films import DECAL_FILM
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.steps import Join, Weld
from vivid_thimble.core.storage.project import project_bytes, read_project

CREW = ("Bramble", "Wren", "Otterly", "Moss", "Juniper", "Heron", "Tansy", "Gulliver")


def float_job() -> Job:
    """One glass float with one word."""
    words = Element(
        id="words-1",
        name="Bramble",
        source=Words(text="Bramble", face="bundled:Pacifico"),
        placement=Placement(width=50.0),
        steps=(Join(id="join-1", neck=1.0), Weld(id="weld-1")),
    )
    layer = Layer(id="layer-1", film=DECAL_FILM, elements=(words,))
    return Job(name="Floats", items=(Item(id="item-1", name="Float", width=120.0, height=60.0, layers=(layer,)),))


@pytest.fixture(scope="module")
def cache() -> Cache:
    return Cache()


@pytest.mark.parametrize("name", ["drawing.svg", "page.html", "long.txt", "control.txt"])
def test_a_file_that_is_no_list_of_names_is_refused(tmp_path: Path, name: str) -> None:
    text = {"long.txt": "word " * 40, "control.txt": "Heron\nA\x07B"}.get(name, "<svg>\n<path d='M0 0'/>\n</svg>")
    (tmp_path / name).write_text(text)
    with pytest.raises(InputRefused, match="no list of names"):
        names_in_file(tmp_path / name)


def test_eight_names_share_their_letters_and_the_longest_decides(cache: Cache) -> None:
    job = make_set(float_job(), "words-1", CREW, "letters", 10.0)
    figures = set_figures(job, job.shared[0], {}, cache)
    assert [m.element.name for m in figures.members] == list(CREW)
    assert len({round(m.em, 9) for m in figures.members}) == 1
    widths = {m.element.name: m.width for m in figures.members}
    assert figures.deciding is not None
    assert figures.deciding.name == max(widths, key=lambda name: widths[name])
    assert figures.limit == "width"
    assert widths[figures.deciding.name] == pytest.approx(100.0, abs=0.01)
    for number, member in enumerate(figures.members):
        shown = evaluate(replace(job, at=number), {}, cache)
        assert shown.size == pytest.approx((member.width, member.height), abs=1e-9)
        assert shown.layers[0].elements[0].heights.capital == pytest.approx(member.capital)


def test_eight_names_share_a_width_that_the_height_may_limit(cache: Cache) -> None:
    job = make_set(float_job(), "words-1", CREW, "width", 10.0)
    figures = set_figures(job, job.shared[0], {}, cache)
    assert figures.deciding is not None
    assert figures.deciding.name == "Wren" if figures.limit == "width" else figures.limit == "height"
    least = min(m.width for m in figures.members)
    assert all(m.width == pytest.approx(least, abs=0.02) for m in figures.members)
    assert all(m.height <= 40.0 + 0.01 for m in figures.members)
    tallest = max(figures.members, key=lambda m: m.height)
    assert least == pytest.approx(100.0, abs=0.01) or tallest.height == pytest.approx(40.0, abs=0.01)


def test_a_changed_name_among_thirty_recomputes_only_itself() -> None:
    names = [f"{a}{b}" for a in ("Ann", "Ben", "Cora", "Dan", "Eve", "Finn") for b in ("a", "o", "ie", "elle", "us")]
    job = make_set(float_job(), "words-1", names, "letters", 10.0)
    shared, cache = job.shared[0], Cache()

    def all_of(one: Job) -> None:
        set_figures(one, shared, {}, cache)
        for number in range(len(names)):
            evaluate(replace(one, at=number), {}, cache)

    all_of(job)
    whole = cache.misses
    cache.misses = 0
    all_of(job)
    assert cache.misses == 0
    changed = members_of(job, shared)[3][1].id
    all_of(with_element(job, changed, lambda e: replace(e, source=replace(e.source, text="Zoe"))))  # type: ignore[call-arg]
    assert 0 < cache.misses < 2.0 * whole / len(names)


def test_a_set_is_changed_in_place_and_left(cache: Cache) -> None:
    job = make_set(float_job(), "words-1", CREW[:4], "letters", 10.0)
    held = members_of(job, job.shared[0])[1][1].id
    thicker = with_element(job, held, lambda e: replace(e, steps=e.steps[:1]))
    longer = make_set(thicker, held, ["Bramble", "Teal", *CREW[2:5]], "width", 8.0)
    assert [item.name for item in longer.items] == ["Bramble", "Teal", *CREW[2:5]]
    assert len(longer.items[1].layers[0].elements[0].steps) == 1, "what was done to an item stays"
    assert longer.item.name == "Bramble", "what is in hand stays in hand"
    assert (longer.shared[0].match, longer.shared[0].margin) == ("width", 8.0)
    ids = [e.id for item in longer.items for layer in item.layers for e in layer.elements]
    assert len(set(ids)) == len(ids)
    alone = leave_set(longer, held, 30.0)
    assert alone.items[1].layers[0].elements[0].placement.em == 30.0
    assert len(members_of(alone, longer.shared[0])) == 4
    assert read_project(project_bytes(longer, {}))[0] == longer


def test_scaling_one_of_a_set_takes_the_others_along(cache: Cache) -> None:
    job = make_set(float_job(), "words-1", CREW[:3], "letters", 10.0)
    before = set_figures(job, job.shared[0], {}, cache)
    smaller = scaled_design(job, 0.5)
    after = set_figures(smaller, smaller.shared[0], {}, cache)
    assert [m.em for m in after.members] == pytest.approx([0.5 * m.em for m in before.members])


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("boat,name\n4,Wandering Heron\n7,Second Supper\n", ["Wandering Heron", "Second Supper"]),
        ("4;Wren\n5;Moss\n", ["Wren", "Moss"]),
        ('"Moth, Ember",4\n', ["Moth, Ember"]),
        ("", []),
    ],
)
def test_names_in_tables(text: str, names: list[str]) -> None:
    assert names_in_table(text) == names


def test_lists_of_names_are_read_or_refused(tmp_path: Path) -> None:
    assert names_in_text(" Wren \n\nMoss\n") == ["Wren", "Moss"]
    latin = tmp_path / "crew.txt"
    latin.write_bytes("Zoë\nBjörn\n".encode("latin-1"))
    assert names_in_file(latin) == ["Zoë", "Björn"]
    picture = tmp_path / "crew.csv"
    picture.write_bytes(b"\x89PNG\r\n\0\0\0")
    with pytest.raises(InputRefused, match="no list of names"):
        names_in_file(picture)
    (tmp_path / "empty.txt").write_text("\n")
    with pytest.raises(InputRefused, match="holds no names"):
        names_in_file(tmp_path / "empty.txt")
    with pytest.raises(InputRefused, match="too many"):
        names_in_text("a\n" * 501)
