"""A message says the same in every language: its own words looked up, figures written anew, a person's words as they are."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.messages import Message, Said

GERMAN = {
    "%1 was left open by %2 mm at the %3": "Am %3 blieb %1 um %2 mm offen",
    "top": "oberen Rand",
    "Look": "Aussehen",
    "%1 more": "noch %1",
}


def word(text: str) -> str:
    return GERMAN.get(text, text)


def comma(figure: str) -> str:
    return figure.replace(".", ",")


def test_own_words_are_looked_up_and_figures_written_anew() -> None:
    more = Message.of("{count} more", count=3)
    told = Message.of("{name} was left open by {gap:.2f} mm at the {side}", name=Said("Look"), gap=1.5, side="top")
    assert str(told) == "Look was left open by 1.50 mm at the top"
    assert told.told(word, comma) == "Am oberen Rand blieb Look um 1,50 mm offen"
    assert Message.of("{these}", these=(told, more)).told(word, comma) == f"{told.told(word, comma)}, noch 3"
    assert told.facts() == {"name": "Look", "gap": 1.5, "side": "top"}


@given(st.text())
def test_a_persons_words_come_through_whatever_they_are(name: str) -> None:
    told = Message.of("{name} was left open by {gap:.2f} mm at the {side}", name=Said(name), gap=0.1, side="top")
    assert told.told(word, comma) == f"Am oberen Rand blieb {name} um 0,10 mm offen"
    assert str(told) == f"{name} was left open by 0.10 mm at the top"
    assert str(InputRefused(told)) == str(told) and InputRefused(told).message is told
    assert str(InputRefused(name).message) == name, "a plain sentence is a message too"
