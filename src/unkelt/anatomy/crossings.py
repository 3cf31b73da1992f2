"""Where lines of one material cross: a tool that follows them cuts across what they bound."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.geometry.flatten import lines
from unkelt.geometry.near import pairs_between
from unkelt.geometry.path import Bools, Geometries, Ints, Path
from unkelt.geometry.region import prepared, regions
from unkelt.job.ticket import Ticket
from unkelt.sheet.appearance import Operation, has_visible_stroke
from unkelt.sheet.model import Outline

SHORT_MM = 0.05
"""A line that overshoots another by no more than this ends on it."""


@dataclass(frozen=True, slots=True)
class Crossing:
    """Two outlines, by their place in the sequence, and the places where their lines meet."""

    first: int
    second: int
    places: shapely.Geometry


def is_cut_line(outline: Outline, ticket: Ticket) -> bool:
    """Whether a tool cuts along the middle of it: a line without a fill, not thickness, and neither scored nor
    engraved.
    """
    look = outline.look
    if look.fill is not None or not look.shown:
        return False
    visible = has_visible_stroke(look, ticket.machine.hairline_mm, bool(ticket.key))
    return not visible and ticket.operation(look) in (Operation.CUT, None)


def crossings(outlines: Sequence[Outline], ticket: Ticket, *, all_lines: bool = False) -> list[Crossing]:
    """Pairs of outlines of which at least one is a cut line, or any with `all_lines`, and whose lines cross.

    A line that ends on another doesn't cross it, nor do shapes that lie in each other or only touch.
    """
    cut = np.array([all_lines or is_cut_line(outline, ticket) for outline in outlines], bool)
    if not cut.any() or len(outlines) < 2:
        return []
    chord = ticket.tolerance.chord_mm / 2
    drawn = np.array([lines(outline.path, chord) for outline in outlines], object)
    first, second = shapely.STRtree(drawn).query(drawn, predicate="intersects")
    wanted = (first < second) & (cut[first] | cut[second])
    first, second = first[wanted], second[wanted]
    if not len(first):
        return []
    involved = np.unique(np.concatenate([first, second]))
    areas = np.full(len(outlines), shapely.MultiPolygon(), object)
    enclosing = np.array([index for index in involved.tolist() if outlines[index].path.closed.any()], np.intp)
    areas[enclosing] = regions([_closed(outlines[index]) for index in enclosing.tolist()], chord)
    open_line = np.array([not outline.path.closed.all() for outline in outlines], bool)
    places = shapely.intersection(drawn[first], drawn[second])
    found = _in_and_out(drawn[second], areas[first]) | _in_and_out(drawn[first], areas[second])
    both_open = np.flatnonzero(~found & open_line[first] & open_line[second])
    found[both_open] = _away_from_ends(places[both_open], outlines, first[both_open], second[both_open])
    return [Crossing(int(first[k]), int(second[k]), places[k]) for k in np.flatnonzero(found).tolist()]


def _closed(outline: Outline) -> tuple[Path, bool]:
    """The closed subpaths of an outline, and its rule; lines without a fill say by their nesting what is inside."""
    return outline.path.select(outline.path.closed), outline.look.even_odd or outline.look.fill is None


def _in_and_out(drawn: Geometries, areas: Geometries) -> Bools:
    """Which lines run inside the area beside them as well as outside, by more than rounding."""
    result = np.zeros(len(drawn), bool)
    for index, (line, area) in enumerate(zip(drawn, areas, strict=True)):
        if area.is_empty:
            continue
        inside = shapely.intersection(line, prepared(area))
        depth = shapely.difference(inside, area.boundary.buffer(SHORT_MM, quad_segs=2)).length
        if depth > 0:
            result[index] = shapely.difference(line, area.buffer(SHORT_MM, quad_segs=2)).length > 0
    return result


def _away_from_ends(places: Geometries, outlines: Sequence[Outline], first: Ints, second: Ints) -> Bools:
    """Which pairs of open lines meet further from all their ends than rounding."""
    points, pair = shapely.get_coordinates(places, return_index=True)
    result = np.zeros(len(places), bool)
    if not len(points):
        return result
    named = np.unique(np.concatenate([first, second])).tolist()
    ends = [outlines[index].path for index in named]
    array = np.concatenate(
        [np.concatenate([path.points[path.starts, 0], path.points[path.stops - 1, 3]]) for path in ends]
    )
    owner = np.repeat(named, [2 * len(path) for path in ends])
    place, near = pairs_between(points, array, SHORT_MM).T
    at = pair[place]
    ends_here = (owner[near] == first[at]) | (owner[near] == second[at])
    theirs = np.zeros(len(points), bool)
    theirs[place[ends_here]] = True
    result[pair[~theirs]] = True
    return result
