"""Files brought into a job: what they are is told from their content, and each is read once."""

from __future__ import annotations

import gzip
import io
from pathlib import Path as FilePath

import pytest
from PIL import Image

from tests.packed import zipped
from vivid_thimble.core.cache import Cache
from vivid_thimble.core.errors import DrawingNotReadable, NothingToDraw, PictureNotReadable
from vivid_thimble.core.formats.cut_file import cut_file
from vivid_thimble.core.formats.svg_read import read_svg
from vivid_thimble.core.formats.svg_write import CutLayer
from vivid_thimble.core.sources.artwork import Artwork
from vivid_thimble.core.storage.incoming import OpenedBundle, OpenedDrawing, OpenedPicture, open_entry, open_file

SVG = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="30" height="20"><circle cx="10" cy="10" r="8" fill="#345"/></svg>'
)
THIN = SVG.replace(b'fill="#345"', b'fill="none" stroke="#345" stroke-width=".01"')


def opened(folder: FilePath, name: str, data: bytes) -> OpenedDrawing | OpenedPicture | OpenedBundle:
    (folder / name).write_bytes(data)
    return open_file(folder / name, Cache())


def artwork(folder: FilePath, name: str, data: bytes) -> Artwork:
    found = opened(folder, name, data)
    assert isinstance(found, OpenedDrawing)
    return found.artwork


def cut_as(ending: str) -> bytes:
    return cut_file(f"moon{ending}", [CutLayer("moon", "#334455", (read_svg(SVG).parts[0].path,))], 30.0, 20.0)


@pytest.mark.parametrize("name", ["moon.svg", "moon.txt", "moon", "moon.dxf"])
@pytest.mark.parametrize("kind", ["svg", "svgz", "dxf", "pdf"])
def test_the_content_decides_whatever_the_name_says(name: str, kind: str, tmp_path: FilePath) -> None:
    data = {"svg": SVG, "svgz": gzip.compress(SVG), "dxf": cut_as(".dxf"), "pdf": cut_as(".pdf")}[kind]
    found = artwork(tmp_path, name, data)
    assert found.name == name
    assert found.cleaning.specks  # a new drawing is cleaned


def test_thin_outlines_are_guessed_to_be_filled(tmp_path: FilePath) -> None:
    assert artwork(tmp_path, "ring.svg", THIN).lines == "filled"
    assert artwork(tmp_path, "disc.svg", SVG).lines == "drawn"


def test_a_zip_with_one_drawing_is_that_drawing_with_what_its_notes_say(tmp_path: FilePath) -> None:
    notes = b"Lantern kit.\r\nPersonal use only, please do not sell."
    found = opened(
        tmp_path, "kit.zip", zipped({"art/moon.svg": SVG, "read me.txt": notes, "__MACOSX/._moon.svg": b"x"})
    )
    assert isinstance(found, OpenedDrawing)
    provenance = found.artwork.provenance
    assert (found.artwork.name, provenance.origin, provenance.licence) == ("moon.svg", "kit.zip", "personal")
    assert provenance.note == "Lantern kit. Personal use only, please do not sell."
    assert found.data == SVG
    assert found.says == "moon.svg was taken out of kit.zip. Its notes seem to say: personal use only."


def test_a_zip_with_several_asks_and_gives_each(tmp_path: FilePath) -> None:
    files = {"moon.svg": SVG, "thin.svg": THIN, "moon.pdf": cut_as(".pdf"), "bad.svg": b"<svg"}
    found = opened(tmp_path, "kit.zip", zipped(files))
    assert isinstance(found, OpenedBundle)
    assert found.bundle.best is not None
    cache = Cache()
    taken = {}
    for entry in found.bundle.of_kind("drawing"):
        if entry.name != "bad.svg":
            taken[entry.name] = open_entry(found, entry, cache).data
    assert taken == {name: data for name, data in files.items() if name != "bad.svg"}
    bad = next(entry for entry in found.bundle.entries if entry.name == "bad.svg")
    with pytest.raises(DrawingNotReadable, match=r"bad\.svg"):
        open_entry(found, bad, cache)


def test_what_was_read_once_is_not_read_again(tmp_path: FilePath) -> None:
    (tmp_path / "moon.svg").write_bytes(SVG)
    cache = Cache()
    open_file(tmp_path / "moon.svg", cache)
    before = cache.misses
    open_file(tmp_path / "moon.svg", cache)
    assert cache.misses == before


@pytest.mark.parametrize(
    ("name", "data", "sentence"),
    [
        ("none.svg", b"", "none.svg is empty"),
        ("empty.zip", zipped({"a.txt": b"hello"}), "empty.zip holds no drawing and no font"),
        ("broken.zip", b"PK\x03\x04 but nothing more", "broken.zip is a damaged zip"),
        ("photo.svg", b"\x89PNG\r\n\x1a\n", "photo.svg"),
        (
            "words.svg",
            SVG.replace(b"circle", b"marquee"),
            "words.svg holds nothing that can be cut (found: 1 x marquee)",
        ),
    ],
)
def test_what_cannot_be_used_is_refused_in_one_sentence(
    name: str, data: bytes, sentence: str, tmp_path: FilePath
) -> None:
    with pytest.raises((DrawingNotReadable, NothingToDraw, PictureNotReadable)) as refusal:
        opened(tmp_path, name, data)
    words = str(refusal.value)
    assert words.startswith(sentence)
    assert words.endswith(".")
    assert "\n" not in words
    assert ":" in words


def test_a_file_that_is_gone_is_told(tmp_path: FilePath) -> None:
    with pytest.raises(DrawingNotReadable, match=r"moon\.svg cannot be opened \(no such file or directory\)"):
        open_file(tmp_path / "moon.svg", Cache())


def test_a_picture_is_told_by_its_content_whatever_it_is_called(tmp_path: FilePath) -> None:
    held = io.BytesIO()
    Image.new("L", (30, 20), 9).save(held, "PNG")
    for name in ("lantern.png", "lantern.svg"):
        found = opened(tmp_path, name, held.getvalue())
        assert isinstance(found, OpenedPicture)
        assert found.picture.name == name
