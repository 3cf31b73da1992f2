"""Elliptical arcs as cubics, by the implementation notes of SVG 1.1 (appendix F.6) and SVG 2 (appendix B.2)."""

from __future__ import annotations

import math

from unkelt.geometry.path import Path, PathBuilder, polygon

QUARTER_ERROR = 2.7253e-4
"""Radial error of a quarter circle drawn by one cubic with κ = 0.5522847498, as a share of the radius; it falls with
the sixth power of the angle."""

FINE_MM = 1e-3
"""How far the cubics of whole figures may stray from them."""

LARGEST = 1e12
"""An arc with numbers beyond this is drawn straight: its squares would overflow, and no drawing has one."""


def pieces_for(angle: float, radius: float, error: float) -> int:
    """How many cubics an arc of `angle` radians needs to stay within `error` of a circle of `radius`."""
    widest = math.pi / 2 * min(1.0, (error / (QUARTER_ERROR * max(radius, 1e-300))) ** (1 / 6))
    return max(1, math.ceil(abs(angle) / widest - 1e-9))


def arc_to_cubics(
    x1: float,
    y1: float,
    rx: float,
    ry: float,
    rotation_deg: float,
    large: bool,
    sweep: bool,
    x2: float,
    y2: float,
    error: float,
) -> list[tuple[float, float, float, float, float, float]]:
    """The cubics of an SVG arc, each as (x1, y1, x2, y2, x, y), within `error` of the true ellipse.

    Equal ends give none; a radius of zero, or beyond all drawing, gives a straight cubic; radii too small are scaled up
    (F.6.6).
    """
    if (x1, y1) == (x2, y2):
        return []
    rx, ry = abs(rx), abs(ry)
    straight = min(rx, ry) == 0 or not max(rx, ry, *map(abs, (x1, y1, x2, y2, rotation_deg))) <= LARGEST
    if straight:
        return [((2 * x1 + x2) / 3, (2 * y1 + y2) / 3, (x1 + 2 * x2) / 3, (y1 + 2 * y2) / 3, x2, y2)]
    cx, cy, rx, ry, start, extent = _by_centre(x1, y1, rx, ry, rotation_deg, large, sweep, x2, y2)
    count = min(720, pieces_for(extent, max(rx, ry), error))
    step = extent / count
    handle = 4 / 3 * math.tan(step / 4)
    phi = math.radians(rotation_deg)
    cos, sin = math.cos(phi), math.sin(phi)

    def place(u: float, v: float) -> tuple[float, float]:
        return cx + cos * rx * u - sin * ry * v, cy + sin * rx * u + cos * ry * v

    result = []
    for index in range(count):
        a, b = start + index * step, start + (index + 1) * step
        end = (x2, y2) if index == count - 1 else place(math.cos(b), math.sin(b))
        result.append(
            (
                *place(math.cos(a) - handle * math.sin(a), math.sin(a) + handle * math.cos(a)),
                *place(math.cos(b) + handle * math.sin(b), math.sin(b) - handle * math.cos(b)),
                *end,
            )
        )
    return result


def _by_centre(
    x1: float, y1: float, rx: float, ry: float, rotation_deg: float, large: bool, sweep: bool, x2: float, y2: float
) -> tuple[float, float, float, float, float, float]:
    """Centre, radii that reach, where the arc starts and how far it goes, in radians (SVG 1.1, F.6.5 and F.6.6)."""
    phi = math.radians(rotation_deg)
    cos, sin = math.cos(phi), math.sin(phi)
    dx, dy = (x1 - x2) / 2, (y1 - y2) / 2
    xp, yp = cos * dx + sin * dy, -sin * dx + cos * dy
    oversize = (xp / rx) ** 2 + (yp / ry) ** 2
    if oversize > 1:
        rx, ry = rx * math.sqrt(oversize), ry * math.sqrt(oversize)
    across = max((rx * yp) ** 2 + (ry * xp) ** 2, 1e-300)
    root = math.sqrt(max(0.0, ((rx * ry) ** 2 - across) / across))
    root = -root if large == sweep else root
    cxp, cyp = root * rx * yp / ry, -root * ry * xp / rx
    cx, cy = cos * cxp - sin * cyp + (x1 + x2) / 2, sin * cxp + cos * cyp + (y1 + y2) / 2
    start = math.atan2((yp - cyp) / ry, (xp - cxp) / rx)
    extent = math.atan2((-yp - cyp) / ry, (-xp - cxp) / rx) - start
    if sweep and extent < 0:
        extent += 2 * math.pi
    elif not sweep and extent > 0:
        extent -= 2 * math.pi
    return cx, cy, rx, ry, start, extent


def rounded(x0: float, y0: float, x1: float, y1: float, r: float) -> Path:
    """A rectangle with round corners; with none where the radius is zero."""
    if r <= 0:
        return polygon((x0, y0), (x1, y0), (x1, y1), (x0, y1))
    builder = PathBuilder()
    builder.move_to(x0 + r, y0)
    for (ax, ay), (bx, by) in (
        ((x1 - r, y0), (x1, y0 + r)),
        ((x1, y1 - r), (x1 - r, y1)),
        ((x0 + r, y1), (x0, y1 - r)),
        ((x0, y0 + r), (x0 + r, y0)),
    ):
        builder.line_to(ax, ay)
        for cubic in arc_to_cubics(ax, ay, r, r, 0, False, True, bx, by, FINE_MM):
            builder.cubic_to(*cubic)
    builder.close()
    return builder.path()


def ellipse(cx: float, cy: float, rx: float, ry: float) -> Path:
    """Four arcs or more, within `FINE_MM` of the true one."""
    builder = PathBuilder()
    builder.move_to(cx + rx, cy)
    for ax, bx in ((cx + rx, cx - rx), (cx - rx, cx + rx)):
        for cubic in arc_to_cubics(ax, cy, rx, ry, 0, False, True, bx, cy, FINE_MM):
            builder.cubic_to(*cubic)
    builder.close()
    return builder.path()
