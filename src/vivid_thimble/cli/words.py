"""The answers of the command line as sentences: two decimals, nothing that looks like a program's own data."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from typing import Any

Answer = Mapping[str, Any]


def in_words(answer: Answer) -> str:
    """A line for every figure, several for lists of things."""
    lines: list[str] = []
    for key, value in answer.items():
        told = LISTS.get(key)
        if told is not None and isinstance(value, list) and all(isinstance(one, Mapping) for one in value):
            lines += told(value)
        else:
            lines.append(f"{_title(key)}: {_value(key, value)}")
    return "\n".join(line for line in lines if line)


def _title(key: str) -> str:
    return key.removesuffix("_mm2").removesuffix("_mm").replace("_", " ")


def _unit(key: str) -> str:
    return " mm²" if key.endswith("_mm2") else " mm" if key.endswith("_mm") else ""


def _value(key: str, value: Any) -> str:
    if value is None:
        return "does not apply"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, Mapping):
        return ", ".join(f"{_figure(count)} x {what}" for what, count in value.items()) or "nothing"
    if isinstance(value, list):
        if key == "weeding_minutes":
            return " to ".join(_figure(one) for one in value)
        between = " x " if key.endswith("size_mm") or key == "sheet_mm" else ", "
        return f"{between.join(_figure(one) for one in value)}{_unit(key)}" if value else "nothing"
    return f"{_figure(value)}{_unit(key)}"


def _figure(value: Any) -> str:
    return f"{value:.2f}" if isinstance(value, float) else str(value)


def _at(place: Sequence[float]) -> str:
    return f"{place[0]:.2f}, {place[1]:.2f}"


def _places(found: Sequence[Answer]) -> list[str]:
    lines = []
    for one in found:
        where = f" (at {_at(one['at_mm'])})" if "at_mm" in one else ""
        lines.append(f"{one['severity']}: {one['says']}{where}")
    return lines or ["nothing to stop or look at"]


def _pairs(found: Sequence[Answer]) -> list[str]:
    lines = []
    for one in found:
        how = f"neck {one['neck_mm']:.2f} mm" if one["joined"] else "not joined"
        moved = f", closed up by {one['moved_mm']:.2f} mm" if one["moved_mm"] else ""
        lines.append(f"{one['left']} and {one['right']}: {how}{moved}")
    return lines


def _bridges(found: Sequence[Answer]) -> list[str]:
    return [
        f"bridge {k}: from {_at(one['from_mm'])} to {_at(one['to_mm'])}, {one['width_mm']:.2f} mm wide"
        f"{', weak' if one.get('weak') else ''}"
        for k, one in enumerate(found, start=1)
    ]


def _causes(found: Sequence[Answer]) -> list[str]:
    names = {"line": "lines", "gap": "gaps", "piece": "small pieces"}
    return [
        f"clean of {names[one['kind']]} from {one['width_mm']:.2f} mm wide on, decided at {_at(one['at_mm'])}"
        for one in found
    ]


def _layers(found: Sequence[Answer]) -> list[str]:
    lines = []
    for one in found:
        pieces = one.get("kept_pieces")
        told = "" if pieces is None else f", {pieces} piece{'s' * (pieces != 1)} kept"
        lines.append(f"layer {one.get('name', one.get('colour'))}: {one['area_mm2']:.2f} mm²{told}")
    return lines


def _leftovers(found: Sequence[Answer]) -> list[str]:
    """Folded: a photo has hundreds."""
    counts = Counter((one["why"], one["dropped"]) for one in found)
    areas = {key: sum(o["area_mm2"] for o in found if (o["why"], o["dropped"]) == key) for key in counts}
    return [
        f"{'left out' if dropped else 'kept'} as {why}: {count} place{'s' * (count != 1)}, "
        f"together {areas[why, dropped]:.2f} mm²"
        for (why, dropped), count in counts.items()
    ]


def _cleaned(found: Sequence[Answer]) -> list[str]:
    return [f"{one['says']}{'' if one['done'] else ' (left as it is)'}" for one in found]


def _items(found: Sequence[Answer]) -> list[str]:
    return [f"{one['item']}, {one['says']}" for one in found] or ["nothing to place yet"]


def _faces(found: Sequence[Answer]) -> list[str]:
    lines = []
    for face in found:
        if face["refusal"]:
            lines.append(f"-      {face['title']}: {face['refusal']}")
            continue
        kinds = f" ({', '.join(face['kinds'])})" if face["kinds"] else ""
        verdict = "cuts" if face["cuts"] else "mend"
        figures = [
            f"{what} {face[key]:.2f} mm"
            for what, key in (("line", "thinnest_line_mm"), ("gap", "thinnest_gap_mm"))
            if face[key] is not None
        ]
        lines.append(f"{verdict}   {face['title']}{kinds}: {', '.join([*figures, str(face['stops'])])} to mend")
    return lines or ["no face was found"]


LISTS: dict[str, Callable[[Sequence[Answer]], list[str]]] = {
    "places": _places,
    "pairs": _pairs,
    "bridges": _bridges,
    "smallest_clean_causes": _causes,
    "layers": _layers,
    "leftovers": _leftovers,
    "cleaned": _cleaned,
    "items": _items,
    "faces": _faces,
}
"""How lists of things are told, by their key."""
