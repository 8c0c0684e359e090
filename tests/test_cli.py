"""The command line: figures, files, and one clear sentence for bad input."""

from __future__ import annotations

import json
import math
import os
import re
import subprocess
import sys
from pathlib import Path as FilePath

import numpy as np
import pytest
import shapely
from PIL import Image

import vivid_thimble
from vivid_thimble.__main__ import main
from vivid_thimble.cli import commands
from vivid_thimble.core.demo.jobs import DRAWING
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.geometry.affine import Affine
from vivid_thimble.core.geometry.path import Path
from vivid_thimble.core.geometry.region import Region, union
from vivid_thimble.core.sources.artwork import film_region
from vivid_thimble.core.storage.project import open_project

ROOT = FilePath(__file__).parents[1]
HERON = ROOT / "src" / "vivid_thimble" / "data" / "demo" / DRAWING


def answer(capsys: pytest.CaptureFixture[str], *arguments: str) -> dict:
    assert main([*arguments, "--json"]) == 0
    return json.loads(capsys.readouterr().out)


def drawing(tmp_path: FilePath, body: str) -> str:
    path = tmp_path / "art.svg"
    path.write_text(f'<svg xmlns="http://www.w3.org/2000/svg" width="100mm" viewBox="0 0 100 50">{body}</svg>')
    return str(path)


def test_inspect_tells_the_figures_of_a_known_shape(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    art = drawing(tmp_path, '<rect width="40" height="20"/><rect x="40" y="9.7" width="20" height="0.6"/>')
    found = answer(capsys, "inspect", art)
    assert found["size_mm"] == [60, 20]
    assert found["thinnest_line_mm"] == pytest.approx(0.6, abs=0.001)
    assert found["thinnest_gap_mm"] is None
    assert found["loose_pieces"] is None
    assert (found["kept_pieces"], found["waste_pieces"], found["contours"]) == (1, 1, 1)
    assert found["smallest_clean_width_mm"] == pytest.approx(80, rel=0.01)
    (place,) = found["places"]
    assert (place["kind"], place["severity"]) == ("thin-line", "stop")
    assert place["width_mm"] == pytest.approx(0.6, abs=0.001)
    assert 40 <= place["at_mm"][0] <= 60
    assert place["at_mm"][1] == pytest.approx(10, abs=0.01)
    assert place["length_mm"] == pytest.approx(20, rel=0.05)


def test_inspect_scales_before_it_measures(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    art = drawing(tmp_path, '<rect width="40" height="20"/><rect x="40" y="9.7" width="20" height="0.6"/>')
    found = answer(capsys, "inspect", art, "--width", "12cm")
    assert found["size_mm"] == [120, 40]
    assert found["thinnest_line_mm"] == pytest.approx(1.2, abs=0.002)
    assert found["places"] == []
    assert answer(capsys, "inspect", art, "--width", "12cm", "--min-line", "1.3")["places"][0]["limit_mm"] == 1.3


def test_inspect_of_a_stencil_counts_what_falls_out(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    art = drawing(tmp_path, '<path fill-rule="evenodd" d="M0 0H30V30H0ZM10 10H20V20H10Z"/>')
    found = answer(capsys, "inspect", art, "--method", "rigid-stencil", "--margin", "15mm")
    assert found["loose_pieces"] == 1
    assert [p["kind"] for p in found["places"]] == ["loose-piece"]
    assert found["places_no_size_cures"] == 1


def test_inspect_counts_open_and_doubled_outlines(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    body = '<path d="M0 0H10V10H0Z"/><path d="M0 0V10H10V0Z"/><path d="M20 0H30V10"/>'
    found = answer(capsys, "inspect", drawing(tmp_path, body))
    assert (found["open_paths"], found["doubled_paths"]) == (1, 1)


def test_letter_joins_welds_and_writes_the_wanted_size(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "heron.svg"
    loose = answer(capsys, "letter", "Heron", "--font", "Pacifico", "--width", "200mm")
    found = answer(
        capsys,
        "letter",
        "Heron",
        "--font",
        "pacifico",
        "--width",
        "200mm",
        "--join",
        "--thicken",
        "0.3mm",
        "-o",
        str(out),
    )
    assert not all(pair["joined"] for pair in loose["pairs"])
    assert [p["left"] + p["right"] for p in found["pairs"]] == ["He", "er", "ro", "on"]
    assert all(pair["joined"] and pair["neck_mm"] >= 0.98 for pair in found["pairs"])
    assert found["kept_pieces"] == 1
    assert found["size_mm"][0] == pytest.approx(200, abs=0.01)
    written = film_region(read_svg(out.read_bytes()), Affine())
    assert written.bounds[2] - written.bounds[0] == pytest.approx(200, abs=0.01)
    assert len(written.polygons.geoms) == 1


def test_clean_keeps_colours_apart_and_lists_what_it_does_not_know(
    tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "clean.svg"
    found = answer(capsys, "clean", str(HERON), "--width", "90", "--layers", "keep", "-o", str(out))
    assert found["layers"] == ["colour #e8c95b", "colour #2b6a80", "colour #3f7046", "colour #33465c"]
    assert found["not_understood"] == {}
    assert found["size_mm"][0] == pytest.approx(90, abs=0.02)
    strange = drawing(tmp_path, '<rect width="9" height="9"/><foreignObject/>')
    assert answer(capsys, "clean", strange)["not_understood"] == {"foreignObject": 1}


def test_weld_unites_drawings_at_their_true_size(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "b").mkdir()
    first = drawing(tmp_path, '<rect width="40" height="20"/>')
    second = drawing(tmp_path / "b", '<rect x="30" width="40" height="20"/>')
    found = answer(capsys, "weld", first, second)
    assert found["size_mm"] == [70, 20]
    assert found["kept_pieces"] == 1


def test_drawings_lie_over_each_other_by_the_corners_of_their_pages(
    tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    page = '<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="30mm" viewBox="{}"><rect {}/></svg>'
    far, near = tmp_path / "far.svg", tmp_path / "near.svg"
    far.write_text(page.format("100 -60 40 60", 'x="100" y="-60" width="20" height="20"'))
    near.write_text(page.format("0 0 20 30", 'x="5" y="5" width="10" height="10"'))
    assert answer(capsys, "weld", str(far), str(near))["size_mm"] == [15, 15]
    layers = answer(capsys, "slice", str(far), str(near), "--keep", "both")["layers"]
    assert {one["name"]: one["area_mm2"] for one in layers} == {"difference": 75.0, "overlap": 25.0}


@pytest.mark.parametrize(
    "arguments",
    [
        ["inspect", "nothing-here.svg"], ["inspect", "EMPTY"], ["inspect", "BROKEN"], ["inspect", "GOOD", "--width", "0"],
        ["inspect", "GOOD", "--width=-5"], ["inspect", "GOOD", "--width", "abc"], ["inspect", "GOOD", "--margin=-1"],
        ["letter", "漢字", "--font", "Pacifico", "--width", "100"], ["letter", " ", "--font", "Pacifico", "--width", "100"],
        ["letter", "a", "--font", "EMPTY", "--width", "100"], ["letter", "a", "--font", "No Such", "--width", "9"],
        ["letter", "a", "--font", "Pacifico", "--width", "9", "--thicken=-40"], ["clean", "NOTHING"], ["weld", "GOOD", "EMPTY"],
        ["clean", "GOOD", "-o", "/nowhere/at/all.svg"],
    ],
)  # fmt: skip
def test_bad_input_gets_one_sentence_and_status_3(
    tmp_path: FilePath, capsys: pytest.CaptureFixture[str], arguments: list[str]
) -> None:
    files = {
        "EMPTY": "", "BROKEN": "<svg><rect", "GOOD": '<svg xmlns="http://www.w3.org/2000/svg"><rect width="9" height="9"/></svg>',
        "NOTHING": '<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0H9" fill="none"/></svg>',
    }  # fmt: skip
    for name, text in files.items():
        (tmp_path / f"{name.lower()}.svg").write_text(text)
    given = [str(tmp_path / f"{a.lower()}.svg") if a in files else a for a in arguments]
    assert main(given) == 3
    streams = capsys.readouterr()
    assert streams.out == ""
    assert streams.err.startswith("vivid-thimble: ")
    assert streams.err.count("\n") == 1
    assert streams.err.rstrip().endswith(".")


def test_wrong_usage_has_status_2() -> None:
    assert main(["no-such-command"]) == 2
    with pytest.raises(SystemExit) as stop:
        main(["inspect"])
    assert stop.value.code == 2


def test_without_a_display_the_demo_writes_its_files_and_says_where(tmp_path: FilePath) -> None:
    environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    environment["PYTHONPATH"] = str(ROOT / "src")
    done = subprocess.run(
        [sys.executable, "-m", "vivid_thimble", "demo", "--out", str(tmp_path / "out")],
        env=environment, capture_output=True, text=True, check=True, timeout=240,
    )  # fmt: skip
    listed = [FilePath(line.strip()) for line in done.stdout.splitlines()[1:]]
    assert {p.suffix for p in listed} == {".thimble", ".svg", ".png", ".txt"}
    assert all(p.stat().st_size > 200 for p in listed)
    nothing = subprocess.run(
        [sys.executable, "-m", "vivid_thimble"],
        env=environment,
        capture_output=True,
        text=True,
        check=False,
        timeout=60,
    )
    assert nothing.returncode == 2
    assert "no display" in nothing.stderr


MESSY = (
    '<rect width="100" height="50" fill="#fdfdf8"/><circle cx="30" cy="25" r="20" fill="#203060"/>'
    '<circle cx="30" cy="25" r="20" fill="#203060"/><path d="M60 10H90V40H60V12" fill="#802020"/>'
    '<circle cx="55" cy="45" r=".2" fill="#802020"/>'
)


def test_clean_reports_every_matter_with_its_places(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    found = answer(capsys, "clean", drawing(tmp_path, MESSY), "--width", "80mm")
    kinds = {one["kind"]: one for one in found["cleaned"]}
    assert {kind: kinds[kind]["count"] for kind in ("background", "doubled", "open", "specks")} == {
        "background": 1, "doubled": 1, "open": 1, "specks": 1
    }  # fmt: skip
    assert all(one["done"] for one in found["cleaned"])
    assert (found["open_paths_closed"], found["doubled_paths_removed"]) == (1, 1)
    assert kinds["open"]["largest_gap_mm"] == pytest.approx(2 * 80 / 80, rel=0.01)
    assert found["size_mm"] == [80, pytest.approx(40 * 80 / 80, abs=0.02)]
    (speck,) = kinds["specks"]["at_mm"]
    assert speck == pytest.approx([45, 40], abs=0.1)


def test_clean_leaves_what_it_is_told_to_leave(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    art = drawing(tmp_path, MESSY)
    plain = answer(capsys, "clean", art, "--width", "80mm")
    found = answer(capsys, "clean", art, "--width", "80mm", "--leave", "specks", "open")
    done = {one["kind"]: one["done"] for one in found["cleaned"]}
    assert (done["specks"], done["open"], done["doubled"]) == (False, False, True)
    assert found["open_paths_closed"] == 0
    assert found["contours"] == plain["contours"]  # the speck stays, the open outline is not filled


@pytest.mark.parametrize("ending", ["svg", "dxf", "pdf"])
def test_clean_writes_films_that_read_back_where_they_were(
    ending: str, tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / f"films.{ending}"
    found = answer(capsys, "clean", drawing(tmp_path, MESSY), "--width", "80mm", "--colours", "2", "-o", str(out))
    assert len(found["layers"]) == 2
    back = answer(capsys, "clean", str(out), "--layers", "keep")
    assert back["size_mm"] == pytest.approx(found["size_mm"], abs=0.02)
    assert sorted(back["layers"]) == sorted(found["layers"])
    assert [one for one in back["cleaned"] if one["kind"] not in ("nodes", "hidden")] == []


def test_thin_lines_are_widened_or_filled_as_asked(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    art = drawing(tmp_path, '<rect x="10" y="10" width="60" height="30" fill="none" stroke="#333" stroke-width=".05"/>')
    filled = answer(capsys, "clean", art, "--lines", "filled", "--width", "60mm")
    assert (filled["lines"], filled["contours"], filled["size_mm"]) == ("filled", 1, [60, 30])
    wide = answer(capsys, "clean", art, "--lines", "widened", "--line-width", "2mm", "--width", "60mm")
    assert (wide["lines"], wide["contours"]) == ("widened", 2)
    assert wide["size_mm"] == pytest.approx([60, 31], abs=0.01)  # what is cut is as wide as was asked


def test_a_page_that_is_not_there_is_told(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "films.pdf"
    answer(capsys, "clean", drawing(tmp_path, MESSY), "-o", str(out))
    assert main(["clean", str(out), "--page", "4"]) == 3
    assert "has no page 5: choose another" in capsys.readouterr().err


def picture(tmp_path: FilePath) -> str:
    """A dark ring, a block and a speck on light ground."""
    y, x = np.mgrid[0:120, 0:200]
    away = np.hypot(x - 60, y - 60)
    gray = np.where((away < 40) & (away > 18), 40, 230).astype(np.uint8)
    gray[30:90, 120:180] = 40
    gray[4:6, 100:102] = 40
    path = tmp_path / "lantern.png"
    Image.fromarray(gray).save(path)
    return str(path)


def test_trace_gives_clean_outlines_at_the_size_asked_for(
    tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "lantern.svg"
    found = answer(capsys, "trace", picture(tmp_path), "--width", "80mm", "-o", str(out))
    assert found["size_mm"][0] == pytest.approx(80.0, abs=1e-3)
    assert found["kept_pieces"] == 2
    assert found["contours"] == 3
    assert [one["why"] for one in found["leftovers"]] == ["dirt"]
    scale = 80.0 / 160.0
    wanted = (math.pi * (40**2 - 18**2) + 3600) * scale**2
    assert found["layers"][0]["area_mm2"] == pytest.approx(wanted, rel=0.02)
    drawn = film_region(read_svg(out.read_bytes(), "lantern"), Affine())
    assert drawn.area == pytest.approx(found["layers"][0]["area_mm2"], rel=1e-3)


def test_trace_parts_colours_and_takes_the_background_away(
    tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    art = picture(tmp_path)
    assert len(answer(capsys, "trace", art, "--width", "80mm", "--colours", "2")["layers"]) == 2
    found = answer(capsys, "trace", art, "--width", "80mm", "--background", "5,5", "--drop-below", "20mm2")
    assert found["kept_pieces"] == 2
    assert main(["trace", art, "--width", "80mm", "--background", "900,5"]) == 3
    assert "outside the picture of 200 x 120" in capsys.readouterr().err
    assert main(["trace", str(FilePath(art).with_suffix(".txt")), "--width", "80mm"]) == 3


def test_spiral_recommends_its_turns_and_refuses_too_many(
    tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    art, out = picture(tmp_path), tmp_path / "spiral.svg"
    found = answer(
        capsys, "spiral", art, "--width", "90mm", "--min-line", "0.7mm", "--min-gap", "0.6mm", "-o", str(out)
    )
    assert found["turns"] == found["most_turns"]
    assert found["thinnest_line_mm"] is None or found["thinnest_line_mm"] >= 0.7
    assert found["thinnest_gap_mm"] is None or found["thinnest_gap_mm"] >= 0.6
    assert found["kept_pieces"] == 1
    assert film_region(read_svg(out.read_bytes(), "spiral"), Affine()).bounds is not None
    assert main(["spiral", art, "--width", "90mm", "--turns", "80"]) == 3
    assert "80 turns need" in capsys.readouterr().err


RING = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60">'
    '<path fill-rule="evenodd" d="M5 5H55V55H5Z M20 20H40V40H20Z"/></svg>'
)
BAR = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60">'
    '<rect x="0" y="25" width="60" height="10"/></svg>'
)


def test_stencil_bridges_every_middle_and_writes_the_sheet(
    tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    art, out = tmp_path / "ring.svg", tmp_path / "sheet.svg"
    art.write_text(RING)
    told = answer(
        capsys, "stencil", str(art), "--width", "100mm", "--bridge", "2mm", "--margin", "15mm", "-o", str(out)
    )
    assert told["sheet_mm"] == [130.0, 130.0]
    assert (told["islands_before"], told["islands_after"]) == (1, 0)
    assert len(told["bridges"]) == 4  # 30 mm long and 2 mm wide: slender, so two more
    for one in told["bridges"]:
        assert one["width_mm"] == 2.0
        assert one["weak"] is False
        assert np.hypot(*np.subtract(one["to_mm"], one["from_mm"])) == pytest.approx(30.0, abs=0.01)
    sheet = Region.from_path(Path.joined(p.lines for p in read_svg(out.read_bytes(), "sheet").parts), "evenodd")
    assert len(sheet.polygons.geoms) == 1


def test_slice_and_thicken_change_areas_as_they_should(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    ring, bar, out = tmp_path / "ring.svg", tmp_path / "bar.svg", tmp_path / "out.svg"
    ring.write_text(RING)
    bar.write_text(BAR)
    both = answer(capsys, "slice", str(ring), str(bar), "--keep", "both", "-o", str(out))
    assert {one["name"]: one["area_mm2"] for one in both["layers"]} == {"difference": 1800.0, "overlap": 300.0}
    assert answer(capsys, "slice", str(ring), str(bar))["kept_pieces"] == 2
    assert answer(capsys, "thicken", str(ring), "--by", "1mm")["size_mm"] == pytest.approx([52.0, 52.0], abs=0.02)
    assert answer(capsys, "thicken", str(ring), "--by=-2mm")["size_mm"] == pytest.approx([46.0, 46.0], abs=0.02)


def test_stencil_takes_bent_bridges_and_wide_feet(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    art = tmp_path / "ring.svg"
    art.write_text(RING)
    areas = {}
    for name, more in (("plain", ()), ("bent", ("--bridge-style", "curved")), ("feet", ("--feet",))):
        out = tmp_path / f"{name}.svg"
        told = answer(capsys, "stencil", str(art), "--width", "100mm", "--bridge", "2mm", *more, "-o", str(out))
        assert told["islands_after"] == 0
        assert all(bridge["width_mm"] == 2.0 for bridge in told["bridges"])
        drawing = read_svg(out.read_bytes(), out.name)
        areas[name] = sum(Region.from_path(part.path, part.rule).area for part in drawing.parts)
    assert areas["bent"] > areas["plain"]  # an arc is longer than its chord
    assert areas["feet"] > areas["plain"]


def test_negative_lengths_are_lengths_and_what_leaves_nothing_is_told(
    tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    art = tmp_path / "ring.svg"
    art.write_text(RING)
    thinner = answer(capsys, "thicken", str(art), "--by", "-0.3mm")
    assert thinner["size_mm"] == pytest.approx([49.4, 49.4], abs=0.01)
    assert main(["stencil", str(art), "--width", "20mm", "--bridge", "100mm"]) == 3
    assert "leave nothing of the openings" in capsys.readouterr().err
    assert main(["stencil", str(art), "--width", "60mm", "--margin", "-5mm"]) == 3
    assert "--margin must be more than zero" in capsys.readouterr().err


@pytest.mark.parametrize(
    "command",
    [
        ["inspect", "ART", "--width", "40mm"],
        ["stencil", "ART", "--width", "60mm"],
        ["slice", "ART", "ART", "--keep", "both"],
        ["letter", "Heron 8", "--font", "Pacifico", "--width", "60mm", "--join"],
        ["trace", "PICTURE", "--width", "60mm", "--colours", "500"],
        ["spiral", "PICTURE", "--width", "90mm"],
        ["clean", "ART"],
    ],
    ids=lambda c: c[0],
)
def test_answers_are_sentences_with_two_decimals(
    command: list[str], tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "ring.svg").write_text(RING)
    names = {"ART": str(tmp_path / "ring.svg"), "PICTURE": picture(tmp_path)}
    assert main([names.get(word, word) for word in command]) == 0
    told = capsys.readouterr().out
    assert not re.search(r"[{}\[\]]|_mm|None|True|False", told)
    assert not re.search(r"\d\.\d{3}", told)


def test_a_reader_that_closes_the_pipe_gets_no_traceback(tmp_path: FilePath) -> None:
    (tmp_path / "ring.svg").write_text(RING)
    line = f"'{sys.executable}' -m vivid_thimble inspect ring.svg --json | head -c 1"
    done = subprocess.run(["bash", "-o", "pipefail", "-c", line], cwd=tmp_path, env=os.environ | {"PYTHONPATH": str(FilePath(vivid_thimble.__file__).parents[1])}, capture_output=True, text=True, check=False)  # fmt: skip
    assert done.stderr == ""


@pytest.mark.parametrize("kind", ["discs", "three discs", "disc and edge", "slim ovals"])
def test_what_merely_touches_is_told_as_touching_and_has_one_clean_size(
    kind: str, tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    """However large, the touch is no width, and the cusps beside it are no gaps."""
    third = 5.0 + 5.0 * math.sqrt(3.0)
    drawn = {
        "discs": '<circle cx="5" cy="9" r="5"/><circle cx="15" cy="9" r="5"/>',
        "three discs": f'<circle cx="5" cy="5" r="5"/><circle cx="15" cy="5" r="5"/><circle cx="10" cy="{third}" r="5"/>',
        "disc and edge": '<circle cx="5" cy="9" r="5"/><rect x="10" y="1" width="9" height="16"/>',
        "slim ovals": '<ellipse cx="5" cy="9" rx="5" ry="9"/><ellipse cx="15" cy="9" rx="5" ry="9"/>',
    }[kind]
    art = drawing(tmp_path, drawn)
    clean = []
    for width in (20, 43, 110, 300):
        told = answer(capsys, "inspect", art, "--width", f"{width}mm")
        touches = [place for place in told["places"] if "touch in a single point" in place["says"]]
        assert len(touches) == (3 if kind == "three discs" else 1)
        assert told["thinnest_line_mm"] is None and told["thinnest_gap_mm"] is None
        assert not [place for place in told["places"] if place["kind"] in ("thin-line", "thin-gap")]
        clean.append(told["smallest_clean_width_mm"])
    assert max(clean) <= 1.01 * min(clean)


def in_hand(path: str) -> Region:
    """What a job cuts, all films together."""
    result = evaluate(*open_project(path))
    assert not [problem.sentence for layer in result.layers for problem in layer.problems]
    return union(layer.kept for layer in result.layers)


PLAIN = '<rect x="10" y="5" width="60" height="30"/><circle cx="80" cy="20" r="14"/>'
RINGED = '<path d="M10 5h70v40h-70z M20 10v30h50v-30z M30 15h30v20h-30z" fill-rule="evenodd"/>'
KNIFE = '<path d="M0 0h50v50h-50z"/>'
TWO_COLOURS = (
    '<rect x="5" y="5" width="30" height="30" fill="#a00"/><rect x="40" y="8" width="30" height="20" fill="#0a0"/>'
)


@pytest.mark.parametrize(
    ("command", "options"),
    [
        ("letter", ("Heron 8", "--font", "Pacifico", "--width", "120", "--join", "--thicken", "0.2")),
        ("clean", (PLAIN, "--width", "90")),
        ("clean", (TWO_COLOURS, "--height", "40", "--layers", "keep")),
        ("weld", (PLAIN, KNIFE)),
        ("slice", (PLAIN, KNIFE)),
        ("slice", (PLAIN, KNIFE, "--keep", "overlap")),
        ("slice", (PLAIN, KNIFE, "--keep", "both")),
        ("thicken", (PLAIN, "--by", "1.5")),
        ("stencil", (RINGED, "--width", "140", "--margin", "12")),
        ("trace", ("picture", "--width", "70", "--colours", "3")),
        ("spiral", ("picture", "--width", "90", "--turns", "12")),
    ],
)
def test_the_job_that_a_command_leaves_cuts_what_its_drawing_shows(
    command: str, options: tuple[str, ...], tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    given = list(options)
    for k, one in enumerate(given):
        if one.startswith("<"):
            (tmp_path / str(k)).mkdir()
            given[k] = drawing(tmp_path / str(k), one)
        elif one == "picture":
            shades = np.kron(np.array([[20, 120, 235], [235, 20, 120]], dtype=np.uint8), np.ones((40, 40), np.uint8))
            Image.fromarray(shades).save(tmp_path / "shades.png")
            given[k] = str(tmp_path / "shades.png")
    told = [answer(capsys, command, *given, "-o", str(tmp_path / f"made.{end}")) for end in ("svg", "thimble")]
    assert [one.pop("written")[-5:] for one in told] == ["e.svg", "imble"]
    assert told[0] == told[1]
    svg = read_svg((tmp_path / "made.svg").read_bytes())
    drawn = film_region(svg, Affine.scaling(svg.mm_per_unit or 1.0), "made")
    cut = in_hand(str(tmp_path / "made.thimble"))
    assert cut.bounds is not None and drawn.bounds is not None
    cut = cut.shifted(drawn.bounds[0] - cut.bounds[0], drawn.bounds[1] - cut.bounds[1])
    apart = shapely.symmetric_difference(cut.polygons.buffer(0), drawn.polygons.buffer(0)).area
    assert apart < 0.005 * drawn.polygons.length
    job = open_project(tmp_path / "made.thimble")[0]
    assert (job.name, job.item.name) == ("made", "made")
    assert job.item.width == pytest.approx(cut.bounds[2] - cut.bounds[0] + 20.0, abs=1.01)


def test_a_batch_of_names_is_scripted(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    one, names, batch = (str(tmp_path / name) for name in ("one.thimble", "names.csv", "batch.thimble"))
    answer(capsys, "letter", "Otter", "--font", "Pacifico", "--width", "90", "--join", "-o", one)
    FilePath(names).write_text("number;name\n" + "".join(f"{k};Lantern {k}\n" for k in range(1, 5)))
    made = answer(capsys, "set", one, names, "-o", batch)
    assert [item["item"] for item in made["items"]] == [f"Lantern {k}" for k in range(1, 5)]
    told = answer(capsys, "inspect", batch)
    assert [item["item"] for item in told["items"]] == [item["item"] for item in made["items"]]
    assert [item["stops"] for item in told["items"]] == [item["stops"] for item in made["items"]]
    assert len({item["films"][0]["nodes"] for item in told["items"]}) > 1  # other words, other outlines
    heights = [item["size_mm"][1] for item in told["items"] if item["item"] in ("Lantern 1", "Lantern 4")]
    assert heights[0] == pytest.approx(heights[1], rel=0.05)  # one size for all
    assert main(["place", batch]) == 0
    assert "Lantern 4" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("arguments", "sentence"),
    [
        (("set", "job", "names", "-o", "made.svg"), "made.svg is no name of a job"),
        (("set", "job", "names", "--words", "Grebe", "-o", "made.thimble"), "has no words named Grebe"),
        (("inspect", "job", "--width", "90"), "leave --width out"),
    ],
)
def test_what_a_job_cannot_take_is_refused(
    arguments: tuple[str, ...], sentence: str, tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    job, names = str(tmp_path / "job.thimble"), tmp_path / "names.txt"
    names.write_text("Moth\n")
    answer(capsys, "letter", "Otter", "--font", "Pacifico", "--width", "90", "-o", job)
    assert main([{"job": job, "names": str(names)}.get(one, one) for one in arguments]) == 3
    assert sentence in capsys.readouterr().err


def test_a_command_from_outside_is_one_file(
    tmp_path: FilePath, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "widest.py").write_text(
        "HELP = 'how wide a drawing is'\n"
        "def add_options(parser):\n    parser.add_argument('art')\n"
        "def answer(options):\n"
        "    from vivid_thimble.cli.plain import plain_drawing\n"
        "    return {'size_mm': [*plain_drawing(options.art).region.bounds]}\n"
    )
    monkeypatch.setattr(commands, "__path__", [*commands.__path__, str(tmp_path)])
    assert answer(capsys, "widest", drawing(tmp_path, KNIFE))["size_mm"] == pytest.approx([0.0, 0.0, 50.0, 50.0])
    with pytest.raises(SystemExit):
        main(["--help"])
    assert "how wide a drawing is" in capsys.readouterr().out


@pytest.mark.parametrize("command", [("stencil", "--width", "80"), ("weld",), ("thicken", "--by", "-40")])
def test_no_job_is_written_of_nothing(
    command: tuple[str, ...], tmp_path: FilePath, capsys: pytest.CaptureFixture[str]
) -> None:
    art = drawing(tmp_path, PLAIN if command[0] == "thicken" else "<g/>")
    made = tmp_path / "made.thimble"
    assert main([command[0], art, *command[1:], "-o", str(made)]) == 3
    assert capsys.readouterr().err.count("\n") == 1
    assert not made.exists()
