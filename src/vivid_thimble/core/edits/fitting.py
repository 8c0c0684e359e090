"""A design made as large as fits its room, confirmed on what comes out of it."""

from __future__ import annotations

from vivid_thimble.core.cache import Cache
from vivid_thimble.core.evaluate.recipe import design_bounds
from vivid_thimble.core.geometry.path import Box
from vivid_thimble.core.job.edits import moved_design, scaled_design
from vivid_thimble.core.job.values import Assets, Job
from vivid_thimble.core.room.fit import fitting_box, what_fits

ROUNDS = 6
CLOSE_MM = 1e-3
"""A size is found to within this, and never larger than what fits."""


def fitted_by(job: Job, bounds: Box, margin: float) -> Job:
    """The design of the item in hand, which has these bounds, as large as fits if all of it grows alike.

    It lies in the middle of what is left ``margin`` mm from the edges of the thing; as it is when nothing fits.
    """
    size = bounds[2] - bounds[0], bounds[3] - bounds[1]
    fit, room = what_fits(job.item, size, margin), fitting_box(job.item, margin)
    if fit is None or room is None:
        return job
    factor = fit.width / (bounds[2] - bounds[0])
    x, y = job.item.width / 2.0, job.item.height / 2.0
    home = moved_design(job, x - (bounds[0] + bounds[2]) / 2.0, y - (bounds[1] + bounds[3]) / 2.0)
    return moved_design(scaled_design(home, factor), (room[0] + room[2]) / 2.0 - x, (room[1] + room[3]) / 2.0 - y)


def fitted_design(job: Job, assets: Assets, cache: Cache, margin: float) -> Job:
    """As fitted_by, corrected until what comes out fits: steps keep their lengths."""
    for _ in range(ROUNDS):
        bounds = design_bounds(job, assets, cache)
        if bounds is None:
            return job
        fit = what_fits(job.item, (bounds[2] - bounds[0], bounds[3] - bounds[1]), margin)
        over = 0.0 if fit is None else bounds[2] - bounds[0] - fit.width
        again = fitted_by(job, bounds, margin)
        if again == job or -CLOSE_MM <= over <= 0.0:
            return again
        job = again
    return job
