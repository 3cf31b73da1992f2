"""The shapes of DXF entities, as paths in drawing units, y up. Codes as in the DXF reference ("DXF group codes",
"ENTITIES section"; from memory).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence

import numpy as np
import scipy
from fontTools.misc.transform import Transform

from unkelt.geometry.path import EMPTY, Floats, Path, PathBuilder, concat, polygon
from unkelt.proof.dxf_tags import Entity, Pair

QUARTER = math.pi / 4
"""Arcs are drawn as cubics of no more than this angle: at a radius of 1 m they stray by less than 5 µm."""

CLOSED_MM = 1e-6
"""Ends no further apart are one, in drawing units."""


def _line(entity: Entity) -> Path:
    builder = PathBuilder()
    builder.move_to(entity.number(10), entity.number(20))
    builder.line_to(entity.number(11), entity.number(21))
    return builder.path()


def _circle(entity: Entity) -> Path:
    return _arc_path((entity.number(10), entity.number(20)), entity.number(40), 0.0, math.tau, closed=True)


def _arc(entity: Entity) -> Path:
    start, end = math.radians(entity.number(50)), math.radians(entity.number(51))
    return _arc_path(
        (entity.number(10), entity.number(20)), entity.number(40), start, (end - start) % math.tau or math.tau
    )


def _arc_path(centre: tuple[float, float], radius: float, start: float, sweep: float, *, closed: bool = False) -> Path:
    builder = PathBuilder()
    builder.move_to(centre[0] + radius * math.cos(start), centre[1] + radius * math.sin(start))
    _add_arc(builder, centre, radius, start, sweep)
    if closed:
        builder.close()
    return builder.path()


def _add_arc(builder: PathBuilder, centre: tuple[float, float], radius: float, start: float, sweep: float) -> None:
    """Cubics around a centre; their handles are 4/3 tan(angle/4) of the radius long."""
    steps = max(1, math.ceil(abs(sweep) / QUARTER - 1e-9))
    k = radius * 4 / 3 * math.tan(sweep / steps / 4)
    for step in range(steps):
        a, b = start + sweep * step / steps, start + sweep * (step + 1) / steps
        (x0, y0), (x1, y1) = ((centre[0] + radius * math.cos(t), centre[1] + radius * math.sin(t)) for t in (a, b))
        builder.cubic_to(x0 - k * math.sin(a), y0 + k * math.cos(a), x1 + k * math.sin(b), y1 - k * math.cos(b), x1, y1)


def _ellipse(entity: Entity) -> Path:
    """A circle of radius 1 along both axes, as they are seen from above."""
    major = np.array([entity.number(11), entity.number(21), entity.number(31)])
    normal = np.array([entity.number(210), entity.number(220), entity.number(230, 1.0)])
    minor = np.cross(normal / np.linalg.norm(normal), major) * entity.number(40, 1.0)
    start, end = entity.number(41), entity.number(42, math.tau)
    sweep = (end - start) % math.tau or math.tau
    unit = _arc_path((0.0, 0.0), 1.0, start, sweep, closed=abs(sweep - math.tau) < 1e-9)
    axes = *major[:2].tolist(), *minor[:2].tolist()
    return unit.transformed(Transform(*axes, entity.number(10), entity.number(20)))


def _lwpolyline(entity: Entity) -> Path:
    places: list[list[float]] = []
    for code, value in entity.pairs:
        if code == 10:
            places.append([float(value), 0.0, 0.0])
        elif code == 20 and places:
            places[-1][1] = float(value)
        elif code == 42 and places:
            places[-1][2] = float(value)
    return _with_bulges(places, closed=bool(int(entity.number(70)) & 1))


def _point(entity: Entity) -> Path:
    return polygon((entity.number(10), entity.number(20)), closed=False)


def _corners(*codes: int) -> Callable[[Entity], Path]:
    """An area of four corners; of three where the last two are one."""

    def path(entity: Entity) -> Path:
        corners = [(entity.number(code), entity.number(code + 10)) for code in codes if entity.says(code)]
        return polygon(*dict.fromkeys(corners)) if len(set(corners)) > 2 else EMPTY

    return path


MESH = 16 | 64
"""Bits of a polyline that is a net of faces."""

FRAME = 16
"""The bit of a vertex that a curve was fitted to and that isn't on it."""


def _polyline(entity: Entity) -> Path:
    if int(entity.number(70)) & MESH:
        return EMPTY
    on_it = [vertex for vertex in entity.vertices if not int(vertex.number(70)) & FRAME]
    places = [[vertex.number(10), vertex.number(20), vertex.number(42)] for vertex in on_it]
    return _with_bulges(places, closed=bool(int(entity.number(70)) & 1))


def _with_bulges(places: Sequence[Sequence[float]], *, closed: bool) -> Path:
    """Straight pieces, and arcs where a bulge says so: the tangent of a quarter of the arc's angle."""
    if len(places) < 2:
        return EMPTY
    builder = PathBuilder()
    builder.move_to(places[0][0], places[0][1])
    following = [*places[1:], places[0]] if closed else places[1:]
    for (x0, y0, bulge), (x1, y1, _) in zip(places, following, strict=False):
        if not bulge:
            builder.line_to(x1, y1)
            continue
        sweep = 4 * math.atan(bulge)
        half = math.hypot(x1 - x0, y1 - y0) / 2
        radius = half / abs(math.sin(sweep / 2))
        rise = half / math.tan(sweep / 2)
        ux, uy = (x1 - x0) / (2 * half), (y1 - y0) / (2 * half)
        centre = (x0 + x1) / 2 - uy * rise, (y0 + y1) / 2 + ux * rise
        _add_arc(builder, centre, radius, math.atan2(y0 - centre[1], x0 - centre[0]), sweep)
    if closed:
        builder.close()
    return builder.path()


def _helix(entity: Entity) -> Path:
    """What it is turned around comes after the spline that it is."""
    end = entity.pairs.index((100, "AcDbHelix"))
    return _spline(Entity("SPLINE", entity.pairs[:end]))


def _spline(entity: Entity) -> Path:
    degree, knots = int(entity.number(71, 3)), np.array(entity.numbers(40))
    controls = np.stack([entity.numbers(10), entity.numbers(20)], axis=1)
    closed = bool(int(entity.number(70)) & 1) or bool(np.abs(controls[0] - controls[-1]).max() <= CLOSED_MM)
    return _spline_path(knots, controls, entity.numbers(41), degree, closed=closed)


def _spline_path(knots: Floats, controls: Floats, weights: Sequence[float], degree: int, *, closed: bool) -> Path:
    if degree > 3 or len(knots) != len(controls) + degree + 1 or (weights and np.ptp(weights) > 1e-9):
        return _followed(knots, controls, np.array(weights or np.ones(len(controls))), degree, closed=closed)
    builder = PathBuilder()
    pieces = _bezier_pieces(knots, controls, degree)
    builder.move_to(*pieces[0][0])
    for piece in pieces:
        numbers = piece[1:].ravel().tolist()
        if degree == 1:
            builder.line_to(*numbers)
        elif degree == 2:
            builder.quad_to(*numbers)
        else:
            builder.cubic_to(*numbers)
    if closed:
        builder.close()
    return builder.path()


def _bezier_pieces(knots: np.ndarray, controls: np.ndarray, degree: int) -> list[np.ndarray]:
    """The spline as Bézier curves: its own control points where every knot is as often there as the degree, else those
    through as many of its places as there are control points.
    """
    inner, often = np.unique(knots, return_counts=True)
    count = len(inner) - 1
    if often[0] == often[-1] == degree + 1 and (often[1:-1] == degree).all() and len(controls) == degree * count + 1:
        return [controls[degree * k : degree * (k + 1) + 1] for k in range(count)]
    curve = scipy.interpolate.BSpline(knots, controls, degree)
    share = (np.arange(degree + 1) + 0.5) / (degree + 1)  # within a piece: at its end the next one may leap away
    basis = [math.comb(degree, k) * share**k * (1 - share) ** (degree - k) for k in range(degree + 1)]
    spans = [(low, high) for low, high in itertools.pairwise(knots[degree : len(controls) + 1].tolist()) if low < high]
    return [np.linalg.solve(np.stack(basis, axis=1), curve(low + share * (high - low))) for low, high in spans]


def _followed(knots: np.ndarray, controls: np.ndarray, weights: np.ndarray, degree: int, *, closed: bool) -> Path:
    """A spline of another kind, as short lines."""
    above = scipy.interpolate.BSpline(
        knots, np.concatenate([controls * weights[:, None], weights[:, None]], axis=1), degree
    )
    t = np.linspace(knots[degree], knots[-degree - 1], 64 * len(controls))
    places = above(t)[:, :2] / above(t)[:, 2:]
    builder = PathBuilder()
    builder.move_to(*places[0])
    for x, y in places[1:].tolist():
        builder.line_to(x, y)
    if closed:
        builder.close()
    return builder.path()


# hatches


class _Codes:
    """Groups in the order in which a hatch needs them."""

    def __init__(self, pairs: Sequence[Pair]) -> None:
        self._pairs, self._at = pairs, 0

    def ahead(self, further: int = 0) -> int:
        """The code of the next group, or of one after it; -1 after the last."""
        at = self._at + further
        return self._pairs[at][0] if at < len(self._pairs) else -1

    def to(self, code: int) -> float:
        """The next group of this code, whatever comes before it."""
        while self.ahead() not in (code, -1):
            self._at += 1
        return self.number(code)

    def skip(self, code: int) -> None:
        """Past the next group, if it is of this code: a handle is no number."""
        self._at += self.ahead() == code

    def number(self, code: int, otherwise: float | None = None) -> float:
        """The next group, which must be of this code unless it need not be there. Raises ValueError."""
        if self.ahead() == code:
            self._at += 1
            return float(self._pairs[self._at - 1][1])
        if otherwise is None:
            raise ValueError(f"a hatch has group {self.ahead()} where {code} is due")
        return otherwise

    def place(self, code: int) -> tuple[float, float]:
        return self.number(code), self.number(code + 10)


OUTER, OUTERMOST = 1, 16
"""Bits of a boundary that lies around all others, or is the first within it."""

BULGED = 2
"""The bit of a boundary that is a polyline."""

ALL_THROUGH = 2
"""The style of a hatch that goes through whatever lies in it; those of less stop at the second boundary, or at each."""


def _hatch(entity: Entity) -> Path:
    """Its boundaries; of those in others only what its style stops at, where they say which are outermost."""
    codes = _Codes(entity.pairs)
    made: list[tuple[int, Path]] = []
    for _ in range(int(codes.to(91))):
        flags = int(codes.number(92))
        made.append((flags, _bulged_boundary(codes) if flags & BULGED else _edged_boundary(codes)))
        for _ in range(int(codes.number(97, 0))):
            codes.skip(330)
    style = int(entity.number(75))
    if style and any(flags & OUTER for flags, _ in made):
        stops_at = OUTER if style == ALL_THROUGH else OUTER | OUTERMOST
        made = [(flags, path) for flags, path in made if flags & stops_at]
    return concat([path for _, path in made])


def _bulged_boundary(codes: _Codes) -> Path:
    codes.number(72)  # whether there are bulges, which each place says itself
    closed = bool(codes.number(73))
    places = [[*codes.place(10), codes.number(42, 0.0)] for _ in range(int(codes.number(93)))]
    return _with_bulges(places, closed=closed)


def _edged_boundary(codes: _Codes) -> Path:
    """A boundary of edges that meet, in either direction, as rings."""
    edges = [_EDGES[int(codes.number(72))](codes) for _ in range(int(codes.number(93)))]
    rings: list[list[Floats]] = []
    for edge in (path.cubics() for path in edges if len(path)):
        if rings and _joins(rings[-1], edge):
            end = rings[-1][-1][-1, 3]
            rings[-1].append(edge if np.abs(edge[0, 0] - end).max() <= CLOSED_MM else edge[::-1, ::-1])
        else:
            rings.append([edge])
    return concat([_ring(np.concatenate(ring)) for ring in rings])


def _joins(ring: list[Floats], edge: Floats) -> bool:
    """Whether an edge goes on where a ring ends; a ring of one edge is turned to it."""

    def meets(end: Floats) -> bool:
        return bool(min(np.abs(edge[0, 0] - end).max(), np.abs(edge[-1, 3] - end).max()) <= CLOSED_MM)

    if not meets(ring[-1][-1, 3]) and len(ring) == 1 and meets(ring[0][0, 0]):
        ring[0] = ring[0][::-1, ::-1]
    return meets(ring[-1][-1, 3])


def _ring(cubics: Floats) -> Path:
    builder = PathBuilder()
    builder.move_to(*cubics[0, 0].tolist())
    for cubic in cubics:
        builder.cubic_to(*cubic[1:].ravel().tolist())
    builder.close()
    return builder.path()


def _line_edge(codes: _Codes) -> Path:
    return polygon(codes.place(10), codes.place(11), closed=False)


def _arc_edge(codes: _Codes) -> Path:
    """Clockwise arcs count their angles clockwise, too."""
    centre, radius = codes.place(10), codes.number(40)
    start, end = math.radians(codes.number(50)), math.radians(codes.number(51))
    way = 1 if codes.number(73) else -1
    return _arc_path(centre, radius, way * start, way * ((end - start) % math.tau or math.tau))


def _ellipse_edge(codes: _Codes) -> Path:
    (x, y), (mx, my), ratio = codes.place(10), codes.place(11), codes.number(40)
    angles = [math.radians(codes.number(code)) for code in (50, 51)]
    way = 1 if codes.number(73) else -1
    start, end = (math.atan2(math.sin(angle) / ratio, math.cos(angle)) for angle in angles)
    sweep = (end - start) % math.tau
    whole = sweep < CLOSED_MM or math.tau - sweep < CLOSED_MM
    unit = _arc_path((0.0, 0.0), 1.0, way * start, way * (math.tau if whole else sweep))
    return unit.transformed(Transform(mx, my, -my * ratio, mx * ratio, x, y))


def _spline_edge(codes: _Codes) -> Path:
    degree = int(codes.number(94))
    codes.number(73), codes.number(74)  # whether it has weights, and comes back: both are seen
    knot_count, control_count = int(codes.number(95)), int(codes.number(96))
    knots = [codes.number(40) for _ in range(knot_count)]
    controls, weights = [], []
    for _ in range(control_count):
        controls.append(codes.place(10))
        if codes.ahead() == 42:
            weights.append(codes.number(42))
    if codes.ahead() == 97 and codes.ahead(1) in (11, 72, 97):  # else it counts what the boundary was made from
        for _ in range(int(codes.number(97))):
            codes.place(11)
        for code in (12, 13):
            if codes.ahead() == code:
                codes.place(code)
    return _spline_path(np.array(knots), np.array(controls), weights, degree, closed=False)


_EDGES: dict[int, Callable[[_Codes], Path]] = {1: _line_edge, 2: _arc_edge, 3: _ellipse_edge, 4: _spline_edge}


def width_of(entity: Entity) -> float:
    """The one width of a polyline, in drawing units; 0 where it has none, or several."""
    if entity.kind == "LWPOLYLINE":
        if entity.says(43):
            return entity.number(43)
        widths, count = [], 0
        for code, value in entity.pairs:
            count += code == 10
            if code in (40, 41) and count:
                widths.append((count, float(value)))
        last = count if int(entity.number(70)) & 1 else count - 1
        said = [width for at, width in widths if at <= last]
        return said[0] if len(said) == 2 * last and len(set(said)) == 1 else 0.0
    if entity.kind == "POLYLINE":
        used = entity.vertices if int(entity.number(70)) & 1 else entity.vertices[:-1]
        found = {vertex.number(code, entity.number(code)) for vertex in used for code in (40, 41)}
        return found.pop() if len(found) == 1 else 0.0
    return 0.0


FILLED = frozenset(["HATCH", "SOLID", "TRACE"])

SHAPES: dict[str, Callable[[Entity], Path]] = {
    "LINE": _line,
    "POINT": _point,
    "CIRCLE": _circle,
    "ARC": _arc,
    "ELLIPSE": _ellipse,
    "LWPOLYLINE": _lwpolyline,
    "POLYLINE": _polyline,
    "SPLINE": _spline,
    "HELIX": _helix,
    "SOLID": _corners(10, 11, 13, 12),
    "TRACE": _corners(10, 11, 13, 12),
    "3DFACE": _corners(10, 11, 12, 13),
    "HATCH": _hatch,
}
"""How the entities are drawn that are seen; those not here are not."""
