"""Guides left behind: the lines that text was set on."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from unkelt.geometry.flatten import lines
from unkelt.geometry.path import Floats
from unkelt.geometry.region import region
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Outline, Sheet
from unkelt.sheet.ticket import Ticket

TOUCH = 0.04
"""Letters stand on their line to this share of their height, round ones a little below it (overshoot)."""

FEWEST = 5
"""Feet that must stand on a line before it is taken for a guide."""

CHORD_MM = 0.05

SHORTEST_MM = 5.0
"""Shorter lines carry no word."""


def guides(sheet: Sheet, ticket: Ticket) -> list[Outline]:
    """Lines without fill that text is or was set on: named by the text itself, or the baseline of converted letters."""
    named = {text.guide.source for text in sheet.letterings() if text.guide}
    named |= {o.origin.guide.source for o in sheet.outlines() if o.origin is not None and o.origin.guide}
    lines_drawn = [o for o in sheet.outlines() if o.look.fill is None and o.look.stroke and len(o.path) == 1]
    if not lines_drawn:
        return []
    letters = [
        part
        for outline in sheet.outlines()
        if outline.look.fill is not None and ticket.operation(outline.look) is not Operation.LEAVE
        for part in shapely.get_parts(region(outline.path, outline.look.even_odd, ticket.tolerance.chord_mm / 2))
        if part.area > ticket.tolerance.sliver_mm2
    ]
    found = []
    for outline in lines_drawn:
        if ticket.operation(outline.look) is Operation.LEAVE:
            continue
        if outline.id in named or (letters and _is_baseline(outline, letters)):
            found.append(outline)
    return found


def _is_baseline(outline: Outline, letters: Sequence[shapely.Geometry]) -> bool:
    """Whether letters stand on the line: slices of them as wide as half their height mostly end at it, on one side."""
    line = shapely.line_merge(lines(outline.path, CHORD_MM))
    if line.geom_type != "LineString" or line.length == 0:
        return False
    tree = shapely.STRtree(letters)
    if line.length < SHORTEST_MM:
        return False
    touching = [letters[index] for index in tree.query(line, predicate="dwithin", distance=0.2)]
    if not touching:
        return False
    along, away = _seen_from(line, touching)
    if not len(away):
        return False
    side = 1.0 if np.abs(away[away > 0]).sum() >= np.abs(away[away < 0]).sum() else -1.0
    away = away * side
    height = float(np.quantile(away, 0.95))
    if height <= 0 or float(np.quantile(away, 0.02)) < -0.6 * height:
        return False  # the line runs through the letters
    width = height / 2
    slots = np.floor(along / width).astype(np.intp)
    feet = np.array([away[slots == slot].min() for slot in np.unique(slots)])
    standing = (feet >= -2 * TOUCH * height) & (feet <= TOUCH * height)
    return bool(standing.sum() >= FEWEST and standing.mean() >= 0.35)


def _seen_from(line: shapely.LineString, shapes: Sequence[shapely.Geometry]) -> tuple[Floats, Floats]:
    """How far along the line, and how far off it to one side (signed), points on the shapes' edges lie; its ends excluded."""
    outline = shapely.boundary(shapely.multipolygons(list(shapes)))
    step = (
        max(line.length, outline.length / 10) / 400
    )  # a short line under much lettering is no reason for a million points
    edges = shapely.segmentize(outline, step)
    points = shapely.points(shapely.get_coordinates(edges))
    along = shapely.line_locate_point(line, points)
    inner = (along > 0) & (along < line.length)
    points, along = points[inner], along[inner]
    here = shapely.get_coordinates(shapely.line_interpolate_point(line, along))
    nudge = min(step, line.length / 1000)
    ahead = shapely.get_coordinates(shapely.line_interpolate_point(line, np.minimum(along + nudge, line.length)))
    behind = shapely.get_coordinates(shapely.line_interpolate_point(line, np.maximum(along - nudge, 0)))
    way, off = ahead - behind, shapely.get_coordinates(points) - here
    sign = np.sign(way[:, 0] * off[:, 1] - way[:, 1] * off[:, 0])
    return np.asarray(along), sign * np.hypot(off[:, 0], off[:, 1])
