"""Nested transforms, viewports and view boxes against matrices worked out by the formulas of SVG 2 chapter 8."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vivid_thimble.core.formats.svg_read import read_svg

CORNERS = np.array([[1.0, 2.0], [11.0, 2.0], [11.0, 7.0], [4.0, 9.0]])
FIGURE = st.floats(-50, 50).map(lambda x: round(x, 3))
FACTOR = st.sampled_from([-2.0, -1.0, 0.25, 0.5, 1.5, 3.0])
ANGLE = st.floats(-180, 180).map(lambda x: round(x, 2))
STEPS = st.one_of(
    st.tuples(st.just("translate"), st.tuples(FIGURE) | st.tuples(FIGURE, FIGURE)),
    st.tuples(st.just("scale"), st.tuples(FACTOR) | st.tuples(FACTOR, FACTOR)),
    st.tuples(st.just("rotate"), st.tuples(ANGLE) | st.tuples(ANGLE, FIGURE, FIGURE)),
    st.tuples(st.sampled_from(["skewX", "skewY"]), st.tuples(st.floats(-60, 60).map(lambda x: round(x, 2)))),
    st.tuples(st.just("matrix"), st.tuples(FACTOR, FACTOR, FIGURE, FACTOR, FIGURE, FIGURE)),
)
ALIGNMENTS = [f"x{x}Y{y}" for x in ("Min", "Mid", "Max") for y in ("Min", "Mid", "Max")]


def shift(x: float, y: float) -> np.ndarray:
    return np.array([[1, 0, x], [0, 1, y], [0, 0, 1]], dtype=float)


def stretch(x: float, y: float) -> np.ndarray:
    return np.diag([x, y, 1.0])


def matrix_of(name: str, figures: tuple[float, ...]) -> np.ndarray:
    if name == "translate":
        return shift(figures[0], figures[1] if len(figures) > 1 else 0.0)
    if name == "scale":
        return stretch(figures[0], figures[-1])
    if name == "rotate":
        c, s = math.cos(math.radians(figures[0])), math.sin(math.radians(figures[0]))
        turn = np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])
        return shift(*figures[1:]) @ turn @ shift(-figures[1], -figures[2]) if len(figures) > 1 else turn
    if name == "matrix":
        a, b, c, d, e, f = figures
        return np.array([[a, c, e], [b, d, f], [0, 0, 1]])
    tangent = math.tan(math.radians(figures[0]))
    return np.array([[1, tangent if name == "skewX" else 0, 0], [tangent if name == "skewY" else 0, 1, 0], [0, 0, 1]])


def mapped(matrix: np.ndarray, points: np.ndarray) -> np.ndarray:
    return points @ matrix[:2, :2].T + matrix[:2, 2]


def view_matrix(box: tuple[float, ...], width: float, height: float, align: str, meet: bool) -> np.ndarray:
    across, down = width / box[2], height / box[3]
    if align == "none":
        return stretch(across, down) @ shift(-box[0], -box[1])
    scale = min(across, down) if meet else max(across, down)
    share = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
    x = share[align[1:4]] * (width - scale * box[2])
    y = share[align[5:8]] * (height - scale * box[3])
    return shift(x, y) @ stretch(scale, scale) @ shift(-box[0], -box[1])


def corners_read(svg: str) -> np.ndarray:
    """The corners of the only shape of a drawing, in its own pixels."""
    (part,) = read_svg(svg.encode()).parts
    (contour,) = part.lines.contours
    return contour.segments[:, 0]


SHAPE = '<polygon points="' + " ".join(f"{x},{y}" for x, y in CORNERS) + '"/>'


def written(steps: list) -> str:
    return " ".join(f"{name}({', '.join(map(str, figures))})" for name, figures in steps)


@given(st.lists(st.lists(STEPS, min_size=1, max_size=3), min_size=1, max_size=4))
@settings(max_examples=80, deadline=None)
def test_lists_of_transforms_in_nested_groups_are_multiplied_in_their_order(groups: list) -> None:
    matrix = np.eye(3)
    for steps in groups:
        for name, figures in steps:
            matrix = matrix @ matrix_of(name, figures)
    opened = "".join(f'<g transform="{written(steps)}">' for steps in groups)
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" width="90" height="90">{opened}{SHAPE}{"</g>" * len(groups)}</svg>'
    expected = mapped(matrix, CORNERS)
    assert np.allclose(corners_read(svg), expected, rtol=1e-9, atol=1e-6 * (1 + np.abs(expected).max()))


@given(
    st.tuples(FIGURE, FIGURE, st.floats(5, 90), st.floats(5, 90)),
    st.floats(10, 300),
    st.floats(10, 300),
    st.sampled_from([*ALIGNMENTS, "none"]),
    st.booleans(),
    st.booleans(),
)
@settings(max_examples=80, deadline=None)
def test_view_boxes_are_fitted_as_their_alignment_says(
    box: tuple[float, ...], width: float, height: float, align: str, meet: bool, nested: bool
) -> None:
    view = (
        f'viewBox="{box[0]} {box[1]} {box[2]!r} {box[3]!r}" preserveAspectRatio="{align} {"meet" if meet else "slice"}"'
    )
    size = f'width="{width!r}" height="{height!r}"'
    space = 'xmlns="http://www.w3.org/2000/svg"'
    matrix = view_matrix(box, width, height, align, meet)
    if nested:
        svg = f'<svg {space} width="900" height="900"><svg x="7" y="-3" {size} {view} overflow="visible">{SHAPE}</svg></svg>'
        matrix = shift(7, -3) @ matrix
        assert np.allclose(corners_read(svg), mapped(matrix, CORNERS), atol=1e-6)
        return
    drawing = read_svg(f"<svg {space} {size} {view}>{SHAPE}</svg>".encode())
    corners = drawing.parts[0].lines.contours[0].segments[:, 0]
    found, expected = corners - corners[0], mapped(matrix, CORNERS) - mapped(matrix, CORNERS[:1])
    assert drawing.page is not None
    wide = drawing.page[2] - drawing.page[0]  # the drawing's unit is its own; the page tells how large that is
    assert np.allclose(found * width / wide, expected, atol=1e-6 * (1 + np.abs(expected).max()))


@pytest.mark.parametrize("text", ["translate(5", "rotate(a)", "scale()", "turn(4)", "matrix(1 2 3)"])
def test_a_transform_that_cannot_be_read_leaves_the_shape_where_it_is(text: str) -> None:
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" width="90" height="90"><g transform="{text}">{SHAPE}</g></svg>'
    assert np.allclose(corners_read(svg), CORNERS)
