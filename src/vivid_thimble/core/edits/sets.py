"""Sets: one word an item, on blanks alike, with a size that all of them share."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from pathlib import Path as FilePath

from msgspec.structs import replace

from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.files import read_file
from vivid_thimble.core.job.edits import free_id, fresh_id, ids_in, with_element
from vivid_thimble.core.job.values import (
    Element,
    Item,
    Job,
    Layer,
    Match,
    SharedSize,
    all_elements,
    elements_of,
    find_element,
    source_as,
)
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.steps import Step

MOST_NAMES = 500
LARGEST_LIST_BYTES = 2_000_000
LONGEST_NAME = 80
"""What is longer than this is a sentence, or no text at all."""
NO_LISTS = (
    ".svg",
    ".dxf",
    ".pdf",
    ".html",
    ".htm",
    ".xml",
    ".json",
    ".py",
    ".md",
    ".thimble",
    ".plt",
    ".hpgl",
    ".ps",
    ".eps",
)
NAME_HEADINGS = ("name", "names", "word", "words", "text")


def names_in_text(text: str) -> list[str]:
    """One name a line; empty lines are left out. Raises InputRefused for more than MOST_NAMES."""
    return _checked([line.strip() for line in text.splitlines() if line.strip()])


def names_in_file(path: FilePath) -> list[str]:
    """The names of a text file (one a line) or of a table with commas, semicolons or tabs.

    Of a table the column headed "name" (or words, text) counts, else the first one with letters in it.
    Raises InputRefused with one sentence.
    """
    try:
        data = read_file(path, LARGEST_LIST_BYTES)
    except OSError as error:
        raise InputRefused(
            f"{path.name} cannot be opened ({(error.strerror or '').lower()}): choose it again."
        ) from error
    if len(data) > LARGEST_LIST_BYTES or b"\0" in data.removeprefix(b"\xff\xfe").removeprefix(b"\xfe\xff")[:64]:
        raise InputRefused(f"{path.name} is no list of names: choose a text file or a table (CSV).")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    names = names_in_table(text) if path.suffix.lower() in (".csv", ".tsv") else names_in_text(text)
    if not names:
        raise InputRefused(f"{path.name} holds no names: write one a line, or a table with a column of names.")
    if any(len(name) > LONGEST_NAME or not name.isprintable() for name in names) or path.suffix.lower() in NO_LISTS:
        raise InputRefused(f"{path.name} is no list of names: choose a text file or a table (CSV).")
    return names


def names_in_table(text: str) -> list[str]:
    """The column of names in a table."""
    first = text.lstrip().splitlines()[0] if text.strip() else ""
    delimiter = max(",;\t", key=first.count)
    rows = [[cell.strip() for cell in row] for row in csv.reader(io.StringIO(text), delimiter=delimiter)]
    rows = [row for row in rows if any(row)]
    if not rows:
        return []
    headings = [cell.casefold() for cell in rows[0]]
    headed = next((k for k, cell in enumerate(headings) if cell in NAME_HEADINGS), None)
    if headed is not None:
        column, rows = headed, rows[1:]
    else:
        lettered = (k for k, cell in enumerate(rows[0]) if any(c.isalpha() for c in cell))
        column = next(lettered, 0)
    return _checked([row[column] for row in rows if len(row) > column and row[column]])


def make_set(job: Job, element_id: str, names: Sequence[str], match: Match, margin: float) -> Job:
    """One item a name: copies of the item that holds these words, each with its own name.

    Names, rule and margin of a set that the words belong to already are changed; its items keep what
    was done to them. Raises InputRefused when there is no name.
    """
    names = _checked(list(names))
    if not names:
        raise InputRefused("A set needs names: type or paste one a line.")
    words = find_element(job, element_id)
    known = next((one for one in job.shared if one.id == words.placement.shared), None)
    if known is None:
        known = SharedSize(id=free_id("set", job))
        job = with_element(job, element_id, lambda e: replace(e, placement=e.placement.sized(shared=known.id)))
    shared = replace(known, match=match, margin=margin)
    members = members_of(job, shared)
    pattern = next(item for item, element in members if element.id == element_id)
    kept: list[Item] = []
    for number, name in enumerate(names):
        if number < len(members):
            item, element = members[number]
            kept.append(_renamed(item, element.id, name))
        else:
            taken = replace(job, items=(*job.items, *kept))
            copied, ids = copied_item(pattern, taken)
            kept.append(_renamed(copied, ids[element_id], name))
    last = max(job.items.index(item) for item, _ in members)
    in_set = [item for item, _ in members]
    before = [item for item in job.items[:last] if item not in in_set]
    after = [item for item in job.items[last + 1 :] if item not in in_set]
    others = tuple(one for one in job.shared if one.id != shared.id)
    held = job.item if job.item in in_set else pattern
    at = len(before) + min(in_set.index(held), len(kept) - 1)
    return replace(job, items=(*before, *kept, *after), shared=(*others, shared), at=at)


def another_item(job: Job) -> Job:
    """A copy of the item in hand behind it, with everything on it; it is taken in hand."""
    copied, _ = copied_item(job.item, job)
    at = job.items.index(job.item) + 1
    return replace(job, items=(*job.items[:at], copied, *job.items[at:]), at=at)


def without_item(job: Job) -> Job:
    """The job without the item in hand; the last one stays."""
    if len(job.items) < 2:
        return job
    at = job.items.index(job.item)
    rest = replace(job, items=(*job.items[:at], *job.items[at + 1 :]), at=min(at, len(job.items) - 2))
    return _without_unused_sizes(rest)


def leave_set(job: Job, element_id: str, em: float) -> Job:
    """Words keep their size but no longer share it; a shared size that nobody uses goes."""
    job = with_element(job, element_id, lambda e: replace(e, placement=e.placement.sized(em=em)))
    return _without_unused_sizes(job)


def _without_unused_sizes(job: Job) -> Job:
    used = {e.placement.shared for e in all_elements(job)}
    return replace(job, shared=tuple(one for one in job.shared if one.id in used))


def members_of(job: Job, shared: SharedSize) -> list[tuple[Item, Element]]:
    """The words of a set with their items, in order; one an item."""
    found = []
    for item in job.items:
        words = (e for e in elements_of(item) if e.placement.shared == shared.id and e.source.SETS_WORDS)
        first = next(words, None)
        if first is not None:
            found.append((item, first))
    return found


def shared_of(job: Job, element_id: str) -> SharedSize | None:
    """The shared size of an element, if it has one."""
    if not element_id:
        return None
    wanted = find_element(job, element_id).placement.shared
    return next((one for one in job.shared if one.id == wanted), None)


def _checked(names: list[str]) -> list[str]:
    if len(names) > MOST_NAMES:
        raise InputRefused(f"{len(names)} names are too many for one job: take at most {MOST_NAMES}.")
    return names


def _renamed(item: Item, element_id: str, name: str) -> Item:
    def named(element: Element) -> Element:
        words = source_as(element, Words)
        if element.id != element_id or words is None:
            return element
        return replace(element, name=name, source=replace(words, text=name))

    layers = tuple(replace(la, elements=tuple(named(e) for e in la.elements)) for la in item.layers)
    return replace(item, name=name, layers=layers)


def copied_item(item: Item, job: Job) -> tuple[Item, dict[str, str]]:
    """A copy with ids of its own, and the new ids of its elements by the old ones."""
    taken = ids_in(job)

    def fresh(old: str) -> str:
        made = fresh_id(old.rpartition("-")[0] or old, taken)
        taken.add(made)
        return made

    ids = {e.id: fresh(e.id) for e in elements_of(item)}

    def element_copied(element: Element) -> Element:
        source = element.source.naming(ids)
        return replace(element, id=ids[element.id], source=source, steps=steps_copied(element.steps))

    def steps_copied(steps: tuple[Step, ...]) -> tuple[Step, ...]:
        return tuple(step.naming(tuple(ids.get(one, one) for one in step.elements)) for step in steps)

    def layer_copied(layer: Layer) -> Layer:
        elements = tuple(element_copied(e) for e in layer.elements)
        return replace(layer, id=fresh(layer.id), elements=elements, steps=steps_copied(layer.steps))

    return replace(item, id=fresh(item.id), layers=tuple(layer_copied(la) for la in item.layers)), ids
