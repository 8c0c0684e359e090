"""Lengths as people type them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vivid_thimble.core.errors import LengthNotUnderstood
from vivid_thimble.core.lengths import UNITS, Unit, format_length, parse_length, parse_length_within
from vivid_thimble.core.ranges import Fine, Room, Size


@pytest.mark.parametrize(
    "text,mm",
    [
        ("4.5", 4.5), ("114mm", 114), ("11.5cm", 115), ("11,5 cm", 115), ("4 1/2 in", 114.3), ("1/2in", 12.7),
        ('3 1/4"', 82.55), ("32in - 2*5in", 558.8), ("(10 + 4) / 2 cm", 70), ("5' 3 1/2\"", 1612.9), ("32in/2", 406.4),
        ("-3", -3), ("2*(3in+1)", 154.4), ("72pt", 25.4), ("10cm - 5", 95), ("1 ft", 304.8), ("2 × 10", 20),
        ("80mm * pi", 251.327412), ("pi*3in", 239.389361), ("31.4159265 cm / π", 100.0),
    ],
)  # fmt: skip
def test_what_a_tape_measure_says_is_understood(text: str, mm: float) -> None:
    assert parse_length(text) == pytest.approx(mm)


@pytest.mark.parametrize(
    "text",
    ["", "  ", "abc", "3mm*2mm", "4 1/0", "4/0", "5 parsec", "((", "(3", "3mm mm", "1 000", "3..4", "1e400", "9" * 40],
)
def test_what_is_no_length_is_refused_in_one_sentence(text: str) -> None:
    with pytest.raises(LengthNotUnderstood) as refusal:
        parse_length(text)
    assert str(refusal.value).endswith(".")
    assert "\n" not in str(refusal.value)


def test_a_bare_number_takes_the_unit_it_is_read_in() -> None:
    assert parse_length("4.5", "in") == pytest.approx(114.3)
    assert parse_length("100 - 2*5", "cm") == pytest.approx(900)
    assert parse_length("10mm", "in") == pytest.approx(10)


@pytest.mark.parametrize("text", ["0", "-3mm", "3-3"])
def test_a_size_must_be_more_than_zero(text: str) -> None:
    with pytest.raises(LengthNotUnderstood, match="more than zero"):
        parse_length_within(text, Size)


@pytest.mark.parametrize(
    ("text", "range_", "unit", "says"),
    [
        ("0.001", Size, "mm", 'The length must be from 0.1 mm to 100000 mm, not "0.001".'),
        ("1500", Fine, "mm", 'The length must be from 0.01 mm to 100 mm, not "1500".'),
        ("5 in", Fine, "in/16", 'The length must be from 0.0004 in to 3.937 in, not "5 in".'),
        ("-1", Room, "cm", 'The length must be from 0 cm to 10000 cm, not "-1".'),
    ],
)
def test_a_length_outside_its_range_is_refused_in_the_unit_in_hand(
    text: str, range_: object, unit: Unit, says: str
) -> None:
    with pytest.raises(LengthNotUnderstood) as refused:
        parse_length_within(text, range_, unit=unit)
    assert str(refused.value) == says


@given(st.floats(-5000, 5000), st.sampled_from([u for u in UNITS if u != "in/16"]))
def test_what_is_shown_reads_back_as_the_same_length(value: float, unit: Unit) -> None:
    assert parse_length(format_length(value, unit), unit) == pytest.approx(value, abs=0.014)


@given(st.integers(-4000, 4000))
def test_sixteenths_are_exact_both_ways(sixteenths: int) -> None:
    value = sixteenths * 25.4 / 16
    shown = format_length(value, "in/16")
    assert not shown.startswith("~")
    assert abs(parse_length(shown.replace("-", ""), "in/16")) == pytest.approx(abs(value))


@given(st.text(max_size=30))
def test_any_text_is_either_a_length_or_refused(text: str) -> None:
    try:
        assert abs(parse_length(text)) <= 100_000
    except LengthNotUnderstood as refusal:
        assert str(refusal)
