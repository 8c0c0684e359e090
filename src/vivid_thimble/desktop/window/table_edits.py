"""What a person wishes by hand on the table, as edits of the job: moving, sizing, turning, guides, the menu."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, QPoint
from PySide6.QtWidgets import QMenu

from vivid_thimble.core.bridging.plan import Bridge
from vivid_thimble.core.edits.arrange import aligned, boxes_of, moved, resized, stretched, turned
from vivid_thimble.core.edits.bridges import with_bridge
from vivid_thimble.core.edits.linked import with_copies
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.edits import with_item
from vivid_thimble.core.job.values import Guide, elements_of, steps_of
from vivid_thimble.core.steps import Bridges, of_kind
from vivid_thimble.desktop.look.words import tr

if TYPE_CHECKING:
    from vivid_thimble.desktop.window.window import MainWindow


class TableWishes(QObject):
    """Joins the table of a window with its session."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.window, self.session, self.table = window, window.session, window.table
        table = self.table
        table.moved.connect(self.move)
        table.resized.connect(self.resize)
        table.turned.connect(self.turn)
        table.grown.connect(self.grow)
        table.element_pressed.connect(self.session.press)
        table.also_pressed.connect(self.session.pick_also)
        table.picked.connect(self.session.pick)
        table.bridge_placed.connect(self.place_bridge)
        table.guide_placed.connect(self.place_guide)
        table.menu_wanted.connect(self.open_menu)
        table.delete_wanted.connect(self.take_out)

    def move(self, dx: float, dy: float) -> None:
        picked = self.session.picked
        if picked:
            self.session.change("Move", moved(self.session.job, picked, dx, dy), merge=f"move {' '.join(picked)}")

    def resize(self, factors: tuple[float, float], about: tuple[float, float]) -> None:
        picked = self.session.picked
        if picked:
            self.session.change("Size of the element", stretched(self.session.job, picked, *factors, about))

    def turn(self, angle_deg: float) -> None:
        """What is in hand, about the middle of its box."""
        box, picked = self.table.arranging.box(), self.session.picked
        if box is not None and picked:
            about = (box[0] + box[2]) / 2.0, (box[1] + box[3]) / 2.0
            job = turned(self.session.job, picked, angle_deg, about)
            self.session.change("Turn", job, merge=f"turn {' '.join(picked)}")

    def grow(self, by_mm: float) -> None:
        """What is in hand, wider by so many mm about its middle."""
        box, picked = self.table.arranging.box(), self.session.picked
        if box is None or not picked or box[2] - box[0] + by_mm < 1.0:
            return
        about = (box[0] + box[2]) / 2.0, (box[1] + box[3]) / 2.0
        factor = (box[2] - box[0] + by_mm) / (box[2] - box[0])
        job = resized(self.session.job, picked, factor, about)
        self.session.change("Size of the element", job, merge=f"grow {' '.join(picked)}")

    def place_bridge(self, bridge: Bridge, instead_of: int) -> None:
        """A bridge was dragged, turned or added on the table."""
        hands = self.table.bridges
        if hands.found is None:
            return
        number = instead_of if instead_of >= 0 else None
        job = with_bridge(self.session.job, hands.owner, hands.found, bridge, number)
        self.session.change("Place a bridge", job, merge="" if number is None else "slide a bridge")
        bridges = of_kind(steps_of(job, hands.owner), Bridges)
        step = next(one for one in bridges if one.id == hands.found.step.id)
        self.window.trays.shape.steps.bridges.expect(len(step.placed) - len(hands.found.found.unfit) - 1)

    def place_guide(self, before: Guide | None, after: Guide | None) -> None:
        """A guide was pulled out, moved, or put back into its ruler."""
        guides = tuple(one for one in self.session.job.item.guides if one != before)
        if after is not None and after not in guides:
            guides = (*guides, after)
        self.session.change("Guide", with_item(self.session.job, lambda item: replace(item, guides=guides)))

    def take_out(self) -> None:
        """Remove what is in hand from the job."""
        from vivid_thimble.core.edits.drawings import without_element  # here: it brings the readers of drawings

        job = self.session.job
        for one in self.session.picked:
            if any(element.id == one for element in elements_of(job.item)):
                job = without_element(job, one)
        self.session.change("Remove", job)

    def pick_all(self) -> None:
        self.session.pick([element.id for element in elements_of(self.session.job.item)])

    # -- menu -----------------------------------------------------------------------

    def open_menu(self, at: QPoint, element_id: str) -> None:
        """What can be done with what is in hand, or with the table."""
        if element_id:
            self.session.press(element_id)
        menu = QMenu(self.window)
        menu.setObjectName("tableMenu")
        if self.session.picked and element_id:
            self._fill_for_elements(menu)
        else:
            self._fill_for_table(menu)
        menu.aboutToHide.connect(menu.deleteLater)
        menu.popup(at)

    def _fill_for_elements(self, menu: QMenu) -> None:
        window, several = self.window, len(self.session.picked) > 1
        menu.addAction(tr("Change what it is (Gather)"), partial(window.go_to, "gather")).setEnabled(not several)
        menu.addAction(tr("Shape it"), partial(window.go_to, "shape"))
        menu.addSeparator()
        menu.addAction(tr("Centre across the item"), partial(self._align, "middle"))
        menu.addAction(tr("Centre up and down"), partial(self._align, "centre"))
        menu.addAction(tr("Turn by a quarter"), partial(self.turn, 90.0))
        menu.addSeparator()
        menu.addAction(tr("Linked copy"), partial(self._copy, mirrored=False))
        menu.addAction(tr("Mirrored copy"), partial(self._copy, mirrored=True))
        menu.addAction(tr("Show it large"), self.table.zoom_to_held)
        menu.addSeparator()
        menu.addAction(tr("Take it out" if not several else "Take them out"), self.take_out)

    def _fill_for_table(self, menu: QMenu) -> None:
        table, files = self.table, self.window.files
        menu.addAction(tr("Paste words, drawing or picture"), files.paste)
        menu.addAction(tr("Take everything in hand"), self.pick_all)
        menu.addSeparator()
        menu.addAction(tr("Whole item"), table.zoom_to_fit)
        menu.addAction(tr("True size"), table.zoom_to_true_size)
        tape = menu.addAction(tr("Measuring tape"), lambda: table.use_tape(on=not table.tape.on))
        tape.setCheckable(True)
        tape.setChecked(table.tape.on)
        clear = menu.addAction(tr("Take all guides away"), self._clear_guides)
        clear.setEnabled(bool(self.session.job.item.guides))

    def _boxes(self) -> dict[str, Box]:
        return boxes_of(self.session.result, self.session.job) if self.session.result is not None else {}

    def _align(self, line: str) -> None:
        job, boxes = self.session.job, self._boxes()
        for one in self.session.picked:
            job = aligned(job, boxes, [one], "middle" if line == "middle" else "centre")
        self.session.change("Line up", job)

    def _copy(self, *, mirrored: bool) -> None:
        job, made = with_copies(self.session.job, self._boxes(), self.session.picked, mirrored=mirrored)
        self.session.change("Mirrored copy" if mirrored else "Linked copy", job)
        self.session.pick(made)

    def _clear_guides(self) -> None:
        self.session.change("Guides", with_item(self.session.job, lambda item: replace(item, guides=())))
