"""Feeds broken drawings to the readers: anything but a drawing or one clear sentence is a fault.

    PYTHONPATH=src python bench/fuzz_readers.py svg|dxf|zip|pdf SEEDS [-max_total_time=1800] [libFuzzer options]

Needs ``atheris`` (not pinned: it is for this only). SEEDS is a folder that the fuzzer starts from and adds to;
``tests/data/fuzz`` keeps the small ones that once found something, and the tests read them.
"""

from __future__ import annotations

import sys

import atheris

with atheris.instrument_imports(include=["vivid_thimble", "ezdxf", "tinycss2", "cssselect2"]):
    from vivid_thimble.core.errors import ThimbleError
    from vivid_thimble.core.formats.bundle import contents, unpacked
    from vivid_thimble.core.formats.drawing_read import read_drawing
    from vivid_thimble.core.formats.dxf_read import read_dxf
    from vivid_thimble.core.formats.pdf_read import read_pdf
    from vivid_thimble.core.formats.svg_read import read_svg
    from vivid_thimble.core.sources.artwork import artwork_for, painted, prepared

MOST_PARTS = 60


def svg(data: bytes) -> None:
    drawing = read_svg(data, "fuzz.svg")
    if 0 < len(drawing.parts) <= MOST_PARTS:
        prepared(painted(drawing, taken := artwork_for(drawing, "key", "fuzz"), 1.0), taken)


def dxf(data: bytes) -> None:
    drawing = read_dxf(data, "fuzz.dxf")
    if 0 < len(drawing.parts) <= MOST_PARTS:
        prepared(painted(drawing, taken := artwork_for(drawing, "key", "fuzz"), 1.0), taken)


def zipped(data: bytes) -> None:
    for entry in contents(data, "fuzz.zip").entries:
        unpacked(data, entry.inside, "fuzz.zip")
    read_drawing(data, "fuzz.zip")


def pdf(data: bytes) -> None:
    read_pdf(data, "fuzz.pdf")


TARGETS = {"svg": svg, "dxf": dxf, "zip": zipped, "pdf": pdf}


def main() -> None:
    target = TARGETS[sys.argv.pop(1)]

    def one(data: bytes) -> None:
        try:
            target(data)
        except ThimbleError as error:
            sentence = str(error)
            assert "\n" not in sentence and sentence.endswith("."), sentence

    atheris.Setup(sys.argv, one)
    atheris.Fuzz()


if __name__ == "__main__":
    main()
