"""Strangers' files are read by a process that can do no harm, and what it finds is what would be found here."""

from __future__ import annotations

import gzip
import io
import os
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path as FilePath

import numpy as np
import pytest
from PIL import Image

from tests.letters import FONTS
from tests.packed import zipped
from vivid_thimble.core.errors import DrawingNotReadable, FontNotUsable
from vivid_thimble.core.formats.bundle import contents, contents_here, notes_in, unpacked
from vivid_thimble.core.formats.cut_file import cut_file
from vivid_thimble.core.formats.drawing_read import read_drawing, read_drawing_here
from vivid_thimble.core.formats.raster_read import read_picture, read_picture_here
from vivid_thimble.core.formats.svg_write import CutLayer
from vivid_thimble.core.geometry.plain_shapes import disc
from vivid_thimble.core.pauses import Stopped, watched
from vivid_thimble.core.sources import fonts
from vivid_thimble.core.sources import painted_apart as painted_apart_module
from vivid_thimble.core.sources.artwork import artwork_for, painted
from vivid_thimble.core.sources.fonts import load_face
from vivid_thimble.core.sources.lettering import glyph_path
from vivid_thimble.core.sources.painted_apart import painted_apart
from vivid_thimble.core.strangers import ask
from vivid_thimble.core.strangers.plain_data import packed

SRC = FilePath(fonts.__file__).parents[3]
SHAPE = '<svg xmlns="http://www.w3.org/2000/svg"><style>g{fill:#357}</style><g id="%s"><path d="M0 0h5v5z"/></g></svg>'


@pytest.fixture(autouse=True)
def another_thread() -> Iterator[None]:
    """So that the server is asked, as in a window, and not a copy of this process."""
    done = threading.Event()
    thread = threading.Thread(target=done.wait)
    thread.start()
    yield
    done.set()
    thread.join()


def drawings() -> dict[str, bytes]:
    layer = CutLayer("boat", "#204060", (disc((10.0, 10.0), 5.0).outline,))
    found = {f"cut{ending}": cut_file(f"cut{ending}", [layer], 20.0, 20.0) for ending in (".svg", ".pdf", ".dxf")}
    for encoding, word in (("utf-16", "é"), ("windows-1252", "é"), ("koi8-r", "ж"), ("big5", "中")):
        head = f'<?xml version="1.0" encoding="{encoding}"?>'
        found[encoding] = (head + SHAPE % word).encode(encoding)
    found["packed.svgz"] = gzip.compress(found["cut.svg"])
    found["bundle.zip"] = zipped({"a/boat.pdf": found["cut.pdf"], "licence.txt": b"yours"})
    found["letters"] = (SHAPE % "x").replace("</svg>", '<text y="9" font-family="cursive">Heron</text></svg>').encode()
    found["damaged"], found["empty"] = b"<svg", b""
    return found


@pytest.mark.parametrize("name", drawings())
def test_what_is_read_within_limits_is_what_is_read_without(name: str) -> None:
    data, outcomes = drawings()[name], []
    for reader in (lambda: read_drawing(data, name), lambda: read_drawing_here(data, name, 0)):
        try:
            outcomes.append(packed(reader()))
        except DrawingNotReadable as error:
            outcomes.append(str(error).encode())
    assert outcomes[0] == outcomes[1]
    assert (b"sources.drawing:Drawing" in outcomes[0]) == (name not in ("damaged", "empty"))


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP", "TIFF", "BMP", "GIF"])
def test_pictures_too(kind: str) -> None:
    out = io.BytesIO()
    Image.effect_noise((60, 40), 50.0).convert("RGB").save(out, kind)
    assert packed(read_picture(out.getvalue(), "noise")) == packed(read_picture_here(out.getvalue(), "noise"))


def test_zips_too() -> None:
    data = zipped({"boats/boat.svg": drawings()["cut.svg"], "read me.txt": b"Public domain"})
    bundle = contents(data, "boats.zip")
    assert bundle == contents_here(data, "boats.zip")
    assert unpacked(data, "boats/boat.svg") == drawings()["cut.svg"]
    assert notes_in(data, bundle) == "Public domain"
    many = zipped({f"{'long ' * 30}{k}.txt": b"" for k in range(4_000)} | {"a.svg": drawings()["cut.svg"]})
    assert notes_in(many, contents(many, "many.zip")) == ""
    assert len(read_drawing(many, "many.zip").parts) == 1


@pytest.mark.parametrize("name", ["dinosaur", "dolphin", "dashes and clips"])
def test_drawings_are_painted_too(name: str) -> None:
    """Dashed lines whatever they are, all else when it is more than a little."""
    clip = '<clipPath id="c"><circle cx="50" cy="50" r="30"/></clipPath><g opacity="0.5" clip-path="url(#c)">'
    waves = " ".join(f"M0 {y}q20 -9 50 0t50 0" for y in range(0, 100, 4))
    style = 'fill="none" stroke="#246" stroke-width="2" stroke-dasharray="5 3"'
    data = f'<svg xmlns="http://www.w3.org/2000/svg">{clip}<path d="{waves}" {style}/></g></svg>'.encode()
    if name in ("dinosaur", "dolphin"):
        data = (FilePath(__file__).parents[1] / "data" / "drawings" / f"{name}.svg").read_bytes()
    drawing = read_drawing(data, name)
    artwork = artwork_for(drawing, "key", name)
    found = []

    def asked(*order: object, **more: object) -> object:
        found.append(read_within_limits(*order, **more))
        return found[-1]

    read_within_limits = ask.read_within_limits
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(painted_apart_module, "read_within_limits", asked)
        patch.setattr(painted_apart_module, "MOST_SEGMENTS_HERE", 30)
        apart = painted_apart(drawing, artwork)
    assert len(found) == 1, "it was painted in a process"
    assert apart.drawing is drawing
    here = painted(drawing, artwork)
    for each in ("parts", "areas", "report", "outlines"):
        assert packed(getattr(apart, each)) == packed(getattr(here, each)), each


def test_what_covers_too_much_is_refused_in_one_sentence_and_stopped_at_once() -> None:
    """Lines that cross each other millions of times: a file of forty kilobytes."""
    numbers = np.random.default_rng(3).integers(0, 400, (4_000, 2)).tolist()
    lines = " ".join(f"L{x} {y}" for x, y in numbers)
    data = f'<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0 {lines}"/></svg>'
    drawing = read_drawing(data.encode(), "crossing.svg")
    artwork = artwork_for(drawing, "key", "crossing.svg")
    begun = time.monotonic()

    def stop(_: str) -> None:
        if time.monotonic() - begun > 0.5:
            raise Stopped

    with pytest.raises(Stopped), watched(stop):
        painted_apart(drawing, artwork)
    assert time.monotonic() - begun < 3.0
    says = run(
        READS.replace("limited.prepare = lambda kind, data: None", "limited.LONGEST_PAINTING_S = 1")
        + f"""
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.formats.drawing_read import read_drawing
from vivid_thimble.core.sources.artwork import artwork_for
from vivid_thimble.core.sources.painted_apart import painted_apart
drawing = read_drawing({data.encode()!r}, "crossing.svg")
try:
    painted_apart(drawing, artwork_for(drawing, "key", "crossing.svg"))
except InputRefused as error:
    print(error)
"""
    )
    assert says == "crossing.svg takes too much time or memory to read: simplify it, or save it in another format.\n"


def test_without_a_process_a_sentence_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    def full(*_: object) -> None:
        raise OSError(24, "Too many open files")

    monkeypatch.setattr(os, "memfd_create", full)
    with pytest.raises(DrawingNotReadable, match=r"^boat\.svg cannot be read just now \(too many open files\): .*\.$"):
        read_drawing(drawings()["cut.svg"], "boat.svg")


def test_letters_of_installed_fonts_are_handed_to_it(monkeypatch: pytest.MonkeyPatch) -> None:
    installed = {"boat hands": str(FONTS / "CourierPrime-Bold.otf"), "gone": "/nowhere/gone.ttf"}
    monkeypatch.setattr(fonts, "_installed", lambda: installed)
    text = '<svg xmlns="http://www.w3.org/2000/svg"><text y="9" font-family="%s">Hi</text></svg>'
    found = read_drawing((text % "Nobody, Boat Hands").encode(), "x")
    assert len(found.parts) == 1 and not found.not_understood
    for family in ("gone", "nobody"):
        (told,) = read_drawing((text % family).encode(), "x").not_understood
        assert told.startswith('text "Hi" (the font')


def run(script: str, *, timeout: float = 60.0) -> str:
    """What a program of its own prints."""
    environment = os.environ | {"PYTHONPATH": str(SRC)}
    done = subprocess.run(
        [sys.executable, "-c", script], capture_output=True, text=True, timeout=timeout, env=environment, check=True
    )
    return done.stdout


READS = """
import os, sys, ctypes, socket, subprocess, time
from vivid_thimble.core.errors import DrawingNotReadable
from vivid_thimble.core.pauses import Stopped, watched
from vivid_thimble.core.strangers import ask, limited
limited.LONGEST_CPU_S = 1
limited.prepare = lambda kind, data: None
def read(reader):
    limited.readers = lambda: {"drawing": reader}
    return ask.read_within_limits("drawing", b"data", refusal=DrawingNotReadable, name="boat.svg")
"""


def test_it_can_open_nothing_and_start_nothing() -> None:
    """Neither from Python nor from C: the kernel has no descriptor left for it."""
    says = run(
        READS
        + """
def tries(data):
    libc, told = ctypes.CDLL(None, use_errno=True), {}
    told["read in C"] = libc.open(b"/etc/passwd", os.O_RDONLY)
    told["write in C"] = libc.open(b"/tmp/thimble-stranger", os.O_RDWR | os.O_CREAT, 0o600)
    told["socket in C"] = libc.socket(socket.AF_INET, socket.SOCK_STREAM, 0)
    told["copy"] = libc.dup(0)
    for what, does in (("open", lambda: open("/etc/passwd")), ("socket", socket.socket),
                       ("start", lambda: subprocess.Popen(["true"])), ("pipe", os.pipe)):
        try:
            does()
            told[what] = 0
        except OSError:
            told[what] = -1
    told["descriptors"] = sum(libc.fcntl(k, 1) >= 0 for k in range(1000))
    return told
print(read(tries))
"""
    )
    told = eval(says)
    assert told.pop("descriptors") == 4  # nothing, three times, and the answer's
    assert set(told.values()) == {-1}, told
    assert not os.path.exists("/tmp/thimble-stranger")


def test_time_memory_depth_and_death_end_in_a_sentence() -> None:
    says = run(
        READS
        + """
def spins(data):
    while True: pass
def fills(data):
    return len(bytearray(3_000_000_000))
def hoards(data):
    return [bytearray(10_000_000) for _ in range(1000)]
def dives(data):
    return dives(data)
def dies(data):
    os.kill(os.getpid(), 11)
def exits(data):
    os._exit(0)
def lies(data):
    os.write(limited.ANSWER, b"no answer")
    os._exit(0)
def breaks(data):
    raise KeyError("x")
for reader in (spins, fills, hoards, dives, dies, exits, lies, breaks):
    begun = time.process_time()
    try:
        read(reader)
    except DrawingNotReadable as error:
        print(error)
try:
    os.waitpid(-1, 0)
except ChildProcessError:
    print("none is left")
"""
    ).splitlines()
    assert says[-1] == "none is left" and len(says) == 9
    assert all(line.startswith("boat.svg ") and line.endswith(".") for line in says[:-1])
    assert ["time or memory" in line for line in says[:3]] == [True] * 3
    assert "nested" in says[3]


def test_stop_ends_it_at_once() -> None:
    """A million transforms take seconds: one pause after a tenth of them it is gone."""
    turns = '<g transform="rotate(1)">' * 60 + '<path d="M0 0h5v5z"/>' + "</g>" * 60
    data = f'<svg xmlns="http://www.w3.org/2000/svg">{turns * 20_000}</svg>'.encode()
    begun = time.monotonic()

    def stop(_: str) -> None:
        if time.monotonic() - begun > 0.2:
            raise Stopped

    ask.read_within_limits("contents", zipped({}), "x", refusal=DrawingNotReadable, name="x")  # the server runs now
    begun = time.monotonic()
    with pytest.raises(Stopped), watched(stop):
        read_drawing(data, "turns")
    assert time.monotonic() - begun < 2.0


def test_it_ends_with_the_program() -> None:
    says = run(
        """
import threading, time
threading.Thread(target=lambda: time.sleep(1), daemon=True).start()
from vivid_thimble.core.formats.drawing_read import read_drawing
from vivid_thimble.core.strangers import ask
read_drawing(b'<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0h5v5z"/></svg>', "x")
print(ask._Server.running().process.pid, flush=True)
import os
os.kill(os.getpid(), 9)
""".replace("os.kill(os.getpid(), 9)", "os._exit(0)")
    )
    until = time.monotonic() + 10.0
    while os.path.exists(f"/proc/{int(says)}") and time.monotonic() < until:
        time.sleep(0.05)
    assert not os.path.exists(f"/proc/{int(says)}")


def test_a_server_that_is_gone_is_started_anew() -> None:
    read_drawing(drawings()["cut.svg"], "x")
    server = ask._Server.running()
    server.process.kill()
    server.process.wait()
    assert len(read_drawing(drawings()["cut.svg"], "x").parts) == 1
    assert ask._Server.running() is not server


def test_a_glyph_that_no_letter_is_like_is_refused(tmp_path: FilePath) -> None:
    from fontTools.fontBuilder import FontBuilder
    from fontTools.pens.ttGlyphPen import TTGlyphPen

    pen = TTGlyphPen(None)
    for k in range(3_000):
        pen.moveTo((k % 7, 0))
        pen.lineTo((500 + k % 5, 0))
        pen.lineTo((500, 500 + k % 3))
        pen.closePath()
    builder = FontBuilder(1000)
    builder.setupGlyphOrder([".notdef", "a"])
    builder.setupCharacterMap({97: "a"})
    builder.setupGlyf({".notdef": TTGlyphPen(None).glyph(), "a": pen.glyph()})
    builder.setupHorizontalMetrics({".notdef": (500, 0), "a": (500, 0)})
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": "Knot", "styleName": "Regular"})
    builder.setupOS2()
    builder.setupPost()
    path = tmp_path / "knot.ttf"
    builder.save(path)
    with pytest.raises(FontNotUsable, match="choose another face"):
        glyph_path(load_face(f"file:{path}"), 1)
