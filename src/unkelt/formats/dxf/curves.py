"""DXF entities as paths in drawing units, y up: arcs within a stated error, splines exactly where cubics can say
them.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np
from ezdxf import path as dxf_path
from ezdxf.entities import DXFEntity
from ezdxf.lldxf.const import BOUNDARY_PATH_EXTERNAL
from ezdxf.math import NULLVEC, X_AXIS, Y_AXIS, Matrix44, Vec3
from fontTools.misc.transform import Transform

from unkelt.formats.dxf.splines import spline_path
from unkelt.geometry.arcs import arc_to_cubics
from unkelt.geometry.path import EMPTY, Path, PathBuilder, concat, polygon

Entity = Any
"""Something of ezdxf, which has no types for what is in a file."""

Error = float

LEVEL = 1e-6
"""Heights that differ by less than this share of an entity's reach are one."""


def entity_path(entity: DXFEntity, error: Error, matrix: Matrix44) -> Path | None:
    """The path of an entity in a block that a matrix places, as seen from above; None where its kind is not one that is
    understood.
    """
    make = None if _is_mesh(entity) else _KINDS.get(entity.dxftype())
    with np.errstate(invalid="ignore", over="ignore"):  # what isn't a number makes a path that isn't one
        return make(entity, error, matrix) if make else None


def plane_of(entity: Entity, matrix: Matrix44) -> Transform:
    """From the plane that a flat entity is drawn in, at its height, to the drawing as it is seen from above."""
    ocs, height = entity.ocs(), _height(entity)
    origin, x, y = (Vec3(matrix.transform(ocs.to_wcs(Vec3(*at, height)))) for at in ((0, 0), (1, 0), (0, 1)))
    return Transform(x.x - origin.x, x.y - origin.y, y.x - origin.x, y.y - origin.y, origin.x, origin.y)


def lies_flat(entity: Entity, matrix: Matrix44) -> bool:
    """Whether all of an entity has one height above the drawing."""
    kind = entity.dxftype()
    if kind == "LINE":
        points = [entity.dxf.start, entity.dxf.end]
    elif kind in ("SPLINE", "HELIX"):
        points = [Vec3(point) for point in entity.control_points]
    elif kind in ("SOLID", "TRACE", "3DFACE"):
        points = list(entity.wcs_vertices())
    elif kind == "POLYLINE" and not entity.is_2d_polyline:
        points = [vertex.dxf.location for vertex in entity.vertices]
    elif kind == "ELLIPSE":
        points = [entity.dxf.major_axis, NULLVEC, entity.dxf.extrusion.cross(entity.dxf.major_axis)]
    else:
        ocs = entity.ocs()
        points = [NULLVEC, ocs.to_wcs(X_AXIS), ocs.to_wcs(Y_AXIS)]
    seen = list(matrix.transform_vertices(points))
    reach = max((max(abs(point.x), abs(point.y), abs(point.z)) for point in seen), default=0.0)
    return all(abs(point.z - seen[0].z) <= LEVEL * reach for point in seen)


def _height(entity: Entity) -> float:
    """How far along its extrusion a flat entity lies."""
    kind = entity.dxftype()
    if kind in ("CIRCLE", "ARC"):
        return float(Vec3(entity.dxf.center).z)
    if kind in ("TEXT", "ATTRIB"):
        return float(Vec3(entity.dxf.insert).z)
    said = entity.dxf.get("elevation", 0.0)
    return float(said.z if isinstance(said, Vec3) else said)


def _stretch(plane: Transform) -> float:
    """How much longer a matrix makes things at most."""
    return float(np.linalg.norm([[plane.xx, plane.yx], [plane.xy, plane.yy]], 2))


def _finer(error: Error, plane: Transform) -> Error:
    return error / max(_stretch(plane), 1e-9)


def _seen(points: Iterable[Vec3], matrix: Matrix44) -> list[tuple[float, float]]:
    return [(point.x, point.y) for point in matrix.transform_vertices(list(points))]


def _line(entity: Entity, error: Error, matrix: Matrix44) -> Path:
    return polygon(*_seen([entity.dxf.start, entity.dxf.end], matrix), closed=False)


def _point(entity: Entity, error: Error, matrix: Matrix44) -> Path:
    return polygon(*_seen([entity.dxf.location], matrix), closed=False)


def _circle(entity: Entity, error: Error, matrix: Matrix44) -> Path:
    plane = plane_of(entity, matrix)
    arcs = _arcs(entity.dxf.center, entity.dxf.radius, 0.0, math.tau, _finer(error, plane), closed=True)
    return arcs.transformed(plane)


def _arc(entity: Entity, error: Error, matrix: Matrix44) -> Path:
    plane = plane_of(entity, matrix)
    start, end = math.radians(entity.dxf.start_angle), math.radians(entity.dxf.end_angle)
    sweep = (end - start) % math.tau or math.tau
    return _arcs(entity.dxf.center, entity.dxf.radius, start, sweep, _finer(error, plane), closed=False).transformed(
        plane
    )


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


def _ellipse(entity: Entity, error: Error, matrix: Matrix44) -> Path:
    """A circle of radius 1, seen along both axes of the ellipse."""
    centre, major = Vec3(entity.dxf.center), Vec3(entity.dxf.major_axis)
    minor = Vec3(entity.dxf.extrusion).normalize().cross(major) * entity.dxf.ratio
    (x, y), (ax, ay), (bx, by) = _seen([centre, centre + major, centre + minor], matrix)
    plane = Transform(ax - x, ay - y, bx - x, by - y, x, y)
    start, sweep = entity.dxf.start_param, (entity.dxf.end_param - entity.dxf.start_param) % math.tau or math.tau
    closed = abs(sweep - math.tau) < 1e-9
    return _arcs(NULLVEC, 1.0, start, sweep, _finer(error, plane), closed=closed).transformed(plane)


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


def _lwpolyline(entity: Entity, error: Error, matrix: Matrix44) -> Path:
    plane = plane_of(entity, matrix)
    points = [(x, y, bulge) for x, y, bulge in entity.get_points("xyb")]
    return _bulged(points, bool(entity.closed), _finer(error, plane)).transformed(plane)


def _is_mesh(entity: Entity) -> bool:
    """Whether a polyline is a net of faces."""
    return entity.dxftype() == "POLYLINE" and not (entity.is_2d_polyline or entity.is_3d_polyline)


FRAME = 16
"""The bit of a vertex that a curve was fitted to and that isn't on it (DXF reference, VERTEX, group 70)."""


def _polyline(entity: Entity, error: Error, matrix: Matrix44) -> Path:
    on_it = [vertex for vertex in entity.vertices if not vertex.dxf.flags & FRAME]
    if entity.is_3d_polyline:
        points = _seen([vertex.dxf.location for vertex in on_it], matrix)
        return polygon(*points, closed=bool(entity.is_closed)) if points else EMPTY
    plane = plane_of(entity, matrix)
    bulges = [(v.dxf.location.x, v.dxf.location.y, v.dxf.bulge) for v in on_it]
    return _bulged(bulges, bool(entity.is_closed), _finer(error, plane)).transformed(plane)


def _solid(entity: Entity, error: Error, matrix: Matrix44) -> Path:
    corners = _seen(entity.wcs_vertices(), matrix)
    return polygon(*corners) if len(corners) > 2 else EMPTY


def _hatch(entity: Entity, error: Error, matrix: Matrix44) -> Path:
    """Its boundaries; of those within others only what its style fills by them, where they say which are outermost."""
    every = list(entity.paths)
    told = any(each.path_type_flags & BOUNDARY_PATH_EXTERNAL for each in every)
    filled = list(entity.paths.rendering_paths(entity.dxf.hatch_style)) if told else every
    ocs, height = entity.ocs(), entity.dxf.elevation.z
    made = [dxf_path.from_hatch_boundary_path(each, ocs, elevation=height) for each in filled]
    return _from_library(part for each in made if len(each) for part in each.transform(matrix).sub_paths())


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


_KINDS: dict[str, Callable[[Entity, Error, Matrix44], Path]] = {
    "LINE": _line,
    "POINT": _point,
    "CIRCLE": _circle,
    "ARC": _arc,
    "ELLIPSE": _ellipse,
    "LWPOLYLINE": _lwpolyline,
    "POLYLINE": _polyline,
    "SPLINE": spline_path,
    "HELIX": spline_path,
    "SOLID": _solid,
    "TRACE": _solid,
    "3DFACE": _solid,
    "HATCH": _hatch,
}
FILLED = frozenset(["HATCH", "SOLID", "TRACE"])
