"""Fonts in zips: kept under their plain names, the rest refused with a reason."""

from __future__ import annotations

import zipfile
from pathlib import Path as FilePath

import pytest

from tests.packed import FONT, bundle
from vivid_thimble.core.errors import FontNotUsable
from vivid_thimble.core.sources import font_bundle
from vivid_thimble.core.sources.font_bundle import unpack_fonts
from vivid_thimble.core.sources.fonts import face_title, load_face


def test_fonts_are_kept_and_other_things_left(tmp_path: FilePath) -> None:
    path = bundle(tmp_path, {"readme.txt": b"hello", "Fonts/Typewriter Bold.otf": FONT, "__MACOSX/._b.otf": b"x",
                             "Fonts/.hidden.otf": FONT})  # fmt: skip
    kept, refused = unpack_fonts(path, tmp_path / "own")
    assert refused == []
    assert [face_title(face) for face in kept] == ["Typewriter Bold"]
    assert load_face(kept[0]).units_per_em > 0
    assert [p.name for p in (tmp_path / "own").iterdir()] == ["Typewriter Bold.otf"]


@pytest.mark.parametrize("name", ["../../up.otf", "/etc/up.otf", "..\\..\\up.otf", "a/../../up.otf"])
def test_no_entry_leaves_its_folder(tmp_path: FilePath, name: str) -> None:
    own = tmp_path / "deep" / "own"
    kept, _ = unpack_fonts(bundle(tmp_path, {name: FONT}), own)
    assert kept == [f"file:{own / 'up.otf'}"]
    assert sorted(p.name for p in tmp_path.rglob("*.otf")) == ["up.otf"]


def test_damaged_fonts_are_told_and_do_not_stay(tmp_path: FilePath) -> None:
    kept, refused = unpack_fonts(bundle(tmp_path, {"bad.ttf": b"\0\1\0\0 nothing", "good.otf": FONT}), tmp_path / "own")
    assert [face_title(face) for face in kept] == ["good"]
    assert len(refused) == 1
    assert "bad" in refused[0]
    assert not (tmp_path / "own" / "bad.ttf").exists()


@pytest.mark.parametrize("entries", [{}, {"a.txt": b"x"}, {"a.otf": b"not a font"}])
def test_bundles_without_a_usable_font_are_refused(tmp_path: FilePath, entries: dict[str, bytes]) -> None:
    with pytest.raises(FontNotUsable, match="holds no font"):
        unpack_fonts(bundle(tmp_path, entries), tmp_path / "own")


def test_bombs_and_things_that_are_no_zip_are_refused(tmp_path: FilePath, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(font_bundle, "LARGEST_BUNDLE_BYTES", 10_000)
    with pytest.raises(FontNotUsable, match="too many or too large"):
        unpack_fonts(bundle(tmp_path, {"big.otf": b"\0" * 1_000_000}), tmp_path / "own")
    other = tmp_path / "other.zip"
    other.write_bytes(b"PK\3\4 but not really")
    with pytest.raises(FontNotUsable, match="cannot be unpacked"):
        unpack_fonts(other, tmp_path / "own")
    assert not (tmp_path / "own").exists()


def test_a_second_zip_leaves_the_fonts_of_the_first_as_they_are(tmp_path: FilePath) -> None:
    own = tmp_path / "own"
    (first,), _ = unpack_fonts(bundle(tmp_path, {"good.otf": FONT}), own)
    other = FONT + b"\0"
    (second,), refused = unpack_fonts(bundle(tmp_path, {"good.otf": other, "good 2.otf": b"\0\1\0\0 nothing"}), own)
    assert (first, second) == (f"file:{own / 'good.otf'}", f"file:{own / 'good 2.otf'}") and len(refused) == 1
    assert [(own / name).read_bytes() for name in ("good.otf", "good 2.otf")] == [FONT, other]
    again, _ = unpack_fonts(bundle(tmp_path, {"good.otf": FONT}), own)
    assert again == [first] and len(list(own.iterdir())) == 2


def test_a_damaged_font_in_a_zip_leaves_the_sound_ones(tmp_path: FilePath) -> None:
    """Wherever its packed bytes are hit: the unpacker itself fails, or the sum of what it unpacked."""
    path = bundle(tmp_path, {"a.otf": FONT, "b.otf": FONT})
    whole = path.read_bytes()
    with zipfile.ZipFile(path) as archive:
        size = archive.getinfo("a.otf").compress_size
    for at in range(60, size, size // 25):
        path.write_bytes(whole[:at] + bytes([whole[at] ^ 0xFF]) + whole[at + 1 :])
        kept, refused = unpack_fonts(path, tmp_path / "own")
        assert [face_title(face) for face in kept] == ["b"]
        assert len(refused) == 1 and refused[0].startswith("a.otf in download.zip is damaged")
