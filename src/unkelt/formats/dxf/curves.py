"""DXF entities as paths in drawing units, y up: arcs within a stated error, splines exactly where cubics can say
them.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from typing import Any

from ezdxf import path as dxf_path
from ezdxf.entities import DXFEntity, DXFGraphic
from ezdxf.math import Vec3

from unkelt.geometry.arcs import arc_to_cubics
from unkelt.geometry.path import EMPTY, Path, PathBuilder, concat, polygon

Entity = Any
"""Something of ezdxf, which has no types for what is in a file."""

Error = float


def entity_path(entity: DXFEntity, error: Error) -> Path | None:
    """The path of an entity, or None where its kind is not one that is understood."""
    make = _KINDS.get(entity.dxftype())
    return make(entity, error) if make else None


def _line(entity: Entity, error: Error) -> Path:
    (x0, y0, _), (x1, y1, _) = entity.dxf.start, entity.dxf.end
    return polygon((x0, y0), (x1, y1), closed=False)


def _point(entity: Entity, error: Error) -> Path:
    x, y, _ = entity.dxf.location
    return polygon((x, y), closed=False)


def _circle(entity: Entity, error: Error) -> Path:
    return _in_world(entity, _arcs(entity.dxf.center, entity.dxf.radius, 0.0, math.tau, error, closed=True))


def _arc(entity: Entity, error: Error) -> Path:
    start, end = math.radians(entity.dxf.start_angle), math.radians(entity.dxf.end_angle)
    sweep = (end - start) % math.tau or math.tau
    return _in_world(entity, _arcs(entity.dxf.center, entity.dxf.radius, start, sweep, error, closed=False))


def _arcs(center: Vec3, r: float, start: float, sweep: float, error: Error, *, closed: bool) -> Path:
    """A circular arc in two halves, so that each end is told from the other."""
    x, y, _ = center
    builder = PathBuilder()
    at = (x + r * math.cos(start), y + r * math.sin(start))
    builder.move_to(*at)
    for half in (1, 2):
        angle = start + sweep * half / 2
        end = (
            (x + r * math.cos(angle), y + r * math.sin(angle))
            if not (closed and half == 2)
            else (x + r * math.cos(start), y + r * math.sin(start))
        )
        for cubic in arc_to_cubics(*at, r, r, 0, sweep / 2 > math.pi, True, *end, error):
            builder.cubic_to(*cubic)
        at = end
    if closed:
        builder.close()
    return builder.path()


def _ellipse(entity: Entity, error: Error) -> Path:
    tool = entity.construction_tool()
    major, ratio = tool.major_axis, tool.ratio
    rx = major.magnitude
    turn = math.degrees(math.atan2(major.y, major.x))
    first, sweep = tool.start_param, (tool.end_param - tool.start_param) % math.tau or math.tau
    points = list(tool.vertices([first, first + sweep / 2, first + sweep]))
    upward = tool.extrusion.z > 0
    builder = PathBuilder()
    builder.move_to(points[0].x, points[0].y)
    closed = abs(sweep - math.tau) < 1e-9
    for a, b in ((points[0], points[1]), (points[1], points[0] if closed else points[2])):
        for cubic in arc_to_cubics(a.x, a.y, rx, rx * ratio, turn, False, upward, b.x, b.y, error):
            builder.cubic_to(*cubic)
    if closed:
        builder.close()
    return builder.path()


def _bulged(points: Iterable[tuple[float, float, float]], closed: bool, error: Error) -> Path:
    """A polyline whose bulges are tan(angle / 4) of the arcs between its vertices, counter-clockwise positive."""
    vertices = list(points)
    if not vertices:
        return EMPTY
    builder = PathBuilder()
    builder.move_to(*vertices[0][:2])
    following = [*vertices[1:], vertices[0]] if closed else vertices[1:]
    for (x0, y0, bulge), (x1, y1, _) in zip(vertices, following, strict=False):
        if abs(bulge) < 1e-12 or (x0, y0) == (x1, y1):
            if (x0, y0) != (x1, y1):
                builder.line_to(x1, y1)
            continue
        chord = math.hypot(x1 - x0, y1 - y0)
        r = chord * (1 + bulge * bulge) / (4 * abs(bulge))
        for cubic in arc_to_cubics(x0, y0, r, r, 0, abs(bulge) > 1, bulge > 0, x1, y1, error):
            builder.cubic_to(*cubic)
    if closed:
        builder.close()
    return builder.path()


def _lwpolyline(entity: Entity, error: Error) -> Path:
    points = [(x, y, bulge) for x, y, bulge in entity.get_points("xyb")]
    return _in_world(entity, _bulged(points, bool(entity.closed), error))


def _polyline(entity: Entity, error: Error) -> Path:
    if not (entity.is_2d_polyline or entity.is_3d_polyline):
        return _by_library(entity, error)
    points = [(v.dxf.location.x, v.dxf.location.y, v.dxf.bulge) for v in entity.vertices]
    return _in_world(entity, _bulged(points, bool(entity.is_closed), error))


def _spline(entity: Entity, error: Error) -> Path:
    tool = entity.construction_tool()
    builder = PathBuilder()
    if tool.degree <= 3 and not tool.is_rational:
        for index, curve in enumerate(tool.bezier_decomposition()):
            points = [(p.x, p.y) for p in curve]
            if index == 0:
                builder.move_to(*points[0])
            if len(points) == 4:
                builder.cubic_to(*points[1], *points[2], *points[3])
            elif len(points) == 3:
                builder.quad_to(*points[1], *points[2])
            else:
                builder.line_to(*points[-1])
    else:
        for index, point in enumerate(tool.flattening(error)):
            (builder.line_to if index else builder.move_to)(point.x, point.y)
    if entity.closed:
        builder.close()
    return builder.path()


def _solid(entity: Entity, error: Error) -> Path:
    corners = [(v.x, v.y) for v in entity.wcs_vertices()]
    return polygon(*corners) if len(corners) > 2 else EMPTY


def _by_library(entity: Entity, error: Error) -> Path:
    """What the library makes of it: quarter arcs and cubics."""
    made = dxf_path.make_path(entity)
    return _from_library(made.sub_paths())


def _hatch(entity: Entity, error: Error) -> Path:
    return _from_library(part for made in dxf_path.from_hatch(entity) for part in made.sub_paths())


def _from_library(parts: Iterable[Entity]) -> Path:
    paths = []
    for part in parts:
        builder = PathBuilder()
        builder.move_to(part.start.x, part.start.y)
        for command in part.commands():
            if command.type == dxf_path.Command.LINE_TO:
                builder.line_to(command.end.x, command.end.y)
            elif command.type == dxf_path.Command.CURVE3_TO:
                builder.quad_to(command.ctrl.x, command.ctrl.y, command.end.x, command.end.y)
            elif command.type == dxf_path.Command.CURVE4_TO:
                builder.cubic_to(
                    command.ctrl1.x, command.ctrl1.y, command.ctrl2.x, command.ctrl2.y, command.end.x, command.end.y
                )
        if part.is_closed:
            builder.close()
        paths.append(builder.path())
    return concat(paths)


def _in_world(entity: DXFGraphic, path: Path) -> Path:
    """Flat entities are drawn in a plane of their own; one that is turned over is mirrored in x."""
    extrusion = entity.dxf.get("extrusion", Vec3(0, 0, 1))
    if extrusion.z >= 0 or (entity.dxftype() == "POLYLINE" and getattr(entity, "is_3d_polyline", False)):
        return path
    from_mirror = path.points.copy()
    from_mirror[..., 0] *= -1
    return Path(from_mirror, path.degrees, path.starts, path.closed)


_KINDS: dict[str, Callable[[Entity, Error], Path]] = {
    "LINE": _line,
    "POINT": _point,
    "CIRCLE": _circle,
    "ARC": _arc,
    "ELLIPSE": _ellipse,
    "LWPOLYLINE": _lwpolyline,
    "POLYLINE": _polyline,
    "SPLINE": _spline,
    "HELIX": _spline,
    "SOLID": _solid,
    "TRACE": _solid,
    "3DFACE": _solid,
    "HATCH": _hatch,
}
FILLED = frozenset(["HATCH", "SOLID", "TRACE"])
