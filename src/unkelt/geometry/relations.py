"""Where a shape's middle is, what lies in it, what of it is nearest, and where two lines meet: exact on the curves."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from unkelt.geometry.cells import winding_numbers
from unkelt.geometry.flatten import flatten
from unkelt.geometry.measure import derivative, evaluate, segment_bounds, signed_areas
from unkelt.geometry.path import Floats, Ints, Path
from unkelt.geometry.shape import ring_shapes

MEETING_MM = 1e-9
"""Two curves meet where they come this near."""

SAME_PLACE_MM = 1e-4
"""Meetings nearer to each other are one: where curves touch, a gap of 1e-9 mm leaves the place open by about so much.
"""

PIECES = 24
"""Straight pieces that each segment is looked at with before Newton's method takes over."""


@dataclass(frozen=True, slots=True)
class Meeting:
    """Where segment `first` of one path, at parameter `s`, meets segment `second` of another, at `t`; the place in
    mm.
    """

    first: int
    s: float
    second: int
    t: float
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class Nearest:
    """The nearest place on a path: its segment, the parameter there, the place and how far it is (mm)."""

    segment: int
    t: float
    x: float
    y: float
    distance_mm: float


def centroid(path: Path) -> tuple[float, float] | None:
    """The centre of mass of what the rings enclose, each counted by its sense, so that counters take away; None without
    area.

    Exact for Béziers, by Green's theorem (geometry/shape.py); open subpaths count as closed by a chord.
    """
    if not len(path):
        return None
    areas, shapes = signed_areas(path), ring_shapes(path)
    total = float(areas.sum())
    whole = np.isfinite(shapes.centre)
    if abs(total) < 1e-12:
        return None
    middle = complex((areas[whole] * shapes.centre[whole]).sum() / total)
    return middle.real, middle.imag


def winding(path: Path, points: Floats, chord_mm: float = 1e-4) -> Ints:
    """(p,) how often the path runs around each of points (p, 2), counter-clockwise as seen counted positive.

    Told on polylines that stray by no more than `chord_mm`: right for points farther than that from the line.
    """
    vertices, owner = flatten(path, chord_mm)
    rings = [vertices[owner == index] for index in range(len(path))]
    closed = [ring if (ring[0] == ring[-1]).all() else np.concatenate([ring, ring[:1]]) for ring in rings]
    return winding_numbers(closed, np.asarray(points, float).reshape(-1, 2))


def contains(path: Path, x: float, y: float, *, even_odd: bool = False) -> bool:
    """Whether a point lies in the fill, by one rule or the other."""
    number = int(winding(path, np.array([[x, y]]))[0])
    return number % 2 != 0 if even_odd else number != 0


def nearest(path: Path, x: float, y: float) -> Nearest | None:
    """The nearest place on the curves: by pieces first, then by Newton's method on (P(t) - p) · P'(t) = 0, to 1e-10
    mm.
    """
    if not len(path):
        return None
    cubics, place = path.cubics(), np.array([x, y])
    t = np.linspace(0, 1, PIECES + 1)
    away = np.linalg.norm(evaluate(cubics, t[None, :].repeat(len(cubics), 0)) - place, axis=2)
    # A curve is no nearer than its nearest sample less half a piece's length: only such segments are looked at.
    reach = np.linalg.norm(np.diff(cubics, axis=1), axis=2).sum(axis=1) / PIECES
    best: Nearest | None = None
    for segment in np.flatnonzero(away.min(axis=1) - reach <= away.min()).tolist():
        lowest = np.flatnonzero(away[segment] <= away[segment].min() + reach[segment])
        for start in t[lowest].tolist():
            at, off = _foot(cubics[segment], place, start)
            if best is None or off < best.distance_mm:
                px, py = evaluate(cubics[segment][None], np.array([[at]]))[0, 0].tolist()
                best = Nearest(segment, at, px, py, off)
    return best


def _foot(cubic: Floats, place: NDArray[np.float64], t: float) -> tuple[float, float]:
    second = 6 * (cubic[:-2] - 2 * cubic[1:-1] + cubic[2:])
    for _ in range(24):
        away = evaluate(cubic[None], np.array([[t]]))[0, 0] - place
        speed = derivative(cubic[None], np.array([[t]]))[0, 0]
        bend = second[0] * (1 - t) + second[1] * t
        slope = float(speed @ speed + away @ bend)
        step = float(away @ speed) / slope if slope > 0 else float(np.sign(away @ speed)) * 0.02
        new = min(max(t - min(max(step, -0.1), 0.1), 0.0), 1.0)
        if abs(new - t) < 1e-15:
            break
        t = new
    return t, float(np.linalg.norm(evaluate(cubic[None], np.array([[t]]))[0, 0] - place))


def meetings(a: Path, b: Path) -> list[Meeting]:
    """All places where two paths meet, each once, to 1e-9 mm: crossings, touching, ends that lie on the other.

    Pairs of segments whose boxes meet are looked at by straight pieces; each near pair of pieces starts Newton's method
    on P(s) = Q(t), or least squares where the curves touch. Stretches that two curves have in common give their ends;
    `geometry/boolean/shared.py` tells what lies between.
    """
    if not len(a) or not len(b):
        return []
    one, other = a.cubics(), b.cubics()
    boxes = [shapely.box(*bounds.reshape(len(bounds), 4).T) for bounds in (segment_bounds(a), segment_bounds(b))]
    tree = shapely.STRtree(boxes[1])
    first, second = tree.query(boxes[0], predicate="dwithin", distance=MEETING_MM)
    found: list[Meeting] = []
    for i, j in zip(first.tolist(), second.tolist(), strict=True):
        for s, t in _starts(one[i], other[j]):
            met = _refined(one[i], other[j], s, t)
            if met is not None:
                x, y = evaluate(one[i][None], np.array([[met[0]]]))[0, 0].tolist()
                found.append(Meeting(i, met[0], j, met[1], x, y))
    return _once(found)


def _starts(p: Floats, q: Floats) -> list[tuple[float, float]]:
    """Parameters at which pieces of two cubics come near each other."""
    t = np.linspace(0, 1, PIECES + 1)
    a, b = evaluate(p[None], t[None])[0], evaluate(q[None], t[None])[0]
    mid_a, mid_b = (a[:-1] + a[1:]) / 2, (b[:-1] + b[1:]) / 2
    half_a = np.linalg.norm(np.diff(a, axis=0), axis=1) / 2
    half_b = np.linalg.norm(np.diff(b, axis=0), axis=1) / 2
    bow = max(_bow(p), _bow(q)) / PIECES**2
    gap = np.linalg.norm(mid_a[:, None] - mid_b[None], axis=2)
    rows, columns = np.nonzero(gap <= half_a[:, None] + half_b[None] + 2 * bow + MEETING_MM)
    step = 1 / PIECES
    return [((i + 0.5) * step, (j + 0.5) * step) for i, j in zip(rows.tolist(), columns.tolist(), strict=True)]


def _bow(p: Floats) -> float:
    """How far a cubic may stray from a chord, times the square of the number of pieces."""
    return float(np.linalg.norm(p[:-2] - 2 * p[1:-1] + p[2:], axis=1).max()) * 0.75


def _refined(p: Floats, q: Floats, s: float, t: float) -> tuple[float, float] | None:
    for _ in range(60):
        off = evaluate(p[None], np.array([[s]]))[0, 0] - evaluate(q[None], np.array([[t]]))[0, 0]
        if math.hypot(*off) <= 1e-13 * (1 + abs(p).max()):
            break
        u, v = derivative(p[None], np.array([[s]]))[0, 0], derivative(q[None], np.array([[t]]))[0, 0]
        # Damped least squares: exact where the curves cross, still convergent where they touch.
        m = np.array([[u @ u, -(u @ v)], [-(u @ v), v @ v]])
        m += np.eye(2) * 1e-14 * float(np.trace(m))
        try:
            ds, dt = np.linalg.solve(m, np.array([-(u @ off), v @ off]))
        except np.linalg.LinAlgError:
            return None
        new = min(max(s + float(ds), 0.0), 1.0), min(max(t + float(dt), 0.0), 1.0)
        if abs(new[0] - s) < 1e-16 and abs(new[1] - t) < 1e-16:
            break
        s, t = new
    off = evaluate(p[None], np.array([[s]]))[0, 0] - evaluate(q[None], np.array([[t]]))[0, 0]
    return (s, t) if math.hypot(*off) <= MEETING_MM else None


def _once(found: list[Meeting]) -> list[Meeting]:
    """Each place once: starts that lead to the same one, and nodes at which two segments end, give it several times."""
    kept: list[Meeting] = []
    for meeting in sorted(found, key=lambda m: (m.first, m.s, m.second, m.t)):
        if all(math.hypot(meeting.x - other.x, meeting.y - other.y) > SAME_PLACE_MM for other in kept):
            kept.append(meeting)
    return kept
