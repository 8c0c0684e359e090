"""What differs between two states of a job, in plain words; for "what changed since saved" and earlier versions."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import asdict

from vivid_thimble.core.job.values import Element, Item, Job, Layer
from vivid_thimble.core.steps import Step

FIELD_WORDS = {
    "dx": "place",
    "dy": "place",
    "width": "width",
    "height": "height",
    "capital": "size",
    "strip": "size",
    "em": "size",
    "shared": "size",
    "turn_deg": "turn",
    "thinnest_line": "thinnest line",
    "thinnest_gap": "narrowest gap",
    "accepted": "findings let be",
    "register": "register marks",
    "weeding_box": "weeding box",
    "relief": "relief cuts",
    "blank": "measures",
    "for_sale": "for sale or not",
    "helps_only": "cut or only a help",
    "spacing": "letter spacing",
}
"""What a field is called where its own name would not do."""
MOST_CHANGES = 200


def what_changed(before: Job, after: Job) -> list[str]:
    """One line for each thing that is another one now; none when they are alike.

    Which item is in hand does not count.
    """
    told = [f"Job: {word}" for word in _fields(before, after, leave=("items", "at", "shared"))]
    if before.shared != after.shared:
        told.append("Job: shared sizes")
    told += _by_id(_named(before.items), _named(after.items), _item_changes, "item")
    return told[:MOST_CHANGES]


def _named(things: tuple[Any, ...]) -> dict[str, Any]:
    return {one.id: one for one in things}


def _by_id(before: Mapping[str, Any], after: Mapping[str, Any], changes: Any, word: str, inside: str = "") -> list[str]:
    """Things that came, went or changed, in the order in which they are now."""
    lead = f"{inside}: " if inside else ""
    told = [f"{lead}{_name_of(one)}: new {word}" for key, one in after.items() if key not in before]
    told += [f"{lead}{_name_of(one)}: {word} taken out" for key, one in before.items() if key not in after]
    for key, one in after.items():
        if key in before and before[key] != one:
            told += changes(before[key], one)
    order = [key for key in after if key in before]
    if order != [key for key in before if key in after]:
        told.append(f"{lead}order of the {word}s")
    return told


def _item_changes(before: Item, after: Item) -> list[str]:
    told = [f"{after.name}: {word}" for word in _fields(before, after, leave=("layers", "id"))]
    told += _by_id(_named(before.layers), _named(after.layers), _layer_changes, "film", after.name)
    was = {e.id: e for layer in before.layers for e in layer.elements}
    now = {e.id: e for layer in after.layers for e in layer.elements}
    return told + _by_id(was, now, _element_changes, "element", after.name)


def _layer_changes(before: Layer, after: Layer) -> list[str]:
    name = after.film.name
    told = [f"{name}: {word}" for word in _fields(before.film, after.film)]
    return told + _step_changes(before.steps, after.steps, name)


def _element_changes(before: Element, after: Element) -> list[str]:
    name = _name_of(after)
    told = [f"{name}: {word}" for word in _fields(before, after, leave=("source", "placement", "steps", "id"))]
    told += [f"{name}: {word}" for word in _fields(before.placement, after.placement)]
    if before.source != after.source:
        same = type(before.source) is type(after.source)
        words = _fields(before.source, after.source) if same else ["another source"]
        told += [f"{name}: {word}" for word in words]
    return told + _step_changes(before.steps, after.steps, name)


def _step_changes(before: tuple[Step, ...], after: tuple[Step, ...], whose: str) -> list[str]:
    def changed(was: Step, now: Step) -> list[str]:
        return [f"{whose}: {now.TITLE.lower()} ({word})" for word in _fields(was, now)]

    return _by_id(_named(before), _named(after), changed, "step", whose)


def _fields(before: Struct, after: Struct, leave: tuple[str, ...] = ()) -> list[str]:
    """The names of the values that differ, each once."""
    was, now = asdict(before), asdict(after)
    names = [key for key in now if key not in leave and was.get(key) != now[key]]
    return list(dict.fromkeys(FIELD_WORDS.get(name, name.replace("_", " ").removesuffix(" deg")) for name in names))


def _name_of(one: Any) -> str:
    name = getattr(one, "name", None) or getattr(getattr(one, "film", None), "name", None) or getattr(one, "TITLE", "")
    return str(name).splitlines()[0] if name else "?"
