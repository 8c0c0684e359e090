"""A photo or screenshot to clean cut paths."""

from __future__ import annotations

import argparse

from msgspec.structs import replace

from vivid_thimble.cli.figures import Facts, rounded, size_of
from vivid_thimble.cli.jobs import films_job
from vivid_thimble.cli.opened import OpenedPicture, opened_picture
from vivid_thimble.cli.options import add_size, area_mm2, count_of_films, placement_of
from vivid_thimble.cli.written import Design, add_out, written
from vivid_thimble.core.errors import InputRefused
from vivid_thimble.core.evaluate.picture_stages import separated_at, sized_picture
from vivid_thimble.core.geometry.region import union
from vivid_thimble.core.job.values import Element
from vivid_thimble.core.ranges import refuse_absurd
from vivid_thimble.core.sources.colours import LEFT_OUT
from vivid_thimble.core.sources.picture import Picture, Spot

HELP = "a photo or screenshot (PNG, JPEG, WebP, TIFF, BMP, GIF) to clean cut paths"


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("image")
    add_size(parser, required=True)
    parser.add_argument("--colours", type=count_of_films, metavar="N", help="part the picture into so many colours")
    parser.add_argument("--background", metavar="X,Y", help="a pixel of the background: all of its colour goes")
    parser.add_argument("--tolerance", type=float, metavar="T", help="how far colours may differ from it (default 18)")
    parser.add_argument(
        "--drop-below", type=area_mm2, metavar="AREA", help="specks and pinholes to drop, in mm2 (default 0.5)"
    )
    parser.add_argument("--keep-leftovers", action="store_true", help="keep what looks like background or dirt")
    add_out(parser)


def answer(options: argparse.Namespace) -> Facts:
    art = opened_picture(options.image)
    picture = _picture(options, art)
    refuse_absurd(picture)
    placement = placement_of(options)
    assert placement is not None
    parted = separated_at(art.raster, picture, placement, art.cache)
    ground = None if options.colours else parted.background  # of so many colours that were asked for all are cut
    colours = [c for k, c in enumerate(parted.colours) if k != ground]
    if len(colours) > 1:
        own_film = [(colour, film) for film, colour in enumerate(colours)]
        own_film += [] if ground is None else [(parted.colours[ground], LEFT_OUT)]
        picture = replace(picture, films=len(colours), colour_films=tuple(own_film))
    sized = sized_picture(art.raster, picture, placement, art.cache)
    layers = [(c, region) for c, region in zip(colours, sized.regions, strict=True) if not region.is_empty]
    whole = union(region for _, region in layers)
    answer: Facts = {
        "size_mm": rounded(size_of(whole)),
        "says": parted.says,
        "layers": [{"colour": colour, "area_mm2": round(region.area, 3)} for colour, region in layers],
        "nodes": sized.traced.node_count,
        "contours": sum(len(region.outline.contours) for _, region in layers),
        "kept_pieces": len(whole.polygons.geoms),
        "leftovers": [
            {"why": one.why, "area_mm2": round(one.area_px * sized.mm_per_px**2, 4), "dropped": picture.leftovers_go}
            for one in parted.leftovers
        ],
    }
    named = [(f"colour {colour}", colour, region) for colour, region in layers]
    cut = {k: c for k, c in enumerate(colours) if not sized.regions[k].is_empty}
    job = films_job(Element(id="picture", name=art.name, source=picture, placement=placement), cut)
    return answer | written(options, Design(named, job, art.assets))


def _picture(options: argparse.Namespace, art: OpenedPicture) -> Picture:
    """How the picture is taken, from the options."""
    picture = Picture(asset=art.asset, name=art.name, leftovers_go=not options.keep_leftovers)
    if options.colours:
        picture = replace(picture, separate="colours", colours=options.colours)
    if options.background:
        columns, rows = art.raster.size
        x, y = _pixel_place(options.background)
        if not (0 <= x < columns and 0 <= y < rows):
            raise InputRefused(
                f"--background {options.background} lies outside the picture of {columns} x {rows} pixels."
            )
        tolerance = options.tolerance if options.tolerance is not None else Spot(at=(0.0, 0.0)).tolerance
        spot = Spot(at=((x + 0.5) / columns, (y + 0.5) / rows), tolerance=tolerance)
        picture = replace(picture, background=(spot,))
    if options.drop_below is not None:
        picture = replace(picture, speck_area=options.drop_below, pinhole_area=options.drop_below)
    return picture


def _pixel_place(text: str) -> tuple[int, int]:
    try:
        x, y = (int(part) for part in text.split(","))
    except ValueError as error:
        raise InputRefused(f"--background takes two whole numbers such as 10,10, not {text}.") from error
    return x, y
