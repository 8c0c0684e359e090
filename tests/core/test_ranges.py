"""Every number that is kept has a range, and what lies outside is refused in one sentence wherever it comes in."""

from __future__ import annotations

import io
import json
import math
import zipfile
from collections.abc import Iterator
from pathlib import Path as FilePath
from typing import Any

import pytest
from msgspec import inspect as shapes
from msgspec.structs import replace
from PIL import Image

from vivid_thimble.cli import REFUSED
from vivid_thimble.cli.parser import run
from vivid_thimble.core.demo.jobs import DEMO_JOBS, demo_job
from vivid_thimble.core.errors import InputRefused, NumberAbsurd, ProjectNotReadable
from vivid_thimble.core.job.edits import scaled_design, with_item
from vivid_thimble.core.job.values import Job
from vivid_thimble.core.ranges import refuse_absurd
from vivid_thimble.core.storage.project import project_bytes, read_project
from vivid_thimble.core.storage.stock import SHIPPED, Stock, read_stock, stock_bytes


def without_range(type_: Any, path: str, seen: set[type]) -> Iterator[str]:
    """The numbers in a kept type that have no lower or no upper bound."""
    if isinstance(type_, shapes.FloatType | shapes.IntType):
        if type_.ge is None or type_.le is None or not math.isfinite(type_.le - type_.ge):
            yield path
    elif isinstance(type_, shapes.StructType):
        if type_.cls not in seen:
            seen.add(type_.cls)
            for field in type_.fields:
                yield from without_range(field.type, f"{type_.cls.__name__}.{field.name}", seen)
    elif isinstance(type_, shapes.UnionType):
        for one in type_.types:
            yield from without_range(one, path, seen)
    elif isinstance(type_, shapes.TupleType):
        for one in type_.item_types:
            yield from without_range(one, path, seen)
    elif isinstance(type_, shapes.VarTupleType):
        yield from without_range(type_.item_type, path, seen)


@pytest.mark.parametrize("kind", [Job, Stock])
def test_every_number_that_is_kept_has_a_range(kind: type) -> None:
    seen: set[type] = set()
    assert [*without_range(shapes.type_info(kind), "", seen)] == []
    assert len(seen) > 5


@pytest.mark.parametrize("make", DEMO_JOBS.values(), ids=list(DEMO_JOBS))
def test_what_the_program_makes_itself_is_within_its_ranges(make: Any) -> None:
    refuse_absurd(make())


def test_what_is_shipped_is_within_its_ranges() -> None:
    assert read_stock(stock_bytes(SHIPPED), "shipped") == SHIPPED


def numbers(value: Any, at: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The ways to all numbers in plain values."""
    if isinstance(value, dict | list):
        for key, one in value.items() if isinstance(value, dict) else enumerate(value):
            yield from numbers(one, (*at, key))
    elif isinstance(value, int | float) and not isinstance(value, bool):
        yield at


@pytest.mark.parametrize("absurd", [math.nan, math.inf, -math.inf, 1e308, -1e12, 9.2e18])
def test_a_project_with_an_absurd_number_is_refused_and_the_number_named(absurd: float) -> None:
    with zipfile.ZipFile(io.BytesIO(project_bytes(demo_job(), {}))) as archive:
        recipe = json.loads(archive.read("recipe.json"))
    ways = [*numbers(recipe["job"])]
    assert len(ways) > 30
    for way in ways[:: max(len(ways) // 25, 1)]:
        changed = json.loads(json.dumps(recipe))
        holder = changed["job"]
        for key in way[:-1]:
            holder = holder[key]
        holder[way[-1]] = absurd
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as archive:
            archive.writestr("recipe.json", json.dumps(changed))
        with pytest.raises(ProjectNotReadable) as refused:
            read_project(packed.getvalue(), "regatta.thimble")
        sentence = str(refused.value)
        whole_number = "Expected" not in sentence and "damaged" in sentence  # a fraction where a count belongs
        named = str(way[-1]).replace("_", " ") in sentence or isinstance(way[-1], int)
        assert whole_number or ("left untouched" in sentence and named), sentence


def test_an_edit_that_would_make_an_absurd_number_is_refused_with_its_place() -> None:
    with pytest.raises(NumberAbsurd, match=r"items 1, .*placement, dx must be at most 100000\)"):
        refuse_absurd(scaled_design(demo_job(), 1e6))
    with pytest.raises(NumberAbsurd, match="items 1, surround must be at least 0"):
        refuse_absurd(with_item(demo_job(), lambda item: replace(item, surround=-1.0)))


def test_a_list_of_materials_with_an_absurd_number_is_refused() -> None:
    told = json.loads(stock_bytes(SHIPPED))
    told["stock"]["films"][0]["film"]["thinnest_line"] = 1500
    with pytest.raises(InputRefused, match="films 1, film, thinnest line must be at most 5"):
        read_stock(json.dumps(told).encode(), "list.json")


@pytest.mark.parametrize(
    "options",
    [
        ("letter", "Heron", "--font", "Pacifico", "--width", "101m"),
        ("letter", "Heron", "--font", "Pacifico", "--width", "200mm", "--min-neck", "1500"),
        ("letter", "Heron", "--font", "Pacifico", "--width", "200mm", "--thicken", "9m"),
        ("audition", "Heron", "--width", "200mm", "--min-line", "0.0001"),
        ("audition", "Heron", "--width", "0.001mm"),
    ],
)
def test_options_have_ranges_too(options: tuple[str, ...], capsys: pytest.CaptureFixture[str]) -> None:
    assert run(options) == REFUSED
    said = capsys.readouterr().err
    assert said.count("\n") == 1
    assert "must be from" in said or "check the unit" in said or "not a length" in said


@pytest.mark.parametrize(
    ("options", "says"),
    [
        (("spiral", "{photo}", "--width", "90mm", "--turns", "nan"), "turns must be at least 0.5"),
        (("spiral", "{photo}", "--width", "90mm", "--turns", "1e300"), "turns must be at most 100"),
        (("trace", "{photo}", "--width", "90mm", "--background", "1,1", "--tolerance", "inf"), "must be at most 255"),
        (("trace", "{photo}", "--width", "90mm", "--drop-below", "1e300"), "speck area must be at most 100000000"),
        (("stencil", "{art}", "--width", "90mm", "--angle", "nan"), "angle deg must be at least -3600"),
    ],
)
def test_plain_numbers_on_the_command_line_have_ranges(
    options: tuple[str, ...], says: str, tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    photo, art = tmp_path / "photo.png", tmp_path / "ring.svg"
    Image.new("RGB", (60, 60), "white").save(photo)
    art.write_text('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><circle cx="4" cy="4" r="3"/></svg>')
    assert run([one.format(photo=photo, art=art) for one in options]) == REFUSED
    said = capsys.readouterr().err
    assert says in said and said.count("\n") == 1
