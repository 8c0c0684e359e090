"""What is worked out only while somebody looks: width maps, the smallest thickening, lost details.

Each lives beside the evaluated result, is computed on a thread of its own, and is asked for again when what it hangs on
changes. The newest request for one wins.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import TYPE_CHECKING, Any, Generic, TypeVar

import shapely
from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal
from shapely import MultiPolygon

from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.job.values import Element, Placement, source_as
from vivid_thimble.core.materials.surfaces import SURFACES
from vivid_thimble.core.sources.artwork import Artwork
from vivid_thimble.core.sources.line_portrait import LinePortrait
from vivid_thimble.core.sources.picture import Picture
from vivid_thimble.core.sources.provenance import Provenance
from vivid_thimble.desktop.session.background import Background, Failed
from vivid_thimble.desktop.session.looked_at import LookedAt

if TYPE_CHECKING:  # most of these bring the numeric libraries
    from vivid_thimble.core.cut.cutting import Cut
    from vivid_thimble.core.edits.drawings import DrawingLook
    from vivid_thimble.core.edits.pictures import PictureLook, PortraitLook
    from vivid_thimble.core.evaluate.results import ItemResult
    from vivid_thimble.core.finish.weeding import WeedingPlan
    from vivid_thimble.core.inspect.lost import Lost
    from vivid_thimble.core.inspect.thickening import Thickening
    from vivid_thimble.core.materials.carriers import Carrier
    from vivid_thimble.core.room.front_view import OnItem
    from vivid_thimble.core.steps.holding import Holding
    from vivid_thimble.core.widths.widthmap import WidthMap

log = logging.getLogger(__name__)
T = TypeVar("T")
Key = tuple[object, ...]


@dataclass(frozen=True, eq=False)
class Insight(Generic[T]):
    """Something that can be worked out of a session and its result: ``key`` is all that it hangs on, compared for
    equality; ``work`` gives what works it out, on another thread. ``of_design``: there is none while nothing is cut."""

    name: str
    key: Callable[[LookedAt, ItemResult], Key]
    work: Callable[[LookedAt, ItemResult], Callable[[], T]]
    of_design: bool = True


class Insights(QObject):
    """Call ``want`` with what is looked at; ``changed`` carries the Insight that is there or gone."""

    changed = Signal(object)

    def __init__(self, session: LookedAt, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._wanted: dict[str, frozenset[Insight[Any]]] = {"path": frozenset({CUT})}
        self._known: dict[Insight[Any], tuple[Key, Any]] = {}
        self._background = Background(self)
        session.result_changed.connect(self._ask)
        session.element_chosen.connect(self._ask)

    @property
    def is_busy(self) -> bool:
        return self._background.is_busy

    def want(self, who: str, *wanted: Insight[Any]) -> None:
        """What one view looks at from now on; nothing when it is not looking."""
        self._wanted[who] = frozenset(wanted)
        self._ask()

    def of(self, insight: Insight[T]) -> T | None:
        """What is known; None while it is not, or when there is nothing to say."""
        known: T | None = self._known.get(insight, ((), None))[1]
        return known

    def has(self, insight: Insight[T]) -> bool:
        """Whether the answer for the present result is there (it may be that there is nothing to say)."""
        return insight in self._known

    def stop(self) -> None:
        """End the thread; a running computation is waited for."""
        self._wanted = {}
        self._background.stop()

    def _ask(self) -> None:
        """Forget what belongs to an older result, and start on the first wanted thing that is missing."""
        result, session = self._session.result, self._session
        for one, (key, _) in list(self._known.items()):
            if result is None or key != one.key(session, result):
                del self._known[one]
                self.changed.emit(one)
        if self._background.is_busy or result is None:
            return
        wanted = frozenset().union(*self._wanted.values())
        missing = [one for one in wanted if one not in self._known and (result.bounds is not None or not one.of_design)]
        if missing:
            first = min(missing, key=lambda one: one.name)
            self._background.run(first.work(session, result), partial(self._take, first, first.key(session, result)))

    def _take(self, insight: Insight[Any], key: Key, value: object) -> None:
        if isinstance(value, Failed):  # a view may stay empty; the window must not fall
            log.error("%s could not be computed", insight.name, exc_info=value.error)
            value = None
        result = self._session.result
        if result is not None and key == insight.key(self._session, result):
            self._known[insight] = key, value
            self.changed.emit(insight)
        self._ask()


# -- all films -------------------------------------------------------------------------


def cut_or_refusal(result: ItemResult, film: int, carrier: Carrier) -> tuple[Cut | None, str]:
    """A film as it is cut on a carrier, or the sentence why it cannot be."""
    from vivid_thimble.core.evaluate.results import cut_of

    try:
        return cut_of(result.layers[film], result.item, carrier), ""
    except ThimbleError as error:
        return None, str(error)


def _sheet(result: ItemResult) -> Key:
    item = result.item
    return item.method, item.surround, item.frame, item.register, item.weeding_box


def _of_weeding(_: LookedAt, result: ItemResult) -> Key:
    films = ((layer.key, layer.layer.film) for layer in result.layers)
    return *films, *_sheet(result), result.item.weeding_flipped


def _seen_from_front(_: LookedAt, result: ItemResult) -> Callable[[], OnItem]:
    def work() -> OnItem:
        from vivid_thimble.core.room.front_view import seen_from_front  # here: it brings the numeric libraries

        return seen_from_front(result.item, _level_films(result))

    return work


def _level_films(result: ItemResult) -> tuple[MultiPolygon, ...]:
    """The films as they lie on the level rectangle; a bent sheet is laid level again."""
    films = []
    for layer in result.layers:
        bend = layer.bend
        polygons = layer.kept.polygons
        films.append(polygons if bend is None else shapely.transform(polygons, bend.undone))
    return tuple(films)


# -- the first film --------------------------------------------------------------------


def _of_first_film(_: LookedAt, result: ItemResult) -> Key:
    layer = result.layers[0]
    return layer.key, layer.layer.film, *_sheet(result), result.item.surface


def _widths(_: LookedAt, result: ItemResult) -> Callable[[], WidthMap]:
    def work() -> WidthMap:
        from vivid_thimble.core.evaluate.recipe import limits_of
        from vivid_thimble.core.widths.widthmap import width_map

        layer = result.layers[0]
        limits = limits_of(layer.layer.film)
        return width_map(layer.kept.polygons, limits.line, limits.gap)

    return work


def _thickening(_: LookedAt, result: ItemResult) -> Callable[[], Thickening | None]:
    def work() -> Thickening | None:
        from vivid_thimble.core.evaluate.recipe import limits_of
        from vivid_thimble.core.inspect.thickening import smallest_thickening

        layer = result.layers[0]
        limits, is_sheet = limits_of(layer.layer.film), result.item.is_stencil
        return smallest_thickening(layer.kept.polygons, layer.inspection, limits, is_sheet=is_sheet)

    return work


def _lost(_: LookedAt, result: ItemResult) -> Callable[[], Lost]:
    def work() -> Lost:
        from vivid_thimble.core.inspect.lost import lost_details

        return lost_details(result.layers[0].design.polygons, SURFACES[result.item.surface].detail)

    return work


def _joins(_: LookedAt, result: ItemResult) -> Callable[[], dict[str, Holding]]:
    def work() -> dict[str, Holding]:
        from vivid_thimble.core.steps.holding import holding_of

        found = {}
        for element in (element for layer in result.layers for element in layer.elements):
            holding = holding_of(element.letters, element.element.steps, element.element.source.aligned)
            if holding is not None:
                found[element.element.id] = holding
        return found

    return work


# -- the element in hand ---------------------------------------------------------------


def _in_hand(session: LookedAt) -> Element | None:
    return session.evaluated(session.chosen)


def _sized_alone(element: Element) -> Placement:
    """How an element is sized, wherever it lies."""
    return replace(element.placement, dx=0.0, dy=0.0, turn_deg=0.0)


def _of_drawing(session: LookedAt, _: ItemResult) -> Key:
    element, artwork = _in_hand(session), source_as(_in_hand(session), Artwork)
    if element is None or artwork is None:
        return ()
    sized_by = element.placement if artwork.lines == "widened" else None
    return replace(artwork, provenance=Provenance()), sized_by


def _of_picture(session: LookedAt, _: ItemResult) -> Key:
    element, picture = _in_hand(session), source_as(_in_hand(session), Picture)
    return () if element is None or picture is None else (picture, _sized_alone(element))


def _of_portrait(session: LookedAt, _: ItemResult) -> Key:
    element, portrait = _in_hand(session), source_as(_in_hand(session), LinePortrait)
    return () if element is None or portrait is None else (portrait, _sized_alone(element))


def _drawing(session: LookedAt, _: ItemResult) -> Callable[[], DrawingLook | None]:
    element, artwork = _in_hand(session), source_as(_in_hand(session), Artwork)
    assets, cache = dict(session.assets), session.cache

    def work() -> DrawingLook | None:
        from vivid_thimble.core.edits.drawings import look_at

        return None if element is None or artwork is None else look_at(artwork, element.placement, assets, cache)

    return _or_nothing(work)


def _picture(session: LookedAt, _: ItemResult) -> Callable[[], PictureLook | None]:
    element, picture = _in_hand(session), source_as(_in_hand(session), Picture)
    assets, cache = dict(session.assets), session.cache

    def work() -> PictureLook | None:
        from vivid_thimble.core.edits.pictures import look_at_picture

        if element is None or picture is None:
            return None
        return look_at_picture(picture, _sized_alone(element), assets, cache)

    return _or_nothing(work)


def _portrait(session: LookedAt, _: ItemResult) -> Callable[[], PortraitLook | None]:
    element, portrait = _in_hand(session), source_as(_in_hand(session), LinePortrait)
    assets, cache = dict(session.assets), session.cache

    def work() -> PortraitLook | None:
        from vivid_thimble.core.edits.pictures import look_at_portrait

        if element is None or portrait is None:
            return None
        return look_at_portrait(portrait, _sized_alone(element), assets, cache)

    return _or_nothing(work)


def _or_nothing(work: Callable[[], T | None]) -> Callable[[], T | None]:
    """Nothing to say where a source yields nothing: its element tells why."""

    def worked() -> T | None:
        try:
            return work()
        except ThimbleError:
            return None

    return worked


CUT: Insight[tuple[Cut | None, str]] = Insight(
    "cut",
    lambda session, result: (result, session.job.carrier),
    lambda session, result: partial(cut_or_refusal, result, 0, session.job.carrier),
)
"""The first film as it would be cut on the job's carrier, or why it cannot be."""
DRAWING: Insight[DrawingLook | None] = Insight("drawing", _of_drawing, _drawing, of_design=False)
"""What there is to decide about the drawing in hand."""
JOINS: Insight[dict[str, Holding]] = Insight("joins", _of_first_film, _joins)
"""How the letters of every element hold that is joined or tied, by the element's id."""
LOST: Insight[Lost] = Insight("lost", _of_first_film, _lost)
ON_ITEM: Insight[OnItem] = Insight("on item", lambda _, result: (result,), _seen_from_front)
"""The thing with its films on, as it is seen from the front."""
PICTURE: Insight[PictureLook | None] = Insight("picture", _of_picture, _picture, of_design=False)
"""What there is to decide about the picture in hand."""
PORTRAIT: Insight[PortraitLook | None] = Insight("portrait", _of_portrait, _portrait, of_design=False)
"""What there is to decide about the line portrait in hand."""
THICKENING: Insight[Thickening | None] = Insight("thickening", _of_first_film, _thickening)
WEEDING: Insight[tuple[WeedingPlan, ...]] = Insight("weeding", _of_weeding, lambda _, result: lambda: result.weedings)
"""The picks of every film."""
WIDTHS: Insight[WidthMap] = Insight("widths", _of_first_film, _widths)
