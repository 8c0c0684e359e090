"""The controls of the made-up source."""

from __future__ import annotations

from vivid_thimble.core.sources.star import Star

from vivid_thimble.core.job.edits import free_id
from vivid_thimble.core.job.values import Element, Job, Placement
from vivid_thimble.desktop.session.session import Session
from vivid_thimble.desktop.stations.gather.source_panel import SourcePanel
from vivid_thimble.desktop.widgets.number_field import FigureField


class StarPanel(SourcePanel):
    ADD = ("Add a star", "Add a s&tar", "addStar")

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.points = FigureField("Points", "starPoints", "", 3.0, 24.0)
        self.points.committed.connect(lambda v: self.change_source(Star, "Points", points=round(v)))
        self.row("&Points", self.points)

    @staticmethod
    def fresh(job: Job) -> Element:
        return Element(id=free_id("star", job), name="Star", source=Star(), placement=Placement(width=60.0))

    def show_source(self, source: Star) -> None:
        self.points.set_value(float(source.points))
