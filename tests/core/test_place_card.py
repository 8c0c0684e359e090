"""Where films go: ten things measured, and the sums that a hand does with a tape beside them.

Every design here is a plain rectangle, so that its edges are known without any of our geometry.
"""

from __future__ import annotations

import json
import math
from pathlib import Path as FilePath

import pytest
from msgspec.structs import replace

from vivid_thimble.cli.parser import run
from vivid_thimble.core.blanks.kinds import Ball, Blank, Cloth, Cylinder, Glass, Panel, Screen, Strip, Tapered
from vivid_thimble.core.evaluate.recipe import evaluate
from vivid_thimble.core.job.edits import with_item
from vivid_thimble.core.job.values import Element, Item, Job, Layer, Placement, new_job
from vivid_thimble.core.materials.films import DECAL_FILM
from vivid_thimble.core.reports.job_sheet import job_sheet
from vivid_thimble.core.reports.place_card import Placing, placings
from vivid_thimble.core.room.blank import as_kind, by_method, with_blank
from vivid_thimble.core.room.thing import size_in_words
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.sources.plain import Plain
from vivid_thimble.core.steps.frame import Frame
from vivid_thimble.core.storage.project import save_project


def plate(wide: float, high: float, dx: float = 0.0, dy: float = 0.0, name: str = "plate") -> Element:
    """A rectangle, its middle so far from the middle of the room."""
    source = Plain(form="rectangle", ratio=high / wide)
    return Element(id=name, name=name, source=source, placement=Placement(width=wide, dx=dx, dy=dy))


def on(blank: Blank | None, *elements: Element, method: str = "decal", item: Item | None = None) -> Job:
    """A job with one film of elements on a thing."""
    job = new_job("Placing", 300.0, 200.0)
    made = by_method(job.item, method) if item is None else item
    made = with_blank(made, blank) if blank is not None else made
    layer = replace(made.layers[0], elements=elements)
    return replace(job, items=(replace(made, layers=(layer,)),))


def card(job: Job) -> list[Placing]:
    return list(placings(evaluate(job, {})))


def edges(one: Placing) -> tuple[float, float, float, float]:
    return one.left, one.right, one.top, one.bottom


def close(*wanted: float) -> object:
    return pytest.approx(wanted, abs=0.01)


def test_flat_a_panel_with_a_bevel() -> None:
    """300 wide, 10 free: room 280. A plate of 200 in its middle: (300 - 200) / 2 = 50 to both true edges."""
    (one,) = card(on(Panel(width=300.0, height=200.0, edge=10.0), plate(200.0, 80.0)))
    assert edges(one) == close(50.0, 50.0, 60.0, 60.0)


def test_a_strip_with_other_room_at_its_ends() -> None:
    """600 x 30, 10 free at the ends, 2 above and below; 100 x 20 moved 40 to the right: 250 + 40, 250 - 40, 5, 5."""
    (one,) = card(on(Strip(), plate(100.0, 20.0, dx=40.0)))
    assert edges(one) == close(290.0, 210.0, 5.0, 5.0)


def test_cloth_is_measured_from_the_collar() -> None:
    """460 x 560; 60 below the collar, 120 above the hem: room 380 high, its middle at 60 + 190 = 250 below the collar.
    A plate of 240 x 100 lies 250 - 50 = 200 below it, (460 - 240) / 2 = 110 from both seams."""
    (one,) = card(on(Cloth(), plate(240.0, 100.0)))
    assert edges(one) == close(110.0, 110.0, 200.0, 260.0)
    assert one.below_collar == pytest.approx(200.0, abs=0.01)


def test_a_screen_is_measured_inside_its_frame_from_its_underside() -> None:
    """Mesh 400 x 300; 100 x 50 moved 30 to the right as read: from above 180 left and 120 right; the film is laid on
    the underside, where left and right change places. The film itself reaches from wood to wood."""
    job = with_item(on(None, plate(100.0, 50.0, dx=30.0)), lambda item: as_kind(item, Screen))
    design, sheet = card(job)
    assert edges(design) == close(120.0, 180.0, 125.0, 125.0)
    assert (sheet.part, edges(sheet)) == ("sheet", close(0.0, 0.0, 0.0, 0.0))
    layer = evaluate(job, {}).layers[0]
    assert layer.sheet_box == close(-40.0, -40.0, 360.0, 260.0)


def test_a_squeegee_is_judged_against_the_mesh() -> None:
    job = with_item(on(None, plate(100.0, 50.0)), lambda item: replace(as_kind(item, Screen), squeegee=390.0))
    assert not [f for f in evaluate(job, {}).findings if "squeegee" in f.sentence]
    job = with_item(job, lambda item: replace(item, squeegee=405.0))
    assert "which is 400 mm" in next(f.sentence for f in evaluate(job, {}).findings if "squeegee" in f.sentence)


def test_glass_is_measured_from_behind() -> None:
    """300 wide; a plate of 60 whose left edge, as read, lies 20 + 5 from the glass's edge: 300 - 25 - 60 = 215."""
    job = with_item(on(Glass(), plate(60.0, 40.0, dx=-95.0)), lambda item: replace(item, side="behind"))
    (one,) = card(job)
    assert edges(one) == close(215.0, 25.0, 80.0, 80.0)


def test_a_canister_is_measured_below_its_rim() -> None:
    """Girth 314.159 (100 across), 120 high, 15 free at the rim and 5 at the foot: the room is 100 high and begins 15
    below the rim. A plate 72 high in its middle: 15 + (100 - 72) / 2 = 29. Round: (314.159 - 90) / 2 to the line at
    the back, 45 to both sides of the front; straight across 2 * 50 * sin(45 / 50)."""
    blank = Cylinder(girth=100.0 * math.pi, height=120.0, rim=15.0, foot=5.0)
    (one,) = card(on(blank, plate(90.0, 72.0)))
    assert edges(one) == close(112.0796, 112.0796, 29.0, 19.0)
    assert (one.below_rim, one.front_left, one.front_right) == close(29.0, 45.0, 45.0)
    assert (one.arc, one.chord) == close(90.0, 78.3327)


def test_a_mug_is_measured_from_the_edges_of_its_handle() -> None:
    """Girth 250, handle 50: 200 round between its edges; a plate of 60, 10 to the left: 100 - 10 - 30 = 60 and 80."""
    blank = Cylinder(girth=250.0, height=95.0, handle=50.0, shown="all")
    (one,) = card(on(blank, plate(60.0, 40.0, dx=-10.0)))
    assert (one.left, one.right) == close(60.0, 80.0)


def test_a_cup_is_measured_where_the_piece_is() -> None:
    """Girths 300 above and 200 below, 100 high, nothing free: 250 in the middle. A plate 20 high whose middle lies 30
    below the rim, where the girth is 270: its 50 of the middle are 54 there, so (270 - 54) / 2 = 108 to both sides."""
    blank = Tapered(upper=300.0, lower=200.0, height=100.0, rim=0.0, foot=0.0, shown="all")
    (one,) = card(on(blank, plate(50.0, 20.0, dy=-20.0)))
    assert edges(one) == close(108.0, 108.0, 20.0, 60.0)
    assert one.arc == pytest.approx(54.0, abs=0.01)
    assert one.chord == pytest.approx(270.0 / math.pi * math.sin(math.pi * 54.0 / 270.0), abs=0.01)


def test_a_ball_is_measured_from_its_poles_and_the_ends_of_its_front() -> None:
    """Girth 360: 180 over the front, the pole 90 above the middle. 60 x 20: 60 to both ends, 80 to both poles."""
    (one,) = card(on(Ball(girth=360.0), plate(60.0, 20.0)))
    assert edges(one) == close(60.0, 60.0, 80.0, 80.0)
    assert one.chord == pytest.approx(2.0 * 360.0 / math.tau * math.sin(30.0 * math.tau / 360.0), abs=0.01)


def test_two_films_and_their_pieces_have_figures_of_their_own() -> None:
    """On a panel of 300 x 200: the plum film holds a sign and a dot, the other one a bar."""
    job = on(
        Panel(width=300.0, height=200.0, edge=10.0), plate(100.0, 50.0, dx=-50.0), plate(20.0, 20.0, 60.0, name="dot")
    )
    other = Layer(
        id="bars", film=replace(DECAL_FILM, name="Bars"), elements=(plate(280.0, 10.0, 0.0, 70.0, name="bar"),)
    )
    job = with_item(job, lambda item: replace(item, layers=(*item.layers, other)))
    plum, sign, dot, bar = card(job)
    assert (plum.part, edges(plum)) == (None, close(50.0, 80.0, 75.0, 75.0))
    assert (sign.part, edges(sign)) == ("plate", close(50.0, 150.0, 75.0, 75.0))
    assert (dot.part, edges(dot)) == ("dot", close(200.0, 80.0, 90.0, 90.0))
    assert (bar.film, bar.part, edges(bar)) == ("Bars", None, close(10.0, 10.0, 165.0, 25.0))


def test_a_plain_rectangle_is_its_own_room_and_words_tell_their_baseline() -> None:
    words = Element(
        id="w", name="HH", source=Words(text="HH", face="bundled:League Spartan"), placement=Placement(width=100.0)
    )
    (one,) = card(on(None, words))
    assert one.left == pytest.approx(100.0, abs=0.01)
    assert one.baseline == pytest.approx(200.0 - one.bottom, abs=0.01), "capitals without tails stand on it"


def test_the_job_sheet_and_the_strip_speak_of_the_thing() -> None:
    job = on(Panel(width=300.0, height=200.0, edge=10.0), plate(200.0, 80.0))
    sheet = job_sheet(job, evaluate(job, {}))
    assert "300 × 200 mm" in sheet and "50 mm left, 50 mm right, 60 mm top, 60 mm bottom" in sheet
    assert size_in_words(on(Cylinder()).item, "mm") == "250 round × 95 mm"
    assert size_in_words(on(Tapered()).item, "cm") == "28/20 round × 12 cm"
    assert size_in_words(on(None).item, "mm") == "300 × 200 mm"


def test_a_sheet_on_a_cup_is_bent_and_ends_at_rim_and_foot() -> None:
    """Surround 20 round a plate that lies 10 below the rim: the sheet would pass it by 10 and ends there; laid level
    again its upper edge is level, which a sheet that is not bent could not be."""
    import shapely

    blank = Tapered(upper=330.0, lower=230.0, height=110.0, rim=5.0, foot=5.0, shown="all")
    job = on(blank, plate(80.0, 40.0, dy=-25.0), method="film-stencil")
    result = evaluate(job, {})
    layer = result.layers[0]
    assert layer.bend is not None and layer.sheet_box == close(80.0, -5.0, 200.0, 65.0)
    level = shapely.transform(layer.kept.polygons, layer.bend.undone)
    assert level.bounds == close(80.0, -5.0, 200.0, 65.0)
    assert level.area == pytest.approx(120.0 * 70.0 - 80.0 * 40.0, rel=1e-3)
    assert any("pass the rim by 10.0 mm" in f.sentence for f in result.findings)
    frame = with_item(job, lambda item: replace(item, frame=Frame(left=15.0, right=15.0, top=8.0, bottom=15.0)))
    assert not any("pass the" in f.sentence for f in evaluate(frame, {}).findings)


def test_place_tells_the_same_on_the_command_line(tmp_path: FilePath, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "canister.thimble"
    save_project(path, on(Cylinder(girth=314.0, height=120.0), plate(90.0, 72.0)), {})
    assert run(["place", str(path), "--json"]) == 0
    (one,) = json.loads(capsys.readouterr().out)["items"]
    assert one["below_rim_mm"] == one["from_top_mm"] == pytest.approx(29.0, abs=0.01)
    assert one["from_left_mm"] == pytest.approx(112.0, abs=0.01)
    assert (one["below_collar_mm"], one["part"]) == (None, None)
    assert run(["place", str(path)]) == 0
    assert "29 mm below the rim, 19 mm from below" in capsys.readouterr().out
    assert run(["place", str(tmp_path / "none.thimble")]) == 3
