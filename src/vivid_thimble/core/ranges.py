"""What numbers may be, in one table: every number of a project, a list of materials, a field and the command line.

The fields of all kept values name their range as their type, so whatever is read is held against it; ``refuse_absurd``
does so for a value that was made here, and fields and options are given the range of the number that they set. No
range lets anything through that is not a finite number.
"""

from __future__ import annotations

import re
from typing import Annotated, NamedTuple, get_args, get_type_hints

import msgspec
from msgspec import Meta, Struct

from vivid_thimble.core.errors import NumberAbsurd
from vivid_thimble.core.geometry.tolerances import LARGEST_LENGTH_MM

MOST = LARGEST_LENGTH_MM
Size = Annotated[float, Meta(ge=0.1, le=MOST)]
"""Of something that is made or measured, in mm."""
Room = Annotated[float, Meta(ge=0.0, le=MOST)]
"""What is kept free, in mm; there may be none."""
Shift = Annotated[float, Meta(ge=-MOST, le=MOST)]
"""A place, or a way to one side or the other, in mm."""
Fine = Annotated[float, Meta(ge=0.01, le=100.0)]
"""Width of lines, necks and bridges, in mm."""
Limit = Annotated[float, Meta(ge=0.05, le=5.0)]
"""The thinnest line or gap that a film bears, in mm."""
Gentle = Annotated[float, Meta(ge=0.0, le=1000.0)]
"""How far edges move or corners are rounded, in mm; not at all, too."""
Moved = Annotated[float, Meta(ge=-1000.0, le=1000.0)]
"""How far edges move out, or in, in mm."""
Tolerance = Annotated[float, Meta(ge=0.001, le=10.0)]
"""How far outlines may move, in mm."""
Thickness = Annotated[float, Meta(ge=0.0, le=100.0)]
Area = Annotated[float, Meta(ge=0.0, le=1e8)]
"""In mm2."""
AnyArea = Annotated[float, Meta(ge=0.0, le=MOST**2)]
"""Found, not wished for."""
Turn = Annotated[float, Meta(ge=-3600.0, le=3600.0)]
"""In degrees."""
Fraction = Annotated[float, Meta(ge=0.0, le=1.0)]
"""A share of something."""
Band = Annotated[float, Meta(ge=0.005, le=0.5)]
"""Width of a border, as a share of a whole width."""
Percent = Annotated[float, Meta(ge=0.0, le=100.0)]
Signed = Annotated[float, Meta(ge=-1.0, le=1.0)]
"""From as little as possible to as much."""
Near = Annotated[float, Meta(ge=-10.0, le=10.0)]
"""A place in shares of a picture or a design, which may lie beyond its edges; a spacing in shares of a size."""
SharePlace = tuple[Near, Near]
Place = tuple[Shift, Shift]
Factor = Annotated[float, Meta(ge=0.01, le=100.0)]
Level = Annotated[float, Meta(ge=0.0, le=255.0)]
"""Of a picture."""
Soft = Annotated[float, Meta(ge=-100.0, le=100.0)]
"""In thousandths of the longer side of a picture."""
Turns = Annotated[float, Meta(ge=0.5, le=100.0)]
AxisValue = Annotated[float, Meta(ge=-1e5, le=1e5)]
"""Of a variable face."""
Amount = Annotated[float, Meta(ge=0.0, le=1e6)]
"""A price, a force or a time."""
Cells = Annotated[int, Meta(ge=1, le=100)]
Few = Annotated[int, Meta(ge=0, le=100)]
Number = Annotated[int, Meta(ge=0, le=10_000_000)]
"""Which one of many."""
FilmNumber = Annotated[int, Meta(ge=-1, le=1000)]
"""Of a drawing or picture; -1: none."""
Films = Annotated[int, Meta(ge=1, le=1000)]
Axis = Annotated[int, Meta(ge=0, le=1)]
Passes = Annotated[int, Meta(ge=1, le=100)]
Seed = Annotated[int, Meta(ge=-(2**31), le=2**31)]


class Bounds(NamedTuple):
    least: float
    most: float


def bounds(range_: object) -> Bounds:
    """Of one of the ranges above; raises ValueError for anything else."""
    for meta in (m for kind in (range_, *get_args(range_)) for m in getattr(kind, "__metadata__", ())):
        if isinstance(meta, Meta) and meta.ge is not None and meta.le is not None:
            return Bounds(float(meta.ge), float(meta.le))
    raise ValueError(range_)


def range_of(kind: type[Struct], field: str) -> object:
    """The type of a number of a kept value, with its range; raises KeyError for an unknown field."""
    return get_type_hints(kind, include_extras=True)[field]


def refuse_absurd(value: Struct) -> None:
    """Raises NumberAbsurd, with one sentence, when a number of a value or of anything in it is outside its range."""
    try:
        msgspec.convert(msgspec.to_builtins(value), type(value))
    except msgspec.ValidationError as error:
        said = absurd_number(error)
        if said is None:
            raise
        raise NumberAbsurd(f"A number cannot be used ({said}): nothing was changed.") from error


def absurd_number(error: msgspec.ValidationError) -> str | None:
    """Which number and what it may be, for the middle of a sentence; None when something else is wrong."""
    said, _, path = str(error).partition("$")
    _, _, sign, bound, *_ = [*said.split(), "", "", "", ""]
    if sign not in (">=", "<="):
        return None
    steps = re.sub(r"\[(\d+)\]", lambda m: f" {int(m[1]) + 1}", path.replace("[...]", "").strip("`."))
    which = steps.replace(".", ", ").replace("_", " ")
    most = f"{float(bound):.4f}".rstrip("0").rstrip(".")
    return f"{which} must be at least {most}" if sign == ">=" else f"{which} must be at most {most}"
