"""Every geometric tolerance with its unit and its reason, in one place."""

from __future__ import annotations

GRID_MM = 1e-6
"""Booleans run on integers of this size: far below any cutter, far above float noise."""

FILE_PLACES = 6
"""Decimals of lengths in cut files: as fine as the grid, so that parts which touch in a job touch in its file."""

FLATTEN_MM = 0.002
"""Largest distance between a curve and its polygon; leaves 0.018 mm of the output budget."""

FIT_MM = 0.01
"""Certified deviation when a polygon is turned back into curves."""

STROKE_MM = 0.005
"""Largest distance between the exact outline of a pen's stroke and the curves it is given."""

SEAM_MM = 0.02
"""Gaps narrower than this between welded shapes are drawing noise, not waste."""

SHORTEST_EDGE_MM = 0.005
"""A shorter edge of a polygon has no direction of its own: rounding in a file turns it."""

SHORTEST_SEGMENT_MM = 0.01
"""No shorter segment leaves a weld: no cutter follows it, and rounding in a file turns it."""

TOUCH_MM = 1e-5
"""Two points closer than this are the same point."""

LARGEST_LENGTH_MM = 100_000.0
"""No item or design is longer than a hundred metres; larger input is a slip."""
