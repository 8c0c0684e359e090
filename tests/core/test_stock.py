"""Materials and machines: shipped ones, own ones in their place, exchanged as files, kept through trouble."""

from __future__ import annotations

import json
from pathlib import Path as FilePath

import pytest
from msgspec.structs import replace

from vivid_thimble.core.blanks.kinds import Tapered
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.job.values import new_job
from vivid_thimble.core.materials.films import DECAL_FILM, Film
from vivid_thimble.core.materials.method import FILMS_FOR
from vivid_thimble.core.room.blank import with_blank
from vivid_thimble.core.storage.stock import (
    SHIPPED,
    Ink,
    Machine,
    Stock,
    StockCarrier,
    StockFilm,
    Thing,
    check_entry,
    exported,
    films_for,
    load_stock,
    read_stock,
    save_stock,
    stock_bytes,
    taken_over,
    together,
)

MUG = Thing.of(replace(with_blank(new_job().item, Tapered()), name="Blue tumbler", colour="#345678"))
OWN = (
    Stock()
    .with_entry("films", StockFilm(film=Film(name="Chalk film", thinnest_line=1.1), methods=("decal", "film-stencil")))
    .with_entry("carriers", StockCarrier(name="Half mat", cuttable_width=140.0, cuttable_height=292.0))
    .with_entry("machines", Machine(name="Old cutter", cuttable_width=220.0, passes=2))
    .with_entry("inks", Ink(name="Moon yellow", next_coat_min=20.0, cautions="Gloves."))
    .with_entry("things", MUG)
)


def test_shipped_films_serve_every_method_and_tell_no_times_or_temperatures() -> None:
    for method, films in FILMS_FOR.items():
        assert films_for(SHIPPED, method) == films
    assert all(ink.touch_dry_min is None and ink.next_coat_min is None and not ink.heat_set for ink in SHIPPED.inks)
    assert all(one.film.heat != "allowed" for one in SHIPPED.films if "vinyl" in one.film.material)
    assert all(one.film.heat == "allowed" for one in SHIPPED.films if one.methods == ("heat-film",))


def test_own_entries_stand_in_for_shipped_ones_and_come_and_go() -> None:
    changed = StockFilm(film=replace(DECAL_FILM, thinnest_line=0.95), methods=("decal",))
    own = OWN.with_entry("films", changed)
    films = [one.film for one in together(own).films]
    assert films[0].thinnest_line == 0.95 and len(films) == len(SHIPPED.films) + 1
    assert together(own.as_shipped("films", DECAL_FILM.name)).films[0].film == DECAL_FILM
    gone = own.without("films", DECAL_FILM.name)
    assert DECAL_FILM.name not in [one.name for one in together(gone).films]
    back = gone.with_entry("films", changed)
    assert together(back).films[0].film.thinnest_line == 0.95
    renamed = own.with_entry("machines", Machine(name="Shed cutter"), instead_of="Old cutter")
    assert [one.name for one in renamed.machines] == ["Shed cutter"]


def test_the_file_keeps_everything_and_lists_are_exchanged(tmp_path: FilePath) -> None:
    save_stock(tmp_path / "deep" / "folder", OWN)
    assert load_stock(tmp_path / "deep" / "folder") == OWN
    assert load_stock(tmp_path) == Stock()
    part = exported(OWN, [("films", "Chalk film"), ("carriers", SHIPPED.carriers[0].name)])
    own, added, replaced = taken_over(Stock(), read_stock(stock_bytes(part), "list.json"))
    assert (added, replaced) == (2, 0) and own.films == OWN.films and own.carriers == (SHIPPED.carriers[0],)
    louder = OWN.with_entry("machines", Machine(name="Old cutter", passes=5))
    own, added, replaced = taken_over(OWN, louder)
    assert (added, replaced) == (0, 1) and own.machines[0].passes == 5
    assert json.loads(stock_bytes(OWN))["stock"]["films"][0]["film"]["name"] == "Chalk film"


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"not json", "not readable"),
        (b"[]", "no list of materials"),
        (b'{"format":"vivid-thimble-stock","schema":99,"stock":{}}', "newer version"),
        (b'{"format":"vivid-thimble-stock","schema":1,"stock":{"films":[{"film":{}}]}}', "cannot be"),
        (b'{"format":"vivid-thimble-stock","schema":1,"stock":{"carriers":[{"name":"M","cuttable_width":-3}]}}', "cannot be"),
        (b'{"format":"vivid-thimble-stock","schema":1,"stock":{"inks":[{"name":" "}]}}', "needs a name"),
    ],
)  # fmt: skip
def test_a_list_that_cannot_be_is_refused_in_one_sentence(data: bytes, says: str) -> None:
    with pytest.raises(InputRefused, match=says):
        read_stock(data, "list.json")


def test_unknown_fields_of_a_list_are_left_out_and_checks_hold() -> None:
    text = b'{"format":"vivid-thimble-stock","schema":1,"stock":{"machines":[{"name":"A","hum":3}]},"more":1}'
    assert read_stock(text, "list.json").machines == (Machine(name="A"),)
    with pytest.raises(InputRefused, match="more than nothing"):
        check_entry(StockCarrier(name="Nothing", cuttable_width=0.0))
    with pytest.raises(InputRefused):
        check_entry(replace(MUG, blank=Tapered(height=10.0, rim=8.0, foot=8.0)))


def test_a_thing_lies_under_a_design_without_touching_it() -> None:
    item = new_job("Other", 50.0, 40.0).item
    laid = MUG.laid_under(item)
    assert laid.layers == item.layers and laid.id == item.id
    assert Thing.of(laid) == MUG


def test_film_costs_what_its_share_of_the_roll_costs() -> None:
    film = replace(DECAL_FILM, price=12.0, stock_width=300.0, stock_length=2000.0)
    assert film.cost_of(300.0 * 500.0) == pytest.approx(3.0)
    assert DECAL_FILM.cost_of(100.0) is None
