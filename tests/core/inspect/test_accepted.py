"""What is let be stays so while it gets no worse, at its place, whatever the size; and nothing else does."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.letters import box_part
from vivid_thimble.core.inspect.findings import Accepted, Finding, accepted_as, accepting
from vivid_thimble.core.messages import Message
from vivid_thimble.core.steps.remarks import closed_by, lost_by

BOX = (10.0, 20.0, 210.0, 120.0)
THIN = Finding("thin-line", "stop", Message("A line is only 0.63 mm wide."), (60.0, 45.0), width=0.63, limit=0.8)


def taken(finding: Finding) -> Accepted:
    return accepted_as(finding, "seen from afar", BOX)


@given(st.floats(0.4, 4.0), st.floats(-300, 300), st.floats(-300, 300))
def test_a_place_is_found_again_wherever_the_design_goes(scale: float, dx: float, dy: float) -> None:
    box = (dx, dy, dx + 200.0 * scale, dy + 100.0 * scale)
    at = (dx + 50.0 * scale, dy + 25.0 * scale)
    now = replace(THIN, at=at, width=0.63 * max(scale, 1.0), message=Message("Reworded."))
    assert accepting(now, [taken(THIN)], box) is not None
    assert accepting(replace(now, at=(at[0] + 30.0 * scale, at[1])), [taken(THIN)], box) is None


def test_what_gets_worse_or_is_another_matter_is_told() -> None:
    own = [taken(THIN)]
    assert accepting(replace(THIN, width=0.62), own, BOX) is not None  # a hair of noise
    assert accepting(replace(THIN, width=0.55), own, BOX) is None
    assert accepting(replace(THIN, width=None), own, BOX) is None
    assert accepting(replace(THIN, kind="thin-gap"), own, BOX) is None
    piece = Finding("small-piece", "stop", Message("A piece lifts."), (60.0, 45.0), area=1.2)
    assert accepting(replace(piece, area=0.9), [taken(piece)], BOX) is None
    assert accepting(replace(piece, area=1.5), [taken(piece)], BOX) is not None


def test_what_has_no_place_is_known_by_its_code_and_owner_and_failures_are_never_let_be() -> None:
    note = Finding("sheet-margin", "look", Message("The sheet leaves 8.0 mm."), belongs_to="left")
    assert accepting(replace(note, message=Message("Reworded.")), [taken(note)], None) is not None
    assert accepting(replace(note, belongs_to="right"), [taken(note)], BOX) is None
    assert accepting(replace(note, kind="two-pulls"), [taken(note)], BOX) is None
    failed = Finding("step-failed", "stop", Message("Thinning by 50 mm leaves nothing."))
    assert accepting(failed, [taken(failed)], BOX) is None


def test_steps_tell_what_they_closed_and_what_they_lost() -> None:
    ring = (box_part("a", 0, 0, 20, 20), box_part("b", 30, 0, 50, 20))
    assert closed_by(ring, ring, "Thickening") == ()
    (told,) = closed_by(ring, (box_part("a", 0, 0, 50, 20),), "Thickening")
    assert "2 pieces or more run together" in told.sentence
    three = (*ring, box_part("c", 60, 0, 61, 20), box_part("d", 70, 0, 71, 20))
    (lost,) = lost_by(three, ring, "Thinning")
    assert "2 pieces vanish" in lost.sentence
    assert lost_by(three, three, "Thinning") == ()
    assert lost.shifted(3.0, 4.0) == lost  # it has no place
    assert replace(lost, at=(1.0, 1.0)).shifted(3.0, 4.0).at == pytest.approx((4.0, 5.0))
