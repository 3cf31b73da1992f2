"""Two judges of what mending did to a picture, neither of which knows how the steps or the account work.

resvg paints the sheet before and after, and every pixel away from an edge must keep its colour. shapely paints both by
laying one area over the other, with curves cut up here, strokes by its own buffers and winding numbers counted here.
Only within what a step declared may anything differ.
"""

from __future__ import annotations

import io
import math

import numpy as np
import resvg_py
import shapely
from PIL import Image
from scipy import ndimage
from shapely.ops import substring

from unkelt.formats.svg.write import write_svg

SAMPLES = 40
PX = 480
AWAY_MM = 0.06
"""Edges move by the chord tolerance, and curves that are cut up here lie off by as much again."""


def pieces_of(path):
    """The rings and lines of a path as points, by Bernstein polynomials."""
    t = np.linspace(0, 1, SAMPLES)[:, None]
    for first, last, closed in zip(path.starts, path.stops, path.closed, strict=True):
        points = [path.points[first, :1]]
        for (a, b, c, d), degree in zip(path.points[first:last], path.degrees[first:last], strict=True):
            if degree == 1:
                points.append(d[None])
            elif degree == 2:
                points.append(((1 - t) ** 2 * a + 2 * t * (1 - t) * b + t**2 * d)[1:])
            else:
                points.append(((1 - t) ** 3 * a + 3 * t * (1 - t) ** 2 * b + 3 * t**2 * (1 - t) * c + t**3 * d)[1:])
        yield np.concatenate(points), bool(closed)


def filled(path, even_odd):
    """The area inside, face by face of all edges noded on a fine grid, by the winding number of a point in each."""
    rings = [np.vstack([ring, ring[:1]]) for ring, _ in pieces_of(path) if len(ring) > 2]
    if not rings:
        return shapely.Polygon()
    edges = shapely.union_all([shapely.LineString(ring) for ring in rings], grid_size=1e-6)
    faces = shapely.get_parts(shapely.polygonize([edges]))
    inside = []
    for face in faces:
        x, y = shapely.get_coordinates(face.representative_point())[0]
        turns = 0.0
        for ring in rings:
            angle = np.unwrap(np.arctan2(ring[:, 1] - y, ring[:, 0] - x))
            turns += angle[-1] - angle[0]
        number = round(turns / (2 * math.pi))
        if (number % 2 if even_odd else number) != 0:
            inside.append(face)
    return shapely.union_all(inside)


def stroked(path, look):
    """The area of a wide line, as shapely buffers it."""
    return _buffered(path, look, look.line_join)


def tips(sheet):
    """Where strokes are mitred: shapely cuts a mitre off at its limit, where SVG bevels the corner."""
    wide = [
        o for o in sheet.outlines() if o.look.stroke and o.look.stroke_width_mm > 0.3 and o.look.line_join == "miter"
    ]
    corners = [_buffered(o.path, o.look, "miter").difference(_buffered(o.path, o.look, "bevel")) for o in wide]
    return shapely.union_all([shapely.Polygon(), *corners])


def _buffered(path, look, join):
    caps = {"butt": "flat", "round": "round", "square": "square"}[look.line_cap]
    joins = {"miter": "mitre", "round": "round", "bevel": "bevel"}[join]
    style = {"quad_segs": 16, "cap_style": caps, "join_style": joins, "mitre_limit": look.mitre_limit}
    half = look.stroke_width_mm / 2
    parts = []
    for points, closed in pieces_of(path):
        if look.dashes_mm:
            for dash in _dashes(points, closed, look):  # GEOS cuts what a short end reaches past a sharp turn
                ends = (shapely.LineString(pair) for pair in zip(dash.coords, dash.coords[1:], strict=False))
                parts += [dash.buffer(half, **style), *(end.buffer(half, cap_style="flat") for end in ends)]
        elif closed and len(points) > 2:
            parts.append(shapely.LinearRing(points).buffer(half, **style))
        elif len(points) > 1:
            parts.append(shapely.LineString(points).buffer(half, **style))
    return shapely.union_all(parts)


def _dashes(points, closed, look):
    """The stretches that a dashed line draws, cut by shapely; around a ring the last and the first may be one."""
    line = shapely.LineString(np.vstack([points, points[:1]]) if closed and (points[0] != points[-1]).any() else points)
    pattern = list(look.dashes_mm) * (1 + len(look.dashes_mm) % 2)
    at, found = -(look.dash_offset_mm % sum(pattern)), []
    for number in range(len(pattern) * (2 + int(line.length / sum(pattern)))):
        length = pattern[number % len(pattern)]
        if number % 2 == 0 and at + length > 0 and at < line.length:
            found.append((max(at, 0), min(at + length, line.length)))
        at += length
    whole = closed and found and found[0][0] == 0 and found[-1][1] == line.length
    drawn = [substring(line, a, b) for a, b in found]
    if not whole:
        return drawn
    if len(drawn) == 1:
        return [shapely.LinearRing(line.coords)]
    return [*drawn[1:-1], shapely.LineString([*drawn[-1].coords, *drawn[0].coords[1:]])]


def painted(sheet):
    """The visible area of every paint (colour and opacity), the later over the earlier; lines up to 0.3 mm by colour,
    as lines.
    """
    seen, lines = {}, {}

    def lay(area, colour, opacity):
        if opacity >= 1:
            for other in seen:
                seen[other] = seen[other].difference(area)
        key = (colour, round(opacity, 3))
        seen[key] = seen.get(key, shapely.Polygon()).union(area)

    for outline in sheet.outlines():
        look = outline.look
        if not look.visible:
            continue
        paints = []
        if look.fill:
            paints.append((filled(outline.path, look.even_odd), look.fill, look.fill_opacity))
        if look.stroke and look.stroke_width_mm > 0.3:
            paints.append((stroked(outline.path, look), look.stroke, look.stroke_opacity))
        elif look.stroke:
            drawn = [
                shapely.LineString(p if not c else np.vstack([p, p[:1]]))
                for p, c in pieces_of(outline.path)
                if len(p) > 1
            ]
            lines[look.stroke] = shapely.union_all([lines.get(look.stroke, shapely.LineString()), *drawn])
        if look.stroke_below:
            paints.reverse()
        if look.opacity < 1 and len(paints) == 2 and paints[1][2] == 1:  # painted first, and made translucent then
            paints[0] = (paints[0][0].difference(paints[1][0]), *paints[0][1:])
        for area, colour, opacity in paints:
            lay(area, colour, opacity * look.opacity)
    return seen, lines


def by_shapely(before, after, declared):
    """What differs between two sheets beyond what was declared: (paint, mm² or mm)."""
    allowed = shapely.union_all([tips(before).buffer(0.1), *(change.where.buffer(0.1) for change in declared)])
    (was, was_lines), (now, now_lines) = painted(before), painted(after)
    found = []
    for paint in {*was, *now}:
        empty = shapely.Polygon()
        off = was.get(paint, empty).symmetric_difference(now.get(paint, empty)).difference(allowed)
        thick = off.buffer(-AWAY_MM).buffer(AWAY_MM)
        if thick.area > 0.05:
            found.append((paint, round(thick.area, 3)))
    for colour in {*was_lines, *now_lines}:
        empty = shapely.LineString()
        one, other = was_lines.get(colour, empty), now_lines.get(colour, empty)
        for a, b in ((one, other), (other, one)):
            left = a.difference(shapely.union_all([b.buffer(AWAY_MM), allowed]))
            if left.length > 0.3:
                found.append((colour, round(left.length, 3)))
    return found


def by_resvg(before, after, declared):
    """The share of pixels, away from all edges, that have another colour and lie in nothing declared."""
    one, other = (_picture(write_svg(sheet)) for sheet in (before, after))
    differs = np.abs(one.astype(int) - other).max(axis=2) > 40
    edge = np.zeros(differs.shape, bool)
    for picture in (one, other):
        low, high = ndimage.minimum_filter(picture, (5, 5, 1)), ndimage.maximum_filter(picture, (5, 5, 1))
        edge |= (high.astype(int) - low).max(axis=2) > 40
    differs &= ~edge
    rows, columns = np.nonzero(differs)
    if not len(rows):
        return 0
    k = before.page_mm[0] / one.shape[1]
    allowed = shapely.union_all([shapely.Polygon(), *(change.where.buffer(2 * k) for change in declared)])
    shapely.prepare(allowed)
    return int((~shapely.contains_xy(allowed, (columns + 0.5) * k, (rows + 0.5) * k)).sum())


def _picture(data):
    png = resvg_py.svg_to_bytes(
        svg_string=data.decode(), width=PX, dpi=96, background="#ffffff", skip_system_fonts=True
    )
    return np.asarray(Image.open(io.BytesIO(bytes(png))).convert("RGB"))
