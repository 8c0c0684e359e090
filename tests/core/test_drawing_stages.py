"""Each stage of a drawing is worked out once, whoever asks; films of widened lines heed the width."""

from __future__ import annotations

from collections import Counter
from pathlib import Path as FilePath

import pytest
from msgspec.structs import replace

from vivid_thimble.cli.parser import run
from vivid_thimble.core.cache import Cache, asset_key
from vivid_thimble.core.edits.colour_films import with_colour_in_film, with_film_count
from vivid_thimble.core.edits.drawings import look_at, with_artwork
from vivid_thimble.core.evaluate import drawing_stages
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.evaluate.results import ItemResult
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.job.edits import with_element
from vivid_thimble.core.job.values import Element, Item, Job, Layer, Placement, find_element
from vivid_thimble.core.materials.method import USUAL_FILM
from vivid_thimble.core.sources.artwork import Artwork
from vivid_thimble.core.sources.cleaning import Cleaning
from vivid_thimble.core.sources.line_work import LineWork

PAGE = '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100">{}</svg>'
PATCHES = PAGE.format(
    '<rect width="60" height="60" fill="#804020"/><rect x="40" y="40" width="60" height="60" fill="#204080"/>'
).encode()
LINES = PAGE.format(
    '<g fill="none" stroke-width=".01"><path d="M10 30H90" stroke="#802020"/><path d="M10 60H90" stroke="#208020"/></g>'
).encode()


class Bench:
    """A job of one drawing with its cache."""

    def __init__(self, data: bytes, lines: LineWork = "drawn", line_width: float = 1.0) -> None:
        self.assets, self.cache = {asset_key(data): data}, Cache()
        artwork = Artwork(
            asset=asset_key(data), name="lantern", lines=lines, line_width=line_width, cleaning=Cleaning()
        )
        element = Element(id="art", name="lantern", source=artwork, placement=Placement(width=100.0))
        layer = Layer(id="layer", film=USUAL_FILM["decal"], elements=(element,))
        self.job = Job(name="job", items=(Item(id="item", name="panel", width=200, height=200, layers=(layer,)),))

    def result(self) -> ItemResult:
        return evaluate(self.job, self.assets, self.cache)

    def areas(self) -> list[float]:
        return [layer.kept.area for layer in self.result().layers]

    def colours(self) -> dict[tuple[int, int, int], float]:
        element = find_element(self.job, "art")
        assert isinstance(element.source, Artwork)
        return look_at(element.source, element.placement, self.assets, self.cache).colours


@pytest.fixture
def counted(monkeypatch: pytest.MonkeyPatch) -> Counter[str]:
    """How often each stage has really been worked out."""
    found: Counter[str] = Counter()
    for name in ("read_drawing", "painted_apart", "visible_colours", "finished"):
        real = getattr(drawing_stages, name)

        def counting(*args: object, name: str = name, real: object = real) -> object:
            found[name] += 1
            return real(*args)  # type: ignore[operator]

        monkeypatch.setattr(drawing_stages, name, counting)
    return found


def test_films_sizes_and_looks_do_not_paint_again(counted: Counter[str]) -> None:
    bench = Bench(PATCHES)
    bench.result()
    colours = bench.colours()
    bench.job = with_film_count(bench.job, "art", colours, 2)
    assert sorted(bench.areas()) == pytest.approx([60 * 60 - 20 * 20, 60 * 60], rel=1e-6)
    bench.job = with_colour_in_film(bench.job, "art", colours, (0x80, 0x40, 0x20), -1)
    assert bench.areas() == pytest.approx([100 * 100], rel=1e-6)  # what is left is 100 mm wide now
    bench.job = with_element(bench.job, "art", lambda e: replace(e, placement=Placement(width=50.0)))
    bench.result()
    bench.job = with_artwork(bench.job, "art", cleaning=Cleaning(specks=False, nodes=False))
    bench.result()
    bench.colours()
    assert counted == {"read_drawing": 1, "painted_apart": 1, "visible_colours": 1, "finished": 5}


def test_what_changes_the_picture_is_painted_again(counted: Counter[str]) -> None:
    bench = Bench(PATCHES)
    bench.result()
    bench.job = with_artwork(bench.job, "art", left_out=(1,))
    assert bench.areas() == pytest.approx([100 * 100], rel=1e-6)
    bench.job = with_artwork(bench.job, "art", left_out=(), cleaning=Cleaning(hidden=False))
    bench.result()
    assert counted["read_drawing"] == 1
    assert counted["painted_apart"] == 3


def test_hairlines_that_are_widened_have_colours_and_can_be_parted_by_them() -> None:
    bench = Bench(LINES, "widened", 2.0)
    colours = bench.colours()
    assert sorted(colours) == [(0x20, 0x80, 0x20), (0x80, 0x20, 0x20)]
    bench.job = with_film_count(bench.job, "art", colours, 2)
    line = 98.0 * 2.0 + 3.14159265  # 100 mm over all, its rounded ends included
    assert bench.areas() == pytest.approx([line, line], rel=2e-3)


def test_the_command_line_widens_lines_in_every_film(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    art, out = tmp_path / "lines.svg", tmp_path / "films.svg"
    art.write_bytes(LINES)
    code = run(["clean", str(art), "--width", "100", "--lines", "widened", "--line-width", "2", "--layers", "keep", "-o", str(out)])  # fmt: skip
    assert code == 0, capsys.readouterr().err
    parts = read_svg(out.read_bytes(), "films.svg").parts
    boxes = [part.lines.bounds for part in parts]
    assert [box[3] - box[1] for box in boxes if box] == pytest.approx([2.0, 2.0], abs=1e-3)
