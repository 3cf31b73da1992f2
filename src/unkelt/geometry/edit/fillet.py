"""Corners rounded by an arc that touches both sides: what a tool follows without stopping.

The arc's centre lies a radius from both curves, on the inner side of the corner: the two parameters at which it touches
are found by Newton's method on P(s) + r m(s) = Q(t) + r n(t), m and n the inward unit normals (I. Faux, M. Pratt,
Computational Geometry for Design and Manufacture, 1979, on offset intersections). What isn't cut off stays on its
curve.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from unkelt.geometry.arcs import arc_to_cubics
from unkelt.geometry.edit.spikes import corner_angles
from unkelt.geometry.measure import derivative, evaluate, part
from unkelt.geometry.path import CUBIC, LINE, Bools, Floats, Path, PathBuilder, concat

ARC_ERROR_MM = 1e-4
"""How far the cubics of an arc may lie from it."""

STEPS = 40


@dataclass(frozen=True, slots=True)
class Eased:
    """The path, how many corners were rounded and how many had no room for the arc, and the farthest that a corner's
    point lies from its arc, in mm.
    """

    path: Path
    eased: int
    left: int
    cut_mm: float


def corners(path: Path, sharper_deg: float) -> Bools:
    """(n,) whether a corner of less than so many degrees lies at each segment's start."""
    return corner_angles(path) < math.radians(sharper_deg)


def ease(path: Path, chosen: Bools, radius_mm: float) -> Eased:
    """The corners at the chosen segments' starts rounded. One whose sides are too short, or bend away, is left."""
    parts, eased, left, cut = [], 0, 0, 0.0
    for index, (a, b) in enumerate(zip(path.starts.tolist(), path.stops.tolist(), strict=True)):
        subpath = path.subpath(index)
        if not chosen[a:b].any() or (len(subpath.points) < 2 and not subpath.closed[0]):
            parts.append(subpath)
            continue
        made = _ease_subpath(subpath, chosen[a:b], radius_mm)
        parts.append(made.path)
        eased, left, cut = eased + made.eased, left + made.left, max(cut, made.cut_mm)
    return Eased(concat(parts), eased, left, cut)


def _ease_subpath(path: Path, chosen: Bools, radius: float) -> Eased:
    cubics, n = path.cubics(), len(path.points)
    begin, stop = np.zeros(n), np.ones(n)  # what is left of each segment
    arcs: dict[int, tuple[float, float, bool]] = {}
    cut, left = 0.0, 0
    for node in np.flatnonzero(chosen).tolist():
        if node == 0 and not path.closed[0]:
            continue
        before = (node - 1) % n
        found = _touching(cubics[before], cubics[node], radius)
        if found is None or before == node or found[0] <= begin[before] or found[1] >= stop[node]:
            left += 1
            continue
        s, t, clockwise, centre = found
        stop[before], begin[node] = s, t
        arcs[node] = (s, t, clockwise)
        cut = max(cut, float(np.hypot(*(cubics[node, 0] - centre))) - radius)
    builder = PathBuilder()
    end: Floats = path.points[0, 0]
    for k in range(n):
        whole = begin[k] == 0 and stop[k] == 1
        piece = path.points[k] if whole else part(cubics[k], float(begin[k]), float(stop[k]))
        if k == 0:
            builder.move_to(*piece[0])
        elif k in arcs:
            _draw_arc(builder, end, piece[0], radius, arcs[k][2])
        end = piece[3]
        _draw(builder, piece, int(path.degrees[k]), whole)
    if path.closed[0]:
        if 0 in arcs:
            first = part(cubics[0], float(begin[0]), float(stop[0]))[0]
            _draw_arc(builder, end, first, radius, arcs[0][2])
        builder.close()
    else:
        builder.end()
    return Eased(builder.path(), len(arcs), left, cut)


def _draw(builder: PathBuilder, piece: Floats, degree: int, whole: bool) -> None:
    if degree == LINE:
        builder.line_to(*piece[3])
    elif degree == CUBIC or not whole:
        builder.cubic_to(*piece[1], *piece[2], *piece[3])
    else:
        builder.quad_to(*piece[1], *piece[3])


def _draw_arc(builder: PathBuilder, start: Floats, end: Floats, radius: float, clockwise: bool) -> None:
    (x1, y1), (x2, y2) = start.tolist(), end.tolist()
    for cubic in arc_to_cubics(x1, y1, radius, radius, 0, False, clockwise, x2, y2, ARC_ERROR_MM):
        builder.cubic_to(*cubic)


def _touching(one: Floats, other: Floats, radius: float) -> tuple[float, float, bool, NDArray[np.float64]] | None:
    """Where an arc touches the end of one cubic and the start of the next, which way it turns as seen, and its
    centre.
    """
    into, out_of = _tangent(one, 1.0), _tangent(other, 0.0)
    turn = float(into[0] * out_of[1] - into[1] * out_of[0])
    side = 1.0 if turn > 0 else -1.0  # the inner side: y down, a positive turn is clockwise as seen

    def state(s: float, t: float) -> NDArray[np.float64]:
        return _offset(one, s, side * radius) - _offset(other, t, side * radius)

    inner = math.pi - math.atan2(abs(turn), float(into @ out_of))
    back = radius / math.tan(max(inner, 1e-3) / 2)
    s = 1 - back / max(float(np.linalg.norm(derivative(one[None], np.array([1.0]))[0, 0])), 1e-9)
    t = back / max(float(np.linalg.norm(derivative(other[None], np.array([0.0]))[0, 0])), 1e-9)
    s, t = min(max(s, 0.02), 0.98), min(max(t, 0.02), 0.98)
    h = 1e-6
    for _ in range(STEPS):
        now = state(s, t)
        if np.hypot(*now) < 1e-10:
            break
        ds, dt = (state(s + h, t) - now) / h, (state(s, t + h) - now) / h
        determinant = ds[0] * dt[1] - ds[1] * dt[0]
        if abs(determinant) < 1e-14:
            return None
        step_s = (now[0] * dt[1] - now[1] * dt[0]) / determinant
        step_t = (ds[0] * now[1] - ds[1] * now[0]) / determinant
        s, t = s - min(max(step_s, -0.25), 0.25), t - min(max(step_t, -0.25), 0.25)
        if not (-0.5 < s < 1.5 and -0.5 < t < 1.5):
            return None
    if np.hypot(*state(s, t)) > 1e-7 or not (0 < s < 1 and 0 < t < 1):
        return None
    return s, t, side > 0, _offset(one, s, side * radius)


def _offset(cubic: Floats, t: float, distance: float) -> NDArray[np.float64]:
    way = _tangent(cubic, t)
    place = evaluate(cubic[None], np.array([t]))[0, 0]
    return np.array([place[0] - distance * way[1], place[1] + distance * way[0]])


def _tangent(cubic: Floats, t: float) -> NDArray[np.float64]:
    way = derivative(cubic[None], np.array([t]))[0, 0]
    if np.hypot(*way) < 1e-12:  # a handle on its node: the next one says where the curve goes
        near = evaluate(cubic[None], np.array([min(t + 1e-4, 1.0), max(t - 1e-4, 0.0)]))[0]
        way = near[0] - near[1]
    return np.asarray(way / max(float(np.hypot(*way)), 1e-300))
