"""A closed line that is a circle: four quarter arcs."""

from __future__ import annotations

import math

import numpy as np

from unkelt.geometry.arcs import QUARTER_ERROR
from unkelt.geometry.measure import turns_between
from unkelt.geometry.path import CUBIC, Floats, Path


def circle_of(vertices: Floats, budget_mm: float) -> tuple[Path, float] | None:
    """Four quarter arcs with nodes at the extrema, and their bound, where a closed polyline is a circle; else None.

    Least squares by I. Kåsa (1976). The polyline must turn one way, in steps of less than a radius; then its distance
    from the circle is greatest at a vertex or in the middle of an edge, and a quarter arc adds its own error.
    """
    points = vertices[:-1]
    centred = points - points.mean(axis=0)
    matrix = np.column_stack([centred, np.ones(len(centred))])
    a, b, c = np.linalg.lstsq(matrix, (centred * centred).sum(axis=1), rcond=None)[0]
    centre = np.array([a, b]) / 2 + points.mean(axis=0)
    radius = float(np.sqrt(max(0.0, c + (a * a + b * b) / 4)))
    steps = np.diff(vertices, axis=0)
    turns = turns_between(steps, np.roll(steps, -1, axis=0))
    both = np.concatenate([vertices, (vertices[:-1] + vertices[1:]) / 2])
    bound = float(np.abs(np.linalg.norm(both - centre, axis=1) - radius).max()) + QUARTER_ERROR * radius
    one_way = (turns >= 0).all() or (turns <= 0).all()
    if bound > budget_mm or not one_way or np.linalg.norm(steps, axis=1).max() > radius:
        return None
    sense = 1.0 if turns.sum() > 0 else -1.0
    k = 4 / 3 * math.tan(math.pi / 8)
    quarter = np.array([[1, 0], [1, k], [k, 1], [0, 1]]) * radius * [1, sense]
    turn = np.array([[0, sense], [-sense, 0]])
    arcs = np.stack([quarter @ np.linalg.matrix_power(turn, power) for power in range(4)]) + centre
    arcs[:, 3] = np.roll(arcs[:, 0], -1, axis=0)
    return Path(arcs, np.full(4, CUBIC, np.uint8), np.zeros(1, np.intp), np.ones(1, bool)), bound
