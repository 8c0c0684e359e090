"""What is worked out only while somebody looks: width maps, the smallest thickening, lost details.

Each lives beside the evaluated result, is computed on a thread of its own, and is asked for again
when the result changes. The newest request for a name wins.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any, Literal

import shapely
from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal
from shapely import MultiPolygon

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.errors import ThimbleError
from vivid_thimble.core.job.values import Placement
from vivid_thimble.core.materials.surfaces import SURFACES
from vivid_thimble.core.sources.artwork import Artwork
from vivid_thimble.core.sources.line_portrait import LinePortrait
from vivid_thimble.core.sources.picture import Picture
from vivid_thimble.core.sources.provenance import Provenance
from vivid_thimble.desktop.session.background import Errands, Failed

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
    from vivid_thimble.desktop.session.session import Session

log = logging.getLogger(__name__)
IN_HAND = ("drawing", "picture")
"""What is told of the element in hand, whether anything of it can be cut or not."""
Name = Literal["widths", "thickening", "lost", "joins", "weeding", "drawing", "picture", "on item", "cut"]


class Insights(QObject):
    """Call ``want`` with the names that are looked at; ``changed`` tells when one is there or gone."""

    changed = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._wanted: dict[str, frozenset[Name]] = {"path": frozenset({"cut"})}
        self._keys: dict[Name, tuple[object, ...]] = {}
        self._values: dict[Name, Any] = {}
        self._errands = Errands(self)
        session.result_changed.connect(self._ask)
        session.element_chosen.connect(self._ask)

    @property
    def is_busy(self) -> bool:
        return self._errands.is_busy

    def want(self, who: str, *names: Name) -> None:
        """What one view looks at from now on; nothing when it is not looking."""
        self._wanted[who] = frozenset(names)
        self._ask()

    @property
    def widths(self) -> WidthMap | None:
        value: WidthMap | None = self._values.get("widths")
        return value

    @property
    def thickening(self) -> Thickening | None:
        value: Thickening | None = self._values.get("thickening")
        return value

    @property
    def lost(self) -> Lost | None:
        value: Lost | None = self._values.get("lost")
        return value

    @property
    def weedings(self) -> tuple[WeedingPlan, ...] | None:
        """The picks of every film."""
        value: tuple[WeedingPlan, ...] | None = self._values.get("weeding")
        return value

    @property
    def on_item(self) -> OnItem | None:
        """The thing with its films on, as it is seen from the front."""
        value: OnItem | None = self._values.get("on item")
        return value

    @property
    def cut(self) -> tuple[Cut | None, str]:
        """The first film as it would be cut on the job's carrier, or why it cannot be."""
        value = self._values.get("cut")
        return value if isinstance(value, tuple) else (None, "Working it out…")

    @property
    def joins(self) -> dict[str, Holding]:
        """How the letters of every element hold that is joined or tied, by the element's id."""
        value = self._values.get("joins")
        return value if isinstance(value, dict) else {}

    @property
    def drawing(self) -> DrawingLook | None:
        """What there is to decide about the drawing in hand."""
        value: DrawingLook | None = self._values.get("drawing")
        return value

    @property
    def picture(self) -> PictureLook | None:
        """What there is to decide about the picture in hand."""
        from vivid_thimble.core.edits.pictures import PictureLook

        value = self._values.get("picture")
        return value if isinstance(value, PictureLook) else None

    @property
    def portrait(self) -> PortraitLook | None:
        """What there is to decide about the line portrait in hand."""
        from vivid_thimble.core.edits.pictures import PortraitLook

        value = self._values.get("picture")
        return value if isinstance(value, PortraitLook) else None

    def has(self, name: Name) -> bool:
        """Whether the answer for the present result is there (it may be that there is nothing to say)."""
        return name in self._values

    def stop(self) -> None:
        """End the thread; a running computation is waited for."""
        self._wanted = {}
        self._errands.stop()

    def _ask(self) -> None:
        """Forget what belongs to an older result, and start on the first wanted thing that is missing."""
        result = self._session.result
        for name in list(self._values):
            if result is None or self._keys.get(name) != self._key(name, result):
                del self._values[name]
                self.changed.emit(name)
        if self._errands.is_busy or result is None:
            return
        wanted = frozenset().union(*self._wanted.values())
        missing = sorted(n for n in wanted if n not in self._values and (n in IN_HAND or result.bounds is not None))
        if missing:
            name = missing[0]
            key = self._key(name, result)
            self._errands.run(self._work(name, result), partial(self._take, name, key))

    def _key(self, name: Name, result: ItemResult) -> tuple[object, ...]:
        if name == "picture":
            shown = self._picture_in_hand()
            return (name,) if shown is None else (name, *shown)
        if name == "cut":
            return name, result, self._session.job.carrier
        if name != "drawing":
            return _key(name, result)
        found = self._drawing_in_hand()
        if found is None:
            return (name,)
        artwork, placement = found
        sized_by = placement if artwork.lines == "widened" else None
        return name, replace(artwork, provenance=Provenance()), sized_by

    def _work(self, name: Name, result: ItemResult) -> Callable[[], Any]:
        if name == "cut":
            return partial(cut_or_refusal, result, 0, self._session.job.carrier)
        if name not in IN_HAND:
            return _work(name, result)
        assets, cache = dict(self._session.assets), self._session.cache
        if name == "picture":
            shown = self._picture_in_hand()
            return lambda: None if shown is None else _picture_looked_at(*shown, assets, cache)
        found = self._drawing_in_hand()
        return lambda: None if found is None else _looked_at(*found, assets, cache)

    def _picture_in_hand(self) -> tuple[Picture | LinePortrait, Placement] | None:
        """The chosen picture and how it is sized, wherever it lies."""
        element = self._session.evaluated(self._session.chosen)
        if element is None or not isinstance(element.source, Picture | LinePortrait):
            return None
        return element.source, replace(element.placement, dx=0.0, dy=0.0, turn_deg=0.0)

    def _drawing_in_hand(self) -> tuple[Artwork, Placement] | None:
        """The chosen drawing and how it is sized."""
        element = self._session.evaluated(self._session.chosen)
        if element is None or not isinstance(element.source, Artwork):
            return None
        return element.source, element.placement

    def _take(self, name: Name, key: tuple[object, ...], value: object) -> None:
        if isinstance(value, Failed):  # a view may stay empty; the window must not fall
            log.error("%s could not be computed", name, exc_info=value.error)
            value = None
        result = self._session.result
        if result is not None and key == self._key(name, result):
            self._keys[name], self._values[name] = key, value
            self.changed.emit(name)
        self._ask()


def cut_or_refusal(result: ItemResult, film: int, carrier: Carrier) -> tuple[Cut | None, str]:
    """A film as it is cut on a carrier, or the sentence why it cannot be."""
    from vivid_thimble.core.evaluate.results import cut_of

    try:
        return cut_of(result.layers[film], result.item, carrier), ""
    except ThimbleError as error:
        return None, str(error)


def _key(name: Name, result: ItemResult) -> tuple[object, ...]:
    if name == "on item":
        return name, result
    layer = result.layers[0]
    item = result.item
    sheet = item.surround, item.frame, item.register, item.weeding_box
    if name == "weeding":
        return name, *((la.key, la.layer.film) for la in result.layers), item.method, *sheet, item.weeding_flipped
    return name, layer.key, layer.layer.film, item.method, *sheet, item.surface


def _work(name: Name, result: ItemResult) -> Callable[[], Any]:
    from vivid_thimble.core.evaluate.recipe import limits_of
    from vivid_thimble.core.inspect.lost import lost_details  # here: these bring the numeric libraries
    from vivid_thimble.core.inspect.thickening import smallest_thickening
    from vivid_thimble.core.room.front_view import seen_from_front
    from vivid_thimble.core.widths.widthmap import width_map

    layer = result.layers[0]
    if name == "weeding":
        return lambda: result.weedings
    if name == "on item":
        return lambda: seen_from_front(result.item, _level_films(result))
    if name == "joins":
        return lambda: _joins(result)
    limits, polygons = limits_of(layer.layer.film), layer.kept.polygons
    if name == "widths":
        return lambda: width_map(polygons, limits.line, limits.gap)
    if name == "lost":
        return lambda: lost_details(layer.design.polygons, SURFACES[result.item.surface].detail)
    return lambda: smallest_thickening(polygons, layer.inspection, limits, is_sheet=result.item.is_stencil)


def _level_films(result: ItemResult) -> tuple[MultiPolygon, ...]:
    """The films as they lie on the level rectangle; a bent sheet is laid level again."""
    films = []
    for layer in result.layers:
        bend = layer.bend
        polygons = layer.kept.polygons
        films.append(polygons if bend is None else shapely.transform(polygons, bend.undone))
    return tuple(films)


def _looked_at(artwork: Artwork, placement: Placement, assets: dict[str, bytes], cache: Cache) -> DrawingLook | None:
    """None when the drawing yields nothing: its element tells why."""
    from vivid_thimble.core.edits.drawings import look_at

    try:
        return look_at(artwork, placement, assets, cache)
    except ThimbleError:
        return None


def _picture_looked_at(
    picture: Picture | LinePortrait, placement: Placement, assets: dict[str, bytes], cache: Cache
) -> PictureLook | PortraitLook | None:
    """None when the picture yields nothing: its element tells why."""
    from vivid_thimble.core.edits.pictures import look_at_picture, look_at_portrait

    try:
        if isinstance(picture, LinePortrait):
            return look_at_portrait(picture, placement, assets, cache)
        return look_at_picture(picture, placement, assets, cache)
    except ThimbleError:
        return None


def _joins(result: ItemResult) -> dict[str, Holding]:
    """How the letters hold as each element's steps leave them."""
    from vivid_thimble.core.evaluate.elements import align_of
    from vivid_thimble.core.steps.holding import holding_of

    found = {}
    for layer in result.layers:
        for element in layer.elements:
            holding = holding_of(element.letters, element.element.steps, align_of(element.element))
            if holding is not None:
                found[element.element.id] = holding
    return found
