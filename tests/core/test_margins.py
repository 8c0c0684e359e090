"""Margins as they are said, and what they do to a design."""

from __future__ import annotations

import pytest

from vivid_thimble.core.blanks.kinds import Cloth, Panel, Tapered
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.job.values import new_job
from vivid_thimble.core.room.blank import with_blank
from vivid_thimble.core.room.margins import Margins, move_for, parse_margins

ITEM = new_job("Board", 200.0, 100.0).item
DESIGN = (30.0, 40.0, 80.0, 60.0)


@pytest.mark.parametrize(
    ("text", "meant"),
    [
        ("5 cm left, centred", Margins(left=50.0, centred=True)),
        ("top 2in", Margins(top=50.8)),
        ("3cm left and right", Margins(left=30.0, right=30.0)),
        ("left and right 3cm, 4 1/2 in below", Margins(left=30.0, right=30.0, bottom=114.3)),
        ("1,5 cm at the left, 20 at the top", Margins(left=15.0, top=20.0)),
        ("12 round", Margins(left=12.0, right=12.0, top=12.0, bottom=12.0)),
        ("centred", Margins(centred=True)),
        ("0 left", Margins(left=0.0)),
    ],
)
def test_margins_are_understood_as_people_say_them(text: str, meant: Margins) -> None:
    found = parse_margins(text, "mm")
    assert found.centred == meant.centred
    for side in ("left", "right", "top", "bottom"):
        assert getattr(found, side) == pytest.approx(getattr(meant, side))


@pytest.mark.parametrize(
    "text", ["", "left", "a bit to the left", "5", "5 cm", "left 3 cm diagonal", "-3 left", "3 % left"]
)
def test_what_tells_no_margin_is_refused_with_an_example(text: str) -> None:
    with pytest.raises(InputRefused):
        parse_margins(text, "mm")


def moved(margins: Margins) -> tuple[float, float, float, float]:
    """The box of the design after the move, worked out by its definition."""
    move = move_for(margins, DESIGN, ITEM)
    x, y = (DESIGN[0] + DESIGN[2]) / 2.0 + move.dx, (DESIGN[1] + DESIGN[3]) / 2.0 + move.dy
    wide, high = 50.0 * move.factor / 2.0, 20.0 * move.factor / 2.0
    return x - wide, y - high, x + wide, y + high


def test_one_margin_moves_both_size_and_centring_fills_in() -> None:
    assert moved(Margins(left=10.0)) == pytest.approx((10.0, 40.0, 60.0, 60.0))
    assert moved(Margins(right=10.0, centred=True)) == pytest.approx((140.0, 40.0, 190.0, 60.0))
    assert moved(Margins(left=50.0, right=50.0, centred=True)) == pytest.approx((50.0, 30.0, 150.0, 70.0))
    assert moved(Margins(left=10.0, right=10.0, top=20.0, bottom=20.0))[1::2] == pytest.approx((20.0, 80.0))
    with pytest.raises(InputRefused, match="no room"):
        move_for(Margins(left=100.0, right=100.0), DESIGN, ITEM)


def test_margins_are_from_the_true_edges_and_both_sides_make_the_size() -> None:
    """A panel of 220 x 120 with 10 kept free all round has a room of 200 x 100 whose corner lies 10 inside."""
    panel = with_blank(ITEM, Panel(width=220.0, height=120.0, edge=10.0))
    assert (panel.width, panel.height) == (200.0, 100.0)
    assert move_for(Margins(left=50.0), DESIGN, panel).dx == pytest.approx(40.0 - 30.0)
    both = move_for(Margins(left=60.0, right=60.0), DESIGN, panel)
    assert both.factor == pytest.approx((220.0 - 120.0) / 50.0)
    centred = move_for(Margins(centred=True), DESIGN, with_blank(ITEM, Cloth(collar=60.0, hem=120.0)))
    assert centred.dy == pytest.approx(190.0 - 50.0), "in the middle of the room, below the collar"


def test_a_margin_on_a_cup_is_kept_where_the_design_ends_up() -> None:
    cup = with_blank(ITEM, Tapered(upper=300.0, lower=200.0, height=100.0, rim=0.0, foot=0.0, shown="all"))
    move = move_for(Margins(left=30.0, top=5.0), DESIGN, cup)
    girth = 300.0 - 100.0 * 15.0 / 100.0  # its middle lies 5 + 10 below the rim
    assert (DESIGN[0] + move.dx) * girth / 250.0 == pytest.approx(30.0, abs=1e-6)
    assert DESIGN[1] + move.dy == pytest.approx(5.0)
