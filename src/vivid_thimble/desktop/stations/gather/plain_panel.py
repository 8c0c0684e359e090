"""The controls of a plain shape."""

from __future__ import annotations

from msgspec.structs import replace

from vivid_thimble.core.evaluate.results import ElementResult
from vivid_thimble.core.geometry.parts import bounds_of
from vivid_thimble.core.job.edits import free_id, with_element
from vivid_thimble.core.job.values import Element, Job, Placement, source_as
from vivid_thimble.core.sources.plain import Plain
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.gather.source_panel import FRESH_SHARE, SourcePanel
from vivid_thimble.desktop.widgets.number_field import FigureField, NumberField

FORMS = (("rectangle", "Rectangle"), ("ellipse", "Circle or ellipse"), ("pennant", "Pennant"), ("diamond", "Diamond"))


class PlainPanel(SourcePanel):
    """Form, size and corners of the plain shape in hand."""

    ADD = ("Add a plain shape", "Add a pl&ain shape", "addPlain")
    OVER = "The plate lies over what is there. To knock words out of it: Shape, Steps, Slice, and tick the words."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.section("Plain shape")
        self.form = self.choice("plainForm", FORMS, lambda key: self.change_source(Plain, "Form", form=key))
        self.row("For&m", self.form)
        self.wide = NumberField("Width of the shape", "plainWidth")
        self.wide.committed.connect(lambda mm: self._size(0, mm))
        self.row("&Width", self.wide)
        self.high = NumberField("Height of the shape", "plainHeight")
        self.high.committed.connect(lambda mm: self._size(1, mm))
        self.row("&Height", self.high)
        self.corner = FigureField("Roundness of the corners", "plainCorner", " %", 0.0, 100.0)
        self.corner.committed.connect(lambda v: self.change_source(Plain, "Corners", corner=v / 100.0))
        self.row("&Corners", self.corner)
        self.band = FigureField("Width of the band", "plainBand", " % of the width", 0.0, 49.0)
        self.band.committed.connect(lambda v: self.change_source(Plain, "Band", band=v / 100.0))
        self.row("&Band only", self.band)
        self.hint("A plate to knock words out of, a frame, a disc. 0 % of band: the shape is full.")

    @staticmethod
    def fresh(job: Job) -> Element:
        """A plate that takes most of the item."""
        wide, high = job.item.width * FRESH_SHARE, job.item.height * FRESH_SHARE
        source = Plain(ratio=high / wide, corner=0.2)
        return Element(id=free_id("plain", job), name="Plate", source=source, placement=Placement(width=wide))

    def show_source(self, plain: Plain) -> None:
        self.form.setCurrentIndex(self.form.findData(plain.form))
        self.corner.set_value(plain.corner * 100.0)
        self.band.set_value(plain.band * 100.0)
        for field in (self.wide, self.high):
            field.set_unit(self.session.job.unit)

    def show_result(self, element: ElementResult | None) -> None:
        box = bounds_of(element.letters) if element is not None else None
        self.wide.set_value(box[2] - box[0] if box else None)
        self.high.set_value(box[3] - box[1] if box else None)

    def _size(self, axis: int, mm: float) -> None:
        """The width or height alone, the other stays."""
        wide, high = self.wide.value or mm, self.high.value or mm

        def sized(element: Element) -> Element:
            plain = source_as(element, Plain)
            if plain is None:
                return element
            now = (mm, high) if axis == 0 else (wide, mm)
            source = replace(plain, ratio=now[1] / now[0])
            return replace(element, source=source, placement=element.placement.sized(width=now[0]))

        self.session.change("Size of the shape", with_element(self.session.job, self.session.chosen, sized))
