"""The project file: a zip with a readable recipe and the assets it needs.

``recipe.json``  {"format": "vivid-thimble-project", "schema": N, "job": {...}}
``assets/KEY``   drawings as they came, and the outlines of the letters in use

History of the schema, next to its reader:
    1  first version: job, items, layers, elements, steps weld and thicken
    2  drawings with films, cleaning and origin; jobs for sale. Older drawings are taken as they were.
    3  frames, register marks, slices, linked copies, plain shapes, bridges by hand. Older screens keep their margins.
    4  kinds of items with their measures, colours, photos and guides; films with what they are made of.

A file of a newer schema or a damaged one is refused and never touched.
"""

from __future__ import annotations

import io
import json
import os
import re
import zipfile
from collections.abc import Mapping
from pathlib import Path as FilePath
from typing import Any, cast

import msgspec

from vivid_thimble.core.errors import ProjectNotReadable, ThimbleError
from vivid_thimble.core.files import read_file, shown_name, write_atomically
from vivid_thimble.core.job.values import Job, all_elements, letters_key
from vivid_thimble.core.ranges import absurd_number
from vivid_thimble.core.sources.lettering import Words, letters_to_json, shape_words

FORMAT = "vivid-thimble-project"
SCHEMA = 5
WITH_CODES = 5
"""From this on what is let be is told by its code."""
SAID_BEFORE = (
    ("^Not understood yet in ", "not-understood"),
    ("^The face has no shapes for ", "letters-missing"),
    ("^The font .* is not on this machine", "font-missing"),
    ("may be used personally only", "not-for-sale"),
    (" closes # counters?:", "closes-counters"),
    (" closes gaps:", "closes-gaps"),
    (" makes # pieces? vanish:", "pieces-vanish"),
    ("^A bridge placed by hand does not fit", "bridge-unfit"),
    ("^No bridge of full strength fits", "bridge-weak"),
    ("^The bridges take more than half", "opening-swallowed"),
    ("^The sheet would pass the ", "sheet-past-rim"),
    ("flat film is # % too long for the ball", "creases-on-ball"),
    ("^The design reaches # mm round", "turns-out-of-sight"),
    ("^The squeegee is .* does not go into the screen", "squeegee-too-wide"),
    ("^The squeegee is .* takes two pulls", "two-pulls"),
    ("^The sheet leaves ", "sheet-margin"),
    ("^The sheet reaches .* edge of the screen", "sheet-over-screen"),
    ("^A register mark lies ", "mark-at-edge"),
)
"""How files before WITH_CODES tell what they let be, figures as #, and its code."""
ENDING = ".thimble"
PACKED = (b"\x89PNG", b"\xff\xd8\xff", b"PK\x03\x04", b"\x1f\x8b", b"wOF2", b"GIF8")
"""How files begin that no packing makes smaller."""
LARGEST_PROJECT_BYTES = 512_000_000


def save_project(path: str | os.PathLike[str], job: Job, assets: Mapping[str, bytes]) -> None:
    """Write a job and the assets it uses; the previous version stays beside it as ``NAME~``."""
    write_atomically(path, project_bytes(job, assets), keep_previous=True)


def project_bytes(job: Job, assets: Mapping[str, bytes]) -> bytes:
    """The content of a project file; equal jobs give equal bytes."""
    recipe = {"format": FORMAT, "schema": SCHEMA, "job": msgspec.to_builtins(job)}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        _add(archive, "recipe.json", json.dumps(recipe, indent=1, ensure_ascii=False).encode("utf-8", "replace"))
        for key, data in sorted(_assets_in_use(job, assets).items()):
            _add(archive, f"assets/{key}", data)
    return out.getvalue()


def open_project(path: str | os.PathLike[str]) -> tuple[Job, dict[str, bytes]]:
    """The job and its assets; raises ProjectNotReadable with one sentence."""
    name = shown_name(FilePath(path))
    try:
        data = read_file(path, LARGEST_PROJECT_BYTES)
    except OSError as error:
        raise ProjectNotReadable(
            f"{name} cannot be opened ({(error.strerror or 'unknown').lower()}): check that it is still there."
        ) from error
    return read_project(data, name)


def read_project(data: bytes, name: str = "The project") -> tuple[Job, dict[str, bytes]]:
    """As open_project, from the bytes of a file."""
    damaged = f"{name} is damaged and was left untouched: open the previous version {name}~ beside it."
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if sum(entry.file_size for entry in archive.infolist()) > LARGEST_PROJECT_BYTES:
                raise ProjectNotReadable(f"{name} unpacks to more than 512 MB: it is not a project of this program.")
            recipe = json.loads(archive.read("recipe.json"))
            assets = {
                entry.filename.removeprefix("assets/"): archive.read(entry)
                for entry in archive.infolist()
                if entry.filename.startswith("assets/")
            }
    except (zipfile.BadZipFile, KeyError, ValueError, OSError, NotImplementedError, EOFError) as error:
        raise ProjectNotReadable(damaged) from error
    except Exception as error:
        if isinstance(error, ThimbleError):
            raise
        raise ProjectNotReadable(damaged) from error  # zlib and the like
    if not isinstance(recipe, dict) or recipe.get("format") != FORMAT:
        raise ProjectNotReadable(f"{name} is not a project of this program: choose a {ENDING} file.")
    if not isinstance(recipe.get("schema"), int) or recipe["schema"] > SCHEMA:
        raise ProjectNotReadable(
            f"{name} was saved by a newer version: update the program; the file was left untouched."
        )
    if recipe["schema"] < WITH_CODES:
        _name_matters(recipe.get("job"))
    try:
        job = msgspec.convert(recipe.get("job"), Job)
    except msgspec.ValidationError as error:
        absurd = absurd_number(error)
        if absurd is not None:
            damaged = f"{name} holds a number that cannot be used ({absurd}) and was left untouched: correct it."
        raise ProjectNotReadable(damaged) from error
    if not job.items or not all(item.layers for item in job.items):
        raise ProjectNotReadable(damaged)
    return job, assets


def _name_matters(job: Any) -> None:
    """What was let be before matters had codes gets the code of the matter that its sentence tells; changes ``job``.

    What cannot be told is no acceptance any more: it is shown again.
    """
    for item in job.get("items", ()) if isinstance(job, dict) else ():
        if not isinstance(item, dict) or not isinstance(item.get("accepted"), list):
            continue
        known = []
        for one in item["accepted"]:
            if isinstance(one, dict) and one.get("kind") == "note":
                said = str(one.get("said", ""))
                code = next((code for words, code in SAID_BEFORE if re.search(words, said)), None)
                if code is None:
                    continue
                one["kind"] = code
            known.append(one)
        item["accepted"] = known


def _add(archive: zipfile.ZipFile, name: str, data: bytes) -> None:
    """An entry with a fixed date, so that equal jobs give equal files; what is packed already stays as it is."""
    entry = zipfile.ZipInfo(name, (2020, 1, 1, 0, 0, 0))
    entry.compress_type = zipfile.ZIP_STORED if data.startswith(PACKED) else zipfile.ZIP_DEFLATED
    archive.writestr(entry, data)


def _assets_in_use(job: Job, assets: Mapping[str, bytes]) -> dict[str, bytes]:
    photos = (item.photo.asset for item in job.items if item.photo is not None)
    used: dict[str, bytes] = {asset: assets[asset] for asset in photos if asset in assets}
    for element in all_elements(job):
        source = element.source
        used |= {asset: assets[asset] for asset in source.files if asset in assets}
        for words in source.lettering:
            key = letters_key(words)
            letters = _letters(cast(Words, words)) or assets.get(key)
            if letters:
                used[key] = letters
    return used


def _letters(words: Words) -> bytes | None:
    try:
        return letters_to_json(shape_words(words), words.face)
    except ThimbleError:
        return None
