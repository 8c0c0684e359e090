"""Materials, machines and measured things that a workshop has at hand: shipped entries and the user's own.

Shipped entries are generic and carry starting figures; a maker's label comes first. Own entries are kept in one
JSON file and can be exchanged as JSON. An own entry of the name of a shipped one stands in for it.

History of the file's schema: 1 films, carriers, machines, inks, things.
"""

from __future__ import annotations

import json
import os
from collections.abc import Sequence
from pathlib import Path as FilePath
from typing import ClassVar, Literal, Self, get_args

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from vivid_thimble.core.blanks.kinds import Blank
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.files import make_folder, put_aside, read_file, write_atomically
from vivid_thimble.core.job.values import Item
from vivid_thimble.core.materials.carriers import MAT, ROLL, Carrier
from vivid_thimble.core.materials.films import Film
from vivid_thimble.core.materials.method import FILMS_FOR, Method
from vivid_thimble.core.materials.surfaces import SurfaceName
from vivid_thimble.core.ranges import Amount, Passes, Size, Thickness, absurd_number

FORMAT, SCHEMA = "vivid-thimble-stock", 1
FILE_NAME = "stock.json"
LARGEST_FILE_BYTES = 8_000_000
Shelf = Literal["films", "carriers", "machines", "inks", "things"]
SHELVES: tuple[Shelf, ...] = get_args(Shelf)


class StockFilm(Struct, frozen=True, kw_only=True):
    """A film and what it is used for."""

    film: Film
    methods: tuple[Method, ...] = ("decal",)

    @property
    def name(self) -> str:
        return self.film.name

    def renamed(self, name: str) -> StockFilm:
        return replace(self, film=replace(self.film, name=name))


class _Named(Struct, frozen=True, kw_only=True):
    name: str

    def renamed(self, name: str) -> Self:
        return replace(self, name=name)


class StockCarrier(_Named, frozen=True, kw_only=True):
    """A mat or roll as it is kept; ``cuttable_height`` None: as long as the roll lasts."""

    cuttable_width: Size = 292.0
    cuttable_height: Size | None = 292.0

    @property
    def carrier(self) -> Carrier:
        return Carrier(name=self.name, cuttable_width=self.cuttable_width, cuttable_height=self.cuttable_height)


class Machine(_Named, frozen=True, kw_only=True):
    """A cutter: how wide it cuts (mm), its range of force (g), how often it goes over a line at most."""

    cuttable_width: Size = 305.0
    thickest: Thickness | None = None
    """The thickest sheet in mm that it takes."""
    least_force: Amount | None = None
    most_force: Amount | None = None
    passes: Passes = 1
    note: str = ""


class Ink(_Named, frozen=True, kw_only=True):
    """Ink, paint or paste with the times and cautions of its maker's label; None: not written down yet."""

    KINDS: ClassVar[tuple[str, ...]] = (
        "paint",
        "ink",
        "spray paint",
        "etching paste",
        "stripper",
        "wood-darkening paste",
    )
    kind: str = "paint"
    colour: str = "#2f6f8f"
    touch_dry_min: Amount | None = None
    next_coat_min: Amount | None = None
    cured_h: Amount | None = None
    heat_set: str = ""
    """Temperature and time of the press or oven, as the label says."""
    cautions: str = ""


class Thing(_Named, frozen=True, kw_only=True):
    """A measured blank that is used again."""

    width: Size
    height: Size
    blank: Blank | None = None
    colour: str = ""
    method: Method = "decal"
    side: Literal["front", "behind", "underside"] = "front"
    surface: SurfaceName = "smooth"

    @classmethod
    def of(cls, item: Item) -> Thing:
        """What an item is, without its design."""
        return cls(
            name=item.name,
            width=item.width,
            height=item.height,
            blank=item.blank,
            colour=item.colour,
            method=item.method,
            side=item.side,
            surface=item.surface,
        )

    def laid_under(self, item: Item) -> Item:
        """An item that becomes this thing; its design and its films stay."""
        return replace(
            item, name=self.name, width=self.width, height=self.height, blank=self.blank, colour=self.colour,
            method=self.method, side=self.side, surface=self.surface,
        )  # fmt: skip


Entry = StockFilm | StockCarrier | Machine | Ink | Thing
TYPES: dict[Shelf, type[Entry]] = {
    "films": StockFilm,
    "carriers": StockCarrier,
    "machines": Machine,
    "inks": Ink,
    "things": Thing,
}


class Stock(Struct, frozen=True, kw_only=True):
    """Entries by shelf, in the order in which they are shown."""

    films: tuple[StockFilm, ...] = ()
    carriers: tuple[StockCarrier, ...] = ()
    machines: tuple[Machine, ...] = ()
    inks: tuple[Ink, ...] = ()
    things: tuple[Thing, ...] = ()
    hidden: tuple[str, ...] = ()
    """Shipped entries that are not wanted, as "shelf/name"."""

    def on(self, shelf: Shelf) -> tuple[Entry, ...]:
        entries: tuple[Entry, ...] = getattr(self, shelf)
        return entries

    def entry(self, shelf: Shelf, name: str) -> Entry | None:
        return next((one for one in self.on(shelf) if one.name == name), None)

    def with_entry(self, shelf: Shelf, entry: Entry, instead_of: str = "") -> Stock:
        """With an entry added, or in the place of the one that had its name or the given one."""
        names = (entry.name, instead_of)
        entries = list(self.on(shelf))
        at = next((k for k, one in enumerate(entries) if one.name in names), len(entries))
        kept = [one for one in entries[:at] if one.name not in names]
        rest = [one for one in entries[at:] if one.name not in names]
        shown = tuple(one for one in self.hidden if one != f"{shelf}/{entry.name}")
        return replace(self, **{shelf: (*kept, entry, *rest), "hidden": shown})

    def without(self, shelf: Shelf, name: str) -> Stock:
        """Without an own entry; a shipped one of that name is hidden."""
        hidden = self.hidden
        if SHIPPED.entry(shelf, name) is not None:
            hidden = (*hidden, f"{shelf}/{name}")
        return replace(self, **{shelf: tuple(one for one in self.on(shelf) if one.name != name), "hidden": hidden})

    def as_shipped(self, shelf: Shelf, name: str) -> Stock:
        """With a shipped entry as it came."""
        return replace(self, **{shelf: tuple(one for one in self.on(shelf) if one.name != name)})


def _shipped_films() -> tuple[StockFilm, ...]:
    methods: dict[str, tuple[Film, tuple[Method, ...]]] = {}
    for method, films in FILMS_FOR.items():
        for film in films:
            methods[film.name] = film, (*methods.get(film.name, (film, ()))[1], method)
    return tuple(StockFilm(film=film, methods=used) for film, used in methods.values())


_ASK = "Times and temperatures: from the maker's label."
SHIPPED = Stock(
    films=_shipped_films(),
    carriers=(
        *(
            StockCarrier(name=one.name, cuttable_width=one.cuttable_width, cuttable_height=one.cuttable_height)
            for one in (MAT, ROLL)
        ),
        StockCarrier(name="Long mat 305 x 610 mm", cuttable_width=292.0, cuttable_height=597.0),
        StockCarrier(name="Roll 600 mm wide", cuttable_width=600.0, cuttable_height=None),
    ),
    machines=(
        Machine(
            name="Desk cutter",
            cuttable_width=305.0,
            thickest=0.5,
            least_force=20.0,
            most_force=210.0,
            passes=3,
            note="Usual figures of a small cutter: see what yours is made for.",
        ),
        Machine(
            name="Wide roll cutter",
            cuttable_width=610.0,
            thickest=0.8,
            least_force=30.0,
            most_force=450.0,
            passes=3,
            note="Usual figures of a wide cutter: see what yours is made for.",
        ),
    ),
    inks=(
        Ink(name="Water-based paint", cautions=_ASK),
        Ink(
            name="Screen ink for cloth",
            kind="ink",
            colour="#33465c",
            cautions=f"{_ASK} Presses are hot: heat-proof gloves.",
        ),
        Ink(
            name="Spray paint",
            kind="spray paint",
            colour="#7d8ca3",
            cautions="Outdoors or well ventilated, away from flame; mask where the label says so.",
        ),
        Ink(
            name="Etching paste for glass",
            kind="etching paste",
            colour="#e6e2d6",
            cautions="Gloves, eye protection, ventilation; keep to the label's times.",
        ),
    ),
)
"""Generic entries with starting figures of ours."""


def together(own: Stock) -> Stock:
    """Everything at hand: shipped entries unless hidden, own ones in place of those of their name."""

    def shelf(name: Shelf) -> tuple[Entry, ...]:
        mine = {one.name: one for one in own.on(name)}
        shipped = [one for one in SHIPPED.on(name) if f"{name}/{one.name}" not in own.hidden]
        first = [mine.get(one.name, one) for one in shipped]
        taken = {one.name for one in shipped}
        return (*first, *(one for one in own.on(name) if one.name not in taken))

    return Stock(**{name: shelf(name) for name in SHELVES})  # type: ignore[arg-type]  # each shelf has its own type


def films_for(stock: Stock, method: Method) -> tuple[Film, ...]:
    """The films at hand that a method can be cut from, in the order of the stock."""
    return tuple(one.film for one in stock.films if method in one.methods)


def free_name(stock: Stock, shelf: Shelf, stem: str) -> str:
    """A name that nothing on the shelf has."""
    names = {one.name for one in stock.on(shelf)}
    if stem not in names:
        return stem
    return next(name for k in range(2, len(names) + 3) if (name := f"{stem} {k}") not in names)


# -- the file -----------------------------------------------------------------------------


def stock_bytes(stock: Stock) -> bytes:
    """The content of a stock file, readable."""
    return json.dumps(
        {"format": FORMAT, "schema": SCHEMA, "stock": msgspec.to_builtins(stock)}, indent=1, ensure_ascii=False
    ).encode()


def read_stock(data: bytes, name: str) -> Stock:
    """Raises InputRefused with one sentence; unknown fields are left out."""
    if len(data) > LARGEST_FILE_BYTES:
        raise InputRefused(f"{name} is larger than 8 MB: it is not a list of materials.")
    try:
        told = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise InputRefused(f"{name} is not readable as JSON: export the list again.") from error
    if not isinstance(told, dict) or told.get("format") != FORMAT:
        raise InputRefused(f"{name} is no list of materials of this program: choose a file that it exported.")
    if not isinstance(told.get("schema"), int) or told["schema"] > SCHEMA:
        raise InputRefused(f"{name} was written by a newer version: update the program; nothing was taken over.")
    try:
        stock = msgspec.convert(told.get("stock"), Stock)
    except msgspec.ValidationError as error:
        raise InputRefused(
            f"{name} has an entry that cannot be ({absurd_number(error) or error}): nothing was taken over."
        ) from error
    for shelf in SHELVES:
        for entry in stock.on(shelf):
            check_entry(entry)
    return stock


def check_entry(entry: Entry) -> None:
    """Raises InputRefused for figures that no material or machine can have."""
    if not entry.name.strip():
        raise InputRefused("An entry needs a name: type one.")
    figures = {k: v for k, v in msgspec.structs.asdict(getattr(entry, "film", entry)).items() if isinstance(v, float)}
    for field, value in figures.items():
        word = field.replace("_", " ")
        if not 0.0 <= value <= 1e6:
            raise InputRefused(f"{entry.name}: {word} cannot be {value:g}.")
        if value == 0.0 and field in ("cuttable_width", "cuttable_height", "width", "height", "thinnest_line"):
            raise InputRefused(f"{entry.name}: {word} must be more than nothing.")
    blank = getattr(entry, "blank", None)
    if blank is not None:
        blank.usable  # noqa: B018  # it raises when no room is left


def load_stock(folder: FilePath) -> Stock:
    """The user's own entries; none when there is no file yet. Raises InputRefused when it cannot be read."""
    path = folder / FILE_NAME
    try:
        data = read_file(path, LARGEST_FILE_BYTES)
    except FileNotFoundError:
        return Stock()
    except OSError as error:
        raise InputRefused(
            f"{path} cannot be read ({(error.strerror or '').lower()}): own materials are left out."
        ) from error
    return read_stock(data, FILE_NAME)


def set_aside(folder: FilePath) -> FilePath | None:
    """Give a list that could not be read another name, so that nothing is written over it; None when there is none.

    Raises InputRefused when it stays where it is.
    """
    path = folder / FILE_NAME
    try:
        return put_aside(path) if os.path.lexists(path) else None
    except OSError as error:
        why = (error.strerror or "").lower()
        raise InputRefused(f"{path} cannot be set aside ({why}): move it away by hand; nothing is changed.") from error


def save_stock(folder: FilePath, stock: Stock) -> None:
    """Raises InputRefused when the folder cannot be written."""
    make_folder(folder, "own materials stay as they were")
    write_atomically(folder / FILE_NAME, stock_bytes(stock), keep_previous=True)


def taken_over(own: Stock, other: Stock) -> tuple[Stock, int, int]:
    """Own entries with those of another list; how many were added and how many replaced."""
    added = replaced = 0
    for shelf in SHELVES:
        for entry in other.on(shelf):
            before = own.entry(shelf, entry.name)
            added += before is None
            replaced += before is not None and before != entry
            own = own.with_entry(shelf, entry)
    return own, added, replaced


def exported(own: Stock, names: Sequence[tuple[Shelf, str]] = ()) -> Stock:
    """Some entries of everything at hand for a file; without names all own ones."""
    if not names:
        return replace(own, hidden=())
    whole, out = together(own), Stock()
    for shelf, name in names:
        entry = whole.entry(shelf, name)
        out = out.with_entry(shelf, entry) if entry is not None else out
    return out
