"""Splines of any degree, clamped or not, with weights or without: exactly where cubics can say them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from ezdxf.math import Matrix44, Vec3

from unkelt.geometry.path import Floats, Path, PathBuilder

Entity = Any
"""Something of ezdxf, which has no types for what is in a file."""

SAME_KNOT = 1e-9
"""Knots closer than this share of all are one."""

MOST_STEPS = 4096


def spline_path(entity: Entity, error: float, matrix: Matrix44) -> Path:
    """The path of a spline in drawing units, seen from above; one through points only as the library draws it.

    Curves of degree three or less without weights are exact, all others polylines within the error. Raises ValueError
    where its knots are none, or its weights leave it nowhere.
    """
    knots, control, weights = _said(entity)
    points = np.array([(point.x, point.y) for point in matrix.transform_vertices(control)]).reshape(-1, 2)
    degree = len(knots) - len(points) - 1
    if degree < 1 or len(points) <= degree or (np.diff(knots) < 0).any():
        raise ValueError("a spline has other knots than its points need")
    rational = len(weights) == len(points) and bool((weights != weights[0]).any())
    raised = np.column_stack([points * weights[:, None], weights]) if rational else points
    builder, at = PathBuilder(), None
    for span in _spans(knots, raised, degree):
        exact = not rational and degree <= 3
        drawn = span if exact else _drawn(span, error, rational=rational)
        if at is None or not np.allclose(at, drawn[0], rtol=0, atol=error):
            builder.move_to(*drawn[0])  # more knots in one place than its degree: it leaps
        if exact:
            (builder.line_to, builder.quad_to, builder.cubic_to)[degree - 1](*drawn[1:].ravel())
        else:
            for point in drawn[1:]:
                builder.line_to(*point)
        at = drawn[-1]
    if entity.closed:
        builder.close()
    return builder.path()


def _said(entity: Entity) -> tuple[Floats, list[Vec3], Floats]:
    """Knots, control points and weights."""
    if not len(entity.control_points):
        tool = entity.construction_tool()
        return np.array(tool.knots()), list(tool.control_points), np.array(tool.weights() or (), float)
    knots, weights = np.array(list(entity.knots), float), np.array(list(entity.weights), float)
    return knots, [Vec3(point) for point in entity.control_points], weights


def _spans(knots: Floats, control: Floats, degree: int) -> Iterator[Floats]:
    """The Bézier points (degree + 1, …) between every two knots: the polar form at so many of either (L. Ramshaw,
    Blossoming, 1987). A spline lies between its knots number `degree` and as many before the last.
    """
    least = SAME_KNOT * (knots[-1] - knots[0])
    for last in range(degree, len(control)):
        begin, end = knots[last], knots[last + 1]
        if end - begin <= least:
            continue
        yield np.stack(
            [_polar(knots, control, degree, last, [begin] * (degree - k) + [end] * k) for k in range(degree + 1)]
        )


def _polar(knots: Floats, control: Floats, degree: int, last: int, at: list[float]) -> Floats:
    """De Boor's recursion at another parameter in each step."""
    points = control[last - degree : last + 1].copy()
    for level in range(1, degree + 1):
        for k in range(degree, level - 1, -1):
            low, high = knots[last - degree + k], knots[last + 1 + k - level]
            share = (at[level - 1] - low) / (high - low)
            points[k] = (1 - share) * points[k - 1] + share * points[k]
    return np.asarray(points[degree])


def _drawn(span: Floats, error: float, *, rational: bool) -> Floats:
    """A polyline along a Bézier curve, its steps halved until none moves by more than the error."""
    steps, drawn = 4, _points(span, 4, rational=rational)
    while steps < MOST_STEPS:
        finer = _points(span, 2 * steps, rational=rational)
        moved = np.linalg.norm(finer[1::2] - (drawn[:-1] + drawn[1:]) / 2, axis=1).max()
        if moved <= error:
            return drawn
        steps, drawn = 2 * steps, finer
    return drawn


def _points(span: Floats, steps: int, *, rational: bool) -> Floats:
    t = np.linspace(0, 1, steps + 1)[:, None, None]
    points = np.broadcast_to(span, (steps + 1, *span.shape))
    while points.shape[1] > 1:
        points = (1 - t) * points[:, :-1] + t * points[:, 1:]
    found = points[:, 0]
    if not rational:
        return np.asarray(found)
    if not (np.abs(found[:, 2]) > 0).all():
        raise ValueError("the weights of a spline leave it nowhere")
    return np.asarray(found[:, :2] / found[:, 2:])
