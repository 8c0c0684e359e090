"""Named small jobs of every kind, the empty and the failing included, for all that takes a job to run over."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from vivid_thimble.core.blanks.kinds import Tapered
from vivid_thimble.core.cache import asset_key
from vivid_thimble.core.edits.linked import with_copies
from vivid_thimble.core.edits.sets import make_set
from vivid_thimble.core.job.edits import with_item, with_layer
from vivid_thimble.core.job.values import Assets, Element, Item, Job, Layer, Placement, new_job
from vivid_thimble.core.materials.films import DECAL_FILM, RIGID_SHEET, STENCIL_FILM
from vivid_thimble.core.room.blank import with_blank
from vivid_thimble.core.sources.artwork import Artwork, ArtworkShare
from vivid_thimble.core.sources.letter_grid import AnswerBands, LetterGrid
from vivid_thimble.core.sources.lettering import Words
from vivid_thimble.core.sources.monogram import Monogram
from vivid_thimble.core.sources.plain import Plain
from vivid_thimble.core.steps import Bridges, Join, Mirror, Slice, Stretch, Thicken, Trim, Weld
from vivid_thimble.core.steps.register import RegisterMarks

SCRIPT, HEAVY = "bundled:Pacifico", "bundled:League Spartan"
FLAGS = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="50mm" viewBox="0 0 80 50">'
    b'<path fill="#204060" d="M0 0H80V50H0Z"/><path fill="#c9a227" d="M20 0H40V50H20Z M60 25L78 8V42Z"/></svg>'
)
FILES: Assets = {asset_key(FLAGS): FLAGS}


def words(text: str, face: str = SCRIPT, ident: str = "words", **more: object) -> Element:
    placement = more.pop("placement", Placement(width=120.0))
    return Element(id=ident, name=text, source=Words(text=text, face=face), placement=placement, **more)


def plate(ident: str = "plate", width: float = 150.0, **more: object) -> Element:
    source = Plain(ratio=0.4, corner=0.3)
    return Element(id=ident, name="Plate", source=source, placement=Placement(width=width), **more)


def job_of(*elements: Element, **item: object) -> Job:
    job = with_layer(new_job("Made up", 200.0, 120.0), lambda layer: replace(layer, elements=elements))
    return with_item(job, lambda one: replace(one, **item)) if item else job


def joined() -> Job:
    return job_of(words("Heron 8", steps=(Join(id="j", neck=1.0), Weld(id="w"))))


def turned_and_thickened() -> Job:
    place = Placement(capital=18.0, turn_deg=25.0, dx=10.0)
    return job_of(words("Moss", steps=(Join(id="j"), Weld(id="w"), Thicken(id="t", by=0.3)), placement=place))


def knocked_out() -> Job:
    """Words cut out of a plate, which itself is stretched and mirrored."""
    steps = (Stretch(id="s", across=1.1), Mirror(id="m"), Slice(id="k", by=("words",), halo=0.5))
    return job_of(words("WREN", HEAVY, helps_only=True), plate(steps=steps))


def a_set() -> Job:
    return make_set(joined(), "words", ("Moss", "Juniper", "Wren"), "letters", 10.0)


def stencil() -> Job:
    steps = (Bridges(id="b", width=2.0),)
    job = job_of(words("BOAT 8", HEAVY, steps=steps), method="rigid-stencil")
    return with_layer(job, lambda layer: replace(layer, film=RIGID_SHEET))


def two_films() -> Job:
    """A drawing in two films, the lower one trimmed; with register marks on a screen."""
    art = Artwork(asset=asset_key(FLAGS), name="flags.svg", films=2, colour_films=(("#204060", 0), ("#c9a227", 1)))
    place = Placement(width=110.0)
    upper = Element(id="flags", name="Flags", source=art, placement=place)
    lower = Element(id="flags-2", name="Flags, 2", source=ArtworkShare(of="flags", film=1), placement=place)
    layers = (
        Layer(id="one", film=replace(STENCIL_FILM, name="Dark"), elements=(upper,)),
        Layer(id="two", film=replace(STENCIL_FILM, name="Light"), elements=(lower,), steps=(Trim(id="t"),)),
    )
    item = Item(id="i", name="Screen", width=240.0, height=180.0, method="screen-stencil", side="underside",
                register=RegisterMarks(away=6.0), layers=layers)  # fmt: skip
    return Job(name="Two films", items=(item,))


def tapered() -> Job:
    job = job_of(words("Otterly", steps=(Join(id="j"), Weld(id="w")), placement=Placement(width=90.0)))
    return with_item(job, lambda item: with_blank(item, Tapered()))


def copied() -> Job:
    job, _ = with_copies(joined(), {"words": (40.0, 40.0, 160.0, 80.0)}, ["words"], mirrored=True)
    return job


def composed() -> Job:
    """A monogram beside a letter grid with its bands in a second film."""
    badge = Element(
        id="badge", name="QLR", source=Monogram(initials="QLR", face=HEAVY), placement=Placement(height=50.0)
    )
    grid = LetterGrid(names=("Moss", "Wren"), face=HEAVY, columns=6, rows=5)
    letters = Element(id="grid", name="Grid", source=grid, placement=Placement(width=70.0, dx=60.0))
    bands = Element(id="bands", name="Answers", source=AnswerBands(of="grid"), placement=Placement(width=1.0))
    job = job_of(replace(badge, placement=replace(badge.placement, dx=-60.0)), letters)
    below = Layer(id="below", film=replace(DECAL_FILM, name="Below"), elements=(bands,))
    return with_item(job, lambda item: replace(item, layers=(*item.layers, below), weeding_box=5.0, relief=True))


def empty() -> Job:
    return new_job("Nothing yet", 150.0, 80.0)


def failing() -> Job:
    """A face that nobody has, a film whose drawing is gone, a step that leaves nothing, one that needs what is gone."""
    share = Element(id="share", name="Film", source=ArtworkShare(of="gone", film=1), placement=Placement(width=20.0))
    return job_of(
        words("Reeds", "file:nobody-has-this.ttf", "lost"),
        share,
        plate("thin", 60.0, steps=(Thicken(id="t", by=-40.0),)),
        plate("waits", 90.0, steps=(Slice(id="s", by=("gone",)),)),
    )


KINDS = (
    joined,
    turned_and_thickened,
    knocked_out,
    a_set,
    stencil,
    two_films,
    tapered,
    copied,
    composed,
    empty,
    failing,
)
JOBS: dict[str, Callable[[], Job]] = {one.__name__: one for one in KINDS}
CUTTING = tuple(name for name in JOBS if name != "empty")
"""Those of which something is cut."""
