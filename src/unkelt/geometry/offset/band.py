"""What a stroke covers, by the second engine alone, as polygons."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from fontTools.misc.transform import Transform

from unkelt.geometry import region as regions
from unkelt.geometry.flatten import Vertices, piece_counts
from unkelt.geometry.measure import derivative, end_tangents
from unkelt.geometry.offset.dashes import dashed
from unkelt.geometry.offset.pen import Pen
from unkelt.geometry.path import LINE, Bools, Floats, Path, ranges
from unkelt.geometry.trace.rails import SMOOTH_RAD, Cap, Corner, Join, corners, normals

ROUNDS = 6
"""So often are vertices added where a curve turns; each time up to 64 between two."""

CLOSEST = 1e-9
"""Parameters of a curve are no closer to each other: at a cusp it turns at once."""


def stroke_area(path: Path, pen: Pen, chord_mm: float) -> shapely.Geometry:
    """What a stroke paints, by the second engine alone: a polygon within `chord_mm` of it, empty where it paints
    nothing.

    `stroke_path` draws the same area with curves. Raises GeometryRefused for dashes without number.
    """
    if pen.width_mm <= 0:
        return shapely.MultiPolygon()
    if pen.shape is not None:
        matrix = Transform(*pen.shape, 0, 0)
        round_pen = stroke_area(path.transformed(matrix.inverse()), replace(pen, shape=None), chord_mm)
        return regions.transformed(round_pen, matrix)
    if pen.dashes_mm:
        path = dashed(path, pen.dashes_mm, pen.dash_offset_mm)
    half = pen.width_mm / 2
    chord = max(1e-6, min(chord_mm, half / 50))
    bands = [area for part in path.subpaths() if (area := band_area(part, corners(part), half, pen, chord)) is not None]
    return shapely.unary_union(bands) if bands else shapely.MultiPolygon()


def band_area(path: Path, turns: list[Corner], half: float, pen: Pen, chord: float) -> shapely.Geometry | None:
    """What the stroke of one subpath covers; None where it covers nothing."""
    steps = quarter_steps(half, chord)
    if not drawn(path).any():
        if pen.cap == "butt":
            return None
        # A point: SVG draws its caps, as if it ran to the right.
        style = "round" if pen.cap == "round" else "square"
        return shapely.Point(path.points[0, 0]).buffer(half, quad_segs=steps, cap_style=style)
    places = _places(path, half, chord)
    vertices, _ = places.flattened(path)
    if is_ring(path, len(vertices)):
        area = shapely.LinearRing(vertices).buffer(half, quad_segs=steps, join_style=join_style(pen.join))
    elif pen.cap == "round":
        area = shapely.LineString(vertices).buffer(half, quad_segs=steps, join_style=join_style(pen.join))
    else:
        pies = [shapely.Polygon(corner.pie(half, steps)) for corner in turns] if pen.join == "round" else []
        area = shapely.unary_union([*_strip(path, vertices, places, half, pen.cap), *pies])
    if pen.join == "miter":
        kites = [
            kite
            for side in (half, -half)
            for corner in turns
            if (kite := corner.kite(side, pen.mitre_limit)) is not None
        ]
        area = with_kites(area, kites, outward=True)
    return area


def drawn(path: Path) -> Bools:
    """(n,) which segments have a direction, and so a length."""
    return np.asarray(end_tangents(path)[0].any(axis=1))


def is_ring(path: Path, vertices: int) -> bool:
    return bool(path.closed[0]) and vertices >= 4


def ends(path: Path) -> list[tuple[Floats, Floats]]:
    """Both ends of an open subpath, each with the direction that leads out of it."""
    start, end = end_tangents(path)
    first, last = np.flatnonzero(start.any(axis=1))[[0, -1]]
    return [(path.points[first, 0], -start[first]), (path.points[last, 3], end[last])]


def join_style(join: Join) -> str:
    """The second engine's word; mitres are added to bevels, since it has another limit for them than SVG."""
    return "round" if join == "round" else "bevel"


def _places(path: Path, half: float, chord: float) -> Vertices:
    """Where a path has vertices so that neither it nor what lies `half` beside it strays from its chords: one over an
    angle α of radius ρ strays by ρ α²/8. Curves turn where they turn, not evenly from end to end.
    """
    most = math.sqrt(8 * chord / max(half, chord))
    found = Vertices.even(piece_counts(path, chord))
    curves = np.flatnonzero(path.degrees != LINE)
    cubics = path.cubics()
    tangents = end_tangents(path)
    for _ in range(ROUNDS if len(curves) else 0):
        segment = np.concatenate([curves, found.segment, curves])
        t = np.concatenate([np.zeros(len(curves)), found.t, np.ones(len(curves))])
        order = np.lexsort([t, segment])
        segment, t = segment[order], t[order]
        way = derivative(cubics[segment], t[:, None])[:, 0]
        way = np.where((t == 0)[:, None], tangents[0][segment], np.where((t == 1)[:, None], tangents[1][segment], way))
        before, after = way[:-1], way[1:]
        cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
        angle = np.where(np.diff(segment) == 0, np.arctan2(np.abs(cross), (before * after).sum(axis=1)), 0.0)
        steps = np.clip(np.ceil(angle / most), 1, 64).astype(np.intp)
        steps[np.diff(t) < CLOSEST] = 1
        more = steps - 1
        if not more.any():
            break
        start = np.repeat(np.arange(len(more)), more)
        between = t[start] + np.diff(t)[start] * ranges(np.ones(len(more), np.intp), more) / steps[start]
        segment, t = np.concatenate([found.segment, segment[start]]), np.concatenate([found.t, between])
        order = np.lexsort([t, segment])
        found = Vertices(segment[order], t[order])
    return found


def _strip(path: Path, vertices: Floats, places: Vertices, half: float, cap: Cap) -> list[shapely.Geometry]:
    """What lies across one open subpath: the rectangle over each chord between its vertices, and the triangles that
    close their gaps at bends: outside, and inside of a curve, too, where it bends more tightly than the stroke is wide.
    At a corner there is a join outside only.

    Where a segment begins and ends, its chords end across the curve itself, and not across the chord. The second
    engine's own flat ends go wrong where the line bends more tightly than its width.
    """
    counts = np.bincount(places.segment, minlength=len(path.points)) + 1
    a, b = vertices[:-1], vertices[1:]
    begin, end = half * normals(b - a), half * normals(b - a)
    has, last = drawn(path), np.cumsum(counts) - 1
    tangents = end_tangents(path)
    begin[(last - counts + 1)[has]], end[last[has]] = (half * normals(each[has]) for each in tangents)
    node = np.zeros(len(a), bool)
    node[last] = True
    if cap == "square":
        (first, back), (final, ahead) = ends(path)
        a = np.concatenate([[first + half * back], a, [final]])
        b = np.concatenate([[first], b, [final + half * ahead]])
        across = half * normals(np.stack([-back, ahead]))
        begin, end = (np.concatenate([across[:1], each, across[1:]]) for each in (begin, end))
        node = np.concatenate([[True], node, [True]])
    length = np.linalg.norm(b - a, axis=1)
    keep = length > 0
    a, b, begin, end, node, length = (each[keep] for each in (a, b, begin, end, node, length))
    smooth = np.linalg.norm(begin[1:] - end[:-1], axis=1) <= SMOOTH_RAD * half
    begin[1:][smooth] = end[:-1][smooth]  # so that neighbours share corners, bit for bit
    straight = (np.abs(end - begin) <= 1e-9 * half).all(axis=1)
    boxes = np.stack([a, a + begin, b + end, b, b - end, a - begin], axis=1)
    c, d, over_c, over_d = (each[~straight] for each in (a, b, begin, end))
    halves = np.concatenate([np.stack([c, c + way * over_c, d + way * over_d, d], axis=1) for way in (1, -1)])
    return [
        *shapely.polygons(boxes[straight]),
        *shapely.convex_hull(shapely.multipoints(halves)),
        *_bends(b[:-1], end[:-1], begin[1:], length, inside=~node[:-1] | smooth),
    ]


def _bends(node: Floats, before: Floats, after: Floats, length: Floats, inside: Bools) -> list[shapely.Geometry]:
    """The triangles at the bends of a strip: where they are, what lies across the chord before and the one after, how
    long all chords are, and at which bends there is one on the inner side, too.
    """
    turn = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    outer = -np.sign(turn)[:, None]
    # They overlap the rectangles and don't just meet them, but no further than the shorter one is long.
    shorter, both = np.minimum(length[:-1], length[1:]), length[:-1] + length[1:]
    half = np.maximum(np.linalg.norm(before, axis=1), np.linalg.norm(after, axis=1))
    back = outer * (before + after) * np.minimum(1 / 8, shorter / (4 * half))[:, None]
    bends = np.stack([node - back, node + outer * before, node + outer * after], axis=1)
    gaps = np.stack([node, node - outer * before, node - outer * after], axis=1)
    found = shapely.polygons(np.concatenate([bends, gaps[inside & (np.linalg.norm(after - before, axis=1) > both)]]))
    return list(found[shapely.area(found) > 0])


def with_kites(area: shapely.Geometry, kites: Sequence[Floats], outward: bool) -> shapely.Geometry:
    """Corners made sharp: what mitres add to the area, or to what an inward offset takes away."""
    if not kites:
        return area
    shapes = shapely.polygons(np.stack([np.concatenate([kite, kite[:1]]) for kite in kites]))
    return shapely.unary_union([area, *shapes]) if outward else area.difference(shapely.unary_union(shapes))


def quarter_steps(radius: float, chord: float) -> int:
    return max(4, math.ceil(math.pi / 2 / math.sqrt(8 * chord / max(radius, chord))))
