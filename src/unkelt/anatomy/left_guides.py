"""Guides left behind: the lines that text was set on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from unkelt.anatomy.words import words
from unkelt.geometry.cache import TopicOfObjects
from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import bounds
from unkelt.geometry.path import Floats, Geometries, Path
from unkelt.geometry.region import region
from unkelt.job.ticket import Ticket
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Outline, Sheet

TOUCH = 0.04
"""Letters stand on their line to this share of their height, round ones a little below it (overshoot)."""

FEWEST = 5
"""Feet that must stand on a line before it may be a guide."""

FEWEST_LETTERS, FEWEST_JOINED = 3, 8
"""It is one for certain under so many letters, or under a welded word with so many feet, all of them painted alike."""

MOST_STANDING = 0.6
"""The feet of a welded word take no more of the line that they stand on than this share of it."""

CHORD_MM = 0.05

SHORTEST_MM = 5.0
"""Shorter lines carry no word."""

WIDEST_MM = 0.5
"""A wider line is there to be seen."""

REACH_MM = 0.2
"""So near a line something must come to stand on it."""

BENDS_DEG = 8.0
"""A line that turns by less under its letters may be a rule below them."""

CORNER_DEG = 30.0
"""A line that turns by more at once under its letters is a shape that they happen to stand on."""


@dataclass(frozen=True, slots=True)
class Left:
    """A line that may be a guide left behind. `sure` where text names it, or letters stand along its bends as text is
    set; `cut` where the ticket's key says that it is cut, so that it stays.
    """

    outline: Outline
    sure: bool
    cut: bool


_LEFT: TopicOfObjects[tuple[Left, ...]] = TopicOfObjects("guides left behind", 32)


def guides(sheet: Sheet, ticket: Ticket) -> tuple[Left, ...]:
    """Lines without fill that text is or was set on: named by the text itself, or with converted letters standing on
    them. Looked for once on each sheet: several checks leave them out.

    A wide line, and a straight one that nothing names, may be meant to be seen: a person knows.
    """
    return _LEFT.get(lambda: tuple(_guides(sheet, ticket)), sheet, ticket)


def _guides(sheet: Sheet, ticket: Ticket) -> list[Left]:
    named = {text.guide.source for text in sheet.letterings() if text.guide}
    named |= {o.origin.guide.source for o in sheet.outlines() if o.origin is not None and o.origin.guide}
    drawn = [
        outline
        for outline in sheet.outlines()
        if outline.look.fill is None
        and outline.look.stroke
        and len(outline.path) == 1
        and ticket.operation(outline.look) is not Operation.LEAVE
    ]
    if not drawn:
        return []
    of_words = {name for word in words(sheet) for name in word.ids}
    letters = _Letters.on(sheet, ticket)
    found = []
    for outline in drawn:
        bends = None
        if outline.id not in named and outline.id not in of_words:  # a letter is no guide
            bends = letters.standing_on(outline.path)
        if outline.id in named or bends is not None:
            cut = bool(ticket.key) and ticket.operation(outline.look) is Operation.CUT
            thin = outline.look.stroke_width_mm <= WIDEST_MM
            found.append(Left(outline, thin and not cut and (outline.id in named or bool(bends)), cut))
    return found


class _Letters:
    """The pieces of what is filled on a sheet, each with its outline, to be asked what stands on a line."""

    def __init__(self, pieces: Sequence[shapely.Geometry], owners: Sequence[Outline], ticket: Ticket) -> None:
        self._pieces, self._owners, self._ticket = np.array(pieces, object), owners, ticket
        self._tree = shapely.STRtree(pieces)

    @classmethod
    def on(cls, sheet: Sheet, ticket: Ticket) -> _Letters:
        """Those of all outlines of a sheet that are worked."""
        pieces: list[shapely.Geometry] = []
        owners: list[Outline] = []
        for outline in sheet.outlines():
            if outline.look.fill is None or ticket.operation(outline.look) is Operation.LEAVE:
                continue
            area = region(outline.path, outline.look.even_odd, ticket.tolerance.chord_mm / 2)
            own = [part for part in shapely.get_parts(area) if part.area > ticket.tolerance.sliver_mm2]
            pieces += own
            owners += [outline] * len(own)
        return cls(pieces, owners, ticket)

    def standing_on(self, path: Path) -> bool | None:
        """`_stands_on`, of the pieces that touch the line."""
        around = bounds(path)
        if around is None or not len(self._tree.query(shapely.box(*around).buffer(REACH_MM))):
            return None
        line = shapely.line_merge(lines(path, CHORD_MM))
        if line.geom_type != "LineString" or line.length < SHORTEST_MM:
            return None
        touching = np.sort(self._tree.query(line, predicate="dwithin", distance=REACH_MM))
        owners = [self._owners[index] for index in touching.tolist()]
        paints = [self._ticket.materials_of(owner.look) for owner in owners]
        return _STANDING.get(
            lambda: _stands_on(line, bool(path.closed[0]), self._pieces[touching], paints),
            path,
            self._ticket,
            *{owner.id: owner for owner in owners}.values(),
        )


_STANDING: TopicOfObjects[bool | None] = TopicOfObjects("what stands on a line", 2048)


def _stands_on(
    line: shapely.LineString, closed: bool, letters: Geometries, paints: Sequence[tuple[str, ...]]
) -> bool | None:
    """Whether the line bends under letters that stand on it, on one side, each foot by itself; false where what stands
    on it may be no lettering, None where nothing does.

    One wide edge is no row of feet: it is a bar, or a frame that is touched.
    """
    if not len(letters):
        return None
    along, away, step = _seen_from(line, letters.tolist())
    if not len(away):
        return None
    side = 1.0 if np.abs(away[away > 0]).sum() >= np.abs(away[away < 0]).sum() else -1.0
    away = away * side
    height = float(np.quantile(away, 0.95))
    if height <= 0 or float(np.quantile(away, 0.02)) < -0.6 * height:
        return None  # the line runs through the letters
    slots = np.floor(along / (height / 2)).astype(np.intp)
    lowest = np.array([away[slots == slot].min() for slot in np.unique(slots)])
    standing = (lowest >= -2 * TOUCH * height) & (lowest <= TOUCH * height)
    on = np.sort(along[(away >= -2 * TOUCH * height) & (away <= TOUCH * height)])
    feet = _feet(on, max(height / 20, 1.5 * step))
    widest = max((stop - start for start, stop in feet), default=0.0)
    if len(feet) < FEWEST or standing.mean() < 0.35 or widest > height:
        return None
    many = len(letters) >= FEWEST_LETTERS or (len(feet) >= FEWEST_JOINED and _standing_share(feet) <= MOST_STANDING)
    lettering = many and len(set(paints)) == 1
    bends = lettering and line.is_simple and _bends(line, feet[0][0], feet[-1][1])
    return None if closed and not bends else bends  # a frame's straight side that letters touch is none


def _feet(places: Floats, gap_mm: float) -> list[tuple[float, float]]:
    """The stretches along the line that something stands on, from sorted places where it is touched."""
    if not len(places):
        return []
    breaks = np.flatnonzero(np.diff(places) > gap_mm) + 1
    return [(float(part[0]), float(part[-1])) for part in np.split(places, breaks)]


def _standing_share(feet: Sequence[tuple[float, float]]) -> float:
    """How much of the line under its feet they stand on: of what is drawn along it, all."""
    return sum(stop - start for start, stop in feet) / max(feet[-1][1] - feet[0][0], 1e-9)


def _bends(line: shapely.LineString, start_mm: float, stop_mm: float) -> bool:
    """Whether a line turns on a stretch, all bends added up, and nowhere at once."""
    places = shapely.line_interpolate_point(line, np.linspace(start_mm, stop_mm, 60))
    steps = np.diff(shapely.get_coordinates(places), axis=0)
    turns = np.degrees(np.abs(np.diff(np.unwrap(np.arctan2(steps[:, 1], steps[:, 0])))))
    return bool(turns.sum() >= BENDS_DEG and turns.max() <= CORNER_DEG)


def _seen_from(line: shapely.LineString, shapes: Sequence[shapely.Geometry]) -> tuple[Floats, Floats, float]:
    """How far along the line, and how far off it to one side (signed), points on the shapes' edges lie, its ends
    excluded; and how far apart those points are at the most.
    """
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
    return np.asarray(along), sign * np.hypot(off[:, 0], off[:, 1]), float(step)
